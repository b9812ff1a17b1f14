package main

import (
	"fmt"
	"math/rand/v2"
)

// style is how a query is written; none of its choices changes what is asked.
type style struct {
	whole    string // how the parts are put together; what there is depends on the form
	join     string // on using comma
	alias    string // letters tables plain
	dates    string // range between parts trunc text
	lists    string // in or
	groups   string // expression position all alias
	counting string // star key one
	only     string // of tables that are read for their conditions only: join in exists
	exists   string // exists in join count
	top      string // limit qualify rank
	parts    string // of shares: filter case mean
	flipped  bool   // comparisons are written from the right
	labelled bool   // columns get the names of the reference; else names of their own
	reversed bool   // columns stand in another order, which needs the names
}

// plain is the style of references.
var plain = style{whole: "where", join: "on", alias: "letters", dates: "range", lists: "in", groups: "expression", counting: "star",
	only: "join", exists: "exists", top: "limit", parts: "filter", labelled: true}

// wholes are the ways of a form.
var wholes = map[form][]string{
	total:    {"where", "where", "cte", "derived", "inside", "flat", "flatcte", "pre", "window", "union", "outer"},
	all:      {"left", "left", "scalar", "pre", "filter", "derived"},
	list:     {"where", "cte", "derived"},
	nested:   {"derived", "cte", "window", "division"},
	greatest: {"qualify", "rank", "max", "join"},
	above:    {"scalar", "cte", "window", "cross"},
}

func drawStyle(f form, dice *rand.Rand) style {
	s := style{whole: pick(dice, wholes[f]), join: pick(dice, []string{"on", "on", "using", "comma"}),
		alias: pick(dice, []string{"letters", "tables", "plain"}), dates: pick(dice, []string{"range", "between", "parts",
			"trunc", "text"}),
		lists: pick(dice, []string{"in", "or"}), groups: pick(dice, []string{"expression", "position", "all", "alias"}),
		counting: pick(dice, []string{"star", "key", "one"}), only: pick(dice, []string{"join", "in", "exists"}),
		exists: pick(dice, []string{"exists", "in", "join", "count"}), top: pick(dice, []string{"limit", "limit", "qualify", "rank"}),
		parts: pick(dice, []string{"filter", "case", "mean"}), flipped: dice.IntN(5) == 0, labelled: dice.IntN(2) == 0}
	s.reversed = s.labelled && dice.IntN(4) == 0
	return s
}

// name says what is told of a shape in reports.
func (s style) name(f form) string { return fmt.Sprintf("%s/%s", f, s.whole) }
