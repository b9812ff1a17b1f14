package match_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/match"
	"tovrel/core/table"
)

// oracle is a slow, obvious matcher: is there a one-to-one map of columns and one of rows under which all cells are equal?
// It knows numbers within a distance, texts and nulls, and no names.
func oracle(e, a *table.Table, distance float64) bool {
	if len(e.Columns) != len(a.Columns) || e.Rows() != a.Rows() {
		return false
	}
	return anyMap(len(e.Columns), func(columns []int) bool {
		return anyMap(e.Rows(), func(rows []int) bool {
			for i, j := range columns {
				for x, y := range rows {
					if !sameCell(e.Columns[i], x, a.Columns[j], y, distance) {
						return false
					}
				}
			}
			return true
		})
	})
}

func sameCell(e *table.Column, x int, a *table.Column, y int, distance float64) bool {
	v, w := e.Value(x), a.Value(y)
	if v.IsNull() || w.IsNull() {
		return v.IsNull() && w.IsNull()
	}
	f, number := v.Float64()
	g, other := w.Float64()
	if number && other {
		return math.Abs(f-g) <= distance+1e-9
	}
	return !number && !other && v.String() == w.String()
}

// anyMap tries all permutations.
func anyMap(n int, holds func([]int) bool) bool {
	order := indexes(n)
	var try func(k int) bool
	try = func(k int) bool {
		if k == n {
			return holds(order)
		}
		for i := k; i < n; i++ {
			order[k], order[i] = order[i], order[k]
			found := try(k + 1)
			order[k], order[i] = order[i], order[k]
			if found {
				return true
			}
		}
		return false
	}
	return try(0)
}

// drawSmall draws a table whose columns look alike: few small numbers with decimals, texts and nulls.
func drawSmall(t *rapid.T, label string) *table.Table {
	columns, rows := rapid.IntRange(1, 3).Draw(t, label+" columns"), rapid.IntRange(1, 4).Draw(t, label+" rows")
	out := &table.Table{}
	for c := range columns {
		words := rapid.IntRange(0, 3).Draw(t, label+" words") == 0
		var cells []table.Cell
		for range rows {
			text := rapid.SampledFrom([]string{"1.0", "1.1", "1.2", "2.0"}).Draw(t, label+" cell")
			if words {
				text = "w" + text[:1]
			}
			cells = append(cells, table.Cell{Text: text, Null: rapid.IntRange(0, 7).Draw(t, label+" null") == 0})
		}
		out.Columns = append(out.Columns, table.FromCells(string(rune('a'+c))+label, cells))
	}
	return out
}

// TestOracle: the fast matcher and the slow one agree on small tables under other names, exactly and within a distance. An
// answer is drawn anew, or is the expected table shuffled with a cell or two moved.
func TestOracle(t *testing.T) {
	for rule, distance := range map[string]float64{"numbers=exact": 0, "numbers=abs:0.1": 0.1} {
		rapid.Check(t, func(t *rapid.T) {
			e := drawSmall(t, "e")
			a := drawSmall(t, "a")
			if rapid.Bool().Draw(t, "related") {
				a = shuffled(t, e, true)
			}
			var rules match.Rules
			require.NoError(t, rules.ParseRule(rule))
			require.NoError(t, rules.ParseRule("extra-columns=wrong"))
			require.NoError(t, rules.ParseRule("format=strict"))
			got := match.Match(e, a, rules, match.Known{})
			require.Equal(t, oracle(e, a, distance), got.Matched, "%s; %s", got.Why, rule)
		})
	}
}

// FuzzMatch: no tables and rules make the matcher panic; a table matches itself, and closeness stays within 0 and 1.
func FuzzMatch(f *testing.F) {
	f.Add("a b/1 x/2 y", "b a/x 1/y 2", "order=any", "numbers=rel:0.1")
	f.Add("d y n/x 2030 1/x 2031 2", "d 2030 2031/x 1 2", "layout=any", "null=zero")
	f.Add("n/15.3/84.7", "n/15.3%/84.7%", "rows=contains", "scale=fraction")
	f.Fuzz(func(t *testing.T, expected, answer, first, second string) {
		e, ok := parsed(expected)
		a, okToo := parsed(answer)
		if !ok || !okToo {
			return
		}
		var rules match.Rules
		for _, r := range []string{first, second} {
			_ = rules.ParseRule(r) // what is no rule is left out
		}
		r := match.Match(e, a, rules, match.Known{})
		if r.Closeness != nil {
			require.True(t, *r.Closeness >= 0 && *r.Closeness <= 1+1e-9, "%v", *r.Closeness)
		}
		require.NotEmpty(t, r.Why)
		require.True(t, match.Match(e, e, match.Rules{}, match.Known{}).Matched)
	})
}

func parsed(text string) (out *table.Table, ok bool) {
	defer func() { ok = recover() == nil && out != nil && len(out.Columns) > 0 }()
	return tableOf(text), true
}
