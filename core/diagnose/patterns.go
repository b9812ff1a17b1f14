package diagnose

import (
	"fmt"
	"maps"
	"math"
	"slices"

	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/table"
)

// patterns looks for causes in the two tables alone. What it finds is likely, never proved.
func patterns(c Case) []fault.Fault {
	if c.Expected == nil || c.Got == nil {
		return nil
	}
	r := match.Match(c.Expected, c.Got, c.Rules, c.Known)
	if r.Matched {
		return nil
	}
	for _, look := range []func(Case, match.Result) *fault.Fault{otherLayout, pivoted, emptyAnswer, zeroRowsLost, emptyRowsAdded,
		nullForZero, constantFactor, totalRow, tiedRowsLost, cutEarly, codeForLabel, periodShift, sharesOfTotal, coarserGrain} {
		if f := look(c, r); f != nil {
			f.Certainty = fault.Likely
			return []fault.Fault{*f}
		}
	}
	return nil
}

func emptyAnswer(c Case, _ match.Result) *fault.Fault {
	if c.Got.Rows() > 0 || c.Expected.Rows() == 0 || c.Reference != nil && c.Answer != nil {
		return nil // how two queries differ says more
	}
	return &fault.Fault{Code: fault.FilterValue,
		Evidence: "the answer is empty: a condition compares with a value that does not occur, such as another case of the word"}
}

// zeroRowsLost: all missing rows have nothing but zeros and nulls beside their keys.
func zeroRowsLost(c Case, r match.Result) *fault.Fault {
	if len(r.Missing) == 0 || len(r.ExtraRows) > 0 || len(r.Cells) > 0 {
		return nil
	}
	for _, row := range r.Missing {
		numbers := 0
		for _, column := range c.Expected.Columns {
			if !column.Type.Kind.Number() {
				continue
			}
			numbers++
			if f, ok := column.Value(row).Float64(); ok && f != 0 {
				return nil
			}
		}
		if numbers == 0 {
			return nil
		}
	}
	return &fault.Fault{Code: fault.JoinRowsLost,
		Evidence: fmt.Sprintf("the %d missing rows are those with zero or nothing: a join dropped what has no counterpart", len(r.Missing))}
}

// emptyRowsAdded: all rows that are too many have nothing but zeros and nulls beside their keys, or no key at all.
func emptyRowsAdded(c Case, r match.Result) *fault.Fault {
	if len(r.ExtraRows) == 0 || len(r.Missing) > 0 || len(r.Cells) > 0 {
		return nil
	}
	keyless := 0
	for _, row := range r.ExtraRows {
		numbers, filled, keys := 0, 0, 0
		for _, column := range c.Got.Columns {
			if column.Type.Kind.Number() {
				numbers++
				if f, ok := column.Value(row).Float64(); ok && f != 0 {
					filled++
				}
			} else if !column.IsNull(row) {
				keys++
			}
		}
		switch {
		case keys == 0 && len(c.Got.Columns) > numbers:
			keyless++
		case numbers == 0 || filled > 0:
			return nil
		}
	}
	if keyless == len(r.ExtraRows) {
		return &fault.Fault{Code: fault.JoinRowsAdded, Evidence: tooMany(keyless, "no key: what belongs to none was kept")}
	}
	return &fault.Fault{Code: fault.JoinRowsAdded,
		Evidence: tooMany(len(r.ExtraRows), "zero or nothing beside the keys: what has no counterpart was kept")}
}

func tooMany(rows int, have string) string {
	if rows == 1 {
		return "the row that is too many has " + have
	}
	return fmt.Sprintf("the %d rows that are too many have %s", rows, have)
}

// constantFactor: every differing cell of a column is the same factor of what was expected.
func constantFactor(c Case, r match.Result) *fault.Fault {
	ratios := map[int]float64{}
	counts := map[int]int{}
	for _, cell := range r.Cells {
		e, okE := cell.Expected.Float64()
		a, okA := cell.Answer.Float64()
		if !okE || !okA || e == 0 {
			return nil
		}
		ratio := a / e
		if known, seen := ratios[cell.Column]; seen && math.Abs(known-ratio) > 1e-6*math.Abs(known) {
			return nil
		}
		ratios[cell.Column] = ratio
		counts[cell.Column]++
	}
	for _, column := range slices.Sorted(maps.Keys(ratios)) {
		ratio := ratios[column]
		if counts[column] < 2 && c.Expected.Rows() > 1 || counts[column] < 1 {
			continue
		}
		for _, f := range []float64{10, 100, 1000, 1e6, 0.1, 0.01, 0.001, 1e-6} {
			if math.Abs(ratio-f) <= 1e-6*f {
				return &fault.Fault{Code: fault.OffByFactor,
					Evidence: fmt.Sprintf("every value of %s is %g times what was expected", c.Expected.Columns[column].Name, f)}
			}
		}
		if whole := math.Round(ratio); counts[column] >= 3 && whole >= 2 && math.Abs(ratio-whole) <= 1e-6*whole {
			return &fault.Fault{Code: fault.JoinFanOut,
				Evidence: fmt.Sprintf("every value of %s is %g times what was expected: a join counts rows more than once",
					c.Expected.Columns[column].Name, whole)}
		}
	}
	return nil
}

// fewestScaled is how many cells must differ in one way before that proves a mistake.
const fewestScaled = 3

// totalRow: the answer has one row more, which sums up the others.
func totalRow(c Case, r match.Result) *fault.Fault {
	if len(r.ExtraRows) != 1 || len(r.Missing) > 0 || len(r.Cells) > 0 {
		return nil
	}
	for _, column := range c.Got.Columns {
		total, ok := column.Value(r.ExtraRows[0]).Float64()
		if !ok {
			continue
		}
		if sum := sumOf(column, r.ExtraRows[0]); sum != 0 && math.Abs(sum-total) <= 1e-9*math.Abs(sum) {
			return &fault.Fault{Code: fault.GroupKeyExtra,
				Evidence: fmt.Sprintf("row %d of the answer is the total of the others", r.ExtraRows[0]+1)}
		}
	}
	return nil
}

func sumOf(column *table.Column, but int) float64 {
	sum := 0.0
	for row := range column.Len() {
		if f, ok := column.Value(row).Float64(); ok && row != but {
			sum += f
		}
	}
	return sum
}

// cutEarly: the answer is the beginning of what was expected.
func cutEarly(c Case, r match.Result) *fault.Fault {
	if len(r.Missing) == 0 || len(r.ExtraRows) > 0 || len(r.Cells) > 0 || c.Got.Rows() == 0 {
		return nil
	}
	for _, row := range r.Missing {
		if row < c.Got.Rows() {
			return nil
		}
	}
	return &fault.Fault{Code: fault.Limit, Evidence: fmt.Sprintf("the answer is the first %d of the %d expected rows",
		c.Got.Rows(), c.Expected.Rows())}
}

// coarserGrain: the sums of the number columns agree, and the answer has fewer or more rows.
func coarserGrain(c Case, r match.Result) *fault.Fault {
	if c.Got.Rows() == c.Expected.Rows() || c.Got.Rows() == 0 || c.Expected.Rows() == 0 {
		return nil
	}
	checked := 0
	for _, pair := range r.Columns {
		if pair.Answer < 0 {
			continue
		}
		e, a := c.Expected.Columns[pair.Expected], c.Got.Columns[pair.Answer]
		if !e.Type.Kind.Number() || !a.Type.Kind.Number() {
			continue
		}
		x, y := sumOf(e, -1), sumOf(a, -1)
		if x == 0 || math.Abs(x-y) > 1e-9*math.Abs(x) {
			return nil
		}
		checked++
	}
	switch {
	case checked == 0:
		return nil
	case c.Got.Rows() < c.Expected.Rows():
		return &fault.Fault{Code: fault.GroupKeyMissing,
			Evidence: "the answer's numbers add up to the same totals over fewer rows: it is coarser than asked"}
	}
	return &fault.Fault{Code: fault.GroupKeyExtra,
		Evidence: "the answer's numbers add up to the same totals over more rows: it is finer than asked"}
}
