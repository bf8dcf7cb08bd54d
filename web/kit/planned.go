package kit

import (
	"wavekine/core/movement"
	"wavekine/core/run"
	"wavekine/core/timeline"
)

// Planned is a class as a run that has not begun.
func (a *Kit) Planned(cl *Class, teacher string) (*run.Run, error) {
	usual, err := timeline.Build(cl.Plan, a.Lib.At(movement.Personal{}))
	if err != nil {
		return nil, err
	}
	return &run.Run{Session: cl.ID, Rev: cl.Doc.Rev, Title: cl.Plan.Title, Teacher: teacher, Asked: cl.Plan.Target, Steps: run.StepsOf(cl.TL, usual)}, nil
}
