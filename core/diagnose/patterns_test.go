package diagnose

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/table"
)

// tableOf is a table of a heading and rows, with commas between cells; ∅ is null.
func tableOf(t *testing.T, heading string, rows ...string) *table.Table {
	t.Helper()
	var cells [][]table.Cell
	for _, l := range rows {
		var row []table.Cell
		for text := range strings.SplitSeq(l, ",") {
			row = append(row, table.Cell{Text: text, Null: text == "∅"})
		}
		cells = append(cells, row)
	}
	out, err := table.FromRows(strings.Split(heading, ","), cells)
	require.NoError(t, err)
	return out
}

// TestPatterns holds what two tables alone say, each pattern beside tables that nearly have it; "" where nothing is said.
func TestPatterns(t *testing.T) {
	abc := []string{"a,10", "b,20", "c,45"}
	for name, c := range map[string]struct {
		expected, got []string
		code          fault.Code
		says          string
	}{
		"nothing came": {abc, nil, fault.FilterValue, "the answer is empty"},
		"zero rows lost": {[]string{"a,10", "b,0", "c,0"}, []string{"a,10"}, fault.JoinRowsLost,
			"the 2 missing rows are those with zero"},
		"a row with null lost": {[]string{"a,10", "b,∅", "c,4"}, []string{"a,10", "c,4"}, fault.JoinRowsLost,
			"the 1 missing rows"},
		"a row with an amount lost": {[]string{"a,10", "b,1", "c,4", "d,9"}, []string{"a,10", "c,4", "d,9"}, "", ""},
		"a zero row too many": {[]string{"a,10", "c,4"}, []string{"a,10", "b,0", "c,4"}, fault.JoinRowsAdded,
			"the row that is too many has zero"},
		"zero rows too many": {[]string{"a,10"}, []string{"a,10", "b,0", "c,∅"}, fault.JoinRowsAdded,
			"the 2 rows that are too many have zero"},
		"a row without a key too many":  {[]string{"a,10", "c,4"}, []string{"a,10", "∅,7", "c,4"}, fault.JoinRowsAdded, "has no key"},
		"a row with an amount too many": {[]string{"a,10", "c,4"}, []string{"a,10", "b,3", "c,4"}, "", ""},
		"null where zero was expected": {[]string{"a,10", "b,0", "c,0"}, []string{"a,10", "b,∅", "c,∅"}, fault.NullHandling,
			"null where zero was expected"},
		"zero where null was expected": {[]string{"a,10", "b,∅", "c,4"}, []string{"a,10", "b,0", "c,4"}, fault.NullHandling,
			"zero where null was expected"},
		"null for zero, and another cell": {[]string{"a,10", "b,0", "c,4"}, []string{"a,11", "b,∅", "c,4"}, "", ""},
		"tenfold":                         {abc, []string{"a,100", "b,200", "c,450"}, fault.OffByFactor, "every value of n is 10 times"},
		"a thousandth": {abc, []string{"a,0.01", "b,0.02", "c,0.045"}, fault.OffByFactor,
			"every value of n is 0.001 times"},
		"threefold":           {abc, []string{"a,30", "b,60", "c,135"}, fault.JoinFanOut, "every value of n is 3 times"},
		"one and a half":      {abc, []string{"a,15", "b,30", "c,67.5"}, "", ""},
		"tenfold but for one": {abc, []string{"a,100", "b,200", "c,451"}, "", ""},
		"a total row": {abc, []string{"a,10", "b,20", "c,45", "all,75"}, fault.GroupKeyExtra,
			"row 4 of the answer is the total of the others"},
		"a row that is no total": {abc, []string{"a,10", "b,20", "c,45", "all,74"}, "", ""},
		"the first rows": {append([]string{"z,99"}, abc...), []string{"z,99", "a,10"}, fault.Limit,
			"the first 2 of the 4 expected rows"},
		"the last rows": {append([]string{"z,99"}, abc...), []string{"b,20", "c,45"}, "", ""},
		"codes for labels": {[]string{"Oak,10", "Elm,20", "Ash,45"}, []string{"ok,10", "el,20", "as,45"}, fault.Label,
			`"as" for "Ash"`},
		"codes for labels, one for two": {[]string{"Oak,10", "Elm,20", "Ash,45"}, []string{"ok,10", "ok,20", "as,45"}, "", ""},
		"coarser": {[]string{"a,10", "b,20", "c,45"}, []string{"x,30", "y,45"}, fault.GroupKeyMissing,
			"it is coarser"},
		"finer": {[]string{"x,30", "y,45"}, []string{"a,10", "b,20", "c,45"}, fault.GroupKeyExtra,
			"it is finer"},
		"fewer rows of another sum": {[]string{"a,10", "b,20", "c,45"}, []string{"x,31", "y,45"}, "", ""},
		"the same":                  {abc, abc, "", ""},
	} {
		found := patterns(Case{Expected: tableOf(t, "k,n", c.expected...), Got: tableOf(t, "k,n", c.got...)})
		if c.code == "" {
			require.Empty(t, found, name)
			continue
		}
		require.Len(t, found, 1, name)
		require.Equal(t, c.code, found[0].Code, "%s: %s", name, found[0].Evidence)
		require.Contains(t, found[0].Evidence, c.says, name)
		require.Equal(t, fault.Likely, found[0].Certainty, "a pattern proves nothing")
	}
	require.Empty(t, patterns(Case{Expected: tableOf(t, "k,n", abc...)}))
	require.Empty(t, patterns(Case{Got: tableOf(t, "k,n", abc...)}))
}

// TestOtherLayout: values that are right in another layout are told so.
func TestOtherLayout(t *testing.T) {
	long := tableOf(t, "town,year,n", "Aske,2030,1", "Aske,2031,2", "Brill,2030,3", "Brill,2031,4")
	wide := tableOf(t, "town,2030,2031", "Aske,1,2", "Brill,3,4")
	for _, c := range []Case{{Expected: long, Got: wide}, {Expected: wide, Got: long}} {
		found := patterns(c)
		require.Len(t, found, 1)
		require.Equal(t, fault.WrongLayout, found[0].Code)
	}
	wrong := tableOf(t, "town,2030,2031", "Aske,1,2", "Brill,3,5")
	for _, f := range patterns(Case{Expected: long, Got: wrong}) {
		require.NotEqual(t, fault.WrongLayout, f.Code)
	}
}
