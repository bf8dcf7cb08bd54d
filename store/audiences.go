package store

import (
	"context"
	"database/sql"
	"strings"

	"github.com/pressly/goose/v3"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// Until this migration whom a session is for was any text. What can be read as an audience stays as it is written; what
// cannot goes into the note, in front, so that every document can be read again; a note that is full loses as much at its end.
var audiencesMigration = goose.NewGoMigration(7, &goose.GoFunc{RunTx: audiencesToNotes}, &goose.GoFunc{RunTx: func(context.Context, *sql.Tx) error { return nil }})

func audiencesToNotes(ctx context.Context, tx *sql.Tx) error {
	return rewrite(ctx, tx, documentTables, "audience", func(doc any) bool { return !readableAudiences(doc) })
}

// readableAudiences puts right every session in a document, and tells whether nothing had to be.
func readableAudiences(v any) (was bool) {
	was = true
	switch v := v.(type) {
	case []any:
		for _, e := range v {
			was = readableAudiences(e) && was
		}
	case map[string]any:
		for _, e := range v {
			was = readableAudiences(e) && was
		}
		text, said := v["audience"].(string)
		if _, session := v["sections"]; !said || !session {
			return was
		}
		if _, err := movement.ReadAudience(text); err != nil {
			note, _ := v["note"].(string)
			words := []rune(strings.TrimSpace("For: " + text + ". " + note))
			v["note"] = string(words[:min(len(words), plan.MaxNote)])
			delete(v, "audience")
			return false
		}
	}
	return was
}
