// Package profile tells from column statistics what columns are (measure, dimension, time, key), how tables likely join, and
// what in the data will hurt. It is given facts and gives judgements, each with its reason; it reads no data itself.
package profile

import (
	"strings"

	"tovrel/core/pattern"
	"tovrel/core/value"
)

// Dataset is what was counted of a dataset.
type Dataset struct {
	Name   string
	Tables []*Table
	Links  []Link
}

// Table is what was counted of a table.
type Table struct {
	Name    string
	Rows    int64
	Sampled int64 // on so many first rows it was counted, where that is not all; 0 for all
	Blank   int64 // rows that are null throughout
	Columns []*Column
	Last    []value.Value // cells of the last row; nil where the order of rows is not known
}

// Column is what was counted of a column.
type Column struct {
	Name     string
	Type     string // the engine's name
	Kind     value.Kind
	Rows     int64
	Nulls    int64
	Distinct int64 // without null
	Min, Max value.Value
	Sum      *float64 // of numbers; nil for other columns
	Values   []Count  // the commonest first, then by value; without null
	Bins     []int64  // counts over equal parts of the range from Min to Max; nil for none
}

// Count is a value with how often it occurs.
type Count struct {
	Value value.Value
	Text  string // the value as it is shown
	Rows  int64
}

// Complete tells whether Values holds every value.
func (c *Column) Complete() bool { return int64(len(c.Values)) >= c.Distinct }

// Filled is the number of rows that are not null.
func (c *Column) Filled() int64 { return c.Rows - c.Nulls }

// Unique tells whether every row has a value of its own.
func (c *Column) Unique() bool { return c.Rows > 0 && c.Nulls == 0 && c.Distinct == c.Rows }

// Place names a column of a table.
type Place struct {
	Table, Column string
}

// String is table.column; a name that is no plain word stands in double quotes, as in SQL.
func (p Place) String() string { return Quoted(p.Table) + "." + Quoted(p.Column) }

// plainWord is a name that needs no quotes.
var plainWord = pattern.Of(`^[\p{L}_][\p{L}\p{N}_]*$`)

// Quoted is a name as joins, rules and briefings write it: in double quotes where it is no plain word.
func Quoted(name string) string {
	if plainWord.MatchString(name) {
		return name
	}
	return `"` + strings.ReplaceAll(name, `"`, `""`) + `"`
}

// joinForm is a join: two places with names that may be quoted. Names without quotes are read as people write them.
var joinForm = pattern.Of(`^\s*` + placeForm + `\s*=\s*` + placeForm + `\s*$`)

const placeForm = `("(?:[^"]|"")+"|[^".=\s]+)\.("(?:[^"]|"")+"|[^".=\s]+)`

// ParseJoin reads a join such as loads.farm_id = farms.farm_id, or wards."Ward no" = beds."Ward no".
func ParseJoin(text string) (from, to Place, ok bool) {
	m := joinForm.FindStringSubmatch(text)
	if m == nil {
		return from, to, false
	}
	for i, part := range m {
		if strings.HasPrefix(part, `"`) {
			m[i] = strings.ReplaceAll(part[1:len(part)-1], `""`, `"`)
		}
	}
	return Place{m[1], m[2]}, Place{m[3], m[4]}, true
}

// Link is a likely join with what was counted of it.
type Link struct {
	From, To  Place
	Rows      int64 // of From that are not null
	Orphans   int64 // of those, rows without a counterpart in To
	Examples  []string
	Childless int64 // rows of To without a counterpart in From
	PerKey    float64
}

// Table finds a table by name, in any case; nil for none.
func (d *Dataset) Table(name string) *Table {
	for _, t := range d.Tables {
		if strings.EqualFold(t.Name, name) {
			return t
		}
	}
	return nil
}

// Column finds a column, in any case; nil for none.
func (d *Dataset) Column(p Place) *Column {
	if t := d.Table(p.Table); t != nil {
		for _, c := range t.Columns {
			if strings.EqualFold(c.Name, p.Column) {
				return c
			}
		}
	}
	return nil
}
