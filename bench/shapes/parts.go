package main

import (
	"fmt"
	"slices"
	"strings"
	"time"
)

// writer writes one ask in one style.
type writer struct {
	*world
	ask
	style
	bare bool // columns are written without their table
}

func (t writer) aliasOf(role string) string {
	switch t.alias {
	case "tables":
		return t.tables[role]
	case "letters":
		return strings.ToLower(role)
	}
	return t.tables[role][:1] + strings.ToLower(role)
}

// q is a column as it is written where its table stands in FROM.
func (t writer) q(c column) string {
	if t.bare {
		return t.col(c)
	}
	return t.aliasOf(c.role) + "." + t.col(c)
}

// tableAs is a table with its alias.
func (t writer) tableAs(role string) string {
	if t.alias == "tables" || t.bare {
		return t.tables[role]
	}
	return t.tables[role] + " " + t.aliasOf(role)
}

// naming tells how a column is written.
type naming func(column) string

func isTime(w *world, c column) bool { return c.role == "E" && c.name == "at" && !w.day }

// condition writes a condition, without brackets around it.
func (t writer) condition(c condition, q naming) string {
	x := q(c.on)
	switch c.op {
	case "period":
		return t.period(c, x)
	case "null":
		return x + " IS NULL"
	case "notnull":
		return x + " IS NOT NULL"
	case "true":
		return x
	case "false":
		return "NOT " + x
	case "in":
		if t.lists == "or" {
			var all []string
			for _, v := range c.values {
				all = append(all, x+" = "+v)
			}
			return "(" + strings.Join(all, " OR ") + ")"
		}
		return x + " IN (" + strings.Join(c.values, ", ") + ")"
	}
	if other, ok := map[string]string{"=": "=", "<": ">", ">": "<", "<=": ">=", ">=": "<="}[c.op]; ok && t.flipped {
		return c.values[0] + " " + other + " " + x
	}
	return x + " " + c.op + " " + c.values[0]
}

func (t writer) period(c condition, x string) string {
	to, err := time.Parse("2006-01-02", c.to)
	if err != nil {
		panic(err)
	}
	last := to.AddDate(0, 0, -1).Format("2006-01-02")
	switch {
	case c.loses && isTime(t.world, c.on):
		return fmt.Sprintf("%s BETWEEN '%s' AND '%s'", x, c.from, last)
	case c.loses:
		return fmt.Sprintf("%s >= '%s' AND %s < '%s'", x, c.from, x, last)
	case c.takes:
		return fmt.Sprintf("%s >= DATE '%s' AND %s <= DATE '%s'", x, c.from, x, c.to)
	}
	p, whole := periodOf(c.from, c.to)
	switch {
	case t.dates == "between" && isTime(t.world, c.on):
		return fmt.Sprintf("%s BETWEEN TIMESTAMP '%s 00:00:00' AND TIMESTAMP '%s 23:59:59'", x, c.from, last)
	case t.dates == "between":
		return fmt.Sprintf("%s BETWEEN DATE '%s' AND DATE '%s'", x, c.from, last)
	case t.dates == "range" || !whole || t.dates == "text" && p.months == 3:
		return fmt.Sprintf("%s >= DATE '%s' AND %s < DATE '%s'", x, c.from, x, c.to)
	case t.dates == "trunc":
		return fmt.Sprintf("date_trunc('%s', %s) = DATE '%s'", unit(p), x, c.from)
	case t.dates == "text" && p.months == 1:
		return fmt.Sprintf("strftime(%s, '%%Y-%%m') = '%s'", x, c.from[:7])
	case t.dates == "text":
		return fmt.Sprintf("strftime(%s, '%%Y') = '%s'", x, c.from[:4])
	}
	out := fmt.Sprintf("year(%s) = %d", x, p.from.Year())
	switch p.months {
	case 1:
		out += fmt.Sprintf(" AND month(%s) = %d", x, int(p.from.Month()))
	case 3:
		out += fmt.Sprintf(" AND extract(quarter FROM %s) = %d", x, (int(p.from.Month())+2)/3)
	}
	return out
}

func unit(p period) string { return map[int]string{1: "month", 3: "quarter", 12: "year"}[p.months] }

// conditions writes all of them.
func (t writer) conditions(all []condition, q naming) []string {
	var out []string
	for _, c := range all {
		out = append(out, t.condition(c, q))
	}
	return out
}

// clause is a keyword with conditions; "" without any.
func clause(keyword string, all []string) string {
	all = slices.DeleteFunc(slices.Clone(all), func(s string) bool { return s == "" })
	if len(all) == 0 {
		return ""
	}
	return " " + keyword + " " + strings.Join(all, " AND ")
}

// keyText writes a group key.
func keyText(k key, q naming) string {
	switch k.part {
	case "":
		return q(k.on)
	case "month":
		return "date_trunc('month', " + q(k.on) + ")"
	}
	return k.part + "(" + q(k.on) + ")"
}

// argument is what a measure is taken of.
func argument(m measure, q naming) string {
	x := q(m.of)
	if m.minus == "" {
		return x
	}
	y := q(column{m.of.role, m.minus})
	if m.cellZero {
		y = "coalesce(" + y + ", 0)"
	}
	if m.plus {
		return x + " + " + y
	}
	return x + " - " + y
}

// measured writes a measure; where only is not "", of the rows that meet it alone, and inCase says how.
func (t writer) measured(m measure, q naming, only string, inCase bool) string {
	return dressed(m, t.aggregate(m, q, only, inCase))
}

// dressed adds to an aggregate what only says how it is shown.
func dressed(m measure, out string) string {
	if m.zero {
		out = "coalesce(" + out + ", 0)"
	}
	if m.scale != "" {
		out = m.scale + " * " + out
	}
	if m.digits != "" {
		out = "round(" + out + ", " + m.digits + ")"
	}
	return out
}

func (t writer) aggregate(m measure, q naming, only string, inCase bool) string {
	call := func(fn, arg string) string {
		switch {
		case only == "":
			return fn + "(" + arg + ")"
		case inCase && strings.HasPrefix(arg, "DISTINCT "):
			return fn + "(DISTINCT CASE WHEN " + only + " THEN " + arg[len("DISTINCT "):] + " END)"
		case inCase && arg == "*":
			return fn + "(CASE WHEN " + only + " THEN 1 END)"
		case inCase:
			return fn + "(CASE WHEN " + only + " THEN " + arg + " END)"
		}
		return fn + "(" + arg + ") FILTER (WHERE " + only + ")"
	}
	switch m.fn {
	case "rows":
		switch t.counting {
		case "key":
			return call("count", q(m.of))
		case "one":
			return call("count", "1")
		}
		return call("count", "*")
	case "distinct":
		return call("count", "DISTINCT "+q(m.of))
	case "ratio":
		return call("sum", argument(m, q)) + " / " + call("sum", q(m.per))
	case "meanratio":
		return call("avg", "("+argument(m, q)+") / "+q(m.per))
	case "share":
		return t.share(m, q)
	}
	return call(m.fn, argument(m, q))
}

// share is the part of the rows that meet a condition.
func (t writer) share(m measure, q naming) string {
	when := t.condition(*m.when, q)
	switch t.parts {
	case "case":
		return "sum(CASE WHEN " + when + " THEN 1 ELSE 0 END) * 1.0 / count(*)"
	case "mean":
		return "avg(CASE WHEN " + when + " THEN 1.0 ELSE 0.0 END)"
	}
	return "count(*) FILTER (WHERE " + when + ") * 1.0 / count(*)"
}
