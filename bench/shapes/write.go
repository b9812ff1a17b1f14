package main

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// write writes an ask on a world in a style.
func write(w *world, a ask, s style) string {
	t := writer{world: w, ask: a, style: s}
	switch a.form {
	case all:
		return t.allForm()
	case list:
		return t.listForm()
	case nested:
		return t.nestedForm()
	case greatest:
		return t.greatestForm()
	case above:
		return t.aboveForm()
	}
	return t.totalForm()
}

func (t writer) keyName(i int) string {
	if t.labelled {
		return t.keys[i].name
	}
	return "k" + strconv.Itoa(i+1)
}

func (t writer) measureName(i int) string {
	if t.labelled {
		return t.shows[i].name
	}
	return []string{"value", "result", "third"}[i%3]
}

// split parts the joins into those that are read for more than conditions, and the others, which this style may write as subqueries.
func (t writer) split() (read, only []join) {
	for _, j := range t.joins {
		wanted := slices.ContainsFunc(t.where, func(c condition) bool { return c.on.role == j.role })
		if t.only != "join" && !j.outer && wanted && !t.uses(j.role) && j.to == t.root {
			only = append(only, j)
		} else {
			read = append(read, j)
		}
	}
	return read, only
}

// from writes FROM, and the conditions that commas leave to WHERE. Root is what stands for the root's table; "" for itself.
func (t writer) from(root string, joins []join) (string, []string) {
	comma := t.join == "comma" && !slices.ContainsFunc(joins, func(j join) bool { return j.outer })
	out := root
	if out == "" {
		out = t.tableAs(t.root)
	}
	var conditions []string
	for _, j := range joins {
		tie := t.tie(j)
		switch {
		case comma:
			out += ", " + t.tableAs(j.role)
			conditions = append(conditions, tie)
		case j.outer:
			out += " LEFT JOIN " + t.tableAs(j.role) + " ON " + tie
		case t.join == "using" && t.usable(j):
			out += " JOIN " + t.tableAs(j.role) + " USING (" + t.col(column{j.role, j.with}) + ")"
		default:
			out += " JOIN " + t.tableAs(j.role) + " ON " + tie
		}
	}
	return out, conditions
}

func (t writer) tie(j join) string {
	return t.q(column{j.role, j.with}) + " = " + t.q(column{j.to, j.column})
}

// usable tells whether USING can tie two tables: the name is the same, and only those two have it.
func (t writer) usable(j join) bool {
	name := t.col(column{j.role, j.with})
	if name != t.col(column{j.to, j.column}) {
		return false
	}
	holders := 0
	for _, role := range roles {
		if (t.has(role) || role == j.role) && slices.Contains(t.columns[role], name) {
			holders++
		}
	}
	return holders == 2
}

// rest are the conditions that are no columns of the root's: of subqueries, and of existence.
func (t writer) rest(only []join) []string {
	var out []string
	for _, j := range only {
		inner := t
		inner.alias = "tables"
		var conds []condition
		for _, c := range t.where {
			if c.on.role == j.role {
				conds = append(conds, c)
			}
		}
		where := inner.conditions(conds, inner.q)
		key, mine := inner.q(column{j.role, j.with}), t.q(column{t.root, j.column})
		if t.only == "in" || t.alias == "tables" && t.root == j.role {
			out = append(out, mine+" IN (SELECT "+key+" FROM "+t.tables[j.role]+clause("WHERE", where)+")")
		} else {
			out = append(out, "EXISTS (SELECT 1 FROM "+t.tables[j.role]+clause("WHERE", append(where, key+" = "+mine))+")")
		}
	}
	for _, s := range t.semis {
		out = append(out, t.semi(s))
	}
	return out
}

// semi writes a condition of existence.
func (t writer) semi(s semi) string {
	if s.asJoin {
		return ""
	}
	inner := t
	inner.alias = "tables"
	where := inner.conditions(s.conds, inner.q)
	key, mine := inner.q(column{s.role, s.with}), t.q(column{s.to, s.column})
	table := t.tables[s.role]
	not := ""
	if s.not {
		not = "NOT "
	}
	switch {
	case t.exists == "in" || s.nulls:
		if s.not && !s.nulls {
			where = append(where, key+" IS NOT NULL")
		}
		out := mine + " " + not + "IN (SELECT " + key + " FROM " + table + clause("WHERE", where) + ")"
		if s.not && s.column != "key" && !s.nulls {
			return "(" + mine + " IS NULL OR " + out + ")"
		}
		return out
	case t.exists == "count":
		sign := " > 0"
		if s.not {
			sign = " = 0"
		}
		return "(SELECT count(*) FROM " + table + clause("WHERE", append(where, key+" = "+mine)) + ")" + sign
	case t.exists == "join" && !s.not:
		return mine + " IN (SELECT DISTINCT " + key + " FROM " + table + clause("WHERE", where) + ")"
	}
	return not + "EXISTS (SELECT 1 FROM " + table + clause("WHERE", append(where, key+" = "+mine)) + ")"
}

// source is a FROM with its conditions.
type source struct {
	with, from string
	where      []string
}

// sourceOf writes the rows that are counted, with their conditions where the style wants them.
func (t writer) sourceOf() source {
	read, only := t.split()
	for _, s := range t.semis {
		if s.asJoin {
			read = append(read, s.join)
		}
	}
	var own, others []condition
	for _, c := range t.where {
		switch {
		case slices.ContainsFunc(only, func(j join) bool { return j.role == c.on.role }):
		case c.on.role == t.root:
			own = append(own, c)
		default:
			others = append(others, c)
		}
	}
	for _, s := range t.semis {
		if s.asJoin {
			others = append(others, s.conds...)
		}
	}
	var out source
	root, alias := "", t.aliasOf(t.root)
	bare := t
	bare.bare = true
	switch t.whole {
	case "cte":
		out.with = "WITH picked AS (SELECT * FROM " + t.tables[t.root] + clause("WHERE", bare.conditions(own, bare.q)) + ") "
		root, own = "picked "+alias, nil
	case "derived":
		root = "(SELECT * FROM " + t.tables[t.root] + clause("WHERE", bare.conditions(own, bare.q)) + ") " + alias
		own = nil
	}
	from, ties := t.from(root, read)
	out.from = from
	out.where = slices.Concat(ties, t.conditions(own, t.q), t.conditions(others, t.q), t.rest(only))
	return out
}

// items joins what is shown; turned where the style says so.
func (t writer) items(all []string) string {
	if t.reversed {
		all = slices.Clone(all)
		slices.Reverse(all)
	}
	return strings.Join(all, ", ")
}

// listForm writes rows.
func (t writer) listForm() string {
	s := t.sourceOf()
	var shown []string
	for i, c := range t.shown {
		name := ""
		if !t.labelled {
			name = fmt.Sprintf(" AS c%d", i+1)
		}
		shown = append(shown, t.q(c)+name)
	}
	distinct := ""
	if t.unique {
		distinct = "DISTINCT "
	}
	return s.with + "SELECT " + distinct + t.items(shown) + " FROM " + s.from + clause("WHERE", s.where)
}
