package claim

import (
	"math"
	"slices"
	"strings"

	"tovrel/core/value"
)

// The relations of a number to a column, by what it is said to count or measure.
type relation int

const (
	otherUnit   relation = iota // another measure or unit
	unknownUnit                 // a noun that is not known
	noUnit                      // none
	sameUnit
)

// relation tells how what a number is said to count goes with a column.
func (w *wanted) relation(c *said, column int) relation {
	if r, told := w.relationOfShares(c, column); told {
		return r
	}
	behind, before := c.nouns[:c.behind], c.nouns[c.behind:]
	another := w.measuresOther(before, column)
	switch {
	case w.otherStatistic(c, column):
		return otherUnit
	case w.measures(behind, column):
		return sameUnit
	case c.aside():
		return otherUnit
	case w.measuresOther(behind, column) || w.calls(behind):
		return otherUnit
	case w.measures(before, column) && !another:
		return sameUnit
	case c.n.currency && w.Table.Columns[column].Type.Kind != value.Int:
		return sameUnit
	case len(behind) > 0 || c.n.currency:
		return unknownUnit
	case another && !w.measures(before, column):
		return otherUnit
	}
	return noUnit
}

// asides are what a reply counts of itself; titled, what it names before a number.
var (
	asides = stemmed(setOf(
		"confidence second ms millisecond step page row column query line token record attempt try source reference note"))
	titled = stemmed(setOf("confidence probability accuracy score version step page attempt note"))
)

// aside tells whether a number is said of the reply itself rather than of the data.
func (c *said) aside() bool {
	behind, before := c.nouns[:c.behind], c.nouns[c.behind:]
	return slices.ContainsFunc(behind, func(s string) bool { return asides[s] }) || len(before) > 0 && titled[before[len(before)-1]]
}

// statistics are kinds of figures of one measure.
var statistics = stemmed(setOf("average median maximum minimum total"))

// otherStatistic tells whether a number is called another kind of figure than the one that is asked: the mean where the median is.
func (w *wanted) otherStatistic(c *said, column int) bool {
	called := func(s string) bool { return statistics[s] }
	wants := func(s string) bool { return w.nameWords[column][s] || w.questionStems[s] }
	asked := false
	for s := range statistics {
		asked = asked || wants(s)
	}
	before := c.nouns[c.behind:]
	if !w.superlative && slices.ContainsFunc(before, func(s string) bool { return strings.HasSuffix(s, "est") && superlativeWord(s) }) {
		return true // the longest, where no extreme is asked
	}
	return asked && slices.ContainsFunc(before, called) && !slices.ContainsFunc(before, func(s string) bool {
		return called(s) &&
			wants(s)
	})
}

// relationOfShares is the relation of what is said as a share, or to a column of shares; told is false for other numbers.
func (w *wanted) relationOfShares(c *said, column int) (r relation, told bool) {
	fraction, ratio := w.ratio(column)
	switch {
	case (c.n.percent || c.n.fraction) && ratio:
		return sameUnit, true
	case c.n.percent || c.n.fraction, fraction && math.Abs(c.n.value) > 1, ratio && !fraction && c.whole:
		return otherUnit, true
	}
	return noUnit, false
}

// measures tells whether one of some stems names a column's measure.
func (w *wanted) measures(stems []string, column int) bool {
	for _, s := range stems {
		if w.nameWords[column][s] || len(w.numbered) == 1 && w.asked[s] {
			return true
		}
	}
	return false
}

func (w *wanted) measuresOther(stems []string, column int) bool {
	for _, other := range w.numbered {
		if other == column {
			continue
		}
		for _, s := range stems {
			if w.nameWords[other][s] && !w.nameWords[column][s] {
				return true
			}
		}
	}
	return false
}

// calls tells whether a stem is what the rows are called, such as districts.
func (w *wanted) calls(stems []string) bool {
	for _, c := range w.named {
		for _, s := range stems {
			if w.nameWords[c][s] && !w.asked[s] {
				return true
			}
		}
	}
	return false
}
