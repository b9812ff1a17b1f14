package main

import (
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	_ "github.com/duckdb/duckdb-go/v2" // the engine
)

// engine has a world's data and three copies that differ: fewer events, fewer parties with all that is theirs, half of both.
type engine struct {
	dbs []*sql.DB
	dir string
}

func open(w *world) (*engine, error) {
	dir, err := os.MkdirTemp("", "shapes-")
	if err != nil {
		return nil, err
	}
	e := &engine{dir: dir}
	if err := w.write(dir); err != nil {
		return nil, err
	}
	for i := range 4 {
		db, err := sql.Open("duckdb", "")
		if err != nil {
			return nil, err
		}
		db.SetMaxOpenConns(1)
		e.dbs = append(e.dbs, db)
		for _, role := range roles {
			name := w.tables[role]
			if _, err := db.Exec(fmt.Sprintf("CREATE TABLE %s AS SELECT * FROM read_csv('%s')", name, filepath.Join(dir,
				name+".csv"))); err != nil {
				return nil, err
			}
		}
		for _, statement := range w.thinned(i) {
			if _, err := db.Exec(statement); err != nil {
				return nil, fmt.Errorf("%s: %w", statement, err)
			}
		}
	}
	return e, nil
}

// thinned are the statements that make a copy.
func (w *world) thinned(number int) []string {
	event, party, line := w.tables["E"], w.tables["C"], w.tables["L"]
	id, who := w.col(column{"E", "key"}), w.col(column{"E", "party"})
	lines := fmt.Sprintf("DELETE FROM %s WHERE %s NOT IN (SELECT %s FROM %s)", line, w.col(column{"L", "event"}), id, event)
	events := func(share string) string { return fmt.Sprintf("DELETE FROM %s WHERE hash(%s) %% %s", event, id, share) }
	parties := fmt.Sprintf("DELETE FROM %s WHERE %s %% 8 = 3", party, w.col(column{"C", "key"}))
	theirs := fmt.Sprintf("DELETE FROM %s WHERE %s %% 8 = 3", event, who)
	switch number {
	case 1:
		return []string{events("4 = 0"), lines}
	case 2:
		return []string{parties, theirs, lines}
	case 3:
		return []string{events("2 = 0"), parties, theirs, lines}
	}
	return nil
}

func (e *engine) close() {
	for _, db := range e.dbs {
		_ = db.Close()
	}
	_ = os.RemoveAll(e.dir)
}

// result is what a query gave: its rows as texts, by column name in the order of the names.
type result struct {
	names []string
	cells [][]string
	rows  int
	void  bool // nothing but nulls and zeros
}

// everywhere runs a query on all copies.
func (e *engine) everywhere(query string) ([]result, error) {
	var out []result
	for _, db := range e.dbs {
		r, err := run(db, query)
		if err != nil {
			return nil, err
		}
		out = append(out, r)
	}
	return out, nil
}

func run(db *sql.DB, query string) (result, error) {
	rows, err := db.Query(query)
	if err != nil {
		return result{}, err
	}
	defer rows.Close() //nolint:errcheck // rows.Err tells
	names, err := rows.Columns()
	if err != nil {
		return result{}, err
	}
	out := result{names: names, void: true}
	cells, targets := make([]any, len(names)), make([]any, len(names))
	for i := range cells {
		targets[i] = &cells[i]
	}
	for rows.Next() {
		if err := rows.Scan(targets...); err != nil {
			return result{}, err
		}
		texts := make([]string, len(cells))
		for i, c := range cells {
			texts[i] = textOf(c)
			out.void = out.void && (texts[i] == "null" || texts[i] == "0")
		}
		if len(out.cells) <= 2*mostRows {
			out.cells = append(out.cells, texts)
		}
		out.rows++
	}
	return out, rows.Err()
}

// textOf is a cell as text: numbers to nine digits, days and moments alike.
func textOf(cell any) string {
	switch x := cell.(type) {
	case nil:
		return "null"
	case time.Time:
		return x.Format("2006-01-02T15:04:05")
	case float64:
		return number(x)
	case interface{ Float64() float64 }:
		return number(x.Float64())
	}
	text := fmt.Sprint(cell)
	if f, err := strconv.ParseFloat(text, 64); err == nil {
		return number(f)
	}
	return text
}

func number(f float64) string {
	if f == 0 {
		return "0"
	}
	return strconv.FormatFloat(f, 'g', 9, 64)
}

// same tells whether results are the same, on each copy: the rows in any order or not, the columns by their names where those are the
// same.
func same(a, b []result, anyOrder bool) bool {
	for i := range a {
		if a[i].rows != b[i].rows || len(a[i].names) != len(b[i].names) || !slices.Equal(a[i].lines(b[i], anyOrder),
			b[i].lines(a[i], anyOrder)) {
			return false
		}
	}
	return true
}

// lines are the rows as lines; columns in the order of their names, where the other result has the same.
func (r result) lines(other result, sorted bool) []string {
	order := make([]int, len(r.names))
	for i := range order {
		order[i] = i
	}
	mine, theirs := slices.Sorted(slices.Values(r.names)), slices.Sorted(slices.Values(other.names))
	if slices.Equal(mine, theirs) {
		slices.SortStableFunc(order, func(a, b int) int { return strings.Compare(r.names[a], r.names[b]) })
	}
	var out []string
	for _, row := range r.cells {
		var cells []string
		for _, i := range order {
			cells = append(cells, row[i])
		}
		out = append(out, strings.Join(cells, "\x1f"))
	}
	if sorted {
		slices.Sort(out)
	}
	return out
}
