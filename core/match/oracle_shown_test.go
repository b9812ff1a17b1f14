package match_test

import (
	"math/big"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/match"
	"tovrel/core/table"
)

// shownOracle judges two columns of numbers under `numbers: shown` by its three clauses, cell by cell and with fractions
// alone. Rounded says that the expected column is itself rounded.
func shownOracle(e, a []string, rounded bool) bool {
	if allCells(e, a, func(x, y *big.Rat) bool { return x.Cmp(y) == 0 }) {
		return true
	}
	if k := decimalsIn(e); rounded && k >= 1 && allCells(e, a, func(x, y *big.Rat) bool { return x.Cmp(y) == 0 || roundsOracle(y, x, k) }) {
		return true
	}
	for d := 2; d < decimalsIn(e); d++ {
		if allCells(e, a, func(x, y *big.Rat) bool { return roundsOracle(x, y, d) && littleMoved(x, y) }) {
			return true
		}
	}
	return false
}

func allCells(e, a []string, same func(x, y *big.Rat) bool) bool {
	for i := range e {
		if !same(rat(e[i]), rat(a[i])) {
			return false
		}
	}
	return true
}

func rat(text string) *big.Rat {
	r, _ := new(big.Rat).SetString(text)
	return r
}

func decimalsIn(cells []string) int {
	most := 0
	for _, c := range cells {
		_, frac, _ := strings.Cut(c, ".")
		most = max(most, len(strings.TrimRight(frac, "0")))
	}
	return most
}

// roundsOracle: y lies within half a unit of x, so that it is x rounded one way or the other, and is a multiple of the unit.
func roundsOracle(x, y *big.Rat, decimals int) bool {
	unit := new(big.Rat).SetFrac(big.NewInt(1), new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(decimals)), nil))
	whole := new(big.Rat).Quo(y, unit).IsInt()
	distance := new(big.Rat).Sub(x, y)
	half := new(big.Rat).Quo(unit, big.NewRat(2, 1))
	c := distance.Abs(distance).Cmp(half)
	if c == 0 { // a tie goes away from zero, or to the even neighbour
		away := new(big.Rat).Abs(y).Cmp(new(big.Rat).Abs(x)) > 0
		n := new(big.Rat).Quo(y, unit).Num()
		return whole && (away || n.Bit(0) == 0)
	}
	return whole && c < 0
}

func littleMoved(x, y *big.Rat) bool {
	moved := new(big.Rat).Sub(x, y)
	limit := new(big.Rat).Mul(new(big.Rat).Abs(x), big.NewRat(5, 1000))
	size := new(big.Rat).Abs(x)
	between := size.Sign() > 0 && size.Cmp(big.NewRat(1, 1)) < 0
	ends := y.Sign() == 0 || new(big.Rat).Abs(y).Cmp(big.NewRat(1, 1)) == 0
	return moved.Abs(moved).Cmp(limit) <= 0 && (!between || !ends)
}

// TestShownOracle: the rounding clauses agree with the fractions on columns of few cells, in any order of rows.
func TestShownOracle(t *testing.T) {
	pool := []string{"12.4968", "12.5", "12.50", "12.47", "12.495", "12.485", "-12.495", "-12.5", "0.995", "0.996", "1.00",
		"0.004", "0.00", "0.3333", "0.33", "0.34", "107.125", "107.12", "107.13", "107.1"}
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 3).Draw(t, "rows")
		e := rapid.SliceOfN(rapid.SampledFrom(pool), n, n).Draw(t, "expected")
		a := rapid.SliceOfN(rapid.SampledFrom(pool), n, n).Draw(t, "answer")
		rounded := rapid.Bool().Draw(t, "rounded")
		want := anyMap(n, func(order []int) bool {
			moved := make([]string, n)
			for i, at := range order {
				moved[i] = a[at]
			}
			return shownOracle(e, moved, rounded)
		})
		got := match.Match(oneColumn(e), oneColumn(a), match.Rules{}, match.Known{Rounded: []bool{rounded}})
		require.Equal(t, want, got.Matched, got.Why)
	})
}

func oneColumn(cells []string) *table.Table {
	var written []table.Cell
	for _, c := range cells {
		written = append(written, table.Cell{Text: c})
	}
	return &table.Table{Columns: []*table.Column{table.FromCells("n", written)}}
}
