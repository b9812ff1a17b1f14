package expect

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/table"
	"tovrel/engine"
)

// TestWhere: a byte of a query is a line and a column of characters.
func TestWhere(t *testing.T) {
	query := "SELECT 'ä',\n  b\nFROM t"
	for position, want := range map[int]string{0: "line 1, column 1", 7: "line 1, column 8", 11: "line 1, column 11",
		13: "line 2, column 1", 15: "line 2, column 3",
		len(query): "line 3, column 7", len(query) + 1: "", -1: ""} {
		require.Equal(t, want, Where(query, position), "%d", position)
	}
}

// TestPlaced: a query's own failure is told with its place; any other error stays as it is.
func TestPlaced(t *testing.T) {
	f := &engine.Failure{Code: fault.UnknownColumn, Message: "there is no b", Position: 7}
	require.EqualError(t, Placed("SELECT b", f), "the query does not run (unknown-column, line 1, column 8): there is no b")
	f.Position = -1
	require.EqualError(t, Placed("SELECT b", f), "the query does not run (unknown-column): there is no b")
	gone := errors.New("the worker is gone")
	require.Equal(t, gone, Placed("SELECT b", gone))
	_, own := Failure(gone)
	require.False(t, own)
}

// TestNotes: how answers are matched is said of rankings, and of ties at a cut.
func TestNotes(t *testing.T) {
	column := func(name string, texts ...string) *table.Column {
		var cells []table.Cell
		for _, text := range texts {
			cells = append(cells, table.Cell{Text: text})
		}
		return table.FromCells(name, cells)
	}
	full := &table.Table{Columns: []*table.Column{column("farm", "a", "b", "c", "d"), column("n", "9", "7", "7", "3")}}
	ranking := []match.Key{{Name: "n", Column: 1, Descending: true}}
	of := func(from, keep int) []string {
		return Expectation{Known: match.Known{Ranking: ranking, Cut: &match.Cut{Full: full, From: from, Keep: keep}}}.Notes()
	}
	ranked := "Its rows are ranked: an answer must have them by n falling; tied rows may stand in any order."
	require.Equal(t, []string{ranked}, of(0, 1))
	require.Len(t, of(0, 2), 2, "the third ties with the second")
	require.Contains(t, of(0, 2)[1], "tie with the last one")
	require.Len(t, of(1, 1), 2)
	require.Len(t, of(0, 3), 1)
	require.Len(t, of(0, 4), 1, "nothing is cut off")
	require.Empty(t, Expectation{}.Notes())
	ranking[0].Descending = false
	require.Contains(t, of(0, 1)[0], "by n rising")
}
