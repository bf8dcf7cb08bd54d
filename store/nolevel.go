package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"github.com/pressly/goose/v3"

	"wavekine/core/dose"
	"wavekine/core/movement"
)

// With this migration what was in documents and never counted is said in a row's note: levels that the movement has not, and doses of one side where there is
// no side or the sides alternate. The reader refuses them since.
var uncountedMigration = goose.NewGoMigration(12, &goose.GoFunc{RunTx: uncounted}, &goose.GoFunc{RunTx: func(context.Context, *sql.Tx) error { return nil }})

func uncounted(ctx context.Context, tx *sql.Tx) error {
	own, err := ownLevels(ctx, tx)
	if err != nil {
		return err
	}
	return rewrite(ctx, tx, documentTables, "movement", func(doc any) bool { return countedRows(doc, own) })
}

// ownLevels is how many levels each version of a studio's own movements has, by its name in documents; the most where two studios have one name.
func ownLevels(ctx context.Context, tx *sql.Tx) (map[string]int, error) {
	rows, err := tx.QueryContext(ctx, `SELECT movement_id, version, coalesce(jsonb_array_length(CASE jsonb_typeof(doc->'levels') WHEN 'array' THEN doc->'levels' END), 1) FROM movement_versions`)
	if err != nil {
		return nil, err
	}
	defer func() { _ = rows.Close() }()
	out := map[string]int{}
	for rows.Next() {
		var id string
		var version, levels int
		if err := rows.Scan(&id, &version, &levels); err != nil {
			return nil, err
		}
		name := fmt.Sprintf("%s~%d", id, version)
		out[name], out[id] = max(out[name], levels), max(out[id], levels)
	}
	return out, rows.Err()
}

// countedRows puts every row of a document right.
func countedRows(v any, own map[string]int) (changed bool) {
	switch v := v.(type) {
	case []any:
		for _, e := range v {
			changed = countedRows(e, own) || changed
		}
	case map[string]any:
		for _, e := range v {
			changed = countedRows(e, own) || changed
		}
		if _, ladder := v["steps"]; v["movement"] != nil && !ladder {
			changed = countedRow(v, own) || changed
		}
	}
	return changed
}

// countedRow takes out of a row what never counted, and says in its note what that was.
func countedRow(row map[string]any, own map[string]int) bool {
	levels, sides := 0, movement.SidesUnsaid
	level, _ := number(row["level"])
	switch m := row["movement"].(type) {
	case map[string]any:
		levels = 1
		if l, ok := m["levels"].([]any); ok {
			levels = max(1, len(l))
		}
		if w, ok := m["sides"].(string); ok {
			_ = sides.UnmarshalText([]byte(w))
		}
	case string:
		if n, ok := own[m]; ok {
			levels = n
		} else if its, ok := movement.Shipped().Get(m); ok {
			levels, sides = len(its.Levels), its.As(level).Sides
		}
	}
	if levels == 0 { // the reader knows what it is; nothing is known here
		return false
	}
	var was []string
	tooHigh := func(o map[string]any, key, words string) {
		if n, ok := number(o[key]); ok && n > levels {
			delete(o, key)
			was = append(was, fmt.Sprintf("%s level %d", words, n))
		}
	}
	if _, inline := row["movement"].(map[string]any); inline {
		tooHigh(row, "level", "at")
	}
	tooHigh(row, "demo", "shown:")
	if list, ok := row["options"].([]any); ok {
		kept := []any{}
		for _, e := range list {
			if n, is := number(e); is && n > levels {
				was = append(was, fmt.Sprintf("offered: level %d", n))
				continue
			}
			kept = append(kept, e)
		}
		row["options"] = kept
	}
	if w, ok := row["sides"].(string); ok {
		_ = sides.UnmarshalText([]byte(w))
	} else if text, ok := row["dose"].(string); ok {
		if d, err := dose.Parse(text); err == nil && (d.Per == dose.Pairs || d.Per == dose.Alternating) {
			sides = movement.Alternating
		} else if err == nil && d.Per == dose.EachSide {
			sides = movement.Each
		}
	}
	_, said := row["sides"]
	for _, side := range []string{"right", "left"} {
		o, ok := row[side].(map[string]any)
		if !ok {
			continue
		}
		tooHigh(o, "level", "on the "+side)
		alternates := sides == movement.Alternating && (said || strings.Contains(fmt.Sprint(row["dose"]), "pairs") || strings.Contains(fmt.Sprint(row["dose"]), "alternating"))
		if d, has := o["dose"].(string); has && alternates {
			was = append(was, fmt.Sprintf("%s on the %s", d, side))
			delete(o, "dose")
		}
		if sides == movement.Both {
			if d, has := o["dose"].(string); has {
				was = append(was, fmt.Sprintf("%s on the %s", d, side))
			} else if n, has := number(o["level"]); has {
				was = append(was, fmt.Sprintf("on the %s level %d", side, n))
			}
			delete(row, side)
		}
	}
	if len(was) == 0 {
		return false
	}
	note, _ := row["note"].(string)
	row["note"] = cutTo(strings.TrimSpace(note+"\nWas said and never counted: "+strings.Join(was, ", ")+"."), maxRowNote)
	return true
}

// maxRowNote is the longest note a document holds, in characters.
const maxRowNote = 2000

func cutTo(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n])
	}
	return s
}

func number(v any) (int, bool) {
	n, ok := v.(json.Number)
	if !ok {
		return 0, false
	}
	i, err := strconv.Atoi(string(n))
	return i, err == nil
}
