package review

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// easierLimit is the demand from which a mixed class needs something easier.
var easierLimit = Limit{"easier", "A mixed class needs something easier from demand", "of 10", 3, 0, 10, judged}

// optionsRule: in a mixed class somebody is left without an option.
var optionsRule = &Rule{
	Name: "options", Looks: "in a mixed class a row that not everybody can do offers nothing easier, neither a level nor a word", Limits: []Limit{easierLimit}, Mends: "offer a level; a word",
	find: findOptions,
}

// easierSaid are words by which a note offers something easier (common practice, no source).
var easierSaid = regexp.MustCompile(`(?i)\b(?:easier|gentler|lighter|options?|modif\w*|instead|otherwise|alternativ\w*|or (?:a )?(?:rest|stay|keep|knees?|bend|lower|half|skip|leave)|if (?:you (?:need|like|want|prefer)|(?:that|it|this) (?:hurts|pulls|is too))|half the range|knees? down)\b`)

func findOptions(l *look, _ *Rule) (out []Finding) {
	if !l.s.Audience.Has(movement.Mixed) {
		return nil
	}
	l.moves(func(p plan.Path, _ *plan.Block, r *plan.Row, m *movement.Movement) {
		if m.At(r.Level).Demand < l.num(easierLimit) || len(EasierOffered(r, m)) > 0 || easierSaid.MatchString(r.Note) {
			return
		}
		level := max(1, r.Level)
		if level == 1 && (m.Ease != "" || m.At(1).Demand <= movement.Beginners.Most()) { // everybody can do that
			return
		}
		f := Finding{
			Severity: Look, Row: p, Amount: m.At(level).Demand, Measured: "nothing easier offered", Limit: fmt.Sprintf("one from demand %.1f", l.num(easierLimit)),
			Says: m.Name + " leaves a mixed class without an easier option", Detail: fmt.Sprintf("Demand %.1f.", m.At(level).Demand),
		}
		f.At, _, _ = l.tl.RowSpan(p)
		mend := Mend{ID: "options-" + p.String(), Says: "Say: easier, half the range or a rest", apply: func(s *plan.Session) error {
			r := s.Row(p)
			if r == nil {
				return plan.ErrNoRow
			}
			return s.SetNote(p, strings.TrimSpace(r.Note+" Easier: half the range, or rest."))
		}}
		if level > 1 {
			mend.Says = fmt.Sprintf("Offer level %d: %s", level-1, m.At(level-1).Changes)
			mend.apply = func(s *plan.Session) error {
				r := s.Row(p)
				if r == nil {
					return plan.ErrNoRow
				}
				r.Options = append(slices.Clip(r.Options), level-1)
				return nil
			}
		}
		f.Mends = []Mend{mend}
		out = append(out, f)
	})
	return out
}
