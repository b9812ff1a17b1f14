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
		func(x []float64) float64 { return x[0] * x[1] },
		func(x []float64) float64 { return x[0] - x[1] },
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

// computation is a column that is computed from others, by index into the columns; the simplest formula has the lowest number.
type computation struct {
	target  int
	from    []int
	formula int
	broken  int // rows in which it does not hold
}

// computed lists the columns that are computed from others. Moments are in days, so that a due date is a date and a number of days.
func computed(columns []*vector) []computation {
	var numbers []int
	for i, v := range columns {
		if (v.amount || v.temporal()) && v.distinct() >= 3 && len(numbers) < mostNumbers {
			numbers = append(numbers, i)
		}
	}
	var found []computation
	for _, target := range numbers {
		for arity := 2; arity <= 3; arity++ {
			each(numbers, target, nil, arity, func(from []int) {
				if formula, broken := fitsAny(columns, target, from); formula >= 0 {
					found = append(found, computation{target, from, formula, broken})
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

// fitsAny is the number of the first formula that gives a column, and in how many rows it does not; -1 where none does.
func fitsAny(columns []*vector, target int, from []int) (formula, broken int) {
	for i, f := range formulas[len(from)] {
		if broken := fits(columns, target, from, f); broken >= 0 {
			return i, broken
		}
	}
	return -1, 0
}

// mostBroken is in how many of some rows a fact may not hold that nearly holds.
func mostBroken(rows int) int {
	if rows < nearlyRows {
		return 0
	}
	return rows / nearlyShare
}

// fits tells in how many of the rows that have all its numbers a formula does not give a column; -1 where it does not fit, or only nearly
// and on too few rows.
func fits(columns []*vector, target int, from []int, formula func([]float64) float64) int {
	t := columns[target]
	x := make([]float64, len(from))
	rows, broken, most, seen := 0, 0, mostBroken(len(t.at)), map[int]bool{}
	for row, want := range t.at {
		whole := !math.IsNaN(want)
		for i, c := range from {
			x[i] = columns[c].at[row]
			whole = whole && !math.IsNaN(x[i])
		}
		if !whole {
			continue
		}
		rows++
		if got := formula(x); math.IsNaN(got) || math.Abs(got-want) > t.half()+1e-9*math.Abs(want) {
			if broken++; broken > most {
				return -1
			}
			continue
		}
		seen[t.rank[row]] = true
	}
	if rows < provingRows || len(seen) < 3 || broken > mostBroken(rows) {
		return -1
	}
	return broken
}
