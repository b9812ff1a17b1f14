// Package twin plans perturbed copies of a dataset: which facts of the sample they keep, and which steps change the rest. It is given
// samples of rows and gives steps; it reads and writes no data itself.
package twin

import (
	"slices"

	"tovrel/core/profile"
	"tovrel/core/table"
	"tovrel/core/value"
)

// Rows is what is known of a table: how many rows it has, some of them, and what was counted over all of them.
type Rows struct {
	Name   string
	Rows   int64
	Types  []string // the engine's, by column
	Sample *table.Table
	Unique []bool          // by column: no value repeats, over all rows
	Loose  []bool          // by column: the briefing says that it is measured, so that distinct values are chance
	Amount []bool          // by column: its numbers are amounts, between which others may lie
	Keys   [][]int         // sets of columns, each larger than one, that no two rows agree in, over all rows
	Min    []value.Value   // by column, over all rows
	Max    []value.Value   // by column
	Codes  map[string]bool // unused values that the briefing lists, as column + NUL + value
}

// Joined are rows of a child beside those of their parent.
type Joined struct {
	Link          profile.Link
	Child, Parent *table.Table // the same rows, each with the columns of its own table
	Sums          *table.Table // a parent a row: its columns, then what its children come to; nil where that was not asked
	SumOf         []Summed     // what each of those further columns is
}

// Summed is what the children of a parent come to.
type Summed struct {
	Of   string // the column that is summed up; "" for the number of children
	Says string // in words
}

// Facts are what twins of a dataset keep.
type Facts struct {
	Tables []*Table
	Links  []Link
	Laws   []Law
}

// Table is a table with what holds in it.
type Table struct {
	Name    string
	Rows    int64
	Columns []*Column
	Keys    [][]int // sets of columns without repeated values, beyond single columns
	Blocks  []Block
	Ties    []Tie
	Lookup  bool            // it gives codes their labels: its rows are left as they are
	Pins    []Pin           // rows that stay as they are
	found   []Found         // by which columns stay together
	held    map[int]bool    // columns of which laws speak: they stay where they are
	groups  map[string]bool // columns whose rows laws hold together: only all rows of a value may go
	still   bool            // no row may go
}

// Column is a column with what holds of its values.
type Column struct {
	Name, Type   string
	Kind         value.Kind
	Unique       bool // no value repeats
	Amount       bool // a number between whose values others may lie
	NearlyUnique bool // hardly one repeats
	Reference    bool // it refers to another table
	Nullable     bool
	Distinct     int // in the sample
	Min, Max     value.Value
	Decimals     int
	Midnight     bool // a timestamp that only ever is a day
	Codes        []string
	values       []string        // of the sample in their order, where they are few
	seen         map[string]bool // the values of the sample, where only these may occur
}

// Block is a group of columns that depend on each other: their cells move together.
type Block struct {
	Columns []int
	Fixed   bool // the group holds what identifies a row: it stays where it is
	Unique  bool // one of them never repeats: cells are exchanged, not copied
}

// Pin chooses rows that stay as they are: those with a value that only occurs beside some others, or those that share a value in a column
// that nearly identifies a row.
type Pin struct {
	Column int
	Value  string // "" for all values that occur more than once
	Null   bool   // the rows without a value
}

// Tie is a dependency between two columns.
type Tie struct {
	A, B int
	Why  string // A … B
	Soft bool   // it allows a new value between its neighbours: an order, not an equation
	Room Room   // where only the rows of another table hold A back
}

// Room is in which direction a value may move.
type Room int

// The rooms.
const (
	NoRoom  Room = 0
	MayFall Room = -1
	MayRise Room = 1
)

// Link is a reference from a child to its parent.
type Link struct {
	From, To profile.Place
	Whole    bool // the parent sums its children up: none may be missing
}

// Table finds a table; nil for none.
func (f *Facts) Table(name string) *Table {
	for _, t := range f.Tables {
		if t.Name == name {
			return t
		}
	}
	return nil
}

// Column finds a column's place; -1 for none.
func (t *Table) Column(name string) int {
	for i, c := range t.Columns {
		if c.Name == name {
			return i
		}
	}
	return -1
}

// Fixed tells whether a column stays where it is.
func (t *Table) Fixed(column int) bool {
	for _, b := range t.Blocks {
		if slices.Contains(b.Columns, column) {
			return b.Fixed
		}
	}
	return false
}

// alone tells whether nothing depends on a column.
func (t *Table) alone(column int) bool {
	for _, tie := range t.Ties {
		if tie.A == column || tie.B == column {
			return false
		}
	}
	return true
}

// Count is how many facts are kept, by kind.
func (f *Facts) Count() (unique, notNull, dependencies, references int) {
	for _, t := range f.Tables {
		unique += len(t.Keys)
		dependencies += len(t.Ties)
		for _, c := range t.Columns {
			if c.Unique {
				unique++
			}
			if !c.Nullable {
				notNull++
			}
		}
	}
	return unique, notNull, dependencies, len(f.Links)
}
