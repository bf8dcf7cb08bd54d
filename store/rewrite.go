package store

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"strings"
)

// CodeSteps names the migrations that are code.
const CodeSteps = "7 audiences, 8 levels, 12 what never counted"

// documentTable is where documents stand, with the keys of a row.
type documentTable struct{ name, keys string }

// documentTables are where session documents stand, on their own or in a series, with the keys of a row.
var documentTables = []documentTable{
	{"plans", "studio_id || E'\\x1f' || plan_id"},
	{"plan_revisions", "studio_id || E'\\x1f' || plan_id || E'\\x1f' || rev"},
	{"series", "studio_id || E'\\x1f' || series_id"},
	{"series_revisions", "studio_id || E'\\x1f' || series_id || E'\\x1f' || rev"},
	{"templates", "studio_id || E'\\x1f' || template_id"},
}

// rewrite changes the documents of some tables in which a key stands: put tells whether it changed one.
func rewrite(ctx context.Context, tx *sql.Tx, tables []documentTable, key string, put func(doc any) bool) error {
	for _, t := range tables {
		found, err := rewritten(ctx, tx, t, key, put)
		if err != nil {
			return fmt.Errorf("%s: %w", t.name, err)
		}
		for at, doc := range found {
			if _, err := tx.ExecContext(ctx, `UPDATE `+t.name+` SET doc = $1 WHERE `+t.keys+` = $2`, string(doc), at); err != nil {
				return fmt.Errorf("%s: %w", t.name, err)
			}
		}
	}
	return nil
}

// rewritten are the changed documents of a table, by the keys of their rows.
func rewritten(ctx context.Context, tx *sql.Tx, t documentTable, key string, put func(doc any) bool) (map[string][]byte, error) {
	rows, err := tx.QueryContext(ctx, `SELECT `+t.keys+`, doc::text FROM `+t.name+` WHERE doc::text LIKE '%"`+key+`"%'`)
	if err != nil {
		return nil, err
	}
	defer func() { _ = rows.Close() }()
	out := map[string][]byte{}
	for rows.Next() {
		var at, text string
		if err := rows.Scan(&at, &text); err != nil {
			return nil, err
		}
		d := json.NewDecoder(strings.NewReader(text))
		d.UseNumber()
		var doc any
		if err := d.Decode(&doc); err != nil {
			return nil, err
		}
		if !put(doc) {
			continue
		}
		var b bytes.Buffer
		e := json.NewEncoder(&b)
		e.SetEscapeHTML(false)
		if err := e.Encode(doc); err != nil {
			return nil, err
		}
		out[at] = b.Bytes()
	}
	return out, rows.Err()
}
