package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"strconv"

	"github.com/pressly/goose/v3"
)

// With this migration seven movements have got a level between two: documents take the number that the same level has now.
var levelsMigration = goose.NewGoMigration(8, &goose.GoFunc{RunTx: moveLevels(levelsMoved)}, &goose.GoFunc{RunTx: moveLevels(back(levelsMoved))})

// levelsMoved says from which level on the levels of a movement have moved up by one.
var levelsMoved = map[string]func(int) int{
	"hundred": upFrom(3), "double-leg-stretch": upFrom(2), "criss-cross": upFrom(2), "teaser": upFrom(2), "roll-up": upFrom(2), "side-plank": upFrom(2), "bridge": upFrom(2),
}

func upFrom(level int) func(int) int {
	return func(n int) int {
		if n >= level {
			return n + 1
		}
		return n
	}
}

// back undoes what has moved; what has the new level becomes the one below it.
func back(moved map[string]func(int) int) map[string]func(int) int {
	out := map[string]func(int) int{}
	for slug, up := range moved {
		out[slug] = func(n int) int {
			for was := n; was >= 1; was-- {
				if up(was) <= n {
					return was
				}
			}
			return 1
		}
	}
	return out
}

// ledTables are where levels of movements stand: documents, and what was led.
var ledTables = append([]documentTable{{"runs", `studio_id || E'\x1f' || run_id`}}, documentTables...)

func moveLevels(moved map[string]func(int) int) func(context.Context, *sql.Tx) error {
	return func(ctx context.Context, tx *sql.Tx) error {
		return rewrite(ctx, tx, ledTables, "movement", func(doc any) bool { return movedLevels(doc, moved) })
	}
}

// movedEvents gives the levels that were taken in a run their number: an event names the step it was in.
func movedEvents(run map[string]any, moved map[string]func(int) int) (changed bool) {
	steps, _ := run["steps"].([]any)
	events, _ := run["events"].([]any)
	at := 0 // the step that the run is in
	for _, e := range events {
		ev, ok := e.(map[string]any)
		if !ok {
			continue
		}
		if n, ok := ev["step"].(json.Number); ok {
			at, _ = strconv.Atoi(string(n))
		}
		if at < 0 || at >= len(steps) || ev["does"] != "level" {
			continue
		}
		step, _ := steps[at].(map[string]any)
		slug, _ := step["movement"].(string)
		n, ok := ev["level"].(json.Number)
		if to := moved[slug]; ok && to != nil {
			if i, err := strconv.Atoi(string(n)); err == nil && to(i) != i {
				ev["level"], changed = json.Number(strconv.Itoa(to(i))), true
			}
		}
	}
	return changed
}

// movedLevels gives rows, sides of rows and steps their level's number, and tells whether any has changed.
func movedLevels(v any, moved map[string]func(int) int) (changed bool) {
	switch v := v.(type) {
	case []any:
		for _, e := range v {
			changed = movedLevels(e, moved) || changed
		}
	case map[string]any:
		for _, e := range v {
			changed = movedLevels(e, moved) || changed
		}
		changed = movedEvents(v, moved) || changed
		slug, _ := v["movement"].(string)
		to, ok := moved[slug]
		if !ok {
			return changed
		}
		number := func(e any) any {
			n, ok := e.(json.Number)
			i, err := strconv.Atoi(string(n))
			if !ok || err != nil || to(i) == i {
				return e
			}
			changed = true
			return json.Number(strconv.Itoa(to(i)))
		}
		for _, in := range []any{v, v["right"], v["left"]} {
			m, ok := in.(map[string]any)
			if !ok {
				continue
			}
			for _, key := range []string{"level", "demo"} {
				if e, ok := m[key]; ok {
					m[key] = number(e)
				}
			}
			if list, ok := m["options"].([]any); ok {
				for i := range list {
					list[i] = number(list[i])
				}
			}
		}
	}
	return changed
}
