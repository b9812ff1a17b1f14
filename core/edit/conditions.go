package edit

import (
	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// conditions are the mistakes in what rows are taken.
func conditions() []*Edit {
	return []*Edit{
		{Name: "drop-condition", Doc: "a condition is left out", Code: fault.FilterMissing, Inverse: fault.FilterExtra,
			make: dropCondition},
		{Name: "strictness", Doc: "the edge of a range is off: > for >=, < for <=", Code: fault.Boundary,
			Inverse: fault.Boundary, make: strictness},
		{Name: "open-between", Doc: "BETWEEN loses its last value", Code: fault.Boundary, Inverse: fault.Boundary, make: openBetween},
		{Name: "drop-alternative", Doc: "one of several accepted values is left out", Code: fault.FilterValue,
			Inverse: fault.FilterValue, make: dropAlternative},
		{Name: "drop-not", Doc: "a condition is turned round", Code: fault.FilterValue, Inverse: fault.FilterValue, make: dropNot},
		{Name: "turn-comparison", Doc: "a comparison is turned round", Code: fault.FilterValue, Inverse: fault.FilterValue,
			make: turnComparison},
		{Name: "other-condition", Doc: "a column is compared in another way", Code: fault.FilterValue,
			Inverse: fault.FilterValue, make: otherCondition},
		{Name: "other-conditions", Doc: "a column is held to other bounds", Code: fault.FilterValue, Inverse: fault.FilterValue,
			make: otherConditionsOf},
		{Name: "add-condition", Doc: "a condition too many", Code: fault.FilterExtra, Inverse: fault.FilterMissing, make: addCondition},
	}
}

// clauseCode is the fault of a condition that is left out, by the clause that it stands in.
func clauseCode(at sql.Site) fault.Code {
	switch {
	case at.In(field.Having):
		return fault.Having
	case isKeyEquality(at.Node):
		return fault.JoinKey
	case at.Node.Kind() == ast.OperatorIsNull || at.Node.Kind() == ast.OperatorIsNotNull:
		return fault.NullHandling
	}
	return fault.FilterMissing
}

// isKeyEquality tells a join's column = column.
func isKeyEquality(node *ast.Node) bool {
	return node.Kind() == ast.CompareEqual && sql.ColumnName(node.Node(field.Left)) != "" && sql.ColumnName(node.Node(field.Right)) != ""
}

func dropCondition(s Subject, at sql.Site) []Change {
	inAnd := at.Role == field.Children && at.Parent.Kind() == ast.ConjunctionAnd
	whole := at.Role == field.Where || at.Role == field.Having || at.Role == field.Filter || at.Role == field.Qualify
	if !inAnd && !whole || at.Node.Class() == ast.None {
		return nil
	}
	c := Change{Tree: s.Tree.Without(at), Before: sql.Fragment(at.Node), Code: clauseCode(at)}
	if whole && at.Node.Kind() == ast.ConjunctionAnd {
		return nil // its parts are dropped one by one
	}
	out := one(c)
	if tree, places := withoutAll(s.Tree, at.Node); places > 1 {
		c.Tree = tree
		out = append(out, c)
	}
	return out
}

// withoutAll leaves out a condition at all its places.
func withoutAll(t *sql.Tree, condition *ast.Node) (*sql.Tree, int) {
	for places := 0; ; places++ {
		found := false
		for _, site := range t.Sites() {
			isPart := site.Role == field.Children && site.Parent.Kind() == ast.ConjunctionAnd || site.Role == field.Where ||
				site.Role == field.Having
			if isPart && site.Node.Class() != ast.None && sql.Same(site.Node, condition) {
				t, found = t.Without(site), true
				break
			}
		}
		if !found {
			return t, places
		}
	}
}

var otherStrictness = map[ast.Kind]ast.Kind{ast.CompareGreater: ast.CompareGreaterEqual, ast.CompareGreaterEqual: ast.CompareGreater,
	ast.CompareLess: ast.CompareLessEqual, ast.CompareLessEqual: ast.CompareLess}

func strictness(s Subject, at sql.Site) []Change {
	other := otherStrictness[at.Node.Kind()]
	if other == ast.None {
		return nil
	}
	c := altered(s, at, func(n *ast.Node) { n.Set(field.Type, other) })
	flipped := ast.Copy(at.Node)
	flipped.Set(field.Type, other)
	out := one(c)
	if tree, places := s.Tree.EveryWhere(at.Node, flipped); places > 1 {
		c.Tree = tree
		out = append(out, c)
	}
	return out
}

func openBetween(s Subject, at sql.Site) []Change {
	if at.Node.Kind() != ast.CompareBetween {
		return nil
	}
	input, lower, upper := at.Node.Node(field.Input), at.Node.Node(field.Lower), at.Node.Node(field.Upper)
	var out []Change
	for _, kinds := range [][2]ast.Kind{{ast.CompareGreaterEqual, ast.CompareLess}, {ast.CompareGreater, ast.CompareLessEqual}} {
		out = append(out, replace(s, at, sql.And(sql.Compare(kinds[0], input, lower), sql.Compare(kinds[1], input, upper))))
	}
	return out
}

func dropAlternative(s Subject, at sql.Site) []Change {
	if at.Node.Kind() == ast.ConjunctionOr {
		return dropOr(s, at)
	}
	inList := at.Role == field.Children && at.Parent.Kind() == ast.CompareIn && at.Node.Class() == ast.Constant
	if !inList || len(at.Parent.Nodes(field.Children)) < 3 {
		return nil
	}
	return one(Change{Tree: s.Tree.Without(at), Before: sql.Fragment(at.Node)})
}

// dropOr leaves out each of the alternatives of an OR in turn.
func dropOr(s Subject, at sql.Site) []Change {
	all := at.Node.Nodes(field.Children)
	var out []Change
	for i, dropped := range all {
		var c Change
		if len(all) == 2 {
			c = replace(s, at, all[1-i])
		} else {
			list := at.Node.Items(field.Children)
			c = altered(s, at, func(n *ast.Node) { n.Set(field.Children, without(list, i)) })
		}
		c.Before, c.After = sql.Fragment(dropped), ""
		out = append(out, c)
	}
	return out
}

func dropNot(s Subject, at sql.Site) []Change {
	inner := at.Node.Nodes(field.Children)
	if at.Node.Kind() != ast.OperatorNot || len(inner) != 1 {
		return nil
	}
	return one(replace(s, at, inner[0]))
}

var turned = map[ast.Kind]ast.Kind{ast.CompareEqual: ast.CompareNotEqual, ast.CompareNotEqual: ast.CompareEqual,
	ast.CompareGreater: ast.CompareLess, ast.CompareLess: ast.CompareGreater,
	ast.CompareGreaterEqual: ast.CompareLessEqual, ast.CompareLessEqual: ast.CompareGreaterEqual}

func turnComparison(s Subject, at sql.Site) []Change {
	other := turned[at.Node.Kind()]
	if other == ast.None || isKeyEquality(at.Node) {
		return nil
	}
	return one(altered(s, at, func(n *ast.Node) { n.Set(field.Type, other) }))
}

// addCondition adds the other query's conditions, by the plain names of their columns.
func addCondition(s Subject, at sql.Site) []Change {
	if s.Other == nil || at.Node.Kind() != ast.SelectNode {
		return nil
	}
	var out []Change
	for _, clause := range []field.Field{field.Where, field.Having} {
		have := at.Node.Node(clause)
		if clause == field.Having && len(at.Node.Nodes(field.GroupExpressions)) == 0 {
			continue
		}
		for _, condition := range otherConditions(s.Other, clause) {
			plain := unqualified(condition)
			known := false
			for _, h := range sql.Conditions(have) {
				known = known || sql.Same(unqualified(h), plain)
			}
			if known {
				continue
			}
			c := altered(s, at, func(n *ast.Node) { n.Set(clause, sql.And(have, plain)) })
			c.Before, c.After = "", sql.Fragment(plain)
			if clause == field.Having {
				c.Code = fault.Having
			} else if condition.Kind() == ast.OperatorIsNull || condition.Kind() == ast.OperatorIsNotNull {
				c.Code = fault.NullHandling
			}
			out = append(out, c)
		}
	}
	return out
}

// otherConditions are the conditions of a query, those of its joins among its WHERE.
func otherConditions(t *sql.Tree, clause field.Field) []*ast.Node {
	var out []*ast.Node
	for _, site := range t.Sites() {
		if site.Role == clause || clause == field.Where && site.Role == field.Condition && site.Parent.Kind() == ast.Join {
			for _, c := range sql.Conditions(site.Node) {
				if !isKeyEquality(c) {
					out = append(out, c)
				}
			}
		}
	}
	return out
}

// unqualified is a copy of an expression without the tables of its columns: aliases differ between queries.
func unqualified(node *ast.Node) *ast.Node {
	out := ast.Copy(node)
	var visit func(v any)
	visit = func(v any) {
		switch x := v.(type) {
		case *ast.Node:
			if x.Class() == ast.ColumnRef {
				x.Set(field.ColumnNames, []any{sql.ColumnName(x)})
			}
			for child := range x.Values {
				visit(child)
			}
		case []any:
			for _, child := range x {
				visit(child)
			}
		}
	}
	visit(out)
	return out
}
