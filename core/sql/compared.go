package sql

import (
	"maps"
	"slices"
	"strings"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// Comparison is a column that a condition compares with a literal or with another column.
type Comparison struct {
	Column  string
	Literal string // as text
	Other   string // the other column; "" for a literal
	Year    bool   // it is the year of the column that is compared
	Formula string // an expression without columns, as text, in place of a literal
}

// Compared lists what a query's conditions compare columns with, casts left out.
func (t *Tree) Compared() []Comparison {
	var out []Comparison
	for _, site := range t.Sites() {
		out = append(out, compared(site.Node)...)
	}
	return out
}

// ColumnNames are the names of the columns that a query names, without their tables, in lower case and in order.
func (t *Tree) ColumnNames() []string {
	names := map[string]bool{}
	for _, site := range t.Sites() {
		if name := columnName(site.Node); name != "" {
			names[strings.ToLower(name)] = true
		}
	}
	return slices.Sorted(maps.Keys(names))
}

func compared(node *ast.Node) []Comparison {
	var columns []Comparison
	var literals, formulas []string
	for _, side := range sidesOf(node) {
		side = withoutCasts(side)
		name, year := columnName(side), false
		if inner := children(side); side.FunctionName() == "year" && len(inner) == 1 {
			name, year = columnName(withoutCasts(inner[0])), true
		}
		switch {
		case name != "" && !clockWords[strings.ToLower(name)]:
			columns = append(columns, Comparison{Column: name, Year: year})
		case side.Class() == ast.Constant:
			literals = append(literals, side.Node(field.Literal).Text(field.Text))
		case side != nil && !hasColumn(side):
			formulas = append(formulas, Canonical(side))
		}
	}
	var out []Comparison
	for i, c := range columns {
		for _, l := range literals {
			out = append(out, Comparison{Column: c.Column, Year: c.Year, Literal: l})
		}
		for _, f := range formulas {
			out = append(out, Comparison{Column: c.Column, Year: c.Year, Formula: f})
		}
		for j, other := range columns {
			if i != j && !c.Year && !other.Year {
				out = append(out, Comparison{Column: c.Column, Other: other.Column})
			}
		}
	}
	return out
}

// sidesOf are the expressions that a node compares; nil for a node that compares nothing.
func sidesOf(node *ast.Node) []*ast.Node {
	switch {
	case node.Class() == ast.Comparison:
		return []*ast.Node{node.Node(field.Left), node.Node(field.Right)}
	case node.Kind() == ast.CompareBetween:
		return []*ast.Node{node.Node(field.Input), node.Node(field.Lower), node.Node(field.Upper)}
	case node.Kind() == ast.CompareIn || node.Kind() == ast.CompareNotIn:
		return node.Nodes(field.Children)
	}
	return nil
}

func withoutCasts(node *ast.Node) *ast.Node {
	for inner := node.Node(field.Child); inner != nil; inner = node.Node(field.Child) {
		node = inner
	}
	return node
}

// hasColumn tells whether an expression rests on data.
func hasColumn(expression *ast.Node) bool {
	found := false
	_ = ast.Walk(expression, func(node *ast.Node) error {
		name := columnName(node)
		found = found || name != "" && !clockWords[strings.ToLower(name)] || node.Class() == ast.Subquery
		return nil
	})
	return found
}

// clockWords are names that an engine reads as the clock where no column has them.
var clockWords = map[string]bool{"current_date": true, "current_timestamp": true, "localtimestamp": true}
