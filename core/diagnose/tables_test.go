package diagnose

import (
	"context"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/edit"
	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/sqltest"
)

// treeOf is the tree of a known query.
func treeOf(t *testing.T, query string) *sql.Tree {
	t.Helper()
	queries, trees := sqltest.Known(t)
	at := slices.Index(queries, query)
	require.GreaterOrEqual(t, at, 0, "%s is not among the known queries", query)
	return trees[at]
}

// TestProofs: what three cells or more show of one column is proved; fewer cells, two columns, one cell that is otherwise, or a row too few
// prove nothing.
func TestProofs(t *testing.T) {
	abc := []string{"a,10.25,1", "b,20.5,2", "c,45.75,3"}
	for name, c := range map[string]struct {
		got  []string
		code fault.Code
		says string
	}{
		"other sign":                {[]string{"a,-10.25,1", "b,-20.5,2", "c,-45.75,3"}, fault.Formula, "with the other sign"},
		"other sign but for one":    {[]string{"a,-10.25,1", "b,-20.5,2", "c,-45,3"}, "", ""},
		"other sign of two":         {[]string{"a,-10.25,1", "b,-20.5,2", "c,45.75,3"}, "", ""},
		"other sign in two columns": {[]string{"a,-10.25,-1", "b,-20.5,-2", "c,-45.75,-3"}, "", ""},
		"a row lost":                {[]string{"a,-10.25,1", "b,-20.5,2"}, "", ""},
		"cut off":                   {[]string{"a,10,1", "b,20,2", "c,45,3"}, fault.Rounding, "cut off to 0 decimals"},
		"rounded up":                {[]string{"a,11,1", "b,21,2", "c,46,3"}, fault.Rounding, "rounded up to 0 decimals"},
		"zero throughout":           {[]string{"a,0,1", "b,0,2", "c,0,3"}, "", ""},
		"rounded in two ways":       {[]string{"a,11,1", "b,20,2", "c,46,3"}, "", ""},
		"a tenth cut":               {[]string{"a,10.2,1", "b,20.4,2", "c,45.7,3"}, "", ""},
		"tenfold":                   {[]string{"a,102.5,1", "b,205,2", "c,457.5,3"}, fault.OffByFactor, "10 times"},
		"threefold":                 {[]string{"a,30.75,1", "b,61.5,2", "c,137.25,3"}, "", ""},
		"the same":                  {abc, "", ""},
	} {
		f := proofs(Case{Expected: tableOf(t, "k,n,m", abc...), Got: tableOf(t, "k,n,m", c.got...)})
		if c.code == "" {
			require.Nil(t, f, name)
			continue
		}
		require.NotNil(t, f, name)
		require.Equal(t, c.code, f.Code, "%s: %s", name, f.Evidence)
		require.Equal(t, fault.Proved, f.Certainty, name)
		require.Contains(t, f.Evidence, c.says, name)
	}
	require.Nil(t, proofs(Case{Expected: tableOf(t, "k,n", "a,1")}))
}

// TestPivoted: the expected numbers under other headings are another layout, in both directions; other numbers, or of another key, are not.
func TestPivoted(t *testing.T) {
	wide := tableOf(t, "hall,full price,reduced", "East,7,2", "West,5,0", "Yard,1,9")
	for name, c := range map[string]struct {
		rows []string
		is   bool
	}{
		"long":        {[]string{"East,F,7", "East,R,2", "West,F,5", "Yard,F,1", "Yard,R,9"}, true},
		"another one": {[]string{"East,F,7", "East,R,3", "West,F,5", "Yard,F,1", "Yard,R,9"}, false},
		"a key short": {[]string{"East,F,7", "East,R,2", "West,F,5"}, false},
		"other keys":  {[]string{"Ost,F,7", "Ost,R,2", "West,F,5", "Yard,F,1", "Yard,R,9"}, false},
	} {
		long := tableOf(t, "hall,tariff,n", c.rows...)
		for _, pair := range []Case{{Expected: wide, Got: long}, {Expected: long, Got: wide}} {
			found := patterns(pair)
			is := len(found) > 0 && found[0].Code == fault.WrongLayout
			require.Equal(t, c.is, is, "%s: %v", name, found)
		}
	}
}

// TestTiedRowsLost: where a reference ranks, rows that are missing beside their equals were cut by number; else they were not.
func TestTiedRowsLost(t *testing.T) {
	ranks := treeOf(t, "SELECT farm_id, rank() OVER (PARTITION BY status, farm_id ORDER BY litres) AS place FROM loads")
	plain := treeOf(t, "SELECT count(*) FROM loads")
	expected := tableOf(t, "k,n", "a,9", "b,9", "c,7", "d,7", "e,5")
	for name, c := range map[string]struct {
		reference *sql.Tree
		rows      []string
		is        bool
	}{
		"tied":      {ranks, []string{"b,9", "d,7", "e,5"}, true},
		"one of it": {ranks, []string{"a,9", "c,7", "d,7", "e,5"}, true},
		"not tied":  {ranks, []string{"a,9", "b,9", "c,7", "d,7"}, false},
		"no rank":   {plain, []string{"b,9", "d,7", "e,5"}, false},
		"too many":  {ranks, []string{"b,9", "d,7", "e,5", "f,4"}, false},
	} {
		found := patterns(Case{Reference: c.reference, Expected: expected, Got: tableOf(t, "k,n", c.rows...)})
		is := len(found) > 0 && found[0].Code == fault.Limit && len(found[0].Evidence) > 0 && found[0].Evidence[:4] == "each"
		require.Equal(t, c.is, is, "%s: %v", name, found)
	}
}

// TestPlacedCode: one end of a period that is lost is another period; a lost condition that two tables share is part of their join; any
// other
// lost condition is one.
func TestPlacedCode(t *testing.T) {
	for query, want := range map[string]map[string]fault.Code{
		"SELECT sum(litres) FROM loads WHERE loaded_at >= DATE '2031-01-01' AND loaded_at < DATE '2031-02-01' AND status = 'acc'": {
			"loaded_at >= DATE '2031-01-01'": fault.TimeWindow, "loaded_at < DATE '2031-02-01'": fault.TimeWindow,
			"status = 'acc'": fault.FilterMissing},
		"SELECT count(*) FROM loads l JOIN farms f ON l.farm_id = f.farm_id AND l.litres > f.farm_id WHERE l.status = 'acc'": {
			"l.litres > f.farm_id": fault.JoinFanOut, "l.status = 'acc'": fault.FilterMissing},
	} {
		reference := treeOf(t, query)
		seen := map[string]bool{}
		for _, c := range edit.Changes(edit.Subject{Tree: reference, Columns: sqltest.Columns()}) {
			code, known := want[c.Before]
			if !known || c.After != "" || c.Edit.Name != "drop-condition" {
				continue
			}
			seen[c.Before] = true
			ran := 0
			small, large := rowsOf(1, 4), rowsOf(2, 9)
			given := caseOf(reference, c.Tree)
			given.Expected, given.Got = small, large
			w := world(DefaultRuns, &ran)
			run := w.Run
			w.Run = func(ctx context.Context, tree *sql.Tree) (*table.Table, error) {
				if tree.Key() == c.Tree.Key() {
					return large, nil
				}
				return run(ctx, tree)
			}
			d, err := Find(context.Background(), given, w)
			require.NoError(t, err)
			require.Equal(t, code, d.Faults[0].Code, "%s: %s", c.Before, d.Faults[0].Evidence)
		}
		require.Len(t, seen, len(want), query)
	}
}
