package kit

import (
	"bytes"
	"encoding/json"
	"errors"

	"github.com/gin-gonic/gin"

	"wavekine/core/plan"
	"wavekine/core/review"
	"wavekine/store"
)

// House is a studio's settings.
type House struct {
	Limits review.Limits `json:"limits"`
	Style  plan.Style    `json:"-"` // written into every new session
	Aside  []plan.Aside  `json:"-"` // kinds of findings set aside for the whole house
}

// MarshalJSON writes the settings as they are stored.
func (h House) MarshalJSON() ([]byte, error) {
	return json.Marshal(struct {
		Limits review.Limits `json:"limits"`
		Style  *plan.Style   `json:"style"`
		Aside  []plan.Aside  `json:"aside,omitempty"`
	}{h.Limits, &h.Style, h.Aside})
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
	}
	_ = json.Unmarshal(text, &h) // written by ChangeHouse only
	_ = json.Unmarshal(text, &more)
	if st, err := plan.ReadStyle(more.Style); err == nil {
		h.Style = st
	}
	for _, a := range more.Aside {
		h.Aside = append(h.Aside, plan.Aside{Rule: a.Rule, Reason: a.Reason, Amount: a.Amount})
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
