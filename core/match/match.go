// Package match decides whether an answer table answers what an expected table expects, under rules. It is pure: it knows
// no files, no SQL and no clock, and never changes its inputs.
//
// The stages, each in its own file: columns are aligned (columns.go, content.go), cells of aligned columns are brought to
// one form (lane.go), read as they stand or in another way that the rules allow (readings.go, formats.go), and compared
// (cell.go); rows are paired one to one (rows.go), what is left is paired for display (nearest.go), the order and ties at a
// cut are judged (order.go, ties.go), and all is summed up (result.go). A crosstab is first brought to the long form
// (crosstab.go). Replies in words are judged in text.go.
package match

import (
	"tovrel/core/table"
)

// Key is one key of a ranking: a column of the expected table, or of a name that is looked up there.
type Key struct {
	Column     int // index in the expected table; -1 to find it by Name
	Name       string
	Values     *table.Column // the key of each expected row, where it is no column of the table; nil where it is
	Descending bool
	Nulls      string // "first", "last", or "" for either end
}

// Known is what the reference query tells about the expected table, beyond its cells. The zero Known is a table alone.
type Known struct {
	Ranking  []Key               // the keys whose order was asked for; none when any order is right
	Rounded  []bool              // by expected column: its numbers are already rounded (hand-written, or rounded by the reference)
	Hidden   bool                // the reference orders by something that is not known here: only its own order counts
	Cut      *Cut                // where the reference keeps only the first rows
	Units    []string            // by expected column: its unit, such as "%" or "fraction"
	Labels   []map[string]string // by expected column: the label of each code
	Synonyms map[string][]string // of an expected column's name
	Columns  []int               // by expected column: the answer column that stood for it on other rows; nil where that is not known
}

// Match compares an answer with what is expected.
func Match(expected, answer *table.Table, rules Rules, known Known) Result {
	direct := withoutTotal(matchLong(expected, answer, rules, known), rules, known)
	if direct.Matched || rules.get("layout").Value != "any" {
		return direct
	}
	if r, ok := matchCrosstab(expected, answer, rules, known); ok {
		return r
	}
	if r, ok := matchLists(expected, answer, rules, known); ok {
		return r
	}
	return direct
}

// matchLong compares two tables as they are laid out.
func matchLong(expected, answer *table.Table, rules Rules, known Known) Result {
	m := &matcher{expected: expected, answer: answer, rules: rules, known: known}
	r := m.judge(m.align())
	if !r.Matched && m.slighted && mayBeSlight(expected, answer, rules) {
		slight := &matcher{expected: expected, answer: answer, rules: rules, known: known, lenient: true}
		if slight.judge(slight.align()).Matched {
			r.NeedsLook = true
			r.Notes = append(r.Notes, NeedsALook)
		}
	}
	if !r.Matched && known.Cut != nil && rules.get("ties").Value == "fair" {
		if fair, ok := m.fairCut(); ok {
			return fair
		}
	}
	return r
}

// NeedsALook is the note of an answer that no rule decides: it holds what is expected, but in columns that too little speaks for.
const NeedsALook = "needs-a-look"

// mayBeSlight tells whether an answer may hold what is expected in columns that too little speaks for: it has columns that were not asked.
func mayBeSlight(expected, answer *table.Table, rules Rules) bool {
	return len(answer.Columns) > len(expected.Columns) && rules.get("columns").Value == "auto" && expected.Rows() > 0 &&
		(expected.Rows() == answer.Rows() || rules.get("rows").Value == "contains")
}

type matcher struct {
	lenient          bool            // columns are taken by their content however little speaks for it
	told             map[int]float64 // bits of the expected columns' values
	slighted         bool            // columns were not taken since too little speaks for them
	expected, answer *table.Table
	rules            Rules
	known            Known
	notes            []string
	swap             [2]string            // two expected columns that hold each other's values
	subset           bool                 // the answer need not hold all expected rows
	reading          bool                 // columns may be read in other ways than as they stand
	best             map[[2]int]*comparer // the readings chosen, by expected and answer column
	plainly          map[[2]int]*comparer // columns as they stand
	prints           map[[2]int]uint64    // of multisets of cells, by side and column
	spreads          map[[2]int]spreadOf  // of number columns, by side and column
	decimals         map[int]int          // of expected columns
}

// alignment maps expected columns to answer columns, and how each was found; outcome is what its rows gave.
type alignment struct {
	to      []int // answer column of each expected column, -1 for none
	how     []How
	outcome *outcome
}

// How tells by what an answer column was taken for an expected one.
type How string

// The ways of alignment.
const (
	ByName     How = "name"
	ByContent  How = "content"
	ByPosition How = "position"
)

// complete tells whether every expected column has an answer column and every row its counterpart.
func (a alignment) complete() bool {
	for _, c := range a.to {
		if c < 0 {
			return false
		}
	}
	return a.outcome != nil && a.outcome.complete()
}
