package diagnose

import (
	"context"
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/core/twin"
	"tovrel/sqltest"
)

// rowsOf is a table of so many rows, whose numbers come from a seed.
func rowsOf(seed, rows int) *table.Table {
	var cells []table.Cell
	for i := range rows {
		cells = append(cells, table.Cell{Text: fmt.Sprint(100 + 37*i + 1000*seed)})
	}
	return &table.Table{Columns: []*table.Column{table.FromCells("n", cells)}}
}

// thinnedBy is the seed of the copy that steps make; 0 for the whole data.
func thinnedBy(steps map[string][]twin.Step) int {
	for _, all := range steps {
		for _, s := range all {
			if thin, is := s.(twin.Thin); is {
				return thin.Seed
			}
		}
	}
	return 0
}

// has tells whether steps change the data as an intervention of some kind does.
func has[S twin.Step](steps map[string][]twin.Step) bool {
	for _, all := range steps {
		if slices.ContainsFunc(all, func(s twin.Step) bool { _, is := s.(S); return is }) {
			return true
		}
	}
	return false
}

// alteredCase is a case on which no edit gives anything, in a world that gives on changed data what it is told to.
func alteredCase(t *testing.T, reference, answer string, gives func(isAnswer bool,
	steps map[string][]twin.Step) *table.Table) (Case, World) {
	t.Helper()
	queries, trees := sqltest.Known(t)
	c := Case{Reference: trees[slices.Index(queries, reference)], Answer: trees[slices.Index(queries, answer)], Expected: rowsOf(1, 4),
		Got: rowsOf(2, 4), Columns: sqltest.Columns(), Rows: map[string]int64{"payments": 50, "loads": 500, "farms": 9}}
	ran := 0
	w := world(DefaultRuns, &ran)
	w.Run = func(context.Context, *sql.Tree) (*table.Table, error) { return nil, nil }
	w.Altered = func(_ context.Context, tree *sql.Tree, steps map[string][]twin.Step) (*table.Table, error) {
		return gives(tree == c.Answer, steps), nil
	}
	return c, w
}

const (
	all     = "SELECT sum(gross) AS n FROM payments"
	some    = "SELECT sum(gross) FILTER (WHERE net > 5) AS n FROM payments"
	others  = "SELECT sum(net) AS n FROM payments"
	once    = "SELECT count(DISTINCT farm_id) AS n FROM payments"
	several = "SELECT count(farm_id) AS n FROM payments"
)

// TestAltered: data on which one query gives what the other gave prove a cause, and the direction says which; where it does not hold on
// smaller copies of the data, it proves nothing.
func TestAltered(t *testing.T) {
	for name, c := range map[string]struct {
		reference, answer string
		gives             func(isAnswer bool, steps map[string][]twin.Step) *table.Table
		code              fault.Code
	}{
		"the answer lacks a condition": {some, all, func(isAnswer bool, steps map[string][]twin.Step) *table.Table {
			if isAnswer && !has[twin.Agree](steps) {
				return rowsOf(2+thinnedBy(steps), 4)
			}
			return rowsOf(1+thinnedBy(steps), 4)
		}, fault.FilterMissing},
		"the answer has one too many": {all, some, func(isAnswer bool, steps map[string][]twin.Step) *table.Table {
			if isAnswer || has[twin.Agree](steps) {
				return rowsOf(2+thinnedBy(steps), 4)
			}
			return rowsOf(1+thinnedBy(steps), 4)
		}, fault.FilterExtra},
		"it measures another column": {all, others, func(isAnswer bool, steps map[string][]twin.Step) *table.Table {
			if isAnswer && !has[twin.Take](steps) {
				return rowsOf(2+thinnedBy(steps), 4)
			}
			return rowsOf(1+thinnedBy(steps), 4)
		}, fault.WrongMeasure},
		"it counts more than once": {once, several, func(isAnswer bool, steps map[string][]twin.Step) *table.Table {
			if isAnswer && !has[twin.FirstOf](steps) {
				return rowsOf(2+thinnedBy(steps), 4)
			}
			return rowsOf(1+thinnedBy(steps), 4)
		}, fault.Distinct},
		"by chance": {some, all, func(isAnswer bool, steps map[string][]twin.Step) *table.Table {
			if isAnswer && (!has[twin.Agree](steps) || thinnedBy(steps) > 0) {
				return rowsOf(2+thinnedBy(steps), 4)
			}
			return rowsOf(1+thinnedBy(steps), 4)
		}, ""},
		"what never changes": {some, all, func(bool, map[string][]twin.Step) *table.Table { return rowsOf(3, 4) }, ""},
		"nothing is left":    {some, all, func(bool, map[string][]twin.Step) *table.Table { return rowsOf(3, 0) }, ""},
		"does not run":       {some, all, func(bool, map[string][]twin.Step) *table.Table { return nil }, ""},
	} {
		d, w := alteredCase(t, c.reference, c.answer, c.gives)
		got, err := Find(context.Background(), d, w)
		require.NoError(t, err)
		again, err := Find(context.Background(), d, w)
		require.NoError(t, err)
		require.Equal(t, got.Faults, again.Faults, name)
		proved := len(got.Faults) > 0 && got.Faults[0].Certainty == fault.Proved
		require.Equal(t, c.code != "", proved, "%s: %v", name, got.Faults)
		if c.code != "" {
			require.Equal(t, c.code, got.Faults[0].Code, "%s: %s", name, got.Faults[0].Evidence)
		}
	}
}

// TestAlteredAgree: where both queries give the same on changed data, and neither gives what it was to, the cause is likely.
func TestAlteredAgree(t *testing.T) {
	c, w := alteredCase(t, some, all, func(isAnswer bool, steps map[string][]twin.Step) *table.Table {
		if has[twin.Agree](steps) || !isAnswer {
			return rowsOf(7+thinnedBy(steps), 4)
		}
		return rowsOf(2+thinnedBy(steps), 4)
	})
	got, err := Find(context.Background(), c, w)
	require.NoError(t, err)
	require.Equal(t, fault.FilterMissing, got.Faults[0].Code)
	require.Equal(t, fault.Likely, got.Faults[0].Certainty)
}

// TestInterventions: each intervention of two known queries changes a table that one of them reads, says what it does, and names faults
// that exist; the list is the same each time.
func TestInterventions(t *testing.T) {
	_, trees := sqltest.Known(t)
	kinds := map[string]int{}
	for i, tree := range trees {
		c := Case{Reference: tree, Answer: trees[(i+1)%len(trees)], Expected: rowsOf(1, 3), Got: rowsOf(2, 3), Columns: sqltest.Columns()}
		list := interventions(c)
		require.Equal(t, list, interventions(c))
		read := append(c.Reference.TablesRead(), c.Answer.TablesRead()...)
		for _, one := range list {
			require.NotEmpty(t, one.words)
			for _, code := range []fault.Code{one.mended, one.broken, one.both} {
				require.True(t, code == "" || fault.Known(code), code)
			}
			require.True(t, one.mended+one.broken+one.both != "", one.words)
			for name, steps := range one.steps {
				require.Contains(t, read, name, one.words)
				for _, s := range steps {
					kinds[fmt.Sprintf("%T", s)]++
				}
			}
		}
	}
	for _, kind := range []string{"twin.Agree", "twin.Take", "twin.Present", "twin.Fill", "twin.Met", "twin.FirstOf", "twin.Later"} {
		require.Positive(t, kinds[kind], kind)
	}
}

// TestEdges: conditions whose values differ by no more than a day differ at their edges.
func TestEdges(t *testing.T) {
	require.True(t, besides("2031-05-01", "2031-05-02"))
	require.True(t, besides("2031-05-01", "2031-05-01 23:59:59"))
	require.True(t, besides("2031-05-01T10:00", "2031-05-01 09:00"))
	require.False(t, besides("2031-05-01", "2031-05-03"))
	require.False(t, besides("5", "6"))
	require.False(t, besides("", "2031-05-01"))
}
