package sqltext

import (
	"fmt"
	"strings"

	"tovrel/core/twin"
)

// Pinned tells which rows stay as they are.
func Pinned(pins []twin.Pinned) string {
	var out strings.Builder
	out.WriteString("false")
	for _, p := range pins {
		c := Name(p.Column)
		if p.Null {
			out.WriteString(fmt.Sprintf(" OR %s IS NULL", c))
		} else if p.Value != "" {
			out.WriteString(fmt.Sprintf(" OR coalesce(CAST(%s AS VARCHAR) = %s, false)", c, Text(p.Value)))
		} else {
			out.WriteString(fmt.Sprintf(" OR (%s IS NOT NULL AND count(*) OVER (PARTITION BY %s) > 1)", c, c))
		}
	}
	return out.String()
}

// InOrder is the condition, to follow others, under which a new value keeps its order with other columns.
func InOrder(v string, o twin.Order) string {
	var out strings.Builder
	for _, c := range o.NotAbove {
		out.WriteString(fmt.Sprintf(" AND (%s IS NULL OR %s <= %s)", Name(c), v, Name(c)))
	}
	for _, c := range o.NotBelow {
		out.WriteString(fmt.Sprintf(" AND (%s IS NULL OR %s >= %s)", Name(c), v, Name(c)))
	}
	return out.String()
}

// set is a column in which some rows have other cells.
func (in Dialect) set(s twin.Set, table string) string {
	var b strings.Builder
	b.WriteString("CASE")
	for i := len(s.Cells) - 1; i >= 0; i-- {
		put, to := s.Cells[i], "NULL"
		switch {
		case put.Text != nil:
			to = in.literal(*put.Text, s.Type)
		case put.Other != "":
			to = Name(put.Other)
		case put.Of != nil:
			to = fmt.Sprintf("(SELECT %s FROM main.%s WHERE %s)", Name(s.Column), Name(table), in.numbered(twin.SpansOf([]int64{*put.Of})))
		}
		fmt.Fprintf(&b, " WHEN %s THEN %s", in.numbered(put.Rows), to)
	}
	return b.String() + " ELSE " + Name(s.Column) + " END"
}

// Fitting is a query of rows of a table that no pin holds, with their numbers, those of the next such row and, for each change, whether it
// fits the row: first those that meet most of some conditions, such as those of queries, in an order by chance.
func Fitting(t *twin.Table, changes []twin.Change, meeting []string, most int) string {
	items := []string{"rowid", "lead(rowid) OVER (ORDER BY rowid)"}
	for _, c := range changes {
		items = append(items, fits(c))
	}
	score := []string{"0", "0"} // a number alone would be a column
	for _, m := range meeting {
		score = append(score, "CASE WHEN "+m+" THEN 1 ELSE 0 END")
	}
	return fmt.Sprintf("SELECT %s FROM (SELECT rowid, *, %s AS \"tovrel pinned\" FROM main.%s) WHERE NOT \"tovrel pinned\" ORDER BY %s "+
		"DESC, "+
		"hash(rowid), rowid LIMIT %d", strings.Join(items, ", "), Pinned(t.PinnedRows()), Name(t.Name), strings.Join(score, " + "), most)
}

func fits(c twin.Change) string {
	column := Name(c.Columns[0])
	if c.Like() {
		return "lead(rowid) OVER (ORDER BY rowid) = rowid + 1"
	}
	value := "CAST(NULL AS VARCHAR)"
	switch {
	case c.Text != nil:
		value = fmt.Sprintf("CAST(%s AS %s)", Text(*c.Text), c.Type)
	case c.Other != "":
		value = Name(c.Other)
	}
	return fmt.Sprintf("coalesce(%s IS NOT NULL AND %s IS DISTINCT FROM %s%s, false)", column, column, value, InOrder(value, c.Order))
}

// Count is a query of how many rows a query has.
func Count(query string) string { return "SELECT count(*) FROM (" + query + ")" }

// All are a table's rows, under the name by which a shadow may stand for it.
func All(table string) string { return "SELECT * FROM " + Name(table) }

// RowsMet is a query of the numbers of the rows of a table that a query's column refers to.
func (l Link) RowsMet(children string) string {
	return fmt.Sprintf("SELECT rowid FROM main.%s WHERE %s IN (SELECT %s FROM (%s))", Name(l.To), Name(l.ToColumn), Name(l.FromColumn),
		children)
}

// Children is a query of the keys of some parents, drawn, with so many children at most, and of the numbers of the children that meet a
// condition; "" always holds.
func (l Link) Children(parents, most int, where string) string {
	reference, from := Name(l.FromColumn), Name(l.From)
	if where == "" {
		where = "true"
	}
	drawn := fmt.Sprintf("SELECT %s FROM main.%s WHERE %s IS NOT NULL GROUP BY 1 HAVING count(*) <= %d ORDER BY hash(1, %s) LIMIT %d",
		reference,
		from, reference, most, reference, parents)
	return fmt.Sprintf("SELECT %s, rowid FROM main.%s WHERE %s IN (%s) AND (%s) ORDER BY 1, 2", reference, from, reference, drawn, where)
}

// Renumbered is a query's rows, numbered as those of the tables in which laws are looked for.
func Renumbered(query string) string {
	return fmt.Sprintf("(SELECT row_number() OVER () - 1 AS %s, * FROM (%s))", RowNumber, query)
}
