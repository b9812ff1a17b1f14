package twin

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"tovrel/core/value"
)

// A dependency is a fact only where chance does not explain it: with so small a chance, among the pairs of columns of a table,
// hardly one is taken for a fact that is none.
var unlikely = math.Log(1e-3)

// look tells in words what ties two columns of the same rows together; "" where nothing does.
type look func(a, b *vector) string

// hardLooks find what a value depends on; orders what it may move among. Each is tried in both directions.
var (
	hardLooks = []look{offset, determines, blanksWith, partOfDate, partOfText, proportional}
	orders    = []look{rises, bounds}
)

// fixedDistance is what offset finds.
const fixedDistance = "is a fixed distance from"

// tied gives the first tie that is found between two columns; flipped where it reads from b to a.
func tied(a, b *vector, looks []look) (why string, flipped bool) {
	for _, l := range looks {
		if why := l(a, b); why != "" {
			return why, false
		}
		if why := l(b, a); why != "" {
			return why, true
		}
	}
	return "", false
}

// determine is what determines finds, nearly or without exception.
const determine = "determines"

// determines: rows with the same value of a have the same value of b, or nearly all of many rows have.
func determines(a, b *vector) string {
	if a.distinct() < 2 || a.nearlyUnique() || b.distinct()+min(b.nulls, 1) < 2 {
		return ""
	}
	usual, lead := make([]int, a.distinct()), make([]int, a.distinct()) // by value of a: the commonest of b, if one has most rows
	for row, r := range a.rank {
		switch {
		case r < 0:
		case lead[r] == 0:
			usual[r], lead[r] = b.rank[row], 1
		case usual[r] == b.rank[row]:
			lead[r]++
		default:
			lead[r]--
		}
	}
	support, broken, most := -a.distinct(), 0, mostBroken(a.filled())
	for row, r := range a.rank {
		switch {
		case r < 0:
		case usual[r] == b.rank[row]:
			support++
		default:
			if broken++; broken > most {
				return ""
			}
		}
	}
	ways := logFactorial(support+broken) - logFactorial(support) - logFactorial(broken) // in which the exceptions may lie
	switch {
	case support <= 0 || float64(support)*math.Log(b.alike())+ways >= unlikely:
		return ""
	case broken > 0:
		return "nearly " + determine
	}
	return determine
}

// blanksWith: where b is null is told by a, or by where a is null.
func blanksWith(a, b *vector) string {
	if b.nulls == 0 || b.filled() == 0 {
		return ""
	}
	blanks := b.blanks()
	if a.nulls == b.nulls && a.sameBlanks(b) {
		return "tells where there is nothing in"
	}
	if determines(a, blanks) != "" || a.nulls > 0 && determines(a.blanks(), blanks) != "" {
		return "tells where there is nothing in"
	}
	return ""
}

// rises: in the order of a, b never falls, or never rises.
func rises(a, b *vector) string {
	if a.distinct() < 5 || b.distinct() < 2 {
		return ""
	}
	var rows []int
	for row := range a.rank {
		if a.rank[row] >= 0 && b.rank[row] >= 0 {
			rows = append(rows, row)
		}
	}
	slices.SortFunc(rows, func(x, y int) int { return cmp.Compare(a.rank[x], a.rank[y]) })
	up, down := true, true
	low, high := math.MaxInt, math.MinInt // of b, so far
	for i := 0; i < len(rows) && (up || down); {
		groupLow, groupHigh, from := math.MaxInt, math.MinInt, i
		for ; i < len(rows) && a.rank[rows[i]] == a.rank[rows[from]]; i++ {
			groupLow, groupHigh = min(groupLow, b.rank[rows[i]]), max(groupHigh, b.rank[rows[i]])
		}
		if from > 0 {
			up, down = up && groupLow >= high, down && groupHigh <= low
		}
		low, high = min(low, groupLow), max(high, groupHigh)
	}
	if !up && !down {
		return ""
	}
	ways := logFactorial(min(len(rows), a.distinct())) // in which the distinct values of a could have met those of b
	for _, n := range b.rows {
		ways -= logFactorial(min(n, n*a.distinct()/max(1, len(rows))))
	}
	if -ways < unlikely {
		return "rises or falls with"
	}
	return ""
}

func logFactorial(n int) float64 {
	f, _ := math.Lgamma(float64(n) + 1)
	return f
}

// shifts are by how many rows columns are held apart to see what chance would give.
var shifts = []int{1, 3, 7, 11, 19, 31, 53}

// bounds: a is never above b, though their ranges overlap.
func bounds(a, b *vector) string {
	if !a.comparable(b) {
		return ""
	}
	n, kept, of := len(a.at), 0, 0
	day := a.kind == value.Date || b.kind == value.Date
	a, b = a.whole(day), b.whole(day)
	for row := range n {
		if a.at[row] > b.at[row] {
			return ""
		}
		if math.IsNaN(a.at[row]) || math.IsNaN(b.at[row]) {
			continue
		}
		for _, s := range shifts {
			if other := b.at[(row+s)%n]; !math.IsNaN(other) {
				of++
				if a.at[row] <= other {
					kept++
				}
			}
		}
	}
	if of == 0 || kept == of {
		return ""
	}
	both := float64(of) / float64(len(shifts))
	if both*math.Log(float64(kept)/float64(of)) < unlikely {
		return "is never above"
	}
	return ""
}

// offset: the two lie one of a few distances apart.
func offset(a, b *vector) string {
	if !a.comparable(b) || a.distinct() < 5 || b.distinct() < 5 {
		return ""
	}
	day := a.kind == value.Date || b.kind == value.Date
	a, b = a.whole(day), b.whole(day)
	apart := map[float64]int{}
	n := 0
	for row := range a.at {
		d := b.at[row] - a.at[row]
		if math.IsNaN(d) {
			continue
		}
		apart[math.Round(d*1e6)/1e6]++
		if n++; len(apart) > 3 {
			return ""
		}
	}
	if n >= 8 && len(apart)*4 <= n {
		return fixedDistance
	}
	return ""
}

// groupsAtMost is up to how many values a column's rows are taken as groups.
const groupsAtMost = 12

func few(a *vector) bool { return a.distinct() >= 2 && a.distinct() <= groupsAtMost }

// narrowGroups are the values of a (by rank) whose rows lie closer together in b than chance allows.
func narrowGroups(a, b *vector) []int {
	if !few(a) || b.distinct() < 2 {
		return nil
	}
	groups := a.distinct()
	low, high, size := make([]int, groups), make([]int, groups), make([]int, groups)
	for row, g := range a.rank {
		r := b.rank[row]
		if g < 0 || r < 0 {
			continue
		}
		if size[g] == 0 {
			low[g], high[g] = r, r
		}
		low[g], high[g] = min(low[g], r), max(high[g], r)
		size[g]++
	}
	below := make([]int, b.distinct()+1)
	for r, n := range b.rows {
		below[r+1] = below[r] + n
	}
	var out []int
	for g := range groups {
		if size[g] == 0 || size[g] == b.filled() {
			continue
		}
		share := float64(below[high[g]+1]-below[low[g]]) / float64(b.filled())
		// a group of independent rows keeps to a share of 1 - 2/n by itself, which has a chance of about exp(-2)
		if float64(size[g])*math.Log(share) < 2*unlikely {
			out = append(out, g)
		}
	}
	return out
}

// partOfDate: b is a part of the date a.
func partOfDate(a, b *vector) string {
	if !a.temporal() || !b.number() || b.distinct() < 2 || a.distinct() < 5 {
		return ""
	}
	for _, part := range dateParts {
		fits := true
		for row := range a.at {
			if r := b.at[row]; math.IsNaN(a.at[row]) != math.IsNaN(r) || !math.IsNaN(r) && part(a.at[row]) != r {
				fits = false
				break
			}
		}
		if fits {
			return "has its part in"
		}
	}
	return ""
}

// partOfText: the texts of b stand within those of a.
func partOfText(a, b *vector) string {
	if a.texts == nil || b.texts == nil || b.distinct() < 2 {
		return ""
	}
	n := 0
	for row := range a.rank {
		if a.rank[row] < 0 || b.rank[row] < 0 {
			continue
		}
		if !strings.Contains(strings.ToLower(a.texts[a.rank[row]]), strings.ToLower(b.texts[b.rank[row]])) {
			return ""
		}
		n++
	}
	if n >= 4 {
		return "holds the text of"
	}
	return ""
}

// proportional: b is always the same multiple of a.
func proportional(a, b *vector) string {
	if !a.amount || !b.amount || a.distinct() < 4 || b.distinct() < 4 {
		return ""
	}
	sumAB, sumAA := 0.0, 0.0
	for row := range a.at {
		if x, y := a.at[row], b.at[row]; !math.IsNaN(x) && !math.IsNaN(y) {
			sumAB, sumAA = sumAB+x*y, sumAA+x*x
		}
	}
	factor := sumAB / sumAA
	for row := range a.at {
		if x, y := a.at[row], b.at[row]; math.Abs(y-factor*x) > b.half()+1e-6*math.Abs(y) {
			return ""
		}
	}
	return "is a multiple of"
}
