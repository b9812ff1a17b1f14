package main

import (
	"database/sql"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
)

// asTables writes the replies of a workspace as the tables that their queries give: as from a tool that shows no query.
func (l lot) asTables(dir string) error {
	db, err := sql.Open("duckdb", "")
	if err != nil {
		return err
	}
	defer db.Close() //nolint:errcheck // nothing is written
	db.SetMaxOpenConns(1)
	samples, err := filepath.Glob(filepath.Join(dir, "*.csv"))
	if err != nil {
		return err
	}
	for _, path := range samples {
		name := strings.TrimSuffix(filepath.Base(path), ".csv")
		if _, err := db.Exec(fmt.Sprintf("CREATE TABLE %s AS SELECT * FROM read_csv('%s')", name, path)); err != nil {
			return err
		}
	}
	var out strings.Builder
	for _, q := range l.Questions {
		for _, r := range q.Replies {
			got, err := run(db, r.SQL)
			if err != nil {
				return fmt.Errorf("%s: %w", r.ID, err)
			}
			line, err := json.Marshal(map[string]any{"id": "shapes/" + r.ID, "reply": map[string]any{"table": map[string]any{
				"columns": got.names, "rows": got.asJSON()}}})
			if err != nil {
				return err
			}
			out.Write(append(line, '\n'))
		}
	}
	return os.WriteFile(filepath.Join(dir, "replies.jsonl"), []byte(out.String()), 0o600)
}

// asJSON are the rows as a reply has them: numbers as numbers, null for nothing, days without a time as days.
func (r result) asJSON() [][]any {
	out := [][]any{}
	for _, row := range r.cells {
		cells := make([]any, len(row))
		for i, text := range row {
			if _, err := strconv.ParseFloat(text, 64); err == nil {
				cells[i] = json.Number(text)
			} else if text != "null" {
				cells[i] = strings.TrimSuffix(text, "T00:00:00")
			}
		}
		out = append(out, cells)
	}
	return out
}
