// Package profiletest counts small tables for tests of what is told from counts.
package profiletest

import (
	"slices"

	"tovrel/core/profile"
	"tovrel/core/table"
	"tovrel/core/value"
)

// Table is a table as a test writes it: its columns' names, and its rows; "∅" is null.
type Table struct {
	Name    string
	Columns []string
	Rows    [][]string
}

// Count counts the tables of a dataset as a survey does. The links are given with what is to be said of them.
func Count(name string, links []profile.Link, tables ...Table) *profile.Dataset {
	d := &profile.Dataset{Name: name, Links: links}
	for _, t := range tables {
		counted := &profile.Table{Name: t.Name, Rows: int64(len(t.Rows))}
		for i, name := range t.Columns {
			cells := make([]table.Cell, len(t.Rows))
			for j, row := range t.Rows {
				cells[j] = table.Cell{Text: row[i], Null: row[i] == "∅"}
			}
			column := table.FromCells(name, cells)
			counted.Columns = append(counted.Columns, Column(name, column))
			if column.Len() > 0 {
				counted.Last = append(counted.Last, column.Value(column.Len()-1))
			}
		}
		for _, row := range t.Rows {
			if !slices.ContainsFunc(row, func(cell string) bool { return cell != "∅" }) {
				counted.Blank++
			}
		}
		d.Tables = append(d.Tables, counted)
	}
	return d
}

// Column counts one column.
func Column(name string, column *table.Column) *profile.Column {
	c := &profile.Column{Name: name, Type: column.Type.String(), Kind: column.Type.Kind, Rows: int64(column.Len())}
	sum := 0.0
	for row := range column.Len() {
		v := column.Value(row)
		if v.IsNull() {
			c.Nulls++
			continue
		}
		if c.Min.IsNull() || value.Compare(v, c.Min) < 0 {
			c.Min = v
		}
		if c.Max.IsNull() || value.Compare(v, c.Max) > 0 {
			c.Max = v
		}
		if f, ok := v.Float64(); ok {
			sum += f
		}
		at := slices.IndexFunc(c.Values, func(n profile.Count) bool { return value.Compare(n.Value, v) == 0 })
		if at < 0 {
			at = len(c.Values)
			c.Values = append(c.Values, profile.Count{Value: v, Text: v.String()})
		}
		c.Values[at].Rows++
	}
	if column.Type.Kind.Number() {
		c.Sum = &sum
	}
	slices.SortStableFunc(c.Values, func(a, b profile.Count) int {
		if a.Rows != b.Rows {
			return int(b.Rows - a.Rows)
		}
		return value.Compare(a.Value, b.Value)
	})
	c.Distinct = int64(len(c.Values))
	return c
}
