package sqltext

import (
	"fmt"
	"strings"

	"tovrel/core/twin"
)

// RowNumber is the column that numbers the rows of the tables in which laws are looked for.
const RowNumber = `"tovrel row"`

// Numbered is a frozen table whose rows are numbered.
func Numbered(table string) string {
	return "(SELECT rowid AS " + RowNumber + ", * FROM main." + Name(table) + ")"
}

// Laws writes queries about laws, over tables that From gives by name: with their rows numbered. It is DuckDB's SQL.
type Laws struct{ From func(table string) string }

// Counted is a query of how many rows break a law, and on how many it is seen.
func (w Laws) Counted(l twin.Law) string {
	return fmt.Sprintf("SELECT (SELECT count(*) FROM (%s)), (%s)", w.Breaking(l), w.seen(l))
}

// ByChance is a query of how many rows would break an order of two columns if one of them were another row's; of 0 for other laws.
func (w Laws) ByChance(l twin.Law) string {
	other := fmt.Sprintf("lead(%%s) OVER (ORDER BY hash(%s), %s)", RowNumber, RowNumber)
	switch l.Kind {
	case twin.Ordered:
		return fmt.Sprintf("SELECT count(*) FILTER (a > b) FROM (SELECT %s AS a, "+other+" AS b FROM %s WHERE %s)", Name(l.Columns[0]),
			Name(l.Columns[1]), w.From(l.Table), filled(l.Columns))
	case twin.OrderedAcross:
		from := fmt.Sprintf("SELECT c.%s, c.%s, p.%s AS x FROM %s c JOIN %s p ON c.%s = p.%s", RowNumber, Name(l.Columns[1]),
			Name(l.Other.Column), w.From(l.Table), w.From(l.Other.Table), Name(l.Columns[0]), Name(l.Values[0]))
		return fmt.Sprintf("SELECT count(*) FILTER (%s) FROM (SELECT %s AS y, "+other+" AS x FROM (%s)) WHERE x IS NOT NULL AND y IS NOT "+
			"NULL", inOrderAcross(l, "y", "x"), Name(l.Columns[1]), "x", from)
	}
	return "SELECT 0"
}

// Breaking is a query of the numbers (k) of the rows that break a law: of a group's law, of all rows of the group.
func (w Laws) Breaking(l twin.Law) string {
	if l.By != "" {
		return fmt.Sprintf("SELECT %s AS k FROM %s WHERE %s IN (%s)", RowNumber, w.From(l.Table), Name(l.By), w.groups(l))
	}
	where := ""
	switch l.Kind {
	case twin.Ordered:
		where = Name(l.Columns[0]) + " > " + Name(l.Columns[1])
	case twin.OrderedAcross:
		return fmt.Sprintf("SELECT c.%s AS k FROM %s c JOIN %s p ON c.%s = p.%s WHERE %s", RowNumber, w.From(l.Table),
			w.From(l.Other.Table), Name(l.Columns[0]), Name(l.Values[0]), across(l))
	case twin.EveryDay:
		c := Name(l.Columns[0])
		where = fmt.Sprintf("(SELECT max(%s) - min(%s) + 1 <> count(DISTINCT %s) FROM %s)", c, c, c, w.From(l.Table))
	case twin.Forest:
		where = fmt.Sprintf("%s NOT IN (%s SELECT id FROM reached WHERE id IS NOT NULL)", Name(l.Columns[1]), w.reached(l))
	case twin.Deep:
		where = fmt.Sprintf("(%s) IS DISTINCT FROM %d", w.Depth(l), l.Number)
	case twin.Refers:
		c, key := Name(l.Columns[0]), Name(l.Other.Column)
		where = fmt.Sprintf("%s IS NOT NULL AND %s NOT IN (SELECT %s FROM %s WHERE %s IS NOT NULL)", c, c, key, w.From(l.Other.Table), key)
	case twin.Determines:
		return w.unusual(l)
	case twin.Unlike:
		return fmt.Sprintf("SELECT %s AS k FROM %s WHERE %s QUALIFY count(*) OVER (PARTITION BY %s) > 1", RowNumber, w.From(l.Table),
			filled(l.Columns), names(l.Columns))
	case twin.Meets:
		where = "NOT coalesce((" + l.SQL + "\n), true)"
	}
	return fmt.Sprintf("SELECT %s AS k FROM %s WHERE %s", RowNumber, w.From(l.Table), where)
}

// unusual is a query of the rows that have another value of a column than most that share their value of a first one.
func (w Laws) unusual(l twin.Law) string {
	a, b, from := Name(l.Columns[0]), Name(l.Columns[1]), w.From(l.Table)
	// A null is a value too: its text has a sign before it, as the others have.
	text := func(cell string) string { return fmt.Sprintf("coalesce('=' || CAST(%s AS VARCHAR), '')", cell) }
	usual := fmt.Sprintf("SELECT a, max_by(b, {'n': n, 'b': b}) AS b FROM (SELECT %s AS a, %s AS b, count(*) AS n FROM %s WHERE %s IS "+
		"NOT NULL "+
		"GROUP BY 1, 2) GROUP BY 1", a, text(b), from, a)
	return fmt.Sprintf("SELECT t.%s AS k FROM %s t JOIN (%s) u ON t.%s = u.a WHERE %s <> u.b", RowNumber, from, usual, a, text("t."+b))
}

// across is the condition under which a child c and its parent p break an order. Of a day and a moment only the days count.
func across(l twin.Law) string {
	return inOrderAcross(l, "c."+Name(l.Columns[1]), "p."+Name(l.Other.Column))
}

func inOrderAcross(l twin.Law, child, parent string) string {
	day := fmt.Sprintf("typeof(%s) <> typeof(%s)", child, parent)
	if l.Number == 0 {
		child, parent = parent, child
	}
	return fmt.Sprintf("CASE WHEN %s THEN CAST(%s AS DATE) > CAST(%s AS DATE) ELSE %s > %s END", day, child, parent, child, parent)
}

// reached begins a query with the keys that a hierarchy leads to from its top, and how deep they are.
func (w Laws) reached(l twin.Law) string {
	from, ref, key := w.From(l.Table), Name(l.Columns[0]), Name(l.Columns[1])
	return fmt.Sprintf("WITH RECURSIVE reached(id, deep) AS (SELECT %s, 1 FROM %s WHERE %s IS NULL OR %s = %s UNION SELECT t.%s, "+
		"r.deep + 1 FROM %s t JOIN reached r ON t.%s = r.id WHERE t.%s <> t.%s AND r.deep < %d)",
		key, from, ref, ref, key, key, from, ref, ref, key,
		deepestHierarchy)
}

// deepestHierarchy is how far a hierarchy is followed.
const deepestHierarchy = 200

// Depth is a query of how deep a hierarchy is: 1 where nothing lies below another.
func (w Laws) Depth(l twin.Law) string { return w.reached(l) + " SELECT max(deep) FROM reached" }

// groups is a query of the groups that break a law.
func (w Laws) groups(l twin.Law) string {
	by, from := Name(l.By), w.From(l.Table)
	column := func(i int) string { return Name(l.Columns[i]) }
	having := ""
	switch l.Kind {
	case twin.OneOpen:
		having = fmt.Sprintf("count(*) - count(%s) <> 1", column(0))
	case twin.OneOf:
		having = fmt.Sprintf("count(*) FILTER (CAST(%s AS VARCHAR) = %s) <> 1", column(0), Text(l.Values[0]))
	case twin.Counts:
		c := column(0)
		having = fmt.Sprintf("min(%s) <> %d OR max(%s) <> %d + count(*) - 1 OR count(DISTINCT %s) <> count(*)", c, l.Number, c, l.Number, c)
	case twin.Follows:
		having = fmt.Sprintf("max(%s) FILTER (%s = %s) > min(%s) FILTER (%s = %s)", column(1), column(0), Text(l.Values[0]),
			column(1), column(0), Text(l.Values[1]))
	case twin.Complete:
		having = fmt.Sprintf("count(DISTINCT %s) <> (SELECT count(DISTINCT %s) FROM %s)", column(0), column(0), from)
	default:
		return w.inOrder(l)
	}
	return fmt.Sprintf("SELECT %s FROM %s WHERE %s IS NOT NULL GROUP BY 1 HAVING %s", by, from, by, having)
}

// inOrder is a query of the groups whose rows, one after another, break a law.
func (w Laws) inOrder(l twin.Law) string {
	by, first, second := Name(l.By), Name(l.Columns[0]), Name(l.Columns[1])
	item, broken := "lag("+second+") OVER w", ""
	switch l.Kind {
	case twin.NoOverlap:
		broken = fmt.Sprintf("%s < %s OR n > 1 AND (other IS NULL OR %s < other)", second, first, first)
	case twin.NoGap:
		broken = fmt.Sprintf("n > 1 AND %s IS DISTINCT FROM other + INTERVAL %d DAY", first, l.Number)
	case twin.Rises:
		broken = "other > " + second
	case twin.AddsUp:
		third := Name(l.Columns[2])
		item, broken = fmt.Sprintf("sum(CAST(%s AS DOUBLE)) OVER w", second), fmt.Sprintf("abs(CAST(%s AS DOUBLE) - other) > 0.005", third)
	}
	window := fmt.Sprintf("PARTITION BY %s ORDER BY %s, %s ROWS BETWEEN UNBOUNDED PRECEDING AND CURRENT ROW", by, first, RowNumber)
	return fmt.Sprintf("SELECT %s FROM (SELECT *, row_number() OVER w AS n, %s AS other FROM %s WHERE %s WINDOW w AS (%s)) WHERE %s", by,
		item, w.From(l.Table), filled([]string{l.By, l.Columns[0]}), window, broken)
}

// seen is a query of on how many rows a law is seen: of a group, of those beside its first.
func (w Laws) seen(l twin.Law) string {
	from := w.From(l.Table)
	switch {
	case l.Kind == twin.Follows:
		return fmt.Sprintf("SELECT count(*) FROM (SELECT 1 FROM %s WHERE %s IS NOT NULL GROUP BY %s HAVING count(*) FILTER (%s = %s) > 0 "+
			"AND count(*) FILTER (%s = %s) > 0)", from, Name(l.By), Name(l.By), Name(l.Columns[0]), Text(l.Values[0]), Name(l.Columns[0]),
			Text(l.Values[1]))
	case l.By != "":
		return fmt.Sprintf("SELECT count(*) - count(DISTINCT %s) FROM %s WHERE %s", Name(l.By), from, filled(append([]string{l.By},
			l.Columns[:min(1, len(l.Columns))]...)))
	case l.Kind == twin.OrderedAcross, l.Kind == twin.Ordered, l.Kind == twin.Unlike, l.Kind == twin.Refers, l.Kind == twin.EveryDay:
		return fmt.Sprintf("SELECT count(*) FROM %s WHERE %s", from, filled(l.Columns))
	case l.Kind == twin.Forest, l.Kind == twin.Deep, l.Kind == twin.Determines:
		return fmt.Sprintf("SELECT count(%s) FROM %s", Name(l.Columns[0]), from)
	}
	return "SELECT count(*) FROM " + from
}

// Following is a query of which of a column's values come before which in time, in all groups that have both: two values, in how many
// groups, and in how many the second one would not come later if it were another group's.
func (w Laws) Following(l twin.Law) string {
	c, at, by := Name(l.Columns[0]), Name(l.Columns[1]), Name(l.By)
	one := fmt.Sprintf("(SELECT %s AS g, %s AS v, min(%s) AS low, max(%s) AS high FROM %s WHERE %s GROUP BY 1, 2)", by, c, at, at,
		w.From(l.Table), filled([]string{l.By, l.Columns[0], l.Columns[1]}))
	pairs := fmt.Sprintf("SELECT a.v AS first, b.v AS second, a.high, b.low, lead(b.low) OVER (PARTITION BY a.v, b.v ORDER BY hash(a.g), "+
		"a.g) AS other FROM %s a JOIN %s b ON a.g = b.g WHERE a.v <> b.v", one, one)
	return fmt.Sprintf("SELECT first, second, count(*), count(*) FILTER (high > other) FROM (%s) GROUP BY 1, 2 "+
		"HAVING bool_and(high <= low) AND bool_or(high < low) ORDER BY 1, 2", pairs)
}

func filled(columns []string) string {
	var out []string
	for _, c := range columns {
		out = append(out, Name(c)+" IS NOT NULL")
	}
	return strings.Join(out, " AND ")
}

func names(columns []string) string {
	var out []string
	for _, c := range columns {
		out = append(out, Name(c))
	}
	return strings.Join(out, ", ")
}
