package attempt

import (
	"context"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/core/value"
	"tovrel/expect"
	"tovrel/sqltest"
)

// TestAsOnSample: on a twin the columns that stood for each other on the sample do so again, for the reading that was met there; what was
// laid out as a crosstab has no such columns.
func TestAsOnSample(t *testing.T) {
	expectations := []expect.Expectation{{}, {Reading: "net"}}
	pairs := []match.ColumnPair{{Expected: 0, Answer: 2}, {Expected: 1, Answer: 0}}
	a := record.Attempt{Reading: "net", Match: &record.Match{Columns: pairs}}
	got := asOnSample(expectations, a)
	require.Nil(t, got[0].Known.Columns)
	require.Equal(t, []int{2, 0}, got[1].Known.Columns)
	require.Nil(t, expectations[1].Known.Columns, "what is given stays as it is")
	a.Remarks = []match.Remark{match.Crosstab}
	require.Nil(t, asOnSample(expectations, a)[1].Known.Columns)
	require.Nil(t, asOnSample(expectations, record.Attempt{Reading: "net"})[1].Known.Columns)
}

// TestSaysNothing: no rows, and one row of nulls and zeros, say that there is nothing.
func TestSaysNothing(t *testing.T) {
	of := func(rows ...[]table.Cell) *table.Table {
		made, err := table.FromRows([]string{"name", "n"}, rows)
		require.NoError(t, err)
		return made
	}
	null, zero, one, word := table.Cell{Null: true}, table.Cell{Text: "0.00"}, table.Cell{Text: "1"}, table.Cell{Text: "Quay"}
	none := &table.Table{Columns: []*table.Column{table.NewColumn("n", value.Type{Kind: value.Float}, 1)}}
	none.Columns[0].Append(value.OfFloat(math.NaN()))
	for want, tables := range map[bool][]*table.Table{
		true:  {of(), none, of([]table.Cell{null, zero}), of([]table.Cell{null, null})},
		false: {of([]table.Cell{word, zero}), of([]table.Cell{null, one}), of([]table.Cell{null, zero}, []table.Cell{null, zero})},
	} {
		for i, answer := range tables {
			require.Equal(t, want, saysNothing(answer), i)
			require.Equal(t, want, nothingAsked(answer, []expect.Expectation{{Table: of()}}))
			require.False(t, nothingAsked(answer, []expect.Expectation{{Table: of()}, {Table: of([]table.Cell{word, one})}}))
		}
	}
}

// TestByTies: where both queries keep the ends of an order, one may keep all that share the last place; where another row is missing, or
// one query keeps everything, that is no tie.
func TestByTies(t *testing.T) {
	queries, trees := sqltest.Known(t)
	tree := func(words string) *sql.Tree {
		return trees[slices.IndexFunc(queries, func(q string) bool { return strings.HasSuffix(q, words) })]
	}
	ends, all := tree("ORDER BY n DESC LIMIT 5"), tree("GROUP BY status")
	made := func(names ...string) *table.Table {
		var rows [][]table.Cell
		for _, n := range names {
			rows = append(rows, []table.Cell{{Text: n}, {Text: "7"}})
		}
		out, err := table.FromRows([]string{"name", "n"}, rows)
		require.NoError(t, err)
		return out
	}
	for name, c := range map[string]struct {
		expected, answer   *table.Table
		reference, written *sql.Tree
		rows               int
		want               bool
	}{
		"it keeps one of two":         {made("Quay", "Mill"), made("Quay"), ends, ends, 1, true},
		"it keeps both":               {made("Quay"), made("Quay", "Mill"), ends, ends, 1, true},
		"it keeps another":            {made("Quay"), made("Mill"), ends, ends, 1, false},
		"it keeps fewer":              {made("Quay", "Mill"), made("Quay"), ends, ends, 2, false},
		"it keeps everything":         {made("Quay"), made("Quay", "Mill"), ends, all, 1, false},
		"the reference keeps all":     {made("Quay", "Mill"), made("Quay"), all, ends, 1, false},
		"there is no reference query": {made("Quay", "Mill"), made("Quay"), nil, ends, 1, false},
	} {
		e := expect.Expectation{Table: c.expected, Tree: c.reference}
		r, err := e.Meets(context.Background(), c.answer, match.Rules{})
		require.NoError(t, err)
		require.False(t, r.Matched)
		got, err := byTies(context.Background(), e, r, match.Rules{}, c.written, c.rows)
		require.NoError(t, err)
		require.Equal(t, c.want, got, name)
	}
}
