package diagnose

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/edit"
	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/core/twin"
	"tovrel/sqltest"
)

// wide is what a query gives with so many rows of a number.
func wide(t *sql.Tree, rows int) *table.Table {
	base := result(t).Row(0)[0]
	var cells []table.Cell
	for i := range rows {
		cells = append(cells, table.Cell{Text: fmt.Sprintf("%s.%02d", base, i+1)})
	}
	return &table.Table{Columns: []*table.Column{table.FromCells("n", cells)}}
}

// TestAlone: an answer without a query is explained by the mistake in the reference that gives it; proved where the table says enough and
// no
// other code gives it, and likely where it says little.
func TestAlone(t *testing.T) {
	queries, trees := sqltest.Known(t)
	tried, proved := 0, 0
	for i := 0; i < len(trees); i += 3 {
		for j, c := range edit.Changes(edit.Subject{Tree: trees[i], Columns: sqltest.Columns(), Unseen: true}) {
			if j%11 != i%11 || c.Mends || c.Tree.SameFeatures(trees[i]) {
				continue
			}
			for _, rows := range []int{2, 8} {
				ran := 0
				w := world(DefaultRuns, &ran)
				w.Run = func(_ context.Context, t *sql.Tree) (*table.Table, error) { ran++; return wide(t, rows), nil }
				w.Salted = nil
				d, err := Find(context.Background(), Case{Reference: trees[i], Expected: wide(trees[i], rows), Got: wide(c.Tree, rows),
					Columns: sqltest.Columns()}, w)
				require.NoError(t, err)
				require.NotEmpty(t, d.Faults, "%s with %s", queries[i], c.Words())
				codes := map[fault.Code]bool{}
				for _, try := range d.Tried {
					if try.Hit {
						codes[try.Code] = true
					}
				}
				require.True(t, codes[c.Code] || codes[d.Faults[0].Code], "%s with %s", queries[i], c.Words())
				if rows == 2 || len(codes) > 1 {
					require.NotEqual(t, fault.Proved, d.Faults[0].Certainty, "%s with %s", queries[i], c.Words())
				}
				tried++
				if d.Faults[0].Certainty == fault.Proved {
					proved++
				}
			}
		}
	}
	require.Greater(t, tried, 60)
	require.Greater(t, proved, tried/4, "of %d", tried)
}

// TestAloneByData: where no edit gives the answer, changes of the data do: each shows its code, and says what it did.
func TestAloneByData(t *testing.T) {
	queries, trees := sqltest.Known(t)
	at := map[string]int{}
	for i, q := range queries {
		at[q] = i
	}
	for name, c := range map[string]struct {
		reference string
		is        func(twin.Step) bool
		code      fault.Code
		says      string
	}{
		"another column": {all, func(s twin.Step) bool { return s == twin.Step(twin.Take{Column: "gross", Other: "net"}) },
			fault.WrongMeasure, "it uses `net` where `gross` belongs"},
		"rows without a value": {all, func(s twin.Step) bool { return s == twin.Step(twin.Present{Column: "gross"}) },
			fault.NullHandling, "without the rows of `payments` that have no `gross`"},
		"one value alone": {"SELECT farm_id, status, count(*) FROM loads GROUP BY ALL ORDER BY ALL", func(s twin.Step) bool {
			agree, is := s.(twin.Agree)
			return is && agree.One == "status = 'it''s'"
		}, fault.FilterExtra, "status = 'it''s'"},
		"rows repeated": {"SELECT count(*) FROM farms CROSS JOIN codes", func(s twin.Step) bool {
			times, is := s.(twin.Times)
			return is && times.Table == "loads"
		}, fault.JoinFanOut, "its join with `loads` counts rows more than once"},
	} {
		i, known := at[c.reference]
		if !known {
			t.Fatalf("no query %s among the known ones", c.reference)
		}
		ran := 0
		w := world(DefaultRuns, &ran)
		w.Run = func(context.Context, *sql.Tree) (*table.Table, error) { return rowsOf(7, 9), nil }
		w.Altered = func(_ context.Context, _ *sql.Tree, steps map[string][]twin.Step) (*table.Table, error) {
			for _, of := range steps {
				if len(of) == 1 && c.is(of[0]) {
					return rowsOf(2, 9), nil
				}
			}
			return rowsOf(3, 9), nil
		}
		d, err := Find(context.Background(), Case{Reference: trees[i], Expected: rowsOf(1, 9), Got: rowsOf(2, 9),
			Columns: sqltest.Columns(),
			Values:  func(string) []string { return []string{"done", "it's"} },
			Rows:    map[string]int64{"payments": 50, "loads": 500, "farms": 9}}, w)
		require.NoError(t, err)
		require.NotEmpty(t, d.Faults, name)
		require.Equal(t, c.code, d.Faults[0].Code, "%s: %s", name, d.Faults[0].Evidence)
		require.Equal(t, fault.Proved, d.Faults[0].Certainty, name)
		require.Contains(t, d.Faults[0].Evidence, c.says, name)
		require.True(t, d.Shown)
		shown := 0
		for _, a := range d.Altered {
			if a.Shows != "" {
				shown++
				require.Equal(t, c.code, a.Shows)
			}
		}
		require.Equal(t, 1, shown, name)
		require.Greater(t, len(d.Altered), shown, name)
	}
}

// TestRowsOfTheDifference: the rows that a condition makes the difference by stand with the main fault, within what may be run.
func TestRowsOfTheDifference(t *testing.T) {
	_, trees := sqltest.Known(t)
	found := 0
	for i := 0; i < len(trees); i += 4 {
		for _, c := range edit.Changes(edit.Subject{Tree: trees[i], Columns: sqltest.Columns()}) {
			if c.Code != fault.FilterMissing {
				continue
			}
			ran := 0
			w := world(DefaultRuns, &ran)
			w.LeftOut = func(_ context.Context, table string, steps []twin.Step) (*fault.Rows, error) {
				require.NotEmpty(t, steps)
				return &fault.Rows{Table: table, Count: 214}, nil
			}
			d, err := Find(context.Background(), caseOf(trees[i], c.Tree), w)
			require.NoError(t, err)
			if d.Faults[0].Rows != nil {
				found++
				require.True(t, strings.HasSuffix(d.Faults[0].Evidence, "; 214 rows of `"+d.Faults[0].Rows.Table+"` make the difference"))
			}
			for gives, wanted := range map[error]error{ErrSlow: nil, context.Canceled: context.Canceled} {
				w.LeftOut = func(context.Context, string, []twin.Step) (*fault.Rows, error) { return nil, gives }
				slow, err := Find(context.Background(), caseOf(trees[i], c.Tree), w)
				if d.Faults[0].Rows != nil {
					require.ErrorIs(t, err, wanted)
				}
				require.Nil(t, slow.Faults[0].Rows)
				require.Equal(t, d.Faults[0].Code, slow.Faults[0].Code)
			}
		}
	}
	require.Greater(t, found, 5)
}
