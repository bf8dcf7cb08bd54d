package web

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"wavekine/core/plan"
)

// setStyle answers one question of the school.
func setStyle(st *plan.Style, key, answer string) error {
	if key == "countdown" {
		n, err := strconv.Atoi(answer)
		if err != nil || n < 0 || n > 20 {
			return errors.New("count down the last 0 to 20")
		}
		st.Countdown = n
		return nil
	}
	if key == "mirrored" {
		st.Plain = answer == "no"
		return nil
	}
	words, ok := plan.StyleWords[key]
	if !ok || !slices.Contains(words, answer) {
		return fmt.Errorf("%s: %q: expected one of %s", key, answer, strings.Join(words, ", "))
	}
	switch key {
	case "first_side":
		st.LeftFirst, st.ByDay = answer == "left", answer == "by day"
	case "pelvis":
		st.Pelvis = answer
	case "breath":
		st.Breath = answer
	case "order":
		st.Order = answer
	case "sides":
		st.Sides = answer
	case "sets":
		st.Sets = answer
	case "count":
		st.Count = answer
	case "switches":
		st.Switches, _ = strconv.Atoi(answer)
	case "warm_up":
		st.WarmUp = answer
	case "symmetry":
		st.Symmetry = answer
	}
	return nil
}

// styleNames are the questions of the schools as they are asked, in order.
var styleNames = []struct{ key, asks string }{
	{"first_side", "which side first"},
	{"sides", "sides"},
	{"count", "a bare number counts"},
	{"sets", "\"ten sets\" means"},
	{"switches", "switches a breath each way"},
	{"breath", "breath"},
	{"pelvis", "pelvis"},
	{"order", "order"},
	{"warm_up", "warm-up"},
	{"symmetry", "the two sides get"},
	{"countdown", "count down the last"},
	{"mirrored", "mirrored words"},
}

// styleView is one question with the answer in force.
type styleView struct {
	Key, Asks, Value string
	Words            []string
}

func styleViews(st plan.Style) (out []styleView) {
	now := map[string]string{
		"pelvis": st.Pelvis, "breath": st.Breath, "order": st.Order, "sides": st.Sides, "sets": st.Sets, "count": st.Count, "warm_up": st.WarmUp, "symmetry": st.Symmetry,
		"first_side": "right", "switches": "2", "countdown": strconv.Itoa(st.Countdown), "mirrored": "yes",
	}
	switch {
	case st.ByDay:
		now["first_side"] = "by day"
	case st.LeftFirst:
		now["first_side"] = "left"
	}
	if st.Switches == 1 {
		now["switches"] = "1"
	}
	if st.Plain {
		now["mirrored"] = "no"
	}
	for _, n := range styleNames {
		v := styleView{n.key, n.asks, now[n.key], plan.StyleWords[n.key]}
		switch n.key {
		case "countdown":
			v.Words = []string{"0", "2", "3", "4", "5", "8", "10"}
		case "mirrored":
			v.Words = []string{"yes", "no"}
		}
		if v.Value == "" {
			v.Value = v.Words[0]
		}
		out = append(out, v)
	}
	return out
}
