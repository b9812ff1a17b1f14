package diagnose

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/match"
	"tovrel/gallerytest"
)

// TestCellsWords: cells that differ are told by column and by the first text of their row, three of a column; without texts by the number
// of the row; and where rows differ, the rule says so alone.
func TestCellsWords(t *testing.T) {
	expected := []string{"farm,n,share", "Alder,1,0.5", "Birch,2,0.5", "Cole,3,0.5", "Dune,4,0.5", "Elm,5,0.5"}
	for name, c := range map[string]struct {
		expected, got []string
		want          string
	}{
		"two cells of two columns": {expected,
			[]string{"farm,n,share", "Alder,1,0.5", "Birch,9,0.5", "Cole,3,0.5", "Dune,4,0.7", "Elm,5,0.5"},
			"2 cells differ (`n` of Birch; `share` of Dune)"},
		"many of one column": {expected, []string{"farm,n,share", "Alder,7,0.5", "Birch,8,0.5", "Cole,9,0.5", "Dune,10,0.5", "Elm,11,0.5"},
			"5 cells differ (`n` of Alder, Birch, Cole and 2 more)"},
		"no text":     {[]string{"k,n", "1,10", "2,20"}, []string{"k,n", "1,10", "2,25"}, "1 cell differs (`n` of row 2)"},
		"a row short": {expected, expected[:5], "1 row is missing"},
	} {
		r := match.Match(gallerytest.Table(t, c.expected), gallerytest.Table(t, c.got), match.Rules{}, match.Known{})
		require.Equal(t, c.want, cellsWords(r), name)
	}
}
