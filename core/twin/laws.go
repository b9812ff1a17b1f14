package twin

import (
	"fmt"
	"strings"

	"tovrel/core/profile"
)

// LawKind is what a law says of rows.
type LawKind string

// The laws. Those with a group hold for the rows of each value of a column; the others for each row, or for all of them together.
const (
	Ordered       LawKind = "ordered"        // a column is never above another of its row
	OrderedAcross LawKind = "ordered-across" // a parent's column is never above its child's
	NoOverlap     LawKind = "no-overlap"     // of a group: periods, from a column up to another, do not overlap
	NoGap         LawKind = "no-gap"         // of a group: each period begins where the one before ends, or so many days later
	OneOpen       LawKind = "one-open"       // of a group: one row has no value in a column
	OneOf         LawKind = "one-of"         // of a group: one row has a value in a column
	Counts        LawKind = "counts"         // of a group: a column counts the rows from its first number on
	Rises         LawKind = "rises"          // of a group: in the order of a column another one never falls
	Follows       LawKind = "follows"        // of a group: the moments of rows with a value come before those of rows with another
	AddsUp        LawKind = "adds-up"        // of a group: in the order of a column another is the sum so far of a third
	Complete      LawKind = "complete"       // of a group: it has a row for each value of a column
	EveryDay      LawKind = "every-day"      // a column has every day from the first to the last
	Forest        LawKind = "forest"         // a column refers to the key of its own table, without circles
	Deep          LawKind = "deep"           // so many steps along a hierarchy lead from its top to its deepest row
	Refers        LawKind = "refers"         // a column's values are met by another table's
	Determines    LawKind = "determines"     // rows with the same value of a column have the same value of another
	Unlike        LawKind = "unlike"         // no two rows agree in some columns
	Meets         LawKind = "meets"          // each row meets a condition in SQL
)

// Law is something that holds of a dataset's rows, and must hold of its twins.
type Law struct {
	Kind    LawKind
	Table   string
	By      string   // the column whose values make groups; "" for none
	Columns []string // what it speaks of, in the order of its words
	Values  []string // of one-of a value, of follows two
	Other   profile.Place
	Number  int    // of counts where it begins, of no-gap days, of deep steps
	SQL     string // of meets
	// What was counted over all rows of the sample, and where it was said.
	Rows   int64 // on which it was seen
	Broken int64 // that break it: it nearly holds
	Chance int64 // that would break it if one of its two columns were another row's; of orders alone
	Said   bool  // in the briefing
}

// Words say a law in a line, the same for the same law; a briefing may repeat it to declare or to deny it.
func (l Law) Words() string {
	return l.Table + ": " + l.says()
}

func (l Law) says() string {
	column := func(i int) string { return l.Columns[i] }
	each := " for each " + l.By
	switch l.Kind {
	case Ordered:
		return column(0) + " is never above " + column(1)
	case OrderedAcross:
		if l.Number > 0 {
			return column(1) + " is never above its parent's " + l.Other.String() + " by " + column(0)
		}
		return column(1) + " is never below its parent's " + l.Other.String() + " by " + column(0)
	case NoOverlap:
		return fmt.Sprintf("%s to %s never overlap", column(0), column(1)) + each
	case NoGap:
		if l.Number > 0 {
			return fmt.Sprintf("%s is the day after the last %s", column(0), column(1)) + each
		}
		return fmt.Sprintf("%s is the last %s", column(0), column(1)) + each
	case OneOpen:
		return "one row has no " + column(0) + each
	case OneOf:
		return fmt.Sprintf("one row has %s = %s", column(0), l.Values[0]) + each
	case Counts:
		return fmt.Sprintf("%s counts from %d", column(0), l.Number) + each
	case Rises:
		return fmt.Sprintf("%s never falls by %s", column(1), column(0)) + each
	case Follows:
		return fmt.Sprintf("%s %s comes before %s by %s", column(0), l.Values[0], l.Values[1], column(1)) + each
	case AddsUp:
		return fmt.Sprintf("%s is the sum of %s so far by %s", column(2), column(1), column(0)) + each
	case Complete:
		return "there is a row of every " + column(0) + each
	case EveryDay:
		return column(0) + " has every day"
	case Forest:
		return fmt.Sprintf("%s leads to %s without circles", column(0), column(1))
	case Deep:
		return fmt.Sprintf("%s goes %d steps deep", column(0), l.Number)
	case Refers:
		return column(0) + " is met by " + l.Other.String()
	case Determines:
		return column(0) + " determines " + column(1)
	case Unlike:
		return "no two rows have the same " + strings.Join(l.Columns, ", ")
	}
	return l.SQL
}

// Whole tells whether a law says all that it will: of a candidate, which values follow one another is not known before it is counted.
func (l Law) Whole() bool { return l.Kind != Follows || len(l.Values) > 0 }

// place is a column of a law's table.
func (l Law) place(column int) profile.Place {
	return profile.Place{Table: l.Table, Column: l.Columns[column]}
}

// rowsAlone tells whether a law holds or not of each row by itself: rows that are taken away break nothing.
func (l Law) rowsAlone() bool {
	switch l.Kind {
	case Ordered, OrderedAcross, NoOverlap, Rises, Follows, Refers, Determines, Unlike, Meets:
		return true
	}
	return false
}

// whole tells whether a law is about all rows of a table together.
func (l Law) whole() bool {
	switch l.Kind {
	case EveryDay, Forest, Deep:
		return true
	}
	return false
}

// nearlyRows and nearlyShare are from how many rows on, and of how many of them, what one row in so many breaks still nearly holds.
const nearlyRows, nearlyShare = 200, 100

// Holds tells whether a law that was counted holds, or nearly, and chance does not explain it.
func (l Law) Holds() bool {
	return l.Seen() && !(l.Order() && l.Chance < fewestByChance+timesByChance*l.Broken)
}

// Seen tells whether a law holds, or nearly, on rows enough.
func (l Law) Seen() bool {
	if l.Broken == 0 {
		return l.Rows >= fewestLawful
	}
	return l.nearly() && l.Rows >= nearlyRows && l.Broken*nearlyShare <= l.Rows
}

// Order tells whether a law is an order of two moments or numbers, which may hold because they lie apart anyway.
func (l Law) Order() bool { return l.Kind == Ordered || l.Kind == OrderedAcross || l.Kind == Follows }

// nearly tells whether a law of a kind can nearly hold: those of which each row speaks for itself.
func (l Law) nearly() bool {
	return l.Kind == Ordered || l.Kind == OrderedAcross || l.Kind == Determines || l.Kind == Meets
}

// fewestByChance is how many rows of others must break an order: were it chance, none of a row's own would break it once in a thousand
// times. One that nearly holds must be broken so many times as often by others.
const fewestByChance, timesByChance = 7, 10

// fewestLawful is on how many rows a law must be seen: fewer could be chance.
const fewestLawful = 12
