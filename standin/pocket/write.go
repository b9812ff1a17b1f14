package pocket

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/briefing"
)

// write writes the query, with the mistakes of some quirks; "" where nothing was understood.
func (p *reader) write(quirks map[string]bool) string {
	if p.base == nil || p.beyond() {
		return ""
	}
	if quirks[GrossForNet] && len(p.measures) == 1 {
		unit := p.measures[0].column.Unit
		if amount, found := first(p.base, func(f field) bool { return f.measure() && f.column.Unit == unit }); found {
			p.measures[0] = amount
		}
	}
	conditions := p.conditions(quirks)
	var keys []string
	if clock, ok := p.clock(); ok && p.unit != "" {
		keys = append(keys, fmt.Sprintf("%s(%s)", p.unit, clock))
	}
	for _, g := range p.groups {
		keys = append(keys, g.String())
	}
	from, where := p.from(conditions, quirks)
	sql := "SELECT " + strings.Join(append(slices.Clone(keys), p.amounts(quirks)...), ", ") + " FROM " + from
	if len(where) > 0 {
		sql += " WHERE " + strings.Join(where, " AND ")
	}
	if len(keys) == 0 {
		return sql
	}
	places := make([]string, len(keys))
	for i := range keys {
		places[i] = fmt.Sprint(i + 1)
	}
	sql += " GROUP BY " + strings.Join(places, ", ")
	switch {
	case p.absent && p.subject != nil:
		return sql + " HAVING " + p.counted() + " = 0 ORDER BY 1"
	case p.top > 0:
		return fmt.Sprintf("%s ORDER BY %d %s LIMIT %d", sql, len(keys)+1, map[bool]string{true: "ASC", false: "DESC"}[p.lowest], p.top)
	}
	return sql + " ORDER BY 1"
}

// limit is a condition as it is written, with the table that it is about.
type limit struct {
	table *briefing.ToldTable
	sql   string
}

// conditions are what limits the rows: what the question names, and its period.
func (p *reader) conditions(quirks map[string]bool) []limit {
	var out []limit
	for _, c := range p.where {
		if c.table != p.base && len(p.path(p.base, c.table)) == 0 {
			continue
		}
		sql := c.String() + " " + c.test
		if c.code != "" {
			sql += " '" + strings.ReplaceAll(literal(c.code, quirks), "'", "''") + "'"
		}
		out = append(out, limit{c.table, sql})
	}
	clock, ok := p.clock()
	if ok && p.span.from != "" {
		out = append(out, limit{table: p.base, sql: clock.String() + " >= " + p.span.from})
	}
	if ok && p.span.until != "" {
		until := " < " + p.span.until
		if quirks[Boundary] {
			until = " <= " + p.span.until + " - 1" // the last day's own hours are left out
		}
		out = append(out, limit{table: p.base, sql: clock.String() + until})
	}
	return out
}

// literal is a code as it is, or in the wrong case.
func literal(code string, quirks map[string]bool) string {
	switch upper := strings.ToUpper(code); {
	case !quirks[LiteralCase]:
		return code
	case upper != code:
		return upper
	}
	return strings.ToLower(code)
}

// clock is the base's time: the one that is named, such as by its verb, else its first.
func (p *reader) clock() (field, bool) {
	for _, t := range p.found {
		if t.column != nil && t.table == p.base && t.time() {
			return t.field, true
		}
	}
	return first(p.base, field.time)
}

// amounts are the measured items.
func (p *reader) amounts(quirks map[string]bool) []string {
	switch {
	case p.absent && p.subject != nil:
		return nil
	case p.distinct != nil && quirks[NoDistinct]:
		return []string{"count(" + p.distinct.String() + ") AS n"}
	case p.distinct != nil:
		return []string{"count(DISTINCT " + p.distinct.String() + ") AS n"}
	}
	if len(p.measures) == 0 {
		return []string{p.counted() + " AS n"}
	}
	var items []string
	for _, m := range p.measures {
		items = append(items, fmt.Sprintf("%s(%s) AS %s", p.aggregate, m, quote(m.column.Name)))
	}
	return items
}

// counted counts the base's rows; where those without any are kept, what refers to them.
func (p *reader) counted() string {
	if p.subject == nil {
		return "count(*)"
	}
	way := p.path(p.subject.table, p.base)
	return "count(" + way[len(way)-1].to.String() + ")"
}

// from joins the tables that are needed, and gives the conditions that stay for the rows. Where those without any are kept, the
// query begins with them, and what limits the rows that are counted goes into the join.
func (p *reader) from(conditions []limit, quirks map[string]bool) (from string, where []string) {
	start, join := p.base, " JOIN "
	needed := []*briefing.ToldTable{p.base}
	outer := p.subject != nil && !quirks[InnerJoin]
	if outer {
		start, join = p.subject.table, " LEFT JOIN "
	}
	var inside string
	for _, c := range conditions {
		needed = append(needed, c.table)
		switch {
		case outer && c.table != start:
			inside += " AND " + c.sql
		default:
			where = append(where, c.sql)
		}
	}
	for _, g := range p.groups {
		needed = append(needed, g.table)
	}
	sql, have := quote(start.Name), []*briefing.ToldTable{start}
	for _, t := range needed {
		for _, s := range p.path(start, t) {
			if slices.Contains(have, s.to.table) {
				continue
			}
			have = append(have, s.to.table)
			sql += fmt.Sprintf("%s%s ON %s = %s", join, quote(s.to.table.Name), s.from, s.to)
			if s.to.table == p.base {
				sql += inside
			}
		}
	}
	return sql, where
}
