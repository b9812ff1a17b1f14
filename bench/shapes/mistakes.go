package main

import (
	"fmt"
	"slices"
	"strings"
)

// mistake is a wrong ask with the codes that a fair expert gives it, the main one first.
type mistake struct {
	ask   ask
	name  string
	codes []string
}

// mistakes lists every mistake of the list that fits an ask.
func (w *world) mistakes(a ask) []mistake {
	var out []mistake
	for _, family := range []func(ask) []mistake{w.inConditions, w.inPeriods, w.inMeasures, w.inJoins, w.inExistence, w.inGroups,
		w.inForms} {
		out = append(out, family(a)...)
	}
	return out
}

// changed is a mistake made on a copy.
func changed(a ask, name string, codes string, change func(*ask)) mistake {
	c := a.copy()
	change(&c)
	return mistake{c, name, strings.Fields(codes)}
}

// needed tells conditions that only keep nulls out of groups.
func needed(a ask, c condition) bool { return a.form == nested && c.on == a.by }

func (w *world) inConditions(a ask) []mistake {
	var out []mistake
	add := func(name, codes string, change func(*ask)) { out = append(out, changed(a, name, codes, change)) }
	for i, c := range a.where {
		if needed(a, c) {
			continue
		}
		codes := "filter-missing"
		if c.op == "period" {
			codes += " time-window"
		} else if strings.HasSuffix(c.op, "null") {
			codes += " null-handling"
		}
		add("condition left out", codes, func(b *ask) { b.where = slices.Delete(b.where, i, i+1) })
		switch {
		case c.op == "=":
			other := w.otherText(c)
			add("other value", "filter-value", func(b *ask) { b.where[i].values = []string{other} })
			add("label for code", "filter-value", func(b *ask) { b.where[i].values = []string{otherCase(c.values[0])} })
			add("comparison turned", "filter-value", func(b *ask) { b.where[i].op = "<>" })
		case c.op == "in":
			add("alternative left out", "filter-value", func(b *ask) { b.where[i].op, b.where[i].values = "=", c.values[:1] })
		case strings.ContainsAny(c.op, "<>"):
			strict := map[string]string{">": ">=", ">=": ">", "<": "<=", "<=": "<"}[c.op]
			add("edge of a number", "boundary", func(b *ask) { b.where[i].op = strict })
			turned := map[string]string{">": "<", ">=": "<=", "<": ">", "<=": ">="}[c.op]
			add("bound turned", "filter-value boundary", func(b *ask) { b.where[i].op = turned })
			add("other bound", "filter-value boundary", func(b *ask) { b.where[i].values = []string{c.values[0] + "7"} })
		case c.op == "false":
			add("flag turned", "filter-value", func(b *ask) { b.where[i].op = "true" })
		}
	}
	if a.root == "E" || a.form == all || a.has("E") {
		for _, c := range w.conditionsOn(3) {
			if slices.ContainsFunc(a.where, func(o condition) bool { return o.on == c.on }) || c.op == "notnull" ||
				slices.ContainsFunc(a.shows, func(m measure) bool { return m.when != nil && m.when.on == c.on }) {
				continue
			}
			codes := "filter-extra"
			if c.op == "period" {
				codes += " time-window"
			}
			add("condition too many", codes, func(b *ask) { b.where = append(b.where, c) })
		}
	}
	return out
}

// otherText is another value of a condition's column.
func (w *world) otherText(c condition) string {
	from := map[string][]string{"status": w.statuses, "segment": w.segments, "group": w.groups, "item": w.items}[c.on.name]
	for _, v := range from {
		if quoted(v) != c.values[0] {
			return quoted(v)
		}
	}
	return quoted("unknown")
}

func otherCase(literal string) string {
	if upper := strings.ToUpper(literal); upper != literal {
		return upper
	}
	return strings.ToLower(literal)
}

func (w *world) inPeriods(a ask) []mistake {
	var out []mistake
	for i, c := range a.where {
		if c.op != "period" {
			continue
		}
		p, _ := periodOf(c.from, c.to)
		set := func(q period) func(*ask) {
			return func(b *ask) { b.where[i].from, b.where[i].to = q.bounds() }
		}
		out = append(out, changed(a, "last day lost", "boundary time-window", func(b *ask) { b.where[i].loses = true }),
			changed(a, "day too many", "boundary time-window", func(b *ask) { b.where[i].takes = true }),
			changed(a, "period before", "time-window", set(p.moved(-p.months))),
			changed(a, "other year", "time-window", set(p.moved(12))),
			changed(a, "other date", "time-window", func(b *ask) { b.where[i].on.name = "booked" }))
		if p.months < 12 {
			out = append(out, changed(a, "longer period", "time-window", set(period{p.from, p.months + 1})))
		} else {
			out = append(out, changed(a, "rolling year", "time-window", set(p.moved(-3))))
		}
	}
	return out
}

// numbersOf are the columns that can be taken for each other.
var numbersOf = map[string][]string{"E": {"amount", "fee", "qty"}, "L": {"cost", "pieces"}}

func (w *world) inMeasures(a ask) []mistake {
	var out []mistake
	if a.form == list || a.form == greatest {
		return nil
	}
	for i, m := range a.shows {
		add := func(name, codes string, change func(*measure)) {
			out = append(out, changed(a, name, codes, func(b *ask) { change(&b.shows[i]) }))
		}
		switch m.fn {
		case "sum", "avg", "max", "min":
			w.inSums(a, i, add)
		case "rows":
			if m.of.role == "E" && a.form != nested {
				add("rows for a sum", "aggregate-function wrong-measure", func(m *measure) { m.fn, m.of = "sum", column{"E", "qty"} })
				add("distinct too much", "distinct wrong-measure aggregate-function", func(m *measure) {
					m.fn, m.of = "distinct", column{"E", "party"}
				})
			}
		case "distinct":
			add("distinct left out", "distinct wrong-measure aggregate-function", func(m *measure) {
				m.fn, m.of.name = "rows", columnsOf[m.of.role][0]
			})
		case "ratio":
			add("mean of ratios", "ratio-of-averages", func(m *measure) { m.fn = "meanratio" })
			add("ratio of another", "wrong-measure", func(m *measure) { m.of.name = "fee" })
		case "share":
			w.inShares(m, add)
		}
		if m.digits != "" || m.fn == "avg" && a.form == total {
			add("rounded too far", "rounding", func(m *measure) { m.digits = "0" })
		}
		if m.zero {
			add("nulls for zeros", "null-handling", func(m *measure) { m.zero = false })
		}
	}
	return out
}

// adds takes down a mistake in one measure.
type adds func(name, codes string, change func(*measure))

func (w *world) inSums(a ask, i int, add adds) {
	m := a.shows[i]
	if a.form == nested && i == 0 {
		other := map[string]string{"avg": "max", "max": "avg"}[m.fn]
		add("other function over groups", "aggregate-function", func(m *measure) { m.fn = other })
		return
	}
	for _, other := range numbersOf[m.of.role] {
		if other != m.of.name && other != m.minus {
			add("other column", "wrong-measure", func(m *measure) { m.of.name, m.minus = other, "" })
		}
	}
	other := map[string]string{"sum": "avg", "avg": "sum", "max": "min", "min": "max"}[m.fn]
	add("other function", "aggregate-function", func(m *measure) { m.fn = other })
	if m.minus != "" {
		add("term left out", "formula wrong-measure", func(m *measure) { m.minus = "" })
		add("wrong sign", "formula", func(m *measure) { m.plus = true })
		if w.feeGaps {
			add("null in a term", "null-handling", func(m *measure) { m.cellZero = false })
		}
	}
	if i == 0 && a.having == nil {
		add("in thousands", "off-by-factor", func(m *measure) { m.scale = "0.001" })
	}
}

func (w *world) inShares(m measure, add adds) {
	other := w.otherText(*m.when)
	add("share of others", "filter-value formula", func(m *measure) {
		when := *m.when
		when.values = []string{other}
		m.when = &when
	})
	if m.scale == "" {
		add("percent for a part", "off-by-factor", func(m *measure) { m.scale = "100" })
	} else {
		add("part for a percent", "off-by-factor", func(m *measure) { m.scale = "" })
	}
}

func (w *world) inJoins(a ask) []mistake {
	var out []mistake
	if a.form == all {
		return []mistake{changed(a, "inner for outer join", "join-rows-lost", func(b *ask) { b.joins[0].outer = false }),
			changed(a, "condition behind the outer join", "join-rows-lost", func(b *ask) { b.late = true }),
			changed(a, "rows of an outer join counted", "null-handling aggregate-function join-rows-added",
				func(b *ask) { b.stars = true })}
	}
	for i, j := range a.joins {
		if j.role == "C" && w.orphans && a.uses("C") && !slices.ContainsFunc(a.where,
			func(c condition) bool { return c.on.role == "C" }) &&
			a.form == total && a.having == nil {
			out = append(out, changed(a, "outer for inner join", "join-rows-added", func(b *ask) { b.joins[i].outer = true }))
		}
		if j.to == "E" && (j.role == "C" || j.role == "P") {
			out = append(out, changed(a, "joined on another column", "join-key", func(b *ask) { b.joins[i].column = "key" }))
		}
		if j.role == "E" && a.root == "L" {
			out = append(out, changed(a, "joined on another column", "join-key", func(b *ask) { b.joins[i].column = "key" }))
		}
	}
	counted := len(a.shows) > 0 && (a.shows[0].fn == "sum" || a.shows[0].fn == "rows")
	if a.root == "E" && a.form == total && counted && !a.has("L") {
		out = append(out, changed(a, "child joined", "join-fan-out", func(b *ask) {
			b.joins = append(b.joins, join{role: "L", to: "E", column: "key", with: "event"})
		}))
	}
	return out
}

func (w *world) inExistence(a ask) []mistake {
	var out []mistake
	for i, s := range a.semis {
		out = append(out, changed(a, "existence left out", "filter-missing join-missing", func(b *ask) {
			b.semis = slices.Delete(b.semis, i, i+1)
		}), changed(a, "existence turned", "filter-value", func(b *ask) { b.semis[i].not = !s.not }))
		for j, c := range s.conds {
			codes := "filter-missing"
			if c.op == "period" {
				codes += " time-window"
			}
			out = append(out, changed(a, "condition of existence left out", codes, func(b *ask) {
				b.semis[i].conds = slices.Delete(b.semis[i].conds, j, j+1)
			}))
			if c.op == "period" {
				p, _ := periodOf(c.from, c.to)
				out = append(out, changed(a, "other period of existence", "time-window", func(b *ask) {
					b.semis[i].conds[j].from, b.semis[i].conds[j].to = p.moved(12).bounds()
				}))
			}
			if c.op == "=" {
				out = append(out, changed(a, "other value of existence", "filter-value", func(b *ask) {
					b.semis[i].conds[j].values = []string{w.otherText(c)}
				}))
			}
		}
		if !s.not && !a.unique {
			out = append(out, changed(a, "join for existence", "join-fan-out distinct", func(b *ask) { b.semis[i].asJoin = true }))
		}
		if s.not && s.with == "party" && w.orphans {
			out = append(out, changed(a, "NOT IN over nulls", "null-handling", func(b *ask) { b.semis[i].nulls = true }))
		}
	}
	return out
}

func (w *world) inGroups(a ask) []mistake {
	var out []mistake
	add := func(name, codes string, change func(*ask)) { out = append(out, changed(a, name, codes, change)) }
	coarse := map[column]column{{"K", "label"}: {"K", "group"}, {"P", "name"}: {"P", "district"}}
	codes := map[column]column{{"K", "label"}: {"K", "key"}, {"P", "name"}: {"P", "key"}}
	for i, k := range a.keys {
		if c, ok := coarse[k.on]; ok {
			add("coarser key", "group-key-missing label", func(b *ask) { b.keys[i].on = c })
			add("code for label", "label", func(b *ask) { b.keys[i].on = codes[k.on] })
		}
		for fine, c := range coarse {
			if c == k.on {
				add("finer key", "group-key-extra label", func(b *ask) { b.keys[i].on = fine })
			}
		}
		switch k.part {
		case "month":
			add("coarser period", "group-key-missing", func(b *ask) { b.keys[i].part = "year" })
		case "year":
			add("finer period", "group-key-extra", func(b *ask) { b.keys[i].part = "month" })
		}
		if k.part != "" {
			add("other date of the key", "time-window group-key-missing group-key-extra", func(b *ask) { b.keys[i].on.name = "booked" })
		}
	}
	if len(a.keys) > 1 {
		add("key left out", "group-key-missing column-missing", func(b *ask) { b.keys = b.keys[:1] })
	}
	if a.form == total && len(a.keys) > 0 && a.limit == 0 && a.having == nil && a.has("E") {
		extra := key{column{"E", "flag"}, "", "flagged"}
		if len(a.keys) == 1 && a.keys[0].on.name != "status" && a.root == "E" {
			extra = key{column{"E", "status"}, "", "state_of_it"}
		}
		add("key too many", "group-key-extra", func(b *ask) { b.keys = append(b.keys, extra) })
	}
	if a.having != nil {
		h := *a.having
		set := func(change func(*condition)) func(*ask) {
			return func(b *ask) { c := h; change(&c); b.having = &c }
		}
		add("condition on groups left out", "having filter-missing", func(b *ask) { b.having = nil })
		add("edge of a condition on groups", "having boundary", set(func(c *condition) {
			c.op = map[string]string{">": ">=", ">=": ">"}[c.op]
		}))
		add("other bound of groups", "having filter-value", set(func(c *condition) { c.values = []string{c.values[0] + "7"} }))
	}
	return out
}

func (w *world) inForms(a ask) []mistake {
	var out []mistake
	add := func(name, codes string, change func(*ask)) { out = append(out, changed(a, name, codes, change)) }
	if a.limit > 0 {
		add("fewer rows", "limit", func(b *ask) { b.limit-- })
		add("no limit", "limit", func(b *ask) { b.limit = 0 })
		add("smallest for largest", "wrong-order limit", func(b *ask) { b.order = "asc" })
	}
	switch a.form {
	case nested:
		if a.shows[0].fn == "avg" && a.shows[1].fn == "sum" {
			add("mean of rows", "group-key-missing aggregate-function formula ratio-of-averages", func(b *ask) { b.nearer = "ratio" })
		}
		add("other group", "group-key-missing group-key-extra", func(b *ask) {
			b.by.name = map[string]string{"party": "kind", "place": "party"}[a.by.name]
		})
	case greatest:
		add("smallest for largest", "wrong-order limit aggregate-function", func(b *ask) {
			b.order = map[string]string{"asc": "desc", "desc": "asc"}[a.order]
		})
		add("largest of another", "wrong-measure time-window", func(b *ask) {
			b.no.name = map[string]string{"amount": "qty", "at": "booked"}[a.no.name]
		})
	case above:
		if len(a.where) > 0 {
			add("mean of all rows", "filter-missing", func(b *ask) { b.alone = true })
		}
	case list:
		if len(a.shown) == 1 {
			add("code for label", "label", func(b *ask) { b.shown[0].name = columnsOf[a.shown[0].role][0] })
		} else {
			add("column left out", "column-missing", func(b *ask) { b.shown = b.shown[:1] })
		}
	}
	return out
}

// two are a mistake and another one on top of it, of another kind.
func (w *world) two(a ask) (mistake, bool) {
	first := w.mistakes(a)
	if len(first) == 0 {
		return mistake{}, false
	}
	one := pick(w.dice, first)
	var others []mistake
	for _, m := range w.mistakes(one.ask) {
		if m.codes[0] != one.codes[0] {
			others = append(others, m)
		}
	}
	if len(others) == 0 {
		return mistake{}, false
	}
	other := pick(w.dice, others)
	return mistake{other.ask, fmt.Sprintf("%s + %s", one.name, other.name), append(slices.Clone(one.codes), other.codes...)}, true
}
