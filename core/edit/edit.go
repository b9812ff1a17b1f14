// Package edit is the catalogue of mistakes: each edit changes a query in one place, as a translator that makes the mistake would
// write it. An edit is a value with a name, what it means, and the fault that it shows. Applied to a reference query, edits give the
// wrong queries that people and models write; applied to a wrong query, they repair it.
//
// The package knows trees, not tables: what it needs of the data (columns of a table, other values) comes with the subject.
package edit

import (
	"fmt"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/sql/ast"
)

// Edit is one kind of mistake.
type Edit struct {
	Name    string
	Doc     string     // what goes wrong, in a sentence
	Code    fault.Code // the fault that a query has which was made from a right one by this edit
	Inverse fault.Code // the fault that a query had which this edit repairs
	make    func(s Subject, at sql.Site) []Change
}

// Subject is what is edited, and what material there is.
type Subject struct {
	Tree    *sql.Tree
	Other   *sql.Tree           // the query that it is held against; nil for none
	Columns map[string][]Column // of each table, by its name in lower case
	Values  func(column string) []string
	Unseen  bool // there is another query, but it is not known: what it would have told is guessed
}

// Column is a column of a table.
type Column struct {
	Name string
	Kind Kind
	Day  bool   // a date: no time of day
	Type string // the engine's name of its type
}

// Kind sorts columns by what can be done with them.
type Kind uint8

// The kinds of columns.
const (
	Other Kind = iota
	Number
	Time
	Text
)

// Change is an edited query with what was changed, in words.
type Change struct {
	Edit   *Edit
	Code   fault.Code // the edit's own, unless the place makes it another
	Tree   *sql.Tree
	Before string // the fragment as it was
	After  string // and as it is; "" where it is gone
	Key    bool   // a group key is another: whether it is finer or coarser is seen in the answer
	Unsure bool   // the code says what kind of part differs, not how
	Mends  bool   // it can only mend a wrong query, and by a way that no one would write: how near it brings the queries says nothing
}

// Words say what was changed, from the side of the edited query.
func (c Change) Words() string {
	switch {
	case c.Before == "" && c.After == "":
		return c.Edit.Doc
	case c.After == "":
		return fmt.Sprintf("`%s` left out", c.Before)
	case c.Before == "":
		return fmt.Sprintf("`%s` added", c.After)
	}
	return fmt.Sprintf("`%s` in place of `%s`", c.After, c.Before)
}

// All lists the catalogue, in the order in which equals are named.
func All() []*Edit {
	var all []*Edit
	for _, family := range [][]*Edit{conditions(), literals(), joins(), measures(), grouping(), shapes(), forms(), finer(), windows(),
		adopted(), unseen(), presentation()} {
		all = append(all, family...)
	}
	return all
}

// Changes makes every change of the catalogue in every place that fits.
func Changes(s Subject) []Change {
	var out []Change
	sites := s.Tree.Sites()
	for _, e := range All() {
		for _, site := range sites {
			for _, c := range e.make(s, site) {
				c.Edit = e
				if c.Code == "" {
					c.Code = e.Code
				}
				out = append(out, c)
			}
		}
	}
	return out
}

// replace is the change that puts a node in place of another.
func replace(s Subject, at sql.Site, with *ast.Node) Change {
	tree := s.Tree.With(at, with)
	return Change{Tree: tree, Before: sql.Fragment(at.Node), After: sql.Fragment(with)}
}

// altered is the change of a copy of a node.
func altered(s Subject, at sql.Site, alter func(node *ast.Node)) Change {
	node := ast.Copy(at.Node)
	alter(node)
	return replace(s, at, node)
}

func one(c Change) []Change { return []Change{c} }

// Codes lists the faults that edits make, in the order of the catalogue of faults.
func Codes() []fault.Code {
	made := map[fault.Code]bool{}
	for _, e := range All() {
		made[e.Code] = true
	}
	var out []fault.Code
	for _, code := range fault.Codes() {
		if made[code] {
			out = append(out, code)
		}
	}
	return out
}
