package main

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// additive tells measures that can be summed up from parts.
func (t writer) additive() bool {
	return !slices.ContainsFunc(t.shows, func(m measure) bool {
		return m.fn != "sum" && m.fn != "rows" || m.scale != "" || m.digits != "" || m.zero
	})
}

// totalForm writes one row of numbers, or one for each group.
func (t writer) totalForm() string {
	switch {
	case t.whole == "inside" && len(t.keys) == 0 && len(t.semis) == 0 && !slices.ContainsFunc(t.shows, func(m measure) bool {
		return strings.HasSuffix(m.fn, "ratio") || m.fn == "share"
	}):
		return t.inside()
	case t.whole == "flat" || t.whole == "flatcte":
		return t.flat(t.sourceOf(), nil)
	case t.whole == "pre" && t.canPre():
		return t.pre()
	case t.whole == "window" && len(t.keys) > 0 && t.having == nil && t.limit == 0 && t.order == "":
		return t.windowed()
	case t.whole == "union" && t.additive() && len(t.keys) > 0:
		if i := slices.IndexFunc(t.where, func(c condition) bool { return c.op == "in" && c.on.role == t.root }); i >= 0 {
			return t.union(i)
		}
	}
	return t.plainTotal()
}

func (t writer) plainTotal() string {
	s := t.sourceOf()
	keys, shown := t.shownKeys(t.q)
	for i, m := range t.shows {
		shown = append(shown, t.measured(m, t.q, "", false)+" AS "+t.measureName(i))
	}
	return t.grouped(s.with, shown, s.from+clause("WHERE", s.where), keys, func(m measure) string {
		return t.measured(m, t.q, "",
			false)
	})
}

// shownKeys are the group keys, bare and with their names.
func (t writer) shownKeys(q naming) (keys, shown []string) {
	for i, k := range t.keys {
		keys = append(keys, keyText(k, q))
		shown = append(shown, keyText(k, q)+" AS "+t.keyName(i))
	}
	return keys, shown
}

// grouped puts a grouped query together: its groups, its condition on them, its order and its limit.
func (t writer) grouped(with string, shown []string, from string, keys []string, measured func(measure) string) string {
	head := with + "SELECT " + t.items(shown) + " FROM " + from
	group := ""
	if len(keys) > 0 {
		group = " GROUP BY " + t.groupList(keys, len(shown))
	}
	having := ""
	if t.having != nil {
		if t.whole == "outer" {
			return t.filtered(head+group, *t.having)
		}
		having = " HAVING " + measured(t.shows[0]) + " " + t.having.op + " " + t.having.values[0]
	}
	return t.cut(head, group+having, keys, measured)
}

func (t writer) groupList(keys []string, shown int) string {
	switch {
	case t.groups == "all":
		return "ALL"
	case t.groups == "position" && !t.reversed && shown > 0:
		var out []string
		for i := range keys {
			out = append(out, strconv.Itoa(i+1))
		}
		return strings.Join(out, ", ")
	}
	return strings.Join(keys, ", ")
}

// filtered writes the condition on groups around the query.
func (t writer) filtered(inner string, c condition) string {
	out := "SELECT * FROM (" + inner + ") g WHERE " + t.measureName(0) + " " + c.op + " " + c.values[0]
	if t.order != "" {
		out += " ORDER BY " + t.measureName(0) + " " + t.order
	}
	if t.limit > 0 {
		out += fmt.Sprintf(" LIMIT %d", t.limit)
	}
	return out
}

// cut writes order and limit.
func (t writer) cut(head, tail string, keys []string, measured func(measure) string) string {
	if t.order == "" {
		return head + tail
	}
	order := measured(t.shows[0]) + " " + t.order + " NULLS LAST"
	for _, k := range keys {
		order += ", " + k
	}
	switch {
	case t.limit == 0:
		return head + tail + " ORDER BY " + order
	case t.top == "qualify":
		return head + tail + fmt.Sprintf(" QUALIFY row_number() OVER (ORDER BY %s) <= %d", order, t.limit) + " ORDER BY " + order
	case t.top == "rank" && !t.reversed:
		names := []string{}
		for i := range t.keys {
			names = append(names, t.keyName(i))
		}
		for i := range t.shows {
			names = append(names, t.measureName(i))
		}
		from := strings.Index(head, " FROM ")
		if strings.HasPrefix(head, "WITH") {
			break
		}
		return "SELECT " + strings.Join(names, ", ") + " FROM (" + head[:from] + ", row_number() OVER (ORDER BY " + order + ") AS place" +
			head[from:] + tail + fmt.Sprintf(") r WHERE place <= %d ORDER BY place", t.limit)
	}
	return head + tail + " ORDER BY " + order + fmt.Sprintf(" LIMIT %d", t.limit)
}

// inside writes the conditions into the aggregates.
func (t writer) inside() string {
	read, only := t.split()
	from, ties := t.from("", read)
	var conds []condition
	for _, c := range t.where {
		if !slices.ContainsFunc(only, func(j join) bool { return j.role == c.on.role }) {
			conds = append(conds, c)
		}
	}
	all := strings.Join(t.conditions(conds, t.q), " AND ")
	var shown []string
	for i, m := range t.shows {
		shown = append(shown, t.measured(m, t.q, all, t.parts != "filter")+" AS "+t.measureName(i))
	}
	return "SELECT " + t.items(shown) + " FROM " + from + clause("WHERE", append(ties, t.rest(only)...))
}

// flat reads all columns that are needed into a subquery first.
func (t writer) flat(s source, extra []string) string {
	var columns []string
	names := map[column]string{}
	inner := func(c column) string {
		if _, known := names[c]; !known {
			names[c] = t.col(c)
			for _, other := range columns {
				if strings.HasSuffix(other, " AS "+names[c]) {
					names[c] = strings.ToLower(c.role) + "_" + t.col(c)
				}
			}
			columns = append(columns, t.q(c)+" AS "+names[c])
		}
		return names[c]
	}
	outer := func(c column) string { return inner(c) }
	keys, shown := t.shownKeys(outer)
	for i, m := range t.shows {
		shown = append(shown, t.measured(m, outer, "", false)+" AS "+t.measureName(i))
	}
	if len(columns) == 0 {
		columns = []string{"1 AS one"}
	}
	body := "SELECT " + strings.Join(append(columns, extra...), ", ") + " FROM " + s.from + clause("WHERE", s.where)
	measured := func(m measure) string { return t.measured(m, outer, "", false) }
	if t.whole == "flatcte" {
		return t.grouped("WITH base AS ("+body+") ", shown, "base", keys, measured)
	}
	return t.grouped("", shown, "("+body+") base", keys, measured)
}

// canPre tells whether the numbers can be added up by a foreign key first: all keys are of one parent, all else is of the root.
func (t writer) canPre() bool {
	if len(t.joins) != 1 || t.joins[0].outer || len(t.keys) == 0 || !t.additive() || t.having != nil || t.order != "" {
		return false
	}
	parent := t.joins[0]
	for _, k := range t.keys {
		if k.on.role != parent.role || k.part != "" {
			return false
		}
	}
	for _, m := range t.shows {
		if m.of.role != t.root {
			return false
		}
	}
	return !slices.ContainsFunc(t.semis, func(s semi) bool { return s.asJoin })
}

// pre adds up by the foreign key, and then by what is asked.
func (t writer) pre() string {
	parent := t.joins[0]
	var own, others []condition
	for _, c := range t.where {
		if c.on.role == t.root {
			own = append(own, c)
		} else {
			others = append(others, c)
		}
	}
	fk := t.q(column{t.root, parent.column})
	parts := []string{fk + " AS tie"}
	for i, m := range t.shows {
		parts = append(parts, t.measured(m, t.q, "", false)+fmt.Sprintf(" AS part%d", i))
	}
	where := append(t.conditions(own, t.q), t.rest(nil)...)
	inner := "SELECT " + strings.Join(parts, ", ") + " FROM " + t.tableAs(t.root) + clause("WHERE", where) + " GROUP BY " + fk
	keys, shown := t.shownKeys(t.q)
	for i := range t.shows {
		shown = append(shown, fmt.Sprintf("sum(sums.part%d) AS %s", i, t.measureName(i)))
	}
	from := "sums JOIN " + t.tableAs(parent.role) + " ON " + t.q(column{parent.role, parent.with}) + " = sums.tie"
	return "WITH sums AS (" + inner + ") SELECT " + t.items(shown) + " FROM " + from + clause("WHERE", t.conditions(others, t.q)) +
		" GROUP BY " + strings.Join(keys, ", ")
}

// windowed writes windows in place of groups.
func (t writer) windowed() string {
	s := t.sourceOf()
	keys, shown := t.shownKeys(t.q)
	over := " OVER (PARTITION BY " + strings.Join(keys, ", ") + ")"
	for i, m := range t.shows {
		text := t.aggregate(m, t.q, "", false)
		if strings.Contains(text, ") / ") || strings.Contains(text, ") FILTER") {
			return t.plainTotal()
		}
		shown = append(shown, dressed(m, text+over)+" AS "+t.measureName(i))
	}
	return "SELECT DISTINCT " + t.items(shown) + " FROM " + s.from + clause("WHERE", s.where)
}

// union reads the rows of each accepted value by itself.
func (t writer) union(at int) string {
	values := t.where[at].values
	var branches []string
	names := []string{}
	for _, v := range values {
		one := t
		one.where = slices.Clone(t.where)
		one.where[at] = condition{on: t.where[at].on, op: "=", values: []string{v}}
		s := one.sourceOf()
		keys, _ := t.shownKeys(t.q)
		var shown []string
		for i, k := range keys {
			shown = append(shown, fmt.Sprintf("%s AS k%d", k, i))
		}
		for i, m := range t.shows {
			shown = append(shown, fmt.Sprintf("%s AS m%d", t.measured(m, t.q, "", false), i))
		}
		branches = append(branches, s.with+"SELECT "+strings.Join(shown, ", ")+" FROM "+s.from+clause("WHERE", s.where)+" GROUP BY "+
			strings.Join(keys, ", "))
	}
	var shown []string
	for i := range t.keys {
		names = append(names, fmt.Sprintf("k%d", i))
		shown = append(shown, fmt.Sprintf("k%d AS %s", i, t.keyName(i)))
	}
	for i := range t.shows {
		shown = append(shown, fmt.Sprintf("sum(m%d) AS %s", i, t.measureName(i)))
	}
	measured := func(m measure) string {
		i := slices.IndexFunc(t.shows, func(o measure) bool { return o.name == m.name })
		return fmt.Sprintf("sum(m%d)", i)
	}
	return t.grouped("", shown, "("+strings.Join(branches, " UNION ALL ")+") u", names, measured)
}
