package main

import (
	"fmt"
	"slices"
	"strings"
)

// allForm writes one row for each parent.
func (t writer) allForm() string {
	child := t.joins[0]
	keys, shown := t.shownKeys(t.q)
	tie := t.tie(child)
	conds := t.conditions(t.where, t.q)
	group := " GROUP BY " + strings.Join(keys, ", ")
	parent, rows := t.tableAs(t.root), t.tableAs(child.role)
	joined := " LEFT JOIN "
	if !child.outer {
		joined = " JOIN "
	}
	m := t.shows[0]
	whole := t.whole
	if t.late || t.stars || whole == "scalar" && !child.outer {
		whole = "left"
	}
	name := " AS " + t.measureName(0)
	switch whole {
	case "scalar":
		value := "(SELECT " + t.measured(m, t.q, "", false) + " FROM " + rows + clause("WHERE", append([]string{tie}, conds...)) + ")"
		return "SELECT " + t.items(append(shown, value+name)) + " FROM " + parent
	case "pre":
		fk := t.q(column{child.role, child.with})
		plain := m
		plain.zero = false
		inner := "SELECT " + fk + " AS tie, " + t.measured(plain, t.q, "", false) + " AS part FROM " + rows + clause("WHERE", conds) +
			" GROUP BY " + fk
		value := "sums.part"
		if m.zero || m.fn == "rows" && child.outer {
			value = "coalesce(sums.part, 0)"
		}
		return "WITH sums AS (" + inner + ") SELECT " + t.items(append(shown, value+name)) + " FROM " + parent + joined +
			"sums ON sums.tie = " + t.q(column{t.root, child.column})
	case "filter":
		if child.outer && len(conds) > 0 {
			counted := t
			counted.counting = "key"
			value := counted.measured(m, t.q, strings.Join(conds, " AND "), t.parts != "filter")
			return "SELECT " + t.items(append(shown, value+name)) + " FROM " + parent + joined + rows + " ON " + tie + group
		}
	case "derived":
		bare := t
		bare.bare = true
		rows = "(SELECT * FROM " + t.tables[child.role] + clause("WHERE", bare.conditions(t.where, bare.q)) + ") " + t.aliasOf(child.role)
		conds = nil
	}
	counted := t
	counted.counting = "key"
	if t.stars {
		counted.counting = "star"
	}
	shown = append(shown, counted.measured(m, t.q, "", false)+name)
	on, where := append([]string{tie}, conds...), []string(nil)
	if t.late {
		on, where = on[:1], conds
	}
	return "SELECT " + t.items(shown) + " FROM " + parent + joined + rows + " ON " + strings.Join(on, " AND ") + clause("WHERE",
		where) + group
}

// nestedForm writes the mean over groups.
func (t writer) nestedForm() string {
	s := t.sourceOf()
	by := t.q(t.by)
	outer := t.shows[0].fn // avg, max, min or sum of the groups' numbers
	part := t.shows[1]
	name := " AS " + t.measureName(0)
	each := t.measured(part, t.q, "", false)
	where := clause("WHERE", s.where)
	if t.nearer == "ratio" { // each row in place of each group
		return s.with + "SELECT " + outer + "(" + argument(part, t.q) + ")" + name + " FROM " + s.from + where
	}
	switch {
	case t.whole == "division" && outer == "avg" && (part.fn == "sum" || part.fn == "rows") && t.guarded():
		return s.with + "SELECT " + each + " * 1.0 / count(DISTINCT " + by + ")" + name + " FROM " + s.from + where
	case t.whole == "window" && outer == "max":
		return s.with + "SELECT " + each + name + " FROM " + s.from + where + " GROUP BY " + by + " ORDER BY 1 DESC NULLS LAST LIMIT 1"
	case t.whole == "window":
		return s.with + "SELECT DISTINCT " + outer + "(" + each + ") OVER ()" + name + " FROM " + s.from + where + " GROUP BY " + by
	case t.whole == "cte" && s.with == "":
		return "WITH each_one AS (SELECT " + by + " AS who, " + each + " AS part FROM " + s.from + where +
			" GROUP BY 1) SELECT " + outer +
			"(part)" + name + " FROM each_one"
	}
	return s.with + "SELECT " + outer + "(x.part)" + name + " FROM (SELECT " + by + ", " + each + " AS part FROM " + s.from + where +
		" GROUP BY " + by + ") x"
}

// guarded tells whether the group of a nested number is never null: a condition says so.
func (t writer) guarded() bool {
	return slices.ContainsFunc(t.where, func(c condition) bool { return c.on == t.by && c.op == "notnull" })
}

// greatestForm writes the rows with the largest value of each group.
func (t writer) greatestForm() string {
	s := t.sourceOf()
	var shown, names []string
	for i, c := range t.shown {
		names = append(names, fmt.Sprintf("c%d", i+1))
		if t.labelled {
			names[i] = t.col(c)
		}
		shown = append(shown, t.q(c)+" AS "+names[i])
	}
	where := clause("WHERE", s.where)
	window := "OVER (PARTITION BY " + t.q(t.by) + " ORDER BY " + t.q(t.no) + " " + t.order + " NULLS LAST)"
	extreme := map[string]string{"desc": "max", "asc": "min"}[t.order]
	switch {
	case t.whole == "rank":
		return s.with + "SELECT " + t.items(names) + " FROM (SELECT " + strings.Join(shown, ", ") + ", rank() " + window +
			" AS place FROM " +
			s.from + where + ") r WHERE place = 1"
	case t.whole == "max" && s.with == "":
		inner := t
		inner.alias = "tables"
		if t.alias == "tables" {
			break
		}
		conds := append(inner.conditions(t.where, inner.q), inner.q(t.by)+" = "+t.q(t.by))
		return "SELECT " + t.items(shown) + " FROM " + s.from + clause("WHERE", append(s.where, t.q(t.no)+" = (SELECT "+extreme+"("+
			inner.q(t.no)+") FROM "+t.tables[t.root]+clause("WHERE", conds)+")"))
	case t.whole == "join" && s.with == "":
		best := "WITH best AS (SELECT " + t.q(t.by) + " AS grp, " + extreme + "(" + t.q(t.no) + ") AS top FROM " + s.from + where +
			" GROUP BY 1) "
		return best + "SELECT " + t.items(shown) + " FROM " + s.from + " JOIN best ON best.grp = " + t.q(t.by) + " AND best.top = " +
			t.q(t.no) + where
	}
	return s.with + "SELECT " + t.items(shown) + " FROM " + s.from + where + " QUALIFY rank() " + window + " = 1"
}

// aboveForm counts the rows above the mean.
func (t writer) aboveForm() string {
	s := t.sourceOf()
	var shown []string
	for i, m := range t.shows {
		shown = append(shown, t.measured(m, t.q, "", false)+" AS "+t.measureName(i))
	}
	inner := t
	inner.alias = "tables"
	where := inner.conditions(t.where, inner.q)
	if t.alone {
		where = nil
	}
	mean := "(SELECT avg(" + inner.q(t.no) + ") FROM " + t.tables[t.root] + clause("WHERE", where) + ")"
	x := t.q(t.no)
	switch {
	case t.whole == "cte" && s.with == "":
		return "WITH mean AS (SELECT avg(" + inner.q(t.no) + ") AS m FROM " + t.tables[t.root] + clause("WHERE", where) + ") SELECT " +
			t.items(shown) + " FROM " + s.from + clause("WHERE", append(s.where, x+" > (SELECT m FROM mean)"))
	case t.whole == "cross":
		return "SELECT " + t.items(shown) + " FROM " + s.from + " CROSS JOIN " + mean + " mean(m)" +
			clause("WHERE", append(s.where, x+" > mean.m"))
	case t.whole == "window" && !t.alone:
		over := s
		over.from = "(SELECT *, avg(" + bareOf(t, t.no) + ") OVER () AS mean_of_all FROM " + t.tables[t.root] + clause("WHERE",
			bareConditions(t)) + ") " + t.aliasOf(t.root)
		over.where = []string{x + " > mean_of_all"}
		return "SELECT " + t.items(shown) + " FROM " + over.from + clause("WHERE", over.where)
	}
	return s.with + "SELECT " + t.items(shown) + " FROM " + s.from + clause("WHERE", append(s.where, x+" > "+mean))
}

func bareOf(t writer, c column) string { return t.col(c) }

func bareConditions(t writer) []string {
	bare := t
	bare.bare = true
	return bare.conditions(t.where, bare.q)
}
