package store

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"strings"

	"github.com/pressly/goose/v3"

	"wavekine/core/movement"
	"wavekine/core/plan"
)

// Until this migration whom a session is for was any text. What can be read as an audience stays as it is written; what
// cannot goes into the note, in front, so that every document can be read again; a note that is full loses as much at its end.
var audiencesMigration = goose.NewGoMigration(7, &goose.GoFunc{RunTx: audiencesToNotes}, &goose.GoFunc{RunTx: func(context.Context, *sql.Tx) error { return nil }})

// CodeSteps names the migrations that are code.
const CodeSteps = "7 audiences"

// documentTables are where session documents stand, on their own or in a series, with the keys of a row.
var documentTables = []struct{ name, keys string }{
	{"plans", "studio_id || E'\\x1f' || plan_id"},
	{"plan_revisions", "studio_id || E'\\x1f' || plan_id || E'\\x1f' || rev"},
	{"series", "studio_id || E'\\x1f' || series_id"},
	{"series_revisions", "studio_id || E'\\x1f' || series_id || E'\\x1f' || rev"},
	{"templates", "studio_id || E'\\x1f' || template_id"},
}

func audiencesToNotes(ctx context.Context, tx *sql.Tx) error {
	for _, t := range documentTables {
		found, err := unreadable(ctx, tx, t.name, t.keys)
		if err != nil {
			return fmt.Errorf("%s: %w", t.name, err)
		}
		for key, doc := range found {
			if _, err := tx.ExecContext(ctx, `UPDATE `+t.name+` SET doc = $1 WHERE `+t.keys+` = $2`, string(doc), key); err != nil {
				return fmt.Errorf("%s: %w", t.name, err)
			}
		}
	}
	return nil
}

// unreadable are the documents of a table in which an audience cannot be read, put right.
func unreadable(ctx context.Context, tx *sql.Tx, table, keys string) (map[string][]byte, error) {
	rows, err := tx.QueryContext(ctx, `SELECT `+keys+`, doc::text FROM `+table+` WHERE doc::text LIKE '%"audience"%'`)
	if err != nil {
		return nil, err
	}
	defer func() { _ = rows.Close() }()
	out := map[string][]byte{}
	for rows.Next() {
		var key, text string
		if err := rows.Scan(&key, &text); err != nil {
			return nil, err
		}
		d := json.NewDecoder(strings.NewReader(text))
		d.UseNumber()
		var doc any
		if err := d.Decode(&doc); err != nil {
			return nil, err
		}
		if !readableAudiences(doc) {
			var b bytes.Buffer
			e := json.NewEncoder(&b)
			e.SetEscapeHTML(false)
			if err := e.Encode(doc); err != nil {
				return nil, err
			}
			out[key] = b.Bytes()
		}
	}
	return out, rows.Err()
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
