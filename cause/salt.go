package cause

import (
	"context"
	"hash/fnv"
	"maps"
	"slices"
	"strings"
	"time"

	"tovrel/core/diagnose"
	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/core/twin"
	"tovrel/engine"
	"tovrel/engine/sqltext"
	"tovrel/expect"
)

// saltedRows is how many rows of each table a salted twin has at most.
const saltedRows = 50_000

// salted runs a query on a salted twin of the data: a view over the tables' first rows in which many values of the compared columns
// are overwritten and, where tables are joined, some rows are gone. The view is written as common table expressions of the tables'
// names, so that nothing is stored. A nil table is a query that does not run there.
func (e *Search) salted(ctx context.Context, t *sql.Tree, salts []diagnose.Salt, limit time.Duration) (*table.Table, error) {
	return e.shadowed(ctx, t, e.shadows(t.TablesRead(), salts), limit)
}

// altered runs a query on data that are changed by some steps for each table.
func (e *Search) altered(ctx context.Context, t *sql.Tree, steps map[string][]twin.Step, limit time.Duration) (*table.Table, error) {
	var shadows []sqltext.Shadow
	for _, name := range slices.Sorted(maps.Keys(steps)) {
		if source, known := e.Types[name]; known {
			shadows = append(shadows, sqltext.Shadow{Table: source.Name, Columns: e.ColumnNames(name), Steps: steps[name]})
		}
	}
	return e.shadowed(ctx, t, shadows, limit)
}

// leftOut are the rows of a table that some steps leave out: how many, and the first ones.
func (e *Search) leftOut(ctx context.Context, name string, steps []twin.Step, limit time.Duration) (*fault.Rows, error) {
	const first = 3
	source, known := e.Types[name]
	if !known {
		return nil, nil
	}
	text, err := sqltext.LeftOut(sqltext.Shadow{Table: source.Name, Columns: e.ColumnNames(name), Steps: steps}, first,
		sqltext.In(e.engine))
	if err != nil {
		return nil, err
	}
	t, err := e.limited(ctx, text, limit)
	if err != nil || t == nil {
		return nil, err
	}
	out := &fault.Rows{Table: source.Name, First: [][]*string{}}
	last := len(t.Columns) - 1 // of the query's own: how many rows there are
	out.Columns = t.Names()[:last]
	for row := range t.Rows() {
		out.Count, _ = t.Columns[last].Value(row).Small()
		out.First = append(out.First, t.CellTexts(row)[:last])
	}
	return out, nil
}

// changed is how many rows of a table some steps leave out, add or change; below 0 where that cannot be told.
func (e *Search) changed(ctx context.Context, name string, steps []twin.Step, limit time.Duration) (int64, error) {
	source, known := e.Types[name]
	if !known {
		return -1, nil
	}
	text, err := sqltext.Changed(sqltext.Shadow{Table: source.Name, Columns: e.ColumnNames(name), Steps: steps}, sqltext.In(e.engine))
	if err != nil {
		return -1, err
	}
	t, err := e.limited(ctx, text, limit)
	if err != nil || t == nil || t.Rows() != 1 {
		return -1, err
	}
	if n, is := t.Columns[0].Value(0).Small(); is {
		return n, nil
	}
	return -1, nil
}

// shadowed runs a query over tables that are changed. A nil table is a query that does not run so.
func (e *Search) shadowed(ctx context.Context, t *sql.Tree, shadows []sqltext.Shadow, limit time.Duration) (*table.Table, error) {
	if e.live {
		return nil, nil
	}
	got, err := e.Run(ctx, t, limit)
	if err != nil || got.Text == "" {
		return nil, err
	}
	text, err := sqltext.Shadowed(got.Text, shadows, sqltext.In(e.engine))
	if err != nil {
		return nil, err
	}
	return e.limited(ctx, text, limit)
}

// limited runs a text for so long at most. A nil table is one that does not run.
func (e *Search) limited(ctx context.Context, text string, limit time.Duration) (*table.Table, error) {
	timed, cancel := context.WithTimeout(ctx, limit)
	defer cancel()
	result, err := e.pool.Query(timed, engine.Request{SQL: text})
	failure, failed := expect.Failure(err)
	switch {
	case ctx.Err() != nil:
		return nil, ctx.Err()
	case timed.Err() != nil || failed && failure.Code == fault.TooSlow:
		return nil, diagnose.ErrSlow
	case failed:
		return nil, nil
	}
	return result.Table, err
}

// shadows are the tables that a query reads, as its salted twin has them. The seeds go by the names: the same rows whatever other
// tables a query reads.
func (e *Search) shadows(read []string, salts []diagnose.Salt) []sqltext.Shadow {
	var out []sqltext.Shadow
	for _, name := range read {
		source, known := e.Types[name]
		if !known {
			continue // a CTE
		}
		seed := seedOf(name)
		steps := []twin.Step{twin.Head{Rows: saltedRows}}
		if len(read) > 1 {
			steps = append(steps, twin.Thin{OneIn: 5, Seed: seed - 1})
		}
		for j, salt := range salts {
			for _, c := range source.Columns {
				if strings.EqualFold(c.Name, salt.Column) {
					steps = append(steps, twin.Overwrite{Column: c.Name, Type: c.Type, Values: salt.Values, Seed: seed + j})
				}
			}
		}
		out = append(out, sqltext.Shadow{Table: name, Columns: e.ColumnNames(name), Steps: steps, Once: true})
	}
	return out
}

// ColumnNames are the names of a table's columns; none for one that the dataset does not have.
func (e *Search) ColumnNames(table string) []string {
	var out []string
	for _, c := range e.Types[strings.ToLower(table)].Columns {
		out = append(out, c.Name)
	}
	return out
}

func seedOf(name string) int {
	h := fnv.New32a()
	_, _ = h.Write([]byte(name)) // a hash takes everything
	return int(h.Sum32())
}
