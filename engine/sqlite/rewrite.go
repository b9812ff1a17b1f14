package sqlite

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"tovrel/core/value"
	"tovrel/engine"
	"tovrel/engine/sqltext"
)

// Rows are a table's rows one after another, as texts; nil for null.
type Rows func(each func(cells []*string) error) error

// Rewritten are the rows that a table is to have, and those it had, in its own order: both as another engine holds them.
type Rewritten struct {
	Table         engine.Table // as the other engine describes it, without computed columns
	Before, After Rows
}

// Rewrite gives tables of a database file other rows: a cell that some row had before is stored as it was there, a new number as a number,
// and a new moment in the form of the column's others. Indexes, views and triggers stay, and no trigger runs. It errs where a row does not
// fit the file's schema.
func Rewrite(ctx context.Context, path string, tables []Rewritten) (err error) {
	db, err := sql.Open("sqlite", "file:"+(&url.URL{Path: path}).EscapedPath()+"?_pragma=foreign_keys(0)")
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, db.Close()) }()
	db.SetMaxOpenConns(1)
	tx, err := db.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback() //nolint:errcheck // after the commit there is nothing to take back
	triggers, err := withoutTriggers(ctx, tx)
	if err != nil {
		return err
	}
	for _, t := range tables {
		if err := rewrite(ctx, tx, t); err != nil {
			return fmt.Errorf("table %s: %w", t.Table.Name, err)
		}
	}
	for _, statement := range triggers {
		if _, err := tx.ExecContext(ctx, statement); err != nil {
			return err
		}
	}
	return tx.Commit()
}

// withoutTriggers removes the triggers, and gives what makes them again.
func withoutTriggers(ctx context.Context, tx *sql.Tx) ([]string, error) {
	statements, err := texts(ctx, tx, "SELECT sql FROM sqlite_master WHERE type = 'trigger' ORDER BY name")
	if err != nil {
		return nil, err
	}
	names, err := texts(ctx, tx, "SELECT name FROM sqlite_master WHERE type = 'trigger' ORDER BY name")
	for i := 0; i < len(names) && err == nil; i++ {
		_, err = tx.ExecContext(ctx, "DROP TRIGGER "+sqltext.Name(names[i]))
	}
	return statements, err
}

// rewrite gives one table other rows.
func rewrite(ctx context.Context, tx *sql.Tx, t Rewritten) error {
	cells, err := cellsBefore(ctx, tx, t)
	if err != nil {
		return err
	}
	var names, marks []string
	for _, name := range cells.names {
		names, marks = append(names, sqltext.Name(name)), append(marks, "?")
	}
	if _, err := tx.ExecContext(ctx, "DELETE FROM "+sqltext.Name(t.Table.Name)); err != nil {
		return err
	}
	insert, err := tx.PrepareContext(ctx, fmt.Sprintf("INSERT INTO %s (%s) VALUES (%s)", sqltext.Name(t.Table.Name), strings.Join(names,
		", "),
		strings.Join(marks, ", ")))
	if err != nil {
		return err
	}
	defer insert.Close() //nolint:errcheck // it only sends
	row := make([]any, len(names))
	return t.After(func(texts []*string) error {
		for i := range row {
			row[i] = cells.of(i, texts[i])
		}
		_, err := insert.ExecContext(ctx, row...)
		return err
	})
}

// stored is how a table's cells were stored, by their texts in another engine.
type stored struct {
	names []string
	cells []map[string]any
	kinds []value.Kind
	like  []string // a moment of the column as it is written
}

// cellsBefore reads how a table's cells are stored.
func cellsBefore(ctx context.Context, tx *sql.Tx, t Rewritten) (out stored, err error) {
	if out.names, err = texts(ctx, tx, "SELECT name FROM pragma_table_xinfo("+sqltext.Text(t.Table.Name)+") WHERE hidden = 0 ORDER BY "+
		"cid"); err != nil {
		return out, err
	}
	var asStored []string
	for _, name := range out.names {
		asStored = append(asStored, "+"+sqltext.Name(name)) // an expression has no declared type by which the driver would read it
	}
	rows, err := tx.QueryContext(ctx, "SELECT "+strings.Join(asStored, ", ")+" FROM "+sqltext.Name(t.Table.Name))
	if err != nil {
		return out, err
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	if len(out.names) != len(t.Table.Columns) {
		return out, fmt.Errorf("it has %d columns, and %d were read", len(out.names), len(t.Table.Columns))
	}
	row, into := make([]any, len(out.names)), make([]any, len(out.names))
	for i, c := range t.Table.Columns {
		kind, _ := value.KindOfSQL(c.Type)
		out.cells, out.kinds, out.like = append(out.cells, map[string]any{}), append(out.kinds, kind), append(out.like, "")
		into[i] = &row[i]
	}
	err = t.Before(func(texts []*string) error {
		if !rows.Next() {
			return errors.New("it has fewer rows than were read")
		}
		if err := rows.Scan(into...); err != nil {
			return err
		}
		for i, text := range texts {
			if text == nil {
				continue
			}
			if b, is := row[i].([]byte); is {
				row[i] = slices.Clone(b)
			}
			out.cells[i][*text] = row[i]
			if written, is := row[i].(string); is {
				out.like[i] = written
			}
		}
		return nil
	})
	return out, err
}

// of is a cell as it is to be stored.
func (s stored) of(column int, text *string) any {
	if text == nil {
		return nil
	}
	if known, is := s.cells[column][*text]; is {
		return known
	}
	switch kind := s.kinds[column]; {
	case kind.Number():
		if n, err := strconv.ParseInt(*text, 10, 64); err == nil {
			return n
		}
		if f, err := strconv.ParseFloat(*text, 64); err == nil {
			return f
		}
	case kind.Temporal():
		return writtenLike(*text, s.like[column])
	}
	return *text
}

// writtenLike is a moment, "2031-06-30 08:15:00", in the form of another: with a T, and without what that does not show.
func writtenLike(moment, other string) string {
	if len(other) > 10 && other[10] == 'T' {
		moment = strings.Replace(moment, " ", "T", 1)
	}
	if len(other) < len(moment) && len(other) >= len("2031-06-30") {
		moment = moment[:len(other)]
	}
	return moment
}
