// Package cause goes from a wrong answer to its causes: it gives the pure search of core/diagnose a world in which edited queries run,
// with a budget and a memory, and explains queries that do not run. It changes no verdict.
package cause

import (
	"context"
	"errors"
	"maps"
	"slices"
	"strings"
	"sync"
	"time"

	"tovrel/core/diagnose"
	"tovrel/core/edit"
	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/core/twin"
	"tovrel/core/value"
	"tovrel/engine"
	"tovrel/engine/sqltext"
	"tovrel/expect"
)

const (
	// keptEdits and keptRows bound what is remembered of edited queries.
	keptEdits, keptRows = 4000, 5000
	// shortestEdit is how long an edited query may run at least, longestEdit at most; between them so many times as long as the reference.
	// Nearly all take less than six times: what is found must not depend on how busy the machine is.
	shortestEdit, longestEdit, timesReference = 4 * time.Second, 20 * time.Second, 30
	// shortestNet and netTimes are the net of a search where none is set: ten times what the longest searches were seen to take, which is
	// four seconds, or some 60 times the reference.
	shortestNet, netTimes = 40 * time.Second, 600
	// fewValues is up to how many values of a column are tried as literals.
	fewValues = 12
)

// Search runs edited queries on a dataset and remembers their results: edits of a reference serve all its wrong answers.
type Search struct {
	pool    expect.Queries
	engine  string // by its name
	live    bool   // a server's database as it is, whose tables are not changed even for a query
	Columns map[string][]edit.Column
	Types   map[string]engine.Table // by the name in lower case
	mu      sync.Mutex
	results map[string]Edited
	values  map[string][]string
}

// Edited is what an edited query gave; a nil table for one that does not run.
type Edited struct {
	Table *table.Table
	Text  string
}

// NewSearch makes a search over a dataset of some tables, on which the pool runs queries in an engine of a name; live is one on a server,
// as it is.
func NewSearch(pool expect.Queries, tables []engine.Table, engineName string, live bool) *Search {
	e := &Search{pool: pool, engine: engineName, live: live, Columns: EditColumns(tables), Types: map[string]engine.Table{},
		results: map[string]Edited{},
		values:  map[string][]string{}}
	for _, t := range tables {
		e.Types[strings.ToLower(t.Name)] = t
	}
	return e
}

// EditColumns are the tables' columns as edits want them, by the table's name in lower case.
func EditColumns(tables []engine.Table) map[string][]edit.Column {
	out := map[string][]edit.Column{}
	for _, t := range tables {
		for _, c := range t.Columns {
			out[strings.ToLower(t.Name)] = append(out[strings.ToLower(t.Name)],
				edit.Column{Name: c.Name, Kind: ColumnKind(c.Type), Day: isDay(c.Type), Type: c.Type})
		}
	}
	return out
}

func isDay(engineType string) bool {
	kind, _ := value.KindOfSQL(engineType)
	return kind == value.Date
}

// ColumnKind is what edits can do with a column of an engine's type.
func ColumnKind(engineType string) edit.Kind {
	switch kind, _ := value.KindOfSQL(engineType); {
	case kind == value.Date || kind == value.Timestamp || kind == value.TimestampTZ:
		return edit.Time
	case kind.Number():
		return edit.Number
	case kind.Textual():
		return edit.Text
	}
	return edit.Other
}

// Run gives an edited query's result. The error is diagnose.ErrSlow for one that was stopped at the limit: that is no result, and not
// remembered.
func (e *Search) Run(ctx context.Context, t *sql.Tree, limit time.Duration) (Edited, error) {
	key := t.Key()
	e.mu.Lock()
	known, ok := e.results[key]
	e.mu.Unlock()
	if ok {
		return known, nil
	}
	body, err := t.Serialised()
	if err != nil {
		return Edited{}, err
	}
	timed, cancel := context.WithTimeout(ctx, limit)
	defer cancel()
	result, err := e.pool.Query(timed, engine.Request{Serialised: string(body)})
	failure, _ := expect.Failure(err)
	switch {
	case ctx.Err() != nil:
		return Edited{}, ctx.Err()
	case timed.Err() != nil || failure != nil && failure.Code == fault.TooSlow:
		return Edited{}, diagnose.ErrSlow
	case failure != nil:
		result.Table = nil
	case err != nil:
		return Edited{}, err
	}
	got := Edited{result.Table, result.Instead}
	e.mu.Lock()
	defer e.mu.Unlock()
	if len(e.results) < keptEdits && (got.Table == nil || got.Table.Rows() <= keptRows) {
		e.results[key] = got
	}
	return got, nil
}

// ValuesOf are the commonest texts of the columns of a name.
func (e *Search) ValuesOf(ctx context.Context, column string) []string {
	column = strings.ToLower(column)
	e.mu.Lock()
	known, ok := e.values[column]
	e.mu.Unlock()
	if ok {
		return known
	}
	var out []string
	for _, name := range slices.Sorted(maps.Keys(e.Columns)) {
		for _, c := range e.Columns[name] {
			if !strings.EqualFold(c.Name, column) || c.Kind != edit.Text {
				continue
			}
			result, err := e.pool.Query(ctx, engine.Request{SQL: sqltext.Commonest(name, c.Name, fewValues)})
			if _, failed := expect.Failure(err); err != nil && !failed {
				return nil // the search ends here too
			}
			if err != nil || result.Table.Rows() >= fewValues {
				continue // values are material for edits: without them there are fewer
			}
			for row := range result.Table.Rows() {
				out = append(out, result.Table.Columns[0].Value(row).String())
			}
		}
	}
	e.mu.Lock()
	defer e.mu.Unlock()
	e.values[column] = out
	return out
}

// Explained is a diagnosis with the edited queries as texts.
type Explained struct {
	Faults  []fault.Fault
	Tried   []record.Edit
	Altered []record.Alteration
	Ended   string
	Shown   bool // the main fault rests on queries that were run, not on the tables alone
}

// Find searches for the cause of a wrong answer. The error is of a worker or the context.
func (e *Search) Find(ctx context.Context, c diagnose.Case, budget diagnose.Budget, reference time.Duration) (Explained, error) {
	if budget.Net == 0 {
		budget.Net = max(shortestNet, netTimes*reference)
	}
	each := min(longestEdit, max(shortestEdit, timesReference*reference), max(budget.Net, shortestEdit))
	c.Columns = e.Columns
	c.Rows = map[string]int64{}
	for name, t := range e.Types {
		c.Rows[name] = t.Rows
	}
	c.Values = func(column string) []string { return e.ValuesOf(ctx, column) }
	d, err := diagnose.Find(ctx, c, diagnose.World{Now: time.Now, Budget: budget,
		Run: func(ctx context.Context, t *sql.Tree) (*table.Table, error) {
			got, err := e.Run(ctx, t, each)
			return got.Table, err
		}, Salted: func(ctx context.Context, t *sql.Tree, salts []diagnose.Salt) (*table.Table, error) {
			return e.salted(ctx, t, salts, each)
		}, Altered: func(ctx context.Context, t *sql.Tree, steps map[string][]twin.Step) (*table.Table, error) {
			return e.altered(ctx, t, steps, each)
		}, LeftOut: func(ctx context.Context, table string, steps []twin.Step) (*fault.Rows, error) {
			return e.leftOut(ctx, table, steps, each)
		}, Changed: func(ctx context.Context, table string, steps []twin.Step) (int64, error) {
			return e.changed(ctx, table, steps, each)
		}})
	if err != nil {
		return Explained{}, err
	}
	out := Explained{Faults: d.Faults, Ended: d.Ended, Shown: d.Shown}
	for i, t := range d.Trees {
		if t != nil {
			got, err := e.Run(ctx, t, each)
			if err != nil && !errors.Is(err, diagnose.ErrSlow) {
				return out, err
			}
			out.Faults[i].Query = formatted(t, got.Text)
		}
	}
	for _, a := range d.Altered {
		out.Altered = append(out.Altered, record.Alteration{Change: a.Words, Shows: a.Shows})
	}
	for _, t := range d.Tried {
		got, _ := e.Run(ctx, t.Query, each) // remembered, but for large results: then its text is left out
		out.Tried = append(out.Tried, record.Edit{Edit: t.Edit, Code: t.Code, Repair: t.Repair, Distance: t.Distance,
			Hit: t.Hit, Query: formatted(t.Query, got.Text)})
	}
	return out, nil
}

// formatted is an edited query as people write it; as the engine writes it where it has no such form, and "" where it was not run.
func formatted(t *sql.Tree, asRun string) string {
	if text, ok := t.Formatted(); ok && asRun != "" {
		return text
	}
	return asRun
}

// Searchable tells faults behind which there may be a cause: none at all, a column that is missing because the answer is grouped
// otherwise, or a row of totals, which may be the data's own.
func Searchable(faults []fault.Fault) bool {
	return len(faults) == 0 || faults[0].Code == fault.Unexplained || faults[0].Code == fault.ColumnMissing ||
		faults[0].Code == fault.TotalRow
}
