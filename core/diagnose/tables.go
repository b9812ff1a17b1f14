package diagnose

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/table"
)

// signTurned: every differing cell is what was expected with the other sign.
func signTurned(c Case, r match.Result) *fault.Fault {
	if len(r.Cells) < fewestScaled || len(r.Missing)+len(r.ExtraRows) > 0 {
		return nil
	}
	column := r.Cells[0].Column
	for _, cell := range r.Cells {
		e, okE := cell.Expected.Float64()
		a, okA := cell.Answer.Float64()
		if !okE || !okA || cell.Column != column || math.Abs(a+e) > 1e-9*math.Abs(e) {
			return nil
		}
	}
	return &fault.Fault{Code: fault.Formula,
		Evidence: fmt.Sprintf("every value of %s that differs is the expected one with the other sign", c.Expected.Columns[column].Name)}
}

// cutTo are the ways to lose what is behind the point.
var cutTo = []struct {
	words string
	by    func(float64) float64
}{{"cut off", math.Trunc}, {"rounded", math.Round}, {"rounded down", math.Floor}, {"rounded up", math.Ceil}}

// roundedAway: every value of a column is whole, and the expected one rounded or cut; where that is not whole itself.
func roundedAway(c Case, r match.Result) *fault.Fault {
	if len(r.Cells) < fewestScaled || len(r.Missing)+len(r.ExtraRows) > 0 {
		return nil
	}
	column := r.Cells[0].Column
	if !tells(r.Cells) {
		return nil
	}
	for _, places := range []int{0, 1, 2} {
		unit := math.Pow10(places)
		for _, way := range cutTo {
			if slices.ContainsFunc(r.Cells, func(cell match.Cell) bool {
				e, okE := cell.Expected.Float64()
				a, okA := cell.Answer.Float64()
				return !okE || !okA || cell.Column != column || math.Abs(way.by(e*unit)-a*unit) > 1e-6
			}) {
				continue
			}
			return &fault.Fault{Code: fault.Rounding,
				Evidence: fmt.Sprintf("every value of %s that differs is the expected one %s to %d decimals",
					c.Expected.Columns[column].Name, way.words, places)}
		}
	}
	return nil
}

// tells whether the answer has several values where it differs: zero throughout is what many mistakes give.
func tells(cells []match.Cell) bool {
	return slices.ContainsFunc(cells, func(c match.Cell) bool { return c.Answer.String() != cells[0].Answer.String() })
}

// proofs are what the tables alone prove, in three cells or more.
func proofs(c Case) *fault.Fault {
	if c.Expected == nil || c.Got == nil {
		return nil
	}
	r := match.Match(c.Expected, c.Got, c.Rules, c.Known)
	if r.Matched || len(r.Missing)+len(r.ExtraRows) > 0 || len(r.Cells) < fewestScaled {
		return nil
	}
	for _, look := range []func(Case, match.Result) *fault.Fault{constantFactor, signTurned, roundedAway} {
		if f := look(c, r); f != nil && f.Code != fault.JoinFanOut {
			f.Certainty = fault.Proved
			return f
		}
	}
	return nil
}

// pivoted: for each key the answer has the expected numbers, but over rows where columns were asked, or the reverse.
func pivoted(c Case, _ match.Result) *fault.Fault {
	wide, long, words := c.Expected, c.Got, "over several rows where columns were asked"
	if len(textColumns(wide)) > len(textColumns(long)) {
		wide, long, words = c.Got, c.Expected, "over several columns where rows were asked"
	}
	keys, longKeys := textColumns(wide), textColumns(long)
	numbers := len(wide.Columns) - len(keys)
	if len(keys) == 0 || len(longKeys) != len(keys)+1 || len(long.Columns) != len(longKeys)+1 || numbers < 2 || wide.Rows() < 2 {
		return nil
	}
	of := numbersByKey(wide, keys)
	for _, drop := range longKeys {
		rest := slices.DeleteFunc(slices.Clone(longKeys), func(i int) bool { return i == drop })
		if sameNumbers(of, numbersByKey(long, rest)) {
			return &fault.Fault{Code: fault.WrongLayout, Evidence: "the answer has the expected numbers of each " +
				wide.Columns[keys[0]].Name + ", " + words}
		}
	}
	return nil
}

// numbersByKey are the numbers but zero of all rows that have the same texts in some columns, sorted.
func numbersByKey(t *table.Table, keys []int) map[string][]string {
	out := map[string][]string{}
	for row := range t.Rows() {
		var key strings.Builder
		for _, k := range keys {
			fmt.Fprintf(&key, "%q ", t.Columns[k].Value(row).String())
		}
		for i, c := range t.Columns {
			if f, ok := c.Value(row).Float64(); ok && f != 0 && !slices.Contains(keys, i) && c.Type.Kind.Number() {
				out[key.String()] = append(out[key.String()], fmt.Sprintf("%.9g", f))
			}
		}
	}
	for _, all := range out {
		slices.Sort(all)
	}
	return out
}

func sameNumbers(a, b map[string][]string) bool {
	if len(a) != len(b) {
		return false
	}
	for key, all := range a {
		if !slices.Equal(all, b[key]) {
			return false
		}
	}
	return true
}

// tiedRowsLost: every row that is missing has the numbers of a row that is there, where the reference ranks rows.
func tiedRowsLost(c Case, r match.Result) *fault.Fault {
	if c.Reference == nil || !c.Reference.Ranks() || len(r.Missing) == 0 || len(r.ExtraRows) > 0 || len(r.Cells) > 0 {
		return nil
	}
	missing := map[int]bool{}
	for _, row := range r.Missing {
		missing[row] = true
	}
	kept := map[string]bool{}
	for row := range c.Expected.Rows() {
		if !missing[row] {
			kept[lastNumber(c.Expected, row)] = true
		}
	}
	for _, row := range r.Missing {
		if number := lastNumber(c.Expected, row); number == "" || !kept[number] {
			return nil
		}
	}
	return &fault.Fault{Code: fault.Limit,
		Evidence: fmt.Sprintf("each of the %d missing rows is tied with a row that is there: one of the tied stands for all",
			len(r.Missing))}
}

// lastNumber is what a row is ranked by, as far as the table shows it: its last number; "" for none.
func lastNumber(t *table.Table, row int) string {
	for _, c := range slices.Backward(t.Columns) {
		if c.Type.Kind.Number() && !c.IsNull(row) {
			return c.Value(row).String()
		}
	}
	return ""
}
