package twin

import (
	"errors"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
)

// rowsOf are the numbers of rows.
func rowsOf(s Spans) []int64 {
	var out []int64
	for _, span := range s {
		for n := span[0]; n < span[1]; n++ {
			out = append(out, n)
		}
	}
	return out
}

// TestSpans: spans are sets of numbers, whatever is done with them.
func TestSpans(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 5))
	some := func() []int64 {
		set := map[int64]bool{}
		for range random.IntN(12) {
			set[random.Int64N(20)] = true
		}
		var out []int64
		for n := range set {
			out = append(out, n)
		}
		return out
	}
	for range 400 {
		a, b := some(), some()
		one, other := SpansOf(a), SpansOf(b)
		slices.Sort(a)
		require.Equal(t, a, rowsOf(one))
		require.Equal(t, int64(len(a)), one.Rows())
		both := slices.Concat(a, b)
		slices.Sort(both)
		require.Equal(t, slices.Compact(both), rowsOf(one.And(other)))
		less := slices.DeleteFunc(slices.Clone(a), func(n int64) bool { return slices.Contains(b, n) })
		require.ElementsMatch(t, less, rowsOf(one.Less(other)))
		at, n := random.IntN(8), random.IntN(8)
		rest := slices.Concat(a[:min(at, len(a))], a[min(at+n, len(a)):])
		require.ElementsMatch(t, rest, rowsOf(one.Without(int64(at), int64(n))))
		for i, span := range one.And(other) {
			require.Less(t, span[0], span[1])
			if i > 0 {
				require.Less(t, one.And(other)[i-1][1], span[0], "what meets is one")
			}
		}
	}
	require.Empty(t, AllRows(0))
	require.Equal(t, Spans{{0, 7}}, AllRows(7))
}

// TestSmallest: the rows that must be there for a difference are found among many, with few tries.
func TestSmallest(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 11))
	for range 60 {
		rows, needed := 1+random.Int64N(100_000), map[int64]bool{}
		for range random.IntN(4) {
			needed[random.Int64N(rows)] = true
		}
		tries := 0
		got, err := Smallest(AllRows(rows), func(s Spans) (bool, bool, error) {
			tries++
			has := 0
			for n := range needed {
				if slices.ContainsFunc(s, func(span [2]int64) bool { return span[0] <= n && n < span[1] }) {
					has++
				}
			}
			return has == len(needed), false, nil
		})
		require.NoError(t, err)
		require.Len(t, needed, int(got.Rows()))
		for _, n := range rowsOf(got) {
			require.True(t, needed[n])
		}
		require.LessOrEqual(t, tries, 1+len(needed)*2*2*17)
	}
	calls := 0
	got, err := Smallest(AllRows(8), func(Spans) (bool, bool, error) { calls++; return true, calls == 1, nil })
	require.NoError(t, err)
	require.Empty(t, got, "with nothing they differ already")
	got, err = Smallest(AllRows(8), func(s Spans) (bool, bool, error) { return s.Rows() > 0, s.Rows() == 2, nil })
	require.NoError(t, err)
	require.Equal(t, int64(4), got.Rows(), "what it has when it must stop")
	_, err = Smallest(AllRows(8), func(Spans) (bool, bool, error) { return false, false, errors.New("gone") })
	require.ErrorContains(t, err, "gone")
}
