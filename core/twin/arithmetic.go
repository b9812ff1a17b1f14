package twin

import (
	"math"
	"time"
)

// dateParts are the numbers that people keep beside a date. A date is in days since the epoch.
var dateParts = []func(day float64) float64{
	func(d float64) float64 { return float64(dateOf(d).Year()) },
	func(d float64) float64 { return float64(dateOf(d).Month()) },
	func(d float64) float64 { return float64((dateOf(d).Month() + 2) / 3) },
	func(d float64) float64 { return float64(dateOf(d).Day()) },
	func(d float64) float64 { return float64(dateOf(d).Weekday()) },
	func(d float64) float64 { return float64((dateOf(d).Weekday()+6)%7 + 1) },
	func(d float64) float64 { return float64(dateOf(d).YearDay()) },
	func(d float64) float64 { return float64(dateOf(d).Hour()) },
	func(d float64) float64 { return float64(dateOf(d).Year()*100 + int(dateOf(d).Month())) },
}

func dateOf(day float64) time.Time {
	return time.UnixMicro(int64(math.Round(day * 86400e6))).UTC()
}

// half is half of the last decimal that the column shows: how far a computed value may be off.
func (v *vector) half() float64 { return 0.501 * math.Pow10(-v.decimals) }

// formulas compute a number from others, as many as they take. Their order of arguments counts.
var formulas = map[int][]func(x []float64) float64{
	2: {
		func(x []float64) float64 { return x[0] + x[1] },
		func(x []float64) float64 { return x[0] - x[1] },
		func(x []float64) float64 { return x[0] * x[1] },
		func(x []float64) float64 { return x[0] / x[1] },
		func(x []float64) float64 { return 100 * x[0] / x[1] },
		func(x []float64) float64 { return x[0] * x[1] / 100 },
		func(x []float64) float64 { return x[0] * (1 - x[1]) },
		func(x []float64) float64 { return x[0] * (1 + x[1]) },
		func(x []float64) float64 { return x[0] * (1 - x[1]/100) },
		func(x []float64) float64 { return x[0] * (1 + x[1]/100) },
		func(x []float64) float64 { return math.Abs(x[0] - x[1]) },
	},
	3: {
		func(x []float64) float64 { return x[0] + x[1] + x[2] },
		func(x []float64) float64 { return x[0] + x[1] - x[2] },
		func(x []float64) float64 { return x[0] - x[1] - x[2] },
		func(x []float64) float64 { return x[0] * x[1] * x[2] },
		func(x []float64) float64 { return x[0]*x[1] - x[2] },
		func(x []float64) float64 { return x[0]*x[1] + x[2] },
		func(x []float64) float64 { return x[0] * x[1] * (1 - x[2]) },
		func(x []float64) float64 { return x[0] * x[1] * (1 - x[2]/100) },
		func(x []float64) float64 { return (x[0] - x[1]) * x[2] },
		func(x []float64) float64 { return (x[0] + x[1]) * x[2] },
		func(x []float64) float64 { return (x[0] - x[1]) / x[2] },
	},
}

const (
	// mostNumbers bounds the columns among which formulas are looked for.
	mostNumbers = 14
	// provingRows is how many rows at least prove a formula.
	provingRows = 6
)

// computed lists groups of columns of which one is computed from the others, by index into the columns. Moments are in days, so
// that a due date is a date and a number of days.
func computed(columns []*vector) [][]int {
	var numbers []int
	for i, v := range columns {
		if (v.amount || v.temporal()) && v.distinct() >= 3 && len(numbers) < mostNumbers {
			numbers = append(numbers, i)
		}
	}
	var found [][]int
	for _, target := range numbers {
		for arity := 2; arity <= 3; arity++ {
			each(numbers, target, nil, arity, func(from []int) {
				if fitsAny(columns, target, from) {
					found = append(found, append([]int{target}, from...))
				}
			})
		}
	}
	return found
}

// each calls with every ordered choice of so many columns, the target left out.
func each(numbers []int, target int, chosen []int, more int, do func([]int)) {
	if more == 0 {
		do(append([]int(nil), chosen...))
		return
	}
next:
	for _, n := range numbers {
		if n == target {
			continue
		}
		for _, c := range chosen {
			if c == n {
				continue next
			}
		}
		each(numbers, target, append(chosen, n), more-1, do)
	}
}

func fitsAny(columns []*vector, target int, from []int) bool {
	for _, f := range formulas[len(from)] {
		if fits(columns, target, from, f) {
			return true
		}
	}
	return false
}

// fits tells whether a formula gives a column in every row that has all its numbers.
func fits(columns []*vector, target int, from []int, formula func([]float64) float64) bool {
	t := columns[target]
	x := make([]float64, len(from))
	rows, seen := 0, map[int]bool{}
	for row, want := range t.at {
		whole := !math.IsNaN(want)
		for i, c := range from {
			x[i] = columns[c].at[row]
			whole = whole && !math.IsNaN(x[i])
		}
		if !whole {
			continue
		}
		if got := formula(x); math.IsNaN(got) || math.Abs(got-want) > t.half()+1e-9*math.Abs(want) {
			return false
		}
		rows++
		seen[t.rank[row]] = true
	}
	return rows >= provingRows && len(seen) >= 3
}
