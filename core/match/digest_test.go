package match

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/table"
	"tovrel/core/value"
)

func columnOf(name string, values ...value.Value) *table.Column {
	kind := value.Type{Kind: value.Text}
	for _, v := range values {
		if !v.IsNull() {
			kind = v.Type()
			break
		}
	}
	c := table.NewColumn(name, kind, len(values))
	for _, v := range values {
		c.Append(v)
	}
	return c
}

// TestDigest: the digest of a table is that of its rows, whatever their order, that of the columns and their names; numbers count by value.
func TestDigest(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		rows := rapid.IntRange(0, 6).Draw(t, "rows")
		var numbers, texts []value.Value
		for range rows {
			numbers = append(numbers, value.OfInt(rapid.Int64Range(-3, 3).Draw(t, "number")))
			texts = append(texts, value.OfText(rapid.SampledFrom([]string{"a", "b", ""}).Draw(t, "text")))
		}
		at := rapid.Permutation(indexes(rows)).Draw(t, "order")
		var mixedNumbers, mixedTexts []value.Value
		for _, i := range at {
			mixedNumbers = append(mixedNumbers, value.OfDecimal(mustSmall(numbers[i])*100, 2))
			mixedTexts = append(mixedTexts, texts[i])
		}
		one := &table.Table{Columns: []*table.Column{columnOf("n", numbers...), columnOf("t", texts...)}}
		other := &table.Table{Columns: []*table.Column{columnOf("what", mixedTexts...), columnOf("how many", mixedNumbers...)}}
		require.Equal(t, Digest(one, Rules{}), Digest(other, Rules{}))
		if rows > 0 {
			changed := append([]value.Value(nil), numbers...)
			changed[0] = value.OfInt(mustSmall(changed[0]) + 10)
			require.NotEqual(t, Digest(one, Rules{}),
				Digest(&table.Table{Columns: []*table.Column{columnOf("n", changed...), columnOf("t", texts...)}}, Rules{}))
			twice := &table.Table{Columns: []*table.Column{columnOf("n", append(numbers, numbers[0])...), columnOf("t", append(texts,
				texts[0])...)}}
			require.NotEqual(t, Digest(one, Rules{}), Digest(twice, Rules{}), "a row more counts")
		}
	})
}

func indexes(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = i
	}
	return out
}

func mustSmall(v value.Value) int64 {
	n, _ := v.Small()
	return n
}

// TestDigestOfCells holds which cells are one.
func TestDigestOfCells(t *testing.T) {
	digest := func(v value.Value) string {
		return Digest(&table.Table{Columns: []*table.Column{columnOf("c", v)}}, Rules{})
	}
	for _, same := range [][2]value.Value{
		{value.OfFloat(0), value.OfFloat(math.Copysign(0, -1))}, {value.OfInt(0), value.OfFloat(math.Copysign(0, -1))},
		{value.OfFloat(math.NaN()), value.OfFloat(math.Copysign(math.NaN(), -1))}, {value.OfInt(5), value.OfDecimal(500, 2)},
		{value.OfFloat(0.1 + 0.2), value.OfFloat(0.3)}, {value.OfText("a"), value.OfText(" a ")},
	} {
		require.Equal(t, digest(same[0]), digest(same[1]), "%s %s", same[0], same[1])
	}
	for _, other := range [][2]value.Value{
		{value.OfInt(0), {}}, {value.OfInt(1), value.OfInt(2)}, {value.OfText("a"), value.OfText("A")}, {value.OfText(""), {}},
		{value.OfFloat(0.3), value.OfFloat(0.31)}, {value.OfBool(true), value.OfBool(false)}, {value.OfFloat(math.Inf(1)),
			value.OfFloat(math.Inf(-1))},
		{value.OfFloat(math.NaN()), value.OfFloat(0)}, {value.OfDate(1), value.OfDate(2)},
	} {
		require.NotEqual(t, digest(other[0]), digest(other[1]), "%s %s", other[0], other[1])
	}
	require.True(t, strings.HasPrefix(digest(value.OfInt(1)), "1-"), "the number of columns counts")
}

// TestFloats: cells of floats are equal within the tolerance, infinite ones only to themselves, and what is no number to itself.
func TestFloats(t *testing.T) {
	inf, nan := math.Inf(1), math.NaN()
	for _, c := range []struct {
		a, b float64
		same bool
	}{
		{1, 1, true}, {1, 1 + 1e-12, true}, {1, 1.01, false}, {0, math.Copysign(0, -1), true}, {inf, inf, true}, {-inf, -inf, true}, {inf,
			-inf, false},
		{inf, 1e308, false}, {nan, nan, true}, {nan, 1, false}, {1, nan, false}, {nan, inf, false}, {1e300, -1e300,
			false},
	} {
		expected := &table.Table{Columns: []*table.Column{columnOf("n", value.OfFloat(c.a), value.OfFloat(7))}}
		answer := &table.Table{Columns: []*table.Column{columnOf("n", value.OfFloat(c.b), value.OfFloat(7))}}
		require.Equal(t, c.same, Match(expected, answer, Rules{}, Known{}).Matched, "%v %v", c.a, c.b)
		require.Equal(t, c.same, Match(answer, expected, Rules{}, Known{}).Matched, "%v %v", c.b, c.a)
	}
}
