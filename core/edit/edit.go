// Package edit is the one list of what can be done to a session and to a series. A command that stands here is on
// the screens, in the tests that try every command, and in the fuzz test; nothing else changes a document.
package edit

import (
	"maps"
	"slices"

	"wavekine/core/adapt"
	"wavekine/core/board"
	"wavekine/core/plan"
	"wavekine/core/review"
)

// session names every command of a session. Undo, redo and restore are plan.Become with what the history gives.
var session = map[string]func() plan.Command{
	// rows
	"add":       func() plan.Command { return &plan.AddLine{} },
	"paste":     func() plan.Command { return &plan.PasteLines{} },
	"insert":    func() plan.Command { return &plan.InsertPiece{} },
	"move":      func() plan.Command { return &plan.MoveRows{} },
	"step":      func() plan.Command { return &plan.StepRow{} },
	"duplicate": func() plan.Command { return &plan.DuplicateRow{} },
	"delete":    func() plan.Command { return &plan.DeleteRows{} },
	"dose":      func() plan.Command { return &plan.SetDose{} },
	"level":     func() plan.Command { return &plan.SetLevel{} },
	"sides":     func() plan.Command { return &plan.SetSides{} },
	"note":      func() plan.Command { return &plan.SetNote{} },
	"words":     func() plan.Command { return &plan.SetWords{} },
	"mend-line": func() plan.Command { return &plan.MendLine{} },
	"lock":      func() plan.Command { return &plan.LockRow{} },
	"renew":     func() plan.Command { return &plan.RenewRow{} },
	"take":      func() plan.Command { return &plan.TakeMovement{} },
	"options":   func() plan.Command { return &plan.SetOptions{} },
	"inline":    func() plan.Command { return &plan.SetInline{} },
	// blocks and sections
	"wrap":           func() plan.Command { return &plan.WrapRows{} },
	"unwrap":         func() plan.Command { return &plan.UnwrapRows{} },
	"block":          func() plan.Command { return &plan.SetBlock{} },
	"block-words":    func() plan.Command { return &plan.SetBlockWords{} },
	"section-words":  func() plan.Command { return &plan.SetSectionWords{} },
	"section-add":    func() plan.Command { return &plan.AddSection{} },
	"section-rename": func() plan.Command { return &plan.RenameSection{} },
	"section-delete": func() plan.Command { return &plan.DeleteSection{} },
	// the whole
	"head":    func() plan.Command { return &plan.SetHead{} },
	"aside":   func() plan.Command { return &plan.SetAside{} },
	"unaside": func() plan.Command { return &plan.BringBack{} },
	"mend":    func() plan.Command { return &review.Take{} },
	"cut":     func() plan.Command { return &review.Cut{} },
	"fit":     func() plan.Command { return &review.Fit{} },
	"order":   func() plan.Command { return &review.Order{} },
	"kinder":  func() plan.Command { return &adapt.Kinder{} },
}

// series names every command of a series.
var series = map[string]func() plan.SeriesCommand{
	"move":  func() plan.SeriesCommand { return &plan.MoveDay{} },
	"copy":  func() plan.SeriesCommand { return &plan.CopyDay{} },
	"clear": func() plan.SeriesCommand { return &plan.ClearDay{} },
	"rest":  func() plan.SeriesCommand { return &plan.RestDay{} },
	"set":   func() plan.SeriesCommand { return &plan.SetDay{} },
	"days":  func() plan.SeriesCommand { return &plan.SetDays{} },
	"head":  func() plan.SeriesCommand { return &plan.SetSeriesHead{} },
	// the board
	"insert":    func() plan.SeriesCommand { return &board.InsertDay{} },
	"take":      func() plan.SeriesCommand { return &board.TakeDay{} },
	"shift":     func() plan.SeriesCommand { return &board.ShiftDay{} },
	"stretch":   func() plan.SeriesCommand { return &board.Stretch{} },
	"copies":    func() plan.SeriesCommand { return &board.CopyDays{} },
	"kind":      func() plan.SeriesCommand { return &board.SetKind{} },
	"theme":     func() plan.SeriesCommand { return &board.SetTheme{} },
	"paint":     func() plan.SeriesCommand { return &board.Paint{} },
	"take-out":  func() plan.SeriesCommand { return &board.TakeOut{} },
	"thread":    func() plan.SeriesCommand { return &board.AddThread{} },
	"climb":     func() plan.SeriesCommand { return &board.SetClimb{} },
	"fit":       func() plan.SeriesCommand { return &board.FitDays{} },
	"pin":       func() plan.SeriesCommand { return &board.Pin{} },
	"lay-day":   func() plan.SeriesCommand { return &board.LayDay{} },
	"mend":      func() plan.SeriesCommand { return &board.TakeMend{} },
	"lay-again": func() plan.SeriesCommand { return &board.Lay{} },
	"take-week": func() plan.SeriesCommand { return &board.TakeWeek{} },
}

// Session makes an empty command of a session by its name; ok is false where there is none.
func Session(name string) (c plan.Command, ok bool) {
	make, ok := session[name]
	if !ok {
		return nil, false
	}
	return make(), true
}

// Series makes an empty command of a series by its name.
func Series(name string) (c plan.SeriesCommand, ok bool) {
	make, ok := series[name]
	if !ok {
		return nil, false
	}
	return make(), true
}

// SessionNames lists the commands of a session, SeriesNames those of a series, by name.
func SessionNames() []string { return slices.Sorted(maps.Keys(session)) }

// SeriesNames lists the commands of a series by name.
func SeriesNames() []string { return slices.Sorted(maps.Keys(series)) }
