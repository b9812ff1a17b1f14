package sample

import (
	"context"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	_ "modernc.org/sqlite" // the driver

	"tovrel/core/near"
	"tovrel/core/value"
	"tovrel/engine/duckdb"
)

// openJSON brings JSON and JSON Lines to CSV.
func (s *Sample) openJSON(ctx context.Context, scratch string) error {
	t, err := Read(ctx, s.Path)
	if err != nil {
		return err
	}
	w, err := newScratch(scratch)
	if err != nil {
		return err
	}
	s.name(t.Names(), 1)
	w.names(s.Names)
	for _, c := range t.Columns {
		known := c.Type
		s.Known = append(s.Known, &known)
	}
	cells := make([]*string, len(t.Columns))
	for row := range t.Rows() {
		for i, c := range t.Columns {
			cells[i] = nil
			if !c.IsNull(row) {
				text := c.Value(row).String()
				cells[i] = &text
			}
		}
		w.row(cells)
	}
	s.Path, err = w.close()
	return err
}

// openSQLite brings a table of an SQLite file to CSV. Its cells have types of their own: numbers stay numbers and texts texts.
func (s *Sample) openSQLite(ctx context.Context, scratch string, o Options) (err error) {
	db, err := sql.Open("sqlite", "file:"+(&url.URL{Path: s.Path}).EscapedPath()+"?mode=ro&_pragma=query_only(1)")
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, db.Close()) }()
	tables, err := sqliteTables(ctx, db)
	if err != nil {
		return s.problem(0, "unreadable-sqlite", "cannot be read as an SQLite file: "+err.Error(), "check the file")
	}
	if s.Inside, err = s.inside(o.Inside, tables); err != nil {
		return err
	}
	rows, err := db.QueryContext(ctx, `SELECT * FROM "`+strings.ReplaceAll(s.Inside, `"`, `""`)+`"`)
	if err != nil {
		return s.problem(0, "unreadable-sqlite", "the table "+s.Inside+" cannot be read: "+err.Error(), "check the file")
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	names, err := rows.Columns()
	if err != nil {
		return err
	}
	s.name(names, 0)
	return s.copyRows(rows, scratch)
}

// inside chooses a database file's table: the named one, or the only one.
func (s *Sample) inside(named string, tables []string) (string, error) {
	if named == "" {
		if len(tables) == 1 {
			return tables[0], nil
		}
		return "", s.problem(0, "table-missing",
			fmt.Sprintf("the file has %d tables: %s", len(tables), strings.Join(tables, ", ")), "name one with table: in tovrel.yaml")
	}
	for _, t := range tables {
		if strings.EqualFold(t, named) {
			return t, nil
		}
	}
	return "", s.problem(0, "unknown-table", fmt.Sprintf("the file has no table %q", named), near.Hint(named, tables))
}

func sqliteTables(ctx context.Context, db *sql.DB) ([]string, error) {
	rows, err := db.QueryContext(ctx, "SELECT name FROM sqlite_master WHERE type IN ('table', 'view') AND name NOT LIKE "+
		"'sqlite_%' ORDER BY name")
	if err != nil {
		return nil, err
	}
	return duckdb.Names(rows)
}

// copyRows writes rows as CSV and notes of each column what it holds.
func (s *Sample) copyRows(rows *sql.Rows, scratch string) error {
	w, err := newScratch(scratch)
	if err != nil {
		return err
	}
	w.names(s.Names)
	kinds := make([]held, len(s.Names))
	cells, values, targets := make([]*string, len(s.Names)), make([]any, len(s.Names)), make([]any, len(s.Names))
	for i := range values {
		targets[i] = &values[i]
	}
	for rows.Next() {
		if err := rows.Scan(targets...); err != nil {
			return err
		}
		for i, v := range values {
			cells[i] = kinds[i].add(v)
		}
		w.row(cells)
	}
	for i, k := range kinds {
		s.Known = append(s.Known, k.known())
		if k.mixed() {
			s.note("mixed-types", 0, true, "column %s holds both numbers and texts; it is imported as text", s.Names[i])
		}
	}
	if s.Path, err = w.close(); err != nil {
		return err
	}
	return rows.Err()
}

// held is what kinds of cells a column of an SQLite table holds.
type held struct{ ints, floats, texts, blobs, times bool }

// add notes a cell's kind and gives its text; nil for null.
func (h *held) add(v any) *string {
	var text string
	switch x := v.(type) {
	case nil:
		return nil
	case int64:
		h.ints, text = true, strconv.FormatInt(x, 10)
	case float64:
		h.floats, text = true, strconv.FormatFloat(x, 'g', -1, 64)
	case bool:
		h.ints, text = true, map[bool]string{true: "1", false: "0"}[x]
	case []byte:
		h.blobs, text = true, `\x`+strings.Join(pairs(hex.EncodeToString(x)), `\x`)
		if len(x) == 0 {
			text = ""
		}
	case time.Time: // a column that is declared as a date or time, read by the driver
		h.times, text = true, x.UTC().Format("2006-01-02 15:04:05.999999")
		text = strings.TrimSuffix(text, " 00:00:00")
	default:
		h.texts, text = true, fmt.Sprint(x)
	}
	return &text
}

func pairs(digits string) []string {
	var out []string
	for i := 0; i+1 < len(digits); i += 2 {
		out = append(out, digits[i:i+2])
	}
	return out
}

func (h *held) mixed() bool { return (h.ints || h.floats) && (h.texts || h.blobs || h.times) }

// known is the type that all cells have; nil where it is to be inferred from them.
func (h *held) known() *value.Type {
	switch {
	case h.mixed() || h.texts && h.blobs:
		return &value.Type{Kind: value.Text}
	case h.blobs:
		return &value.Type{Kind: value.Blob}
	case h.floats:
		return &value.Type{Kind: value.Float}
	case h.ints:
		return &value.Type{Kind: value.Int}
	case h.texts:
		return &value.Type{Kind: value.Text}
	}
	return nil
}

// Tables lists the tables of a database file, or the sheets of a spreadsheet, for which each can be one table of a dataset;
// nil for a file of one table. It errs where the file cannot be read.
func Tables(ctx context.Context, path string) ([]string, error) {
	switch {
	case hasEnding(path, ".xlsx"):
		return sheets(path)
	case hasEnding(path, ".duckdb"):
		return duckdb.TableNames(ctx, path)
	case hasEnding(path, ".sqlite", ".sqlite3", ".db"):
		db, err := sql.Open("sqlite", "file:"+(&url.URL{Path: path}).EscapedPath()+"?mode=ro")
		if err != nil {
			return nil, err
		}
		names, err := sqliteTables(ctx, db)
		slices.Sort(names)
		return names, errors.Join(err, db.Close())
	}
	return nil, nil
}

func hasEnding(path string, endings ...string) bool {
	for _, e := range endings {
		if strings.HasSuffix(strings.ToLower(path), e) {
			return true
		}
	}
	return false
}
