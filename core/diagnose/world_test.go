package diagnose

import (
	"context"
	"errors"
	"fmt"
	"hash/fnv"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/edit"
	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/sqltest"
)

// result is what a query gives in a world where each gives something else: one that differs in form alone gives the same.
func result(t *sql.Tree) *table.Table {
	h := fnv.New64a()
	if f, err := t.Features(); err == nil {
		_, _ = h.Write([]byte(fmt.Sprint(map[string]int(f)))) // maps are printed in order
	} else {
		_, _ = h.Write([]byte(t.Key()))
	}
	var cells []table.Cell
	for i := range 3 {
		cells = append(cells, table.Cell{Text: fmt.Sprint(h.Sum64()%1_000_000_007 + uint64(i*7))})
	}
	return &table.Table{Columns: []*table.Column{table.FromCells("n", cells)}}
}

// world runs queries so, and counts them.
func world(runs int, ran *int) World {
	return World{
		Run:    func(_ context.Context, t *sql.Tree) (*table.Table, error) { *ran++; return result(t), nil },
		Salted: func(context.Context, *sql.Tree, []Salt) (*table.Table, error) { return nil, nil },
		Now:    time.Now, Budget: Budget{Runs: runs, Net: time.Hour},
	}
}

func caseOf(reference, answer *sql.Tree) Case {
	return Case{Reference: reference, Answer: answer, Expected: result(reference), Got: result(answer), Columns: sqltest.Columns()}
}

// TestOneMistake: in a world where every query gives another result, each single mistake of the catalogue in each known query is found and
// proved: the edit that is named makes the very answer. The same search gives the same diagnosis, within what it may run.
func TestOneMistake(t *testing.T) {
	queries, trees := sqltest.Known(t)
	tried, exact := 0, 0
	for i := 0; i < len(trees); i += 2 {
		reference := trees[i]
		for j, c := range edit.Changes(edit.Subject{Tree: reference, Other: trees[(i+1)%len(trees)], Columns: sqltest.Columns()}) {
			if j%7 != i%7 || c.Mends || c.Tree.SameFeatures(reference) {
				continue
			}
			ran := 0
			d, err := Find(context.Background(), caseOf(reference, c.Tree), world(DefaultRuns, &ran))
			require.NoError(t, err)
			require.LessOrEqual(t, ran, DefaultRuns)
			require.NotEmpty(t, d.Faults, "%s with %s", queries[i], c.Words())
			require.Len(t, d.Trees, len(d.Faults))
			tried++
			if d.Faults[0].Code == c.Code && d.Faults[0].Certainty == fault.Proved {
				exact++
			}
			for k, f := range d.Faults {
				require.True(t, fault.Known(f.Code))
				require.NotEmpty(t, f.Evidence)
				if f.Certainty == fault.Proved && k == 0 {
					require.NotNil(t, d.Trees[0])
				}
			}
			for _, try := range d.Tried {
				same := result(try.Query).Row(0)[0] == result(c.Tree).Row(0)[0]
				mended := result(try.Query).Row(0)[0] == result(reference).Row(0)[0]
				if try.Hit {
					require.True(t, same && !try.Repair || mended && try.Repair, "%s with %s: %s", queries[i], c.Words(), try.Edit)
				}
			}
			again := 0
			second, err := Find(context.Background(), caseOf(reference, c.Tree), world(DefaultRuns, &again))
			require.NoError(t, err)
			require.Equal(t, d.Faults, second.Faults)
			require.Equal(t, ran, again)
		}
	}
	require.Greater(t, tried, 120)
	require.GreaterOrEqual(t, exact*100, tried*97, "%d of %d are named as they were made", exact, tried)
	t.Logf("%d of %d named as they were made", exact, tried)
}

// TestBudget: a search that may run fewer queries runs no more, says that it ended there, and never proves something else.
func TestBudget(t *testing.T) {
	_, trees := sqltest.Known(t)
	reference := trees[14]
	changes := edit.Changes(edit.Subject{Tree: reference, Other: trees[15], Columns: sqltest.Columns()})
	for _, runs := range []int{1, 2, 5, 20} {
		for j := 0; j < len(changes); j += 5 {
			ran := 0
			d, err := Find(context.Background(), caseOf(reference, changes[j].Tree), world(runs, &ran))
			require.NoError(t, err)
			require.LessOrEqual(t, ran, runs)
			if d.Ended != "" {
				require.Contains(t, d.Ended, fmt.Sprint(runs))
			}
		}
	}
}

// TestNet: a search that takes far too long ends and says so.
func TestNet(t *testing.T) {
	_, trees := sqltest.Known(t)
	clock, ran := time.Unix(0, 0), 0
	w := world(DefaultRuns, &ran)
	w.Net = 10 * time.Second
	w.Now = func() time.Time { clock = clock.Add(time.Second); return clock }
	d, err := Find(context.Background(), caseOf(trees[14], trees[40]), w)
	require.NoError(t, err)
	require.NotEmpty(t, d.Ended)
	require.Less(t, ran, 12)
}

// TestErrors: a query that does not run is no hit; one that is too slow is told; any other error ends the search.
func TestErrors(t *testing.T) {
	_, trees := sqltest.Known(t)
	for name, c := range map[string]struct {
		run   func(context.Context, *sql.Tree) (*table.Table, error)
		err   string
		ended bool
	}{
		"does not run": {func(context.Context, *sql.Tree) (*table.Table, error) { return nil, nil }, "", false},
		"slow":         {func(context.Context, *sql.Tree) (*table.Table, error) { return nil, ErrSlow }, "", true},
		"gone": {func(context.Context, *sql.Tree) (*table.Table, error) { return nil, errors.New("the worker is gone") },
			"the worker is gone", false},
	} {
		ran := 0
		w := world(50, &ran)
		w.Run = c.run
		d, err := Find(context.Background(), caseOf(trees[14], trees[2]), w)
		if c.err != "" {
			require.EqualError(t, err, c.err)
			continue
		}
		require.NoError(t, err, name)
		require.Equal(t, c.ended, strings.Contains(d.Ended, "stopped"), "%s: %s", name, d.Ended)
		for _, f := range d.Faults {
			require.NotEqual(t, fault.Proved, f.Certainty, name)
		}
	}
}

// TestScaled: an answer in another scale is called so and proved, whatever else an edit of its query could be called; two cells are not
// enough,
// and neither is a factor that is no scale, or one that not all cells have.
func TestScaled(t *testing.T) {
	queries, trees := sqltest.Known(t)
	at := slices.Index(queries, "SELECT sum(deductions) / sum(gross), avg(deductions / gross) FROM payments")
	numbers := func(ns ...string) *table.Table {
		var cells []table.Cell
		for _, n := range ns {
			cells = append(cells, table.Cell{Text: n})
		}
		return &table.Table{Columns: []*table.Column{table.FromCells("share", cells)}}
	}
	for name, c := range map[string]struct {
		expected, got *table.Table
		scaled        bool
	}{
		"a hundredfold": {numbers("0.12", "0.34", "0.56"), numbers("12", "34", "56"), true},
		"a thousandth":  {numbers("1500", "2500", "4000"), numbers("1.5", "2.5", "4"), true},
		"two cells":     {numbers("0.12", "0.34"), numbers("12", "34"), false},
		"threefold":     {numbers("1", "2", "3"), numbers("3", "6", "9"), false},
		"not all":       {numbers("0.12", "0.34", "0.56", "0.78"), numbers("12", "34", "56", "79"), false},
	} {
		ran := 0
		d, err := Find(context.Background(), Case{Reference: trees[at], Answer: trees[at-1], Expected: c.expected, Got: c.got,
			Columns: sqltest.Columns()}, world(DefaultRuns, &ran))
		require.NoError(t, err)
		proved := len(d.Faults) > 0 && d.Faults[0].Code == fault.OffByFactor && d.Faults[0].Certainty == fault.Proved
		require.Equal(t, c.scaled, proved, "%s: %v", name, d.Faults)
	}
}

// TestTablesAlone holds what is told from the two tables, where there are no queries.
func TestTablesAlone(t *testing.T) {
	rows := func(names string, lines ...string) *table.Table {
		var cells [][]table.Cell
		for _, l := range lines {
			var row []table.Cell
			for _, text := range strings.Split(l, ",") {
				row = append(row, table.Cell{Text: text, Null: text == "∅"})
			}
			cells = append(cells, row)
		}
		out, err := table.FromRows(strings.Split(names, ","), cells)
		require.NoError(t, err)
		return out
	}
	for name, c := range map[string]struct {
		expected, got *table.Table
		code          fault.Code
	}{
		"nothing came":         {rows("k,n", "a,1", "b,2"), rows("k,n"), fault.FilterValue},
		"those with zero lost": {rows("k,n", "a,1", "b,0", "c,4"), rows("k,n", "a,1", "c,4"), fault.JoinRowsLost},
		"tenfold":              {rows("k,n", "a,1.2", "b,3.4"), rows("k,n", "a,12", "b,34"), fault.OffByFactor},
		"a row of totals":      {rows("k,n", "a,10", "b,20", "c,5"), rows("k,n", "a,10", "b,20", "c,5", "Total,35"), fault.GroupKeyExtra},
		"null for zero":        {rows("k,n", "a,1", "b,0", "c,3"), rows("k,n", "a,1", "b,∅", "c,3"), fault.NullHandling},
		"the first rows":       {rows("k,n", "a,9", "b,8", "c,7", "d,6"), rows("k,n", "a,9", "b,8"), fault.Limit},
	} {
		ran := 0
		d, err := Find(context.Background(), Case{Expected: c.expected, Got: c.got}, world(10, &ran))
		require.NoError(t, err)
		require.Zero(t, ran, name)
		require.NotEmpty(t, d.Faults, name)
		require.Equal(t, c.code, d.Faults[0].Code, "%s: %s", name, d.Faults[0].Evidence)
		require.NotEqual(t, fault.Proved, d.Faults[0].Certainty, name)
	}
	same := rows("k,n", "a,1")
	ran := 0
	d, err := Find(context.Background(), Case{Expected: same, Got: same}, world(10, &ran))
	require.NoError(t, err)
	for _, f := range d.Faults {
		require.Equal(t, fault.Unexplained, f.Code)
	}
}
