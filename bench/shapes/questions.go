package main

import (
	"fmt"
	"math/rand/v2"
	"slices"
)

func quoted(s string) string { return "'" + s + "'" }

func randomPeriod(d *rand.Rand) period {
	months := pick(d, []int{1, 1, 3, 12, 12})
	return period{firstDay.AddDate(0, months*d.IntN(12*years/months), 0), months}
}

func between(on column, p period) condition {
	from, to := p.bounds()
	return condition{on: on, op: "period", from: from, to: to}
}

// conditionsOn draws conditions on the events, of different columns.
func (w *world) conditionsOn(most int) []condition {
	d := w.dice
	all := []func() condition{
		func() condition { return between(column{"E", "at"}, randomPeriod(d)) },
		func() condition {
			return condition{on: column{"E", "status"}, op: "=", values: []string{quoted(skewed(d, w.statuses))}}
		},
		func() condition {
			two := slices.Clone(w.statuses[:2])
			return condition{on: column{"E", "status"}, op: "in", values: []string{quoted(two[0]), quoted(two[1])}}
		},
		func() condition { return condition{on: column{"E", "flag"}, op: "false"} },
		func() condition {
			return condition{on: column{"E", "qty"}, op: pick(d, []string{">", ">=", "<", "<="}), values: []string{fmt.Sprint(2 +
				d.IntN(4))}}
		},
		func() condition {
			return condition{on: column{"E", "amount"}, op: pick(d, []string{">", ">="}), values: []string{fmt.Sprint(50 + 50*d.IntN(4))}}
		},
		func() condition { return condition{on: column{"E", "party"}, op: "notnull"} },
	}
	var out []condition
	for range 1 + d.IntN(most) {
		c := pick(d, all)()
		if !slices.ContainsFunc(out, func(o condition) bool { return o.on == c.on }) {
			out = append(out, c)
		}
	}
	return out
}

// toParent is the join of the events to a parent.
func toParent(role string) join {
	return map[string]join{"C": {role: "C", to: "E", column: "party", with: "key"}, "K": {role: "K", to: "E", column: "kind",
		with: "key"},
		"P": {role: "P", to: "E", column: "place", with: "key"}}[role]
}

func (w *world) parentCondition(role string) condition {
	d := w.dice
	switch role {
	case "C":
		return condition{on: column{"C", "segment"}, op: "=", values: []string{quoted(skewed(d, w.segments))}}
	case "K":
		return condition{on: column{"K", "group"}, op: "=", values: []string{quoted(pick(d, w.groups))}}
	}
	return condition{on: column{"P", "size"}, op: pick(d, []string{">", "<="}), values: []string{fmt.Sprint(30 + d.IntN(40))}}
}

var parentKeys = map[string][]column{"C": {{"C", "segment"}}, "K": {{"K", "label"}, {"K", "group"}}, "P": {{"P", "name"}, {"P",
	"district"}}}

// number draws a measure of the events.
func (w *world) number(i int) measure {
	d := w.dice
	name := []string{"total", "second_total"}[i%2]
	switch d.IntN(9) {
	case 0, 1:
		return measure{fn: "rows", of: column{"E", "key"}, name: "n"}
	case 2:
		return measure{fn: "distinct", of: column{"E", "party"}, name: "different"}
	case 3:
		return measure{fn: pick(d, []string{"avg", "max", "min"}), of: column{"E", pick(d, []string{"amount", "qty"})}, name: "of_each"}
	case 4:
		return measure{fn: "sum", of: column{"E", "amount"}, minus: "fee", cellZero: true, name: "net"}
	case 5:
		return measure{fn: "ratio", of: column{"E", "amount"}, per: column{"E", "qty"}, name: "per_unit"}
	case 6:
		when := condition{on: column{"E", "status"}, op: "=", values: []string{quoted(w.statuses[d.IntN(2)])}}
		return measure{fn: "share", when: &when, name: "part"}
	}
	return measure{fn: "sum", of: column{"E", pick(d, []string{"amount", "amount", "qty"})}, name: name}
}

// question draws what is asked.
func (w *world) question() ask {
	return pick(w.dice, []func() ask{w.askNumber, w.askGroups, w.askGroups, w.askGroups, w.askTop, w.askAll, w.askAll, w.askList,
		w.askHaving,
		w.askNested, w.askGreatest, w.askAbove, w.askLines})()
}

func (w *world) askNumber() ask {
	a := ask{form: total, root: "E", where: w.conditionsOn(3), shows: []measure{w.number(0)}}
	d := w.dice
	if d.IntN(2) == 0 {
		role := pick(d, []string{"C", "K", "P"})
		a.joins = []join{toParent(role)}
		a.where = append(a.where, w.parentCondition(role))
	}
	if d.IntN(4) == 0 {
		a.semis = []semi{{join: join{role: "L", to: "E", column: "key", with: "event"},
			conds: []condition{{on: column{"L", "item"}, op: "=", values: []string{quoted(pick(d, w.items))}}}}}
	}
	return a
}

func (w *world) askGroups() ask {
	a := ask{form: total, root: "E", where: w.conditionsOn(2), shows: []measure{w.number(0)}}
	d := w.dice
	switch d.IntN(4) {
	case 0:
		a.keys = []key{{column{"E", "at"}, pick(d, []string{"month", "year"}), "period"}}
		a.where = slices.DeleteFunc(a.where, func(c condition) bool { return c.op == "period" })
	case 1:
		a.keys = []key{{column{"E", "status"}, "", "state_of_it"}}
		a.where = slices.DeleteFunc(a.where, func(c condition) bool { return c.on.name == "status" })
	default:
		role := pick(d, []string{"C", "K", "P"})
		a.joins = []join{toParent(role)}
		a.keys = []key{{pick(d, parentKeys[role]), "", "grouping"}}
		if d.IntN(4) == 0 {
			a.keys = append(a.keys, key{column{"E", "at"}, "year", "year"})
		}
		if d.IntN(3) == 0 {
			other := pick(d, []string{"C", "K", "P"})
			if other != role {
				a.joins = append(a.joins, toParent(other))
				a.where = append(a.where, w.parentCondition(other))
			}
		}
	}
	if d.IntN(5) == 0 && a.shows[0].fn != "rows" {
		a.shows = append(a.shows, measure{fn: "rows", of: column{"E", "key"}, name: "n"})
	}
	if m := &a.shows[0]; (m.fn == "avg" || m.fn == "ratio") && d.IntN(3) == 0 {
		m.digits = "2"
	} else if m.fn == "share" && d.IntN(2) == 0 {
		m.scale, m.name = "100.0", "percent"
	}
	return a
}

func (w *world) askTop() ask {
	role := pick(w.dice, []string{"C", "K", "P"})
	k := map[string]column{"C": {"C", "key"}, "K": {"K", "label"}, "P": {"P", "name"}}[role]
	m := pick(w.dice, []measure{{fn: "sum", of: column{"E", "amount"}, name: "total"}, {fn: "rows", of: column{"E", "key"}, name: "n"}})
	return ask{form: total, root: "E", where: w.conditionsOn(2), joins: []join{toParent(role)}, keys: []key{{k, "", "who"}},
		shows: []measure{m}, order: "desc", limit: 3 + w.dice.IntN(5)}
}

func (w *world) askAll() ask {
	role := pick(w.dice, []string{"K", "P"})
	m := pick(w.dice, []measure{{fn: "sum", of: column{"E", "amount"}, zero: true, name: "total"},
		{fn: "rows", of: column{"E", "key"}, name: "n"}, {fn: "sum", of: column{"E", "qty"}, zero: true, name: "total"}})
	k := map[string]column{"K": {"K", "label"}, "P": {"P", "name"}}[role]
	tie := toParent(role)
	return ask{form: all, root: role, keys: []key{{k, "", "who"}}, where: w.conditionsOn(2), shows: []measure{m},
		joins: []join{{role: "E", to: role, column: "key", with: tie.column, outer: true}}}
}

func (w *world) askList() ask {
	d := w.dice
	role := pick(d, []string{"C", "P", "K"})
	a := ask{form: list, root: role, shown: []column{{role, columnsOf[role][0]}, {role, columnsOf[role][1]}}}
	if d.IntN(3) == 0 {
		a.shown = a.shown[1:]
	}
	if role == "C" {
		a.where = append(a.where, w.parentCondition("C"))
	}
	a.semis = []semi{{join: join{role: "E", to: role, column: "key", with: toParent(role).column}, not: d.IntN(2) == 0,
		conds: w.conditionsOn(2)}}
	return a
}

func (w *world) askHaving() ask {
	d := w.dice
	role := pick(d, []string{"C", "P", "K"})
	k := map[string]column{"C": {"C", "key"}, "K": {"K", "label"}, "P": {"P", "name"}}[role]
	m := pick(d, []measure{{fn: "sum", of: column{"E", "amount"}, name: "total"}, {fn: "rows", of: column{"E", "key"}, name: "n"}})
	mean := map[string]int{"C": 6, "P": w.events / 12, "K": w.events / 6}[role]
	if m.fn == "sum" {
		mean *= 200
	}
	bound := mean * (4 + d.IntN(5)) / 16
	return ask{form: total, root: "E", where: w.conditionsOn(1), joins: []join{toParent(role)}, keys: []key{{k, "", "who"}},
		shows: []measure{m}, having: &condition{op: pick(d, []string{">", ">="}), values: []string{fmt.Sprint(max(2, bound))}}}
}

func (w *world) askNested() ask {
	d := w.dice
	by := pick(d, []column{{"E", "party"}, {"E", "party"}, {"E", "place"}})
	part := pick(d, []measure{{fn: "sum", of: column{"E", "amount"}}, {fn: "rows", of: column{"E", "key"}}})
	a := ask{form: nested, root: "E", by: by, where: w.conditionsOn(2), shows: []measure{{fn: pick(d, []string{"avg", "avg", "max"}),
		of: part.of, name: "mean"}, part}}
	guard := condition{on: by, op: "notnull"}
	if !slices.ContainsFunc(a.where, func(c condition) bool { return c.on == by }) {
		a.where = append(a.where, guard)
	}
	return a
}

func (w *world) askGreatest() ask {
	d := w.dice
	by := pick(d, []column{{"E", "kind"}, {"E", "place"}})
	return ask{form: greatest, root: "E", by: by, no: pick(d, []column{{"E", "amount"}, {"E", "at"}}), order: pick(d,
		[]string{"desc", "desc",
			"asc"}), shown: []column{by, {"E", "key"}, {"E", "amount"}}, where: w.conditionsOn(2)}
}

func (w *world) askAbove() ask {
	return ask{form: above, root: "E", no: column{"E", pick(w.dice, []string{"amount", "qty"})}, where: w.conditionsOn(2),
		shows: []measure{{fn: "rows", of: column{"E", "key"}, name: "n"}, {fn: "sum", of: column{"E", "fee"}, name: "fees"}}}
}

// askLines asks of the lines of events.
func (w *world) askLines() ask {
	d := w.dice
	a := ask{form: total, root: "L", joins: []join{{role: "E", to: "L", column: "event", with: "key"}}, where: w.conditionsOn(2),
		shows: []measure{pick(d, []measure{{fn: "sum", of: column{"L", "cost"}, name: "total"}, {fn: "sum", of: column{"L", "pieces"},
			name: "total"}, {fn: "rows", of: column{"L", "key"}, name: "n"}, {fn: "distinct", of: column{"L", "event"},
			name: "different"}})}}
	switch d.IntN(3) {
	case 0:
		a.keys = []key{{column{"L", "item"}, "", "what"}}
	case 1:
		a.joins = append(a.joins, toParent("K"))
		a.keys = []key{{column{"K", "label"}, "", "grouping"}}
	}
	return a
}
