package near

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestDistance holds the distance on words whose edits can be counted by hand.
func TestDistance(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want int
	}{
		{"", "", 0}, {"", "abc", 3}, {"abc", "", 3}, {"abc", "abc", 0},
		{"abc", "abd", 1},   // a letter for another
		{"abc", "abcd", 1},  // one more
		{"abcd", "acd", 1},  // one fewer
		{"abcd", "acbd", 1}, // neighbours swapped
		{"ab", "ba", 1}, {"abcdef", "badcfe", 3},
		{"ca", "abc", 3}, // restricted: nothing is edited twice
		{"färm", "farm", 1}, {"Ωmega", "omega", 1},
		{"kitten", "sitting", 3},
	} {
		require.Equal(t, c.want, Distance(c.a, c.b), "%q %q", c.a, c.b)
	}
}

// TestDistanceLaws holds what every distance of edits has: none to itself, the same both ways, within the longer length, never
// less than the lengths differ, and at most one for one edit.
func TestDistanceLaws(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 7))
	word := func() string {
		letters := make([]rune, random.IntN(9))
		for i := range letters {
			letters[i] = []rune("abcdé")[random.IntN(5)]
		}
		return string(letters)
	}
	for range 2000 {
		a, b := word(), word()
		d, la, lb := Distance(a, b), len([]rune(a)), len([]rune(b))
		require.Equal(t, d, Distance(b, a), "%q %q", a, b)
		require.Equal(t, a == b, d == 0, "%q %q", a, b)
		require.LessOrEqual(t, d, max(la, lb))
		require.GreaterOrEqual(t, d, max(la, lb)-min(la, lb))
		at := random.IntN(la + 1)
		inserted := string([]rune(a)[:at]) + "x" + string([]rune(a)[at:])
		require.Equal(t, 1, Distance(a, inserted), "%q %q", a, inserted)
	}
}

func TestName(t *testing.T) {
	for _, c := range []struct {
		name       string
		candidates []string
		want       string
	}{
		{"farmz", []string{"loads", "farms"}, "farms"},
		{"FARMS", []string{"farms"}, "farms"},                                  // case does not count
		{"xyz", []string{"farms", "loads"}, ""},                                // nothing is near
		{"ab", []string{"cd"}, "cd"},                                           // two letters of two: at the limit
		{"abc", []string{"xyzu"}, ""},                                          // beyond it
		{"load", []string{"roads", "loads", "toads"}, "loads"},                 // the nearest, not the first
		{"lxads", []string{"loads", "leads"}, "loads"},                         // a tie goes to the first
		{"unpaid", []string{"payments/unpaid-farms"}, "payments/unpaid-farms"}, // a piece
		{"unp", []string{"payments/unpaid-farms"}, ""},                         // a piece of three letters is too short
		{"unpaid-farm", []string{"milk/other", "payments/unpaid-farms"}, "payments/unpaid-farms"},
		{"milk/unpaid-farms", []string{"payments/unpaid-farms"}, "payments/unpaid-farms"}, // the wrong set
		{"anything", nil, ""},
	} {
		require.Equal(t, c.want, Name(c.name, c.candidates), c.name)
	}
}

func TestHint(t *testing.T) {
	require.Equal(t, `did you mean "farms"?`, Hint("farm", []string{"farms"}))
	require.Equal(t, "known: farms, loads", Hint("qqqqqqqq", []string{"farms", "loads"}))
	require.Empty(t, Hint("qqqqqqqq", nil))
}

// TestFew holds that up to twelve names are listed, and of more the first twelve with how many more there are.
func TestFew(t *testing.T) {
	var names []string
	for i := range 15 {
		names = append(names, fmt.Sprint("n", i))
		listed := Few(names)
		require.Equal(t, min(i+1, 12), strings.Count(listed, ", ")+1, listed)
		if i < 12 {
			require.Equal(t, strings.Join(names, ", "), listed)
		} else {
			require.True(t, strings.HasSuffix(listed, fmt.Sprintf("n11 and %d more", i-11)), listed)
		}
	}
}

// TestPartsOfNames: a name is held against the part of a candidate behind its slash too, which costs one.
func TestPartsOfNames(t *testing.T) {
	for _, c := range []struct {
		name, candidate string
		want            int
	}{
		{"loads", "milk-basics/loads", 1},
		{"lods", "milk-basics/loads", 2},
		{"milk/lods", "milk-basics/loads", 2},
		{"milk/xyz", "milk-basics/abc", 4},
		{"asic", "milk-basics", 2}, // a piece of four letters
		{"asi", "milk-basics", Distance("asi", "milk-basics")},
	} {
		require.Equal(t, min(c.want, Distance(c.name, c.candidate)), distance(c.name, c.candidate), "%q %q", c.name, c.candidate)
	}
}
