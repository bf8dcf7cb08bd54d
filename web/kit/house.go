package kit

import (
	"bytes"
	"encoding/json"
	"errors"

	"github.com/gin-gonic/gin"

	"wavekine/core/export"
	"wavekine/core/group"
	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/store"
)

// House is a studio's settings.
type House struct {
	Limits review.Limits `json:"limits"`
	Style  plan.Style    `json:"-"` // written into every new session
	Aside  []plan.Aside  `json:"-"` // kinds of findings set aside for the whole house

	Wording  export.Wording `json:"-"` // how series are announced, where that is not as usual
	Holidays group.Holidays `json:"-"` // days without classes

	Praise  []string `json:"-"` // said with the last repetitions, in lead and in the player; none: the product's own
	PostOff bool     `json:"-"` // no letter is sent
	Missed  string   `json:"-"` // what is done about days that somebody missed; empty: they choose
}

// MarshalJSON writes the settings as they are stored.
func (h House) MarshalJSON() ([]byte, error) {
	var wording *export.Wording
	if own := h.Wording.Own(); own != (export.Wording{}) {
		wording = &own
	}
	return json.Marshal(struct {
		Limits review.Limits `json:"limits"`
		Style  *plan.Style   `json:"style"`
		Aside  []plan.Aside  `json:"aside,omitempty"`

		Wording  *export.Wording `json:"wording,omitempty"`
		Holidays group.Holidays  `json:"holidays,omitempty"`
		PostOff  bool            `json:"post_off,omitempty"`
		Missed   string          `json:"missed,omitempty"`
		Praise   []string        `json:"praise,omitempty"`
	}{h.Limits, &h.Style, h.Aside, wording, h.Holidays, h.PostOff, h.Missed, h.Praise})
}

// ReadHouse reads a studio's settings; what is not set has its default.
func ReadHouse(text []byte) House {
	var h House
	var more struct {
		Style json.RawMessage `json:"style"`
		Aside []struct {
			Rule, Reason string
			Amount       float64
		} `json:"aside"`
		Wording  export.Wording  `json:"wording"`
		Holidays json.RawMessage `json:"holidays"`
		PostOff  bool            `json:"post_off"`
		Missed   string          `json:"missed"`
		Praise   []string        `json:"praise"`
	}
	_ = json.Unmarshal(text, &h) // written by ChangeHouse only
	_ = json.Unmarshal(text, &more)
	if st, err := plan.ReadStyle(more.Style); err == nil {
		h.Style = st
	}
	h.PostOff, h.Missed, h.Praise = more.PostOff, more.Missed, more.Praise
	for _, a := range more.Aside {
		h.Aside = append(h.Aside, plan.Aside{Rule: a.Rule, Reason: a.Reason, Amount: a.Amount})
	}
	if more.Wording.Check() == nil {
		h.Wording = more.Wording
	}
	if json.Unmarshal(more.Holidays, &h.Holidays) != nil {
		h.Holidays = nil
	}
	return h
}

// ChangeHouse changes a studio's settings as they are at that moment: of two who change them at once the second builds on
// the first. says is what is done, in words; change may set it. Settings that would not read back are not stored.
func (a *Kit) ChangeHouse(c *gin.Context, says *string, change func(*store.Studio, *House) error) error {
	var theirs error
	_, err := a.Store.ChangeHouse(c.Request.Context(), Who(c).Studio.ID, Who(c).Teacher.ID, says, func(st *store.Studio) error {
		h := ReadHouse(st.House)
		if theirs = change(st, &h); theirs != nil {
			return theirs
		}
		b, err := json.Marshal(h)
		if err != nil {
			return err
		}
		again, err := json.Marshal(ReadHouse(b))
		if err != nil {
			return err
		}
		if !bytes.Equal(b, again) {
			theirs = errors.New("these settings would not be read back as they are: nothing was changed")
			return theirs
		}
		st.House = b
		return nil
	})
	if theirs != nil {
		return theirs
	}
	if err != nil {
		return trouble{err}
	}
	return nil
}
