// Package sqltext writes the SQL of an engine: quoted names and texts, the statements that ask what data hold, and the views under which a
// query sees a table changed. Nothing else writes SQL, but the packages of the engines, and those that write queries for people to read. It
// runs nothing.
package sqltext

import (
	"fmt"
	"strings"
)

// Name is the name of a column or table, in quotes.
func Name(name string) string { return `"` + strings.ReplaceAll(name, `"`, `""`) + `"` }

// Text is a text as a literal.
func Text(text string) string { return `'` + strings.ReplaceAll(text, `'`, `''`) + `'` }

// number is a number as an expression that may stand anywhere.
func number(f float64) string { return fmt.Sprintf("(%.17g)", f) }

// Cast is a literal of a type; of a nil text it is null.
func Cast(text *string, kind string) string {
	if text == nil {
		return "CAST(NULL AS " + kind + ")"
	}
	return "CAST(" + Text(*text) + " AS " + kind + ")"
}

// AsText computes an expression as a text.
func AsText(expression string) string { return "SELECT CAST(" + expression + " AS VARCHAR)" }

// Call computes a function without arguments, such as "version".
func Call(function string) string { return "SELECT " + function + "()" }

// Head are a table's first rows.
func Head(table string, rows int) string {
	return fmt.Sprintf("SELECT * FROM %s LIMIT %d", Name(table), rows)
}

// RowAt is a table's row at a place, counted from 0.
func RowAt(table string, at int64) string {
	return fmt.Sprintf("SELECT * FROM %s LIMIT 1 OFFSET %d", Name(table), at)
}

// Some are some of a table's rows, as Dialect.Some of DuckDB's.
func Some(table string, oneIn int64, most int) string { return Dialect{}.Some(table, oneIn, most) }

// Distinct are the distinct values of a column, sorted, without null.
func Distinct(table, column string, most int) string {
	c := Name(column)
	return fmt.Sprintf("SELECT DISTINCT %s FROM %s WHERE %s IS NOT NULL ORDER BY 1 LIMIT %d", c, Name(table), c, most)
}

// Commonest are the commonest values of a column with how often they occur, without null.
func Commonest(table, column string, most int) string {
	c := Name(column)
	return fmt.Sprintf("SELECT %s, count(*) FROM %s WHERE %s IS NOT NULL GROUP BY %s ORDER BY 2 DESC, 1 LIMIT %d", c,
		Name(table), c, c, most)
}

// Nulls counts the nulls of each column.
func Nulls(table string, columns []string) string {
	var counts []string
	for _, c := range columns {
		counts = append(counts, "count(*) - count("+Name(c)+")")
	}
	return "SELECT " + strings.Join(counts, ", ") + " FROM " + Name(table)
}

// Unique tells whether a column has more than one row and never repeats, with the largest of its numbers, or else how many rows there
// are, as a text.
func Unique(table, column string, number bool) string {
	most := "count(*)"
	if number {
		most = "max(" + Name(column) + ")"
	}
	return fmt.Sprintf("SELECT count(*) > 1 AND count(*) = count(DISTINCT %s), CAST(%s AS VARCHAR) FROM %s", Name(column), most,
		Name(table))
}

// Counted is what is asked of a column in one statement with others.
type Counted struct {
	Name    string
	Ordered bool // its least and greatest value
	Summed  bool // its sum
}

// Counts asks, for each column, how many values it has, how many distinct ones, the least, the greatest and the sum: five items, null where
// they are not asked for.
func Counts(table string, columns []Counted) string {
	var items []string
	for _, c := range columns {
		n := Name(c.Name)
		low, high, sum := "NULL", "NULL", "NULL"
		if c.Ordered {
			low, high = "min("+n+")", "max("+n+")"
		}
		if c.Summed {
			sum = "sum(CAST(" + n + " AS DOUBLE PRECISION))"
		}
		items = append(items, "count("+n+")", "count(DISTINCT "+n+")", low, high, sum)
	}
	return "SELECT " + strings.Join(items, ", ") + " FROM " + Name(table)
}

// OfFirst is a query that sees only a table's first rows.
func OfFirst(table string, rows int64, query string) string {
	return fmt.Sprintf("WITH %s AS (SELECT * FROM %s LIMIT %d) %s", Name(table), Name(table), rows, query)
}

// Blank counts the rows that are null in all of some columns.
func Blank(table string, columns []string) string {
	return "SELECT count(*) FROM " + Name(table) + " WHERE " + each(columns, " IS NULL", " AND ")
}

// Bins counts how many of a column's numbers lie in each part of a range.
func Bins(table, column string, low, width float64, parts int) string {
	n := "CAST(" + Name(column) + " AS DOUBLE PRECISION)"
	return fmt.Sprintf("SELECT CAST(floor((%s - %s) * %d / %s) AS INTEGER), count(*) FROM %s WHERE %s IS NOT NULL GROUP BY 1",
		n, number(low), parts, number(width), Name(table), Name(column))
}

// Repeats counts the combinations of some columns' values that more than one row has.
func Repeats(table string, columns []string) string {
	return fmt.Sprintf("SELECT count(*) FROM (SELECT 1 FROM %s WHERE %s GROUP BY %s HAVING count(*) > 1)",
		Name(table), each(columns, " IS NOT NULL", " AND "), each(columns, "", ", "))
}

func each(columns []string, after, between string) string {
	var parts []string
	for _, c := range columns {
		parts = append(parts, Name(c)+after)
	}
	return strings.Join(parts, between)
}
