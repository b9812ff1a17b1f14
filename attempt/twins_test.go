package attempt

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/table"
	"tovrel/expect"
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
	for want, tables := range map[bool][]*table.Table{
		true:  {of(), of([]table.Cell{null, zero}), of([]table.Cell{null, null})},
		false: {of([]table.Cell{word, zero}), of([]table.Cell{null, one}), of([]table.Cell{null, zero}, []table.Cell{null, zero})},
	} {
		for i, answer := range tables {
			require.Equal(t, want, saysNothing(answer), i)
			require.Equal(t, want, nothingAsked(answer, []expect.Expectation{{Table: of()}}))
			require.False(t, nothingAsked(answer, []expect.Expectation{{Table: of()}, {Table: of([]table.Cell{word, one})}}))
		}
	}
}
