package pocket

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"

	"tovrel/core/briefing"
	"tovrel/core/profile"
)

func quote(name string) string {
	if plainName.MatchString(name) {
		return name
	}
	return `"` + strings.ReplaceAll(name, `"`, `""`) + `"`
}

var plainName = regexp.MustCompile(`^[a-z_][a-z0-9_]*$`)

// step is a join between two tables.
type step struct{ from, fromColumn, to, toColumn string }

// steps are the joins that are told, both ways round.
func (p *reader) steps() []step {
	var out []step
	for _, j := range p.r.Dataset.Joins {
		if from, to, ok := profile.ParseJoin(j); ok {
			out = append(out, step{from.Table, from.Column, to.Table, to.Column}, step{to.Table, to.Column, from.Table, from.Column})
		}
	}
	return out
}

// path is the shortest way along told joins from one table to another; none where there is none.
func (p *reader) path(from, to *briefing.ToldTable) []step {
	if from == nil || to == nil {
		return nil
	}
	type place struct {
		table string
		way   []step
	}
	seen := map[string]bool{from.Name: true}
	for queue := []place{{from.Name, nil}}; len(queue) > 0; queue = queue[1:] {
		for _, s := range p.steps() {
			if s.from != queue[0].table || seen[s.to] {
				continue
			}
			way := append(append([]step(nil), queue[0].way...), s)
			if s.to == to.Name {
				return way
			}
			seen[s.to] = true
			queue = append(queue, place{s.to, way})
		}
	}
	return nil
}

// write writes the query, with the mistakes of some quirks; "" where nothing was understood.
func (p *reader) write(quirks map[string]bool) string {
	if p.base == nil {
		return ""
	}
	if quirks[GrossForNet] && len(p.measures) == 1 {
		p.measures[0] = firstAmount(p.base, p.measures[0])
	}
	if p.absent && p.subject != nil && p.subject != p.base && !quirks[InnerJoin] {
		return p.writeAbsent(quirks)
	}
	groups := p.timed(p.groups)
	var items []string
	items = append(items, groups...)
	amount := p.amounts(quirks)
	items = append(items, amount...)
	zeros := p.zeros && p.subject != nil && p.subject != p.base && !quirks[InnerJoin]
	conditions := append(append([]string(nil), p.where...), p.periods(quirks)...)
	from := p.from()
	if zeros {
		from, conditions = p.fromAll(conditions)
		key := p.path(p.subject, p.base)
		if len(key) > 0 && len(amount) == 1 && strings.HasPrefix(amount[0], "count(*)") {
			items[len(items)-1] = "count(" + quote(p.base.Name) + "." + quote(key[len(key)-1].toColumn) + ") AS n"
		}
	}
	sql := "SELECT " + strings.Join(items, ", ") + " FROM " + from
	if len(conditions) > 0 {
		sql += " WHERE " + strings.Join(conditions, " AND ")
	}
	if len(groups) > 0 {
		var places []string
		for i := range groups {
			places = append(places, fmt.Sprint(i+1))
		}
		sql += " GROUP BY " + strings.Join(places, ", ")
	}
	return p.literals(sql+p.order(len(groups)), quirks)
}

// order is the end of a query of so many groups.
func (p *reader) order(groups int) string {
	switch {
	case p.ranked && groups > 0:
		direction := "DESC"
		if p.lowest {
			direction = "ASC"
		}
		return fmt.Sprintf(" ORDER BY %d %s LIMIT %d", groups+1, direction, p.top)
	case groups > 0:
		return " ORDER BY 1"
	}
	return ""
}

// literals writes codes as they are, or in the wrong case.
func (p *reader) literals(sql string, quirks map[string]bool) string {
	return codeMark.ReplaceAllStringFunc(sql, func(literal string) string {
		literal = strings.TrimPrefix(literal, "%code")
		if quirks[LiteralCase] {
			if upper := strings.ToUpper(literal); upper != literal {
				return upper
			}
			return strings.ToLower(literal)
		}
		return literal
	})
}

var codeMark = regexp.MustCompile(`%code'(?:[^']|'')*'`)

// amounts are the measured items.
func (p *reader) amounts(quirks map[string]bool) []string {
	switch {
	case p.ratio != nil:
		return []string{fmt.Sprintf("count(*) FILTER (WHERE %s.%s = %%code'%s') * 1.0 / count(*) AS share",
			quote(p.ratio.table.Name), quote(p.ratio.column.Name), p.ratio.value)}
	case p.distinct != nil:
		distinct := "DISTINCT "
		if quirks[NoDistinct] {
			distinct = ""
		}
		return []string{"count(" + distinct + p.qualified(p.distinct) + ") AS n"}
	case len(p.measures) == 0 && p.absent:
		return nil
	case len(p.measures) == 0:
		return []string{"count(*) AS n"}
	}
	var items []string
	for _, m := range p.measures {
		items = append(items, fmt.Sprintf("%s(%s) AS %s", p.sum, p.qualified(m), quote(m.Name)))
	}
	return items
}

func (p *reader) qualified(c *briefing.ToldColumn) string {
	for i := range p.r.Dataset.Tables {
		for j := range p.r.Dataset.Tables[i].Columns {
			if &p.r.Dataset.Tables[i].Columns[j] == c {
				return quote(p.r.Dataset.Tables[i].Name) + "." + quote(c.Name)
			}
		}
	}
	return quote(c.Name)
}

// firstAmount is the first measure of a table in the unit of another: gross where net was asked.
func firstAmount(t *briefing.ToldTable, asked *briefing.ToldColumn) *briefing.ToldColumn {
	for i := range t.Columns {
		if isMeasure(&t.Columns[i]) && t.Columns[i].Unit == asked.Unit {
			return &t.Columns[i]
		}
	}
	return asked
}

// timeColumn is the base table's time: the one asked for by name, else the first.
func (p *reader) timeColumn() string {
	if p.timeOf != nil {
		return p.qualified(p.timeOf)
	}
	for _, t := range p.found { // a verb that means a column, such as "came back"
		if t.column != nil && t.table == p.base && isTime(t.column) {
			return p.qualified(t.column)
		}
	}
	for i := range p.base.Columns {
		if isTime(&p.base.Columns[i]) {
			return p.qualified(&p.base.Columns[i])
		}
	}
	return ""
}

func (p *reader) timed(expressions []string) []string {
	var out []string
	for _, e := range expressions {
		if strings.Contains(e, "%time") {
			if p.timeColumn() == "" {
				continue
			}
			e = strings.ReplaceAll(e, "%time", p.timeColumn())
		}
		out = append(out, e)
	}
	return out
}

var endOfRange = regexp.MustCompile(`^%s < DATE '(\d{4}-\d{2}-\d{2})'$`)

// periods are the conditions on time.
func (p *reader) periods(quirks map[string]bool) []string {
	column := p.timeColumn()
	if column == "" {
		return nil
	}
	var out []string
	for _, c := range p.period {
		if m := endOfRange.FindStringSubmatch(c); m != nil && quirks[Boundary] {
			c = "%s <= DATE '" + m[1] + "' - 1" // the last day's own hours are left out
		}
		out = append(out, strings.ReplaceAll(c, "%s", column))
	}
	return out
}

// from joins the tables that are needed to the base.
func (p *reader) from() string {
	var sql strings.Builder
	sql.WriteString(quote(p.base.Name))
	have := map[string]bool{p.base.Name: true}
	names := slices.Sorted(maps.Keys(p.joined))
	for _, name := range names {
		for _, s := range p.path(p.base, p.table(name)) {
			if !have[s.to] {
				have[s.to] = true
				sql.WriteString(fmt.Sprintf(" JOIN %s ON %s.%s = %s.%s", quote(s.to), quote(s.from), quote(s.fromColumn), quote(s.to),
					quote(s.toColumn)))
			}
		}
	}
	return sql.String()
}

// fromAll begins with the things that are grouped by, so that those without any stay; what limits the rows that are counted goes
// into the join.
func (p *reader) fromAll(conditions []string) (from string, where []string) {
	way := p.path(p.subject, p.base)
	if len(way) != 1 {
		return p.from(), conditions
	}
	s := way[0]
	on := []string{fmt.Sprintf("%s.%s = %s.%s", quote(s.from), quote(s.fromColumn), quote(s.to), quote(s.toColumn))}
	for _, c := range conditions {
		if strings.Contains(c, quote(p.base.Name)+".") {
			on = append(on, c)
		} else {
			where = append(where, c)
		}
	}
	return fmt.Sprintf("%s LEFT JOIN %s ON %s", quote(p.subject.Name), quote(p.base.Name), strings.Join(on, " AND ")), where
}

// writeAbsent lists the things without any.
func (p *reader) writeAbsent(quirks map[string]bool) string {
	way := p.path(p.subject, p.base)
	if len(way) != 1 {
		return ""
	}
	s := way[0]
	inside := append([]string{fmt.Sprintf("%s.%s = %s.%s", quote(s.to), quote(s.toColumn), quote(s.from), quote(s.fromColumn))},
		append(p.where, p.periods(quirks)...)...)
	label := quote(p.subject.Name) + "." + quote(labelOf(p.subject).Name)
	return p.literals(fmt.Sprintf("SELECT %s FROM %s WHERE NOT EXISTS (SELECT 1 FROM %s WHERE %s) ORDER BY 1", label,
		quote(s.from), quote(s.to), strings.Join(inside, " AND ")), quirks)
}
