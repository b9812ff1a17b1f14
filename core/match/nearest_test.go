package match

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// TestNearestOf: of rows that share as many cells the one that stands nearer is the nearest, and two that stand equally near are none;
// fewer than half of the cells make no row near.
func TestNearestOf(t *testing.T) {
	equal := func(cells map[[2]int]int) func(row, other int) int {
		return func(row, other int) int { return cells[[2]int{row, other}] }
	}
	for name, c := range map[string]struct {
		others []int
		cells  map[[2]int]int
		want   map[int]int
	}{
		"the one that shares more":  {[]int{2, 9}, map[[2]int]int{{1, 2}: 2, {1, 9}: 3}, map[int]int{1: 9}},
		"the nearer of equals":      {[]int{2, 9}, map[[2]int]int{{1, 2}: 3, {1, 9}: 3}, map[int]int{1: 2}},
		"two beside it":             {[]int{0, 2}, map[[2]int]int{{1, 0}: 3, {1, 2}: 3}, map[int]int{}},
		"two beside it, one better": {[]int{0, 2, 3}, map[[2]int]int{{1, 0}: 2, {1, 2}: 2, {1, 3}: 3}, map[int]int{1: 3}},
		"just half":                 {[]int{2}, map[[2]int]int{{1, 2}: 2}, map[int]int{1: 2}},
		"less than half":            {[]int{2}, map[[2]int]int{{1, 2}: 1}, map[int]int{}},
		"nothing":                   {[]int{2}, map[[2]int]int{}, map[int]int{}},
	} {
		require.Equal(t, c.want, nearestOf([]int{1}, c.others, 4, equal(c.cells)), name)
	}
}
