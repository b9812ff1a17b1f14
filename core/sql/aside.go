package sql

import (
	"slices"
	"strings"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// Aside is a kind of clause that can be set aside.
type Aside uint8

// The clauses that can be set aside.
const (
	Limits          Aside = iota // limits, and conditions on a row's place in an order or on the largest value
	GroupConditions              // conditions on what groups come to
)

// Cuts tells whether a query keeps only some rows of an order, or the largest or smallest.
func (t *Tree) Cuts() bool { return t.SetAside(Limits) != t }

// Nested tells whether a query holds another one.
func (t *Tree) Nested() bool {
	return slices.ContainsFunc(t.Sites(), func(s Site) bool { return !s.Outermost() })
}

// Recursive tells whether a query goes on from what it found, as deep as there is more.
func (t *Tree) Recursive() bool {
	return ast.Walk(t.root, func(n *ast.Node) error {
		if n.Kind() == ast.RecursiveCteNode {
			return ErrTangled // found
		}
		return nil
	}) != nil
}

// SetAside is a query without all its clauses of a kind, wherever they stand; the tree itself where it has none.
func (t *Tree) SetAside(kind Aside) *Tree {
	for {
		sites := t.Sites()
		computed := computedItems(sites, kind)
		at := slices.IndexFunc(sites, func(s Site) bool { return isClause(s, kind, computed) })
		if at < 0 {
			return t
		}
		t = t.Without(sites[at])
	}
}

// isClause tells a limit, or a condition of a kind. Computed are the select items that conditions of that kind are about.
func isClause(s Site, kind Aside, computed []Site) bool {
	if s.Role == field.Modifiers {
		return kind == Limits && (s.Node.Kind() == ast.LimitModifier || s.Node.Kind() == ast.LimitPercentModifier)
	}
	if s.Role == field.Having || s.Role == field.Qualify {
		return s.Node.Class() != ast.None && (s.Role == field.Having) == (kind == GroupConditions)
	}
	part := s.Role == field.Children && s.Parent.Kind() == ast.ConjunctionAnd || s.Role == field.Where
	if !part || s.Node.Kind() == ast.ConjunctionAnd {
		return false
	}
	if kind == Limits && isLargest(s.Node) {
		return true
	}
	columns := ColumnsIn(s.Node)
	return slices.ContainsFunc(computed, func(item Site) bool {
		return slices.Contains(columns, strings.ToLower(item.Node.Text(field.Alias))) && !s.within(item)
	})
}

// within tells whether a place lies in the SELECT that has a select item: there the item's name means a column of a table.
func (s Site) within(item Site) bool {
	of := item.path[:len(item.path)-2] // without the list and the place in it
	return len(s.path) >= len(of) && slices.Equal(s.path[:len(of)], of)
}

// LargestOf are the columns of which conditions want the largest or the smallest value, in order: those of a subquery's max or min, and
// those that a rank goes by.
func (t *Tree) LargestOf() []string {
	var out []string
	for _, site := range t.Sites() {
		switch n := site.Node; {
		case rankings[n.Kind()]:
			for _, o := range n.Nodes(field.Orders) {
				out = append(out, ColumnsIn(o.Node(field.Expression))...)
			}
		case isLargest(n):
			for _, side := range []field.Field{field.Left, field.Right} {
				out = append(out, ColumnsIn(largest(n.Node(side)))...)
			}
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// isLargest tells a condition that something is the largest or the smallest of what a subquery gives.
func isLargest(condition *ast.Node) bool {
	if condition.Kind() != ast.CompareEqual {
		return false
	}
	return largest(condition.Node(field.Left)) != nil || largest(condition.Node(field.Right)) != nil
}

// largest is the max or min that a subquery gives; nil for another expression.
func largest(expression *ast.Node) *ast.Node {
	if expression.Class() != ast.Subquery {
		return nil
	}
	items := selectItems(expression.Node(field.Subquery).Node(field.Node))
	if len(items) != 1 || !slices.Contains([]string{"max", "min"}, items[0].FunctionName()) {
		return nil
	}
	return items[0]
}

// computedItems are the select items that hold a place in an order, or what a group comes to, and have a name.
func computedItems(sites []Site, kind Aside) []Site {
	return slices.DeleteFunc(slices.Clone(sites), func(s Site) bool {
		is := kind == Limits && s.Node.Class() == ast.Window && rankings[s.Node.Kind()] ||
			kind == GroupConditions && HasAggregate(s.Node)
		return s.Role != field.SelectList || s.Node.Text(field.Alias) == "" || !is
	})
}

var rankings = map[ast.Kind]bool{ast.WindowRank: true, ast.WindowRankDense: true, ast.WindowRowNumber: true}

// Aggregate is how a query aggregates something.
type Aggregate struct {
	Function string // in lower case
	Distinct bool
	Ratio    bool // what is aggregated is itself divided
	Columns  []string
}

// Aggregates are the aggregates of a query, each once, in the order of its parts.
func (t *Tree) Aggregates() []Aggregate {
	var out []Aggregate
	for _, site := range t.Sites() {
		n := site.Node
		if n.Class() != ast.Function || !IsAggregate(n.FunctionName()) {
			continue
		}
		a := Aggregate{Function: n.FunctionName(), Distinct: n.Is(field.Distinct), Columns: ColumnsIn(n)}
		for _, argument := range n.Nodes(field.Children) {
			a.Ratio = a.Ratio || divides(argument)
		}
		if !slices.ContainsFunc(out, a.is) {
			out = append(out, a)
		}
	}
	return out
}

func (a Aggregate) is(other Aggregate) bool {
	return a.Function == other.Function && a.Distinct == other.Distinct && a.Ratio == other.Ratio && slices.Equal(a.Columns, other.Columns)
}

// divides tells whether an expression divides.
func divides(expression *ast.Node) bool {
	return ast.Walk(expression, func(n *ast.Node) error {
		if n.Class() == ast.Function && (n.FunctionName() == "/" || n.FunctionName() == "//") {
			return ErrTangled // found
		}
		return nil
	}) != nil
}
