package main

import "slices"

// column is a column of a table, which is named by its role: E the events, C who has them, P the places, K the kinds, L the lines of
// events. A query reads each role once, but for a place that an event and its party both have.
type column struct{ role, name string }

// condition is what rows are held to.
type condition struct {
	on     column
	op     string   // = <> < <= > >= in period null notnull true false
	values []string // as SQL writes them
	// From and to bound a period: days, the second one not within it.
	from, to string
	// Loses tells that the last day is lost: from the first day to the beginning of the last.
	loses bool
	// Takes tells that the first day after the period is taken too.
	takes bool
}

// key is what rows are grouped by.
type key struct {
	on   column
	part string // "", year, quarter or month
	name string
}

// measure is a number of a group.
type measure struct {
	fn       string // sum avg min max count rows distinct ratio meanratio share
	of, per  column // per: what a ratio divides by
	minus    string // a second column of the same table that is taken away
	plus     bool   // it is added instead
	when     *condition
	scale    string // "" or a factor
	digits   string // "" or to how many decimals
	zero     bool   // nothing is zero
	cellZero bool   // nothing in a cell is zero
	name     string
}

// join is a table that is read beside the root.
type join struct {
	role, to     string // the role that it is tied to
	column, with string // its column, and the other's
	outer        bool
}

// semi is a condition that rows of another table exist, or do not.
type semi struct {
	join
	not   bool
	conds []condition
	// AsJoin writes a plain join where existence was asked.
	asJoin bool
	// Nulls leaves out the guard against nulls that NOT IN needs.
	nulls bool
}

// form is what kind of question it is.
type form string

const (
	total    form = "total"    // one row of numbers, or one for each group
	all      form = "all"      // one row for each parent, also those without rows
	list     form = "list"     // rows themselves
	nested   form = "nested"   // the mean, over groups, of a number of each
	greatest form = "greatest" // the rows with the largest value in each group
	above    form = "above"    // the rows above the mean
)

// ask is what a query asks, apart from how it is written.
type ask struct {
	form   form
	root   string
	joins  []join
	where  []condition
	semis  []semi
	keys   []key
	shows  []measure
	having *condition // on the first measure
	order  string     // asc or desc of the first measure, "" for none
	limit  int
	shown  []column // of a list
	by     column   // nested: the group; greatest: its group
	no     column   // what greatest and above compare
	unique bool     // a list without twice the same row
	late   bool     // all: conditions on the rows stand behind the outer join
	stars  bool     // all: rows are counted that an outer join made
	alone  bool     // above: the mean is taken of all rows
	nearer string   // "ratio" where nested divides by the rows of all groups
}

// copy is a copy that can be changed.
func (a ask) copy() ask {
	a.joins, a.where, a.semis = slices.Clone(a.joins), slices.Clone(a.where), slices.Clone(a.semis)
	a.keys, a.shows, a.shown = slices.Clone(a.keys), slices.Clone(a.shows), slices.Clone(a.shown)
	if a.having != nil {
		h := *a.having
		a.having = &h
	}
	for i := range a.semis {
		a.semis[i].conds = slices.Clone(a.semis[i].conds)
	}
	return a
}

// uses tells whether a role is read for more than conditions.
func (a ask) uses(role string) bool {
	used := a.by.role == role || a.no.role == role
	for _, k := range a.keys {
		used = used || k.on.role == role
	}
	for _, m := range a.shows {
		used = used || m.of.role == role || m.per.role == role || m.when != nil && m.when.on.role == role
	}
	for _, c := range a.shown {
		used = used || c.role == role
	}
	for _, j := range a.joins {
		used = used || j.to == role
	}
	for _, s := range a.semis {
		used = used || s.to == role
	}
	return used
}

// has tells whether a role is read at all.
func (a ask) has(role string) bool {
	return a.root == role || slices.ContainsFunc(a.joins, func(j join) bool { return j.role == role })
}
