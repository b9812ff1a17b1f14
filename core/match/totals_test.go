package match_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/table"
)

// TestTotalRow: a row of totals that was not asked is named so, or forgiven where the rules say it.
func TestTotalRow(t *testing.T) {
	const expected = "district,litres,loads\nNorth,10,2\nSouth,20,3\nWest,5,1"
	for _, c := range []struct {
		reason, answer string
		total          bool
	}{
		{"called so, at the end", "d,l,n\nNorth,10,2\nSouth,20,3\nWest,5,1\nTotal,35,6", true},
		{"without a name", "d,l,n\nNorth,10,2\nSouth,20,3\nWest,5,1\n∅,35,6", true},
		{"in the middle", "d,l,n\nNorth,10,2\nGrand total,35,6\nSouth,20,3\nWest,5,1", true},
		{"of one of two columns", "d,l,n\nNorth,10,2\nSouth,20,3\nWest,5,1\nall,35,∅", true},
		{"another name", "d,l,n\nNorth,10,2\nSouth,20,3\nWest,5,1\nEast,35,6", false},
		{"no sum", "d,l,n\nNorth,10,2\nSouth,20,3\nWest,5,1\nTotal,36,7", false},
		{"a row is wrong too", "d,l,n\nNorth,11,2\nSouth,20,3\nWest,5,1\nTotal,36,6", false},
		{"a row is missing", "d,l,n\nNorth,10,2\nSouth,20,3\nTotal,30,5", false},
	} {
		t.Run(c.reason, func(t *testing.T) {
			r := match.Match(csvTable(t, expected), csvTable(t, c.answer), match.Rules{}, match.Known{})
			require.False(t, r.Matched)
			named := len(r.Faults) > 0 && r.Faults[0].Code == fault.TotalRow
			require.Equal(t, c.total, named, "%+v", r.Faults)
			var rules match.Rules
			require.NoError(t, rules.ParseRule("rows=totals:note"))
			r = match.Match(csvTable(t, expected), csvTable(t, c.answer), rules, match.Known{})
			require.Equal(t, c.total, r.Matched)
			if c.total {
				require.Contains(t, r.Remarks, match.TotalRow)
			}
		})
	}
	var rules match.Rules
	require.ErrorContains(t, rules.ParseRule("rows=totals"), "totals:note")
	require.ErrorContains(t, rules.ParseRule("rows=totals:often"), "often")
}

// TestLists: a cell that holds a list stands for several rows, under layout: any alone.
func TestLists(t *testing.T) {
	rows := func(cells ...string) *table.Table {
		var all [][]table.Cell
		for i := 0; i < len(cells); i += 2 {
			all = append(all, []table.Cell{{Text: cells[i]}, {Text: cells[i+1]}})
		}
		out, err := table.FromRows([]string{"district", "farm"}, all)
		require.NoError(t, err)
		return out
	}
	expected := rows("North", "Ada", "North", "Ben", "South", "Cy")
	for _, c := range []struct {
		north, south string
		right        bool
	}{
		{"Ada, Ben", "Cy", true}, {"[Ada, Ben]", "[Cy]", true}, {`["Ada","Ben"]`, `["Cy"]`, true}, {"Ada; Ben", "Cy", true}, {"Ben, Ada",
			"Cy", true},
		{"Ada, Cy", "Ben", false}, {"Ada", "Cy", false}, {"Ada, Ben, Dora", "Cy", false},
	} {
		answer := rows("North", c.north, "South", c.south)
		var rules match.Rules
		require.False(t, match.Match(expected, answer, rules, match.Known{}).Matched, c.north)
		require.NoError(t, rules.ParseRule("layout=any"))
		r := match.Match(expected, answer, rules, match.Known{})
		require.Equal(t, c.right, r.Matched, c.north)
		if c.right {
			require.Contains(t, r.Remarks, match.Crosstab)
		}
	}
}
