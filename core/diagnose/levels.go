package diagnose

import (
	"fmt"
	"slices"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/twin"
)

// hierarchy is a table whose column refers to its own key.
type hierarchy struct{ table, column, key string }

// levels cuts the hierarchies within a table, where one side goes deeper than the other.
func (s sides) levels() []intervention {
	var out []intervention
	for _, h := range s.hierarchies() {
		code, says := s.deeper(h)
		c := s.column(h.table, h.column)
		if code == "" || c.Name == "" {
			continue
		}
		for depth, words := range []string{
			fmt.Sprintf("with no row of `%s` below another by `%s`", h.table, h.column),
			fmt.Sprintf("with no row of `%s` more than one step below another by `%s`", h.table, h.column)} {
			out = append(out, intervention{steps: map[string][]twin.Step{h.table: {twin.Levels{Column: c.Name, Table: h.table,
				Key: h.key, Depth: depth + 1}}}, words: words, both: code, saysBoth: says})
		}
	}
	return out
}

// hierarchies are those that either query follows: the first column of a table is its key, as a rule.
func (s sides) hierarchies() []hierarchy {
	var out []hierarchy
	for _, side := range []sql.Readings{s.reference, s.answer} {
		for _, t := range side.Tables {
			for _, tie := range t.Tied {
				h := hierarchy{t.Table, tie.Column, tie.With}
				if tie.Other.Table == t.Table && !isFirst(s.c.Columns[h.table], h.column) && isFirst(s.c.Columns[h.table], h.key) &&
					!slices.Contains(out, h) {
					out = append(out, h)
				}
			}
		}
	}
	return out
}

// deeper is the fault of an answer that follows a hierarchy to another depth; "" where nothing tells that it does.
func (s sides) deeper(h hierarchy) (fault.Code, string) {
	reference, answer := s.c.Reference.Recursive(), s.c.Answer.Recursive()
	wanted, got := followed(s.reference, h), followed(s.answer, h)
	switch {
	case reference && !answer, reference == answer && wanted > got:
		return fault.JoinRowsLost, fmt.Sprintf("it does not follow `%s` as deep as it ought to", h.column)
	case answer && !reference, got > wanted:
		return fault.JoinRowsAdded, fmt.Sprintf("it follows `%s` deeper than it ought to", h.column)
	}
	return "", ""
}

// followed counts how often a query goes a step along a hierarchy.
func followed(r sql.Readings, h hierarchy) int {
	n := 0
	for _, t := range r.Tables {
		for _, tie := range t.Tied {
			if t.Table == h.table && tie.Other.Table == h.table && tie.Column == h.column && tie.With == h.key {
				n++
			}
		}
	}
	return n
}
