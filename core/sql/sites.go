package sql

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// Site is a place in a tree: a node, and the way to it.
type Site struct {
	Node   *ast.Node
	Role   field.Field // that holds it in its parent, such as field.Where
	Parent *ast.Node
	path   []any // fields and indexes from the root
}

// Sites lists all nodes of a tree, outer ones first, in the order of their fields.
func (t *Tree) Sites() []Site {
	var out []Site
	var visit func(v any, role field.Field, parent *ast.Node, path []any)
	visit = func(v any, role field.Field, parent *ast.Node, path []any) {
		switch x := v.(type) {
		case *ast.Node:
			out = append(out, Site{x, role, parent, slices.Clone(path)})
			for _, f := range x.Fields() {
				visit(x.Get(f), f, x, append(path, f))
			}
		case []any:
			for i, child := range x {
				visit(child, role, parent, append(path, i))
			}
		}
	}
	visit(t.root, field.Field{}, nil, nil)
	return out
}

// With is a copy of the tree with another node in a place.
func (t *Tree) With(at Site, node *ast.Node) *Tree {
	return &Tree{with(t.root, at.path, node).(*ast.Node)}
}

// with copies the way to a place and shares the rest: trees are never changed. A nil node leaves the place out.
func with(v any, path []any, node *ast.Node) any {
	if len(path) == 0 {
		if node == nil {
			return nil
		}
		return node
	}
	switch x := v.(type) {
	case *ast.Node:
		out := x.Plain()
		f, _ := path[0].(field.Field)
		if child := with(x.Get(f), path[1:], node); child == nil {
			out.Drop(f)
		} else {
			out.Set(f, child)
		}
		return out
	case []any:
		out := slices.Clone(x)
		at, _ := path[0].(int)
		child := with(x[at], path[1:], node)
		if child == nil {
			return slices.Delete(out, at, at+1)
		}
		out[at] = child
		return out
	}
	return v
}

// Without is a copy of the tree without the node in a place; the tree itself where that is all of it.
func (t *Tree) Without(at Site) *Tree {
	root, ok := with(t.root, at.path, nil).(*ast.Node)
	if !ok {
		return t
	}
	return &Tree{root}
}

// Canonical writes a node short, in small letters, the parts of conditions in a fixed order: for comparing; "" for none.
func Canonical(node *ast.Node) string {
	if node == nil {
		return ""
	}
	c := &canonical{features: Features{}, tables: map[string]int{}}
	if node.Class() != ast.None {
		if node.Class() == ast.Comparison {
			return fmt.Sprintf("%s %s %s", c.expression(node.Node(field.Left), scope{}), comparisons[node.Kind()],
				c.expression(node.Node(field.Right), scope{}))
		}
		if node.Kind() == ast.CompareBetween {
			return fmt.Sprintf("%s BETWEEN %s AND %s", c.expression(node.Node(field.Input), scope{}),
				c.expression(node.Node(field.Lower), scope{}), c.expression(node.Node(field.Upper), scope{}))
		}
		return c.expression(node, scope{})
	}
	switch node.Kind() {
	case ast.Join:
		return node.Text(field.JoinType) + " JOIN " + fromText(node.Node(field.Right))
	case ast.BaseTable:
		return tableName(node)
	case ast.LimitModifier:
		return "LIMIT " + c.expression(node.Node(field.Limit), scope{})
	case ast.DistinctModifier:
		return "DISTINCT"
	}
	return strings.ToLower(node.Kind().String())
}

func fromText(node *ast.Node) string {
	if name := tableName(node); name != "" {
		return name
	}
	return strings.ToLower(node.Kind().String())
}

// ColumnName is the name of the column that a node refers to, without its table; "" for another node.
func ColumnName(node *ast.Node) string { return columnName(node) }

// TableName is the name of the table of a FROM node; "" for another node.
func TableName(node *ast.Node) string { return tableName(node) }

// HasAggregate tells whether an expression aggregates rows.
func HasAggregate(node *ast.Node) bool { return hasAggregate(node) }

// Same tells whether two nodes are the same but for their places in the text.
func Same(a, b *ast.Node) bool { return shape(a) == shape(b) }

// ItemName is the name that a select item has in the result; "" for an expression without an alias.
func ItemName(node *ast.Node) string { return itemName(node) }

// IsAggregate tells whether a function of that name aggregates rows.
func IsAggregate(name string) bool { return aggregates[name] }

// Key is a tree's text, the same for the same tree.
func (t *Tree) Key() string { return shape(t.root) }

// Root is the tree's outermost node. It must not be changed.
func (t *Tree) Root() *ast.Node { return t.root }

// In tells whether a place lies in what a field holds, such as field.Where.
func (s Site) In(f field.Field) bool {
	return slices.Contains(s.path, any(f))
}

// Outermost tells whether a place lies in the outermost SELECT itself, not in a subquery, derived table or CTE.
func (s Site) Outermost() bool { return !s.In(field.Subquery) && !s.In(field.CteMap) }

// EveryWhere is a copy of the tree in which another node stands in all places of the same shape.
func (t *Tree) EveryWhere(node, with *ast.Node) (tree *Tree, places int) {
	want := shape(node)
	var visit func(v any) any
	visit = func(v any) any {
		switch x := v.(type) {
		case *ast.Node:
			if x.Class() == node.Class() && shape(x) == want {
				places++
				return with
			}
			return x.Map(func(_ field.Field, v any) (any, bool) { return visit(v), true })
		case []any:
			out := make([]any, len(x))
			for i, child := range x {
				out[i] = visit(child)
			}
			return out
		}
		return v
	}
	root, _ := visit(t.root).(*ast.Node)
	return &Tree{root}, places
}

// Alter puts another node in place of each node below a value, the inner ones first. It changes the value: give it a copy.
func Alter(v any, alter func(node *ast.Node) *ast.Node) any {
	switch x := v.(type) {
	case *ast.Node:
		for _, f := range x.Fields() {
			x.Set(f, Alter(x.Get(f), alter))
		}
		return alter(x)
	case []any:
		for i, child := range x {
			x[i] = Alter(child, alter)
		}
	}
	return v
}

// Call makes a call of a function, or of an operator. An argument that a tree lacks, which no engine's tree does, is left out.
func Call(name string, operator bool, arguments ...*ast.Node) *ast.Node {
	list := []any{} // never null: the engine wants a list
	for _, a := range arguments {
		if a == nil {
			continue
		}
		plain := ast.Copy(a)
		plain.Set(field.Alias, "")
		list = append(list, ast.New(ast.Fields{field.Name: "", field.Expression: plain}))
	}
	return ast.New(ast.Fields{field.Class: ast.Function, field.Type: ast.Function, field.Alias: "", field.FunctionName: name,
		field.Schema: "", field.Catalog: "", field.QualifiedName: ast.New(ast.Fields{field.Path: []any{name}}),
		field.Arguments: list, field.Distinct: false, field.IsOperator: operator, field.ExportState: false,
		field.OrderBys: ast.New(ast.Fields{field.Type: ast.OrderModifier, field.Orders: []any{}})})
}

// Number makes a number.
func Number(digits string) *ast.Node {
	return ast.New(ast.Fields{field.Class: ast.Constant, field.Type: ast.ValueConstant, field.Alias: "",
		field.Literal: ast.New(ast.Fields{field.Kind: "INTEGER", field.Text: digits})})
}

// String makes a text.
func String(text string) *ast.Node {
	return ast.New(ast.Fields{field.Class: ast.Constant, field.Type: ast.ValueConstant, field.Alias: "",
		field.Literal: ast.New(ast.Fields{field.Kind: "STRING", field.Text: text})})
}

// Name makes a reference to a column, with the table's name where one is given.
func Name(table, column string) *ast.Node {
	names := []any{column}
	if table != "" {
		names = []any{table, column}
	}
	return ast.New(ast.Fields{field.Class: ast.ColumnRef, field.Type: ast.ColumnRef, field.Alias: "", field.ColumnNames: names})
}

// Compare makes a comparison such as COMPARE_EQUAL.
func Compare(kind ast.Kind, left, right *ast.Node) *ast.Node {
	return ast.New(ast.Fields{field.Class: ast.Comparison, field.Type: kind, field.Alias: "", field.Left: left, field.Right: right})
}

// And joins conditions; nil ones are left out.
func And(conditions ...*ast.Node) *ast.Node {
	var all []any
	for _, c := range conditions {
		switch {
		case c == nil:
		case c.Kind() == ast.ConjunctionAnd:
			children := c.Items(field.Children)
			all = append(all, children...)
		default:
			all = append(all, c)
		}
	}
	if len(all) == 1 {
		one, _ := all[0].(*ast.Node)
		return one
	}
	return ast.New(ast.Fields{field.Class: ast.Conjunction, field.Type: ast.ConjunctionAnd, field.Alias: "", field.Children: all})
}

// Or makes the alternative of two conditions.
func Or(a, b *ast.Node) *ast.Node {
	return ast.New(ast.Fields{field.Class: ast.Conjunction, field.Type: ast.ConjunctionOr, field.Alias: "", field.Children: []any{a, b}})
}

// Conditions lists the parts of a condition that are joined by AND.
func Conditions(condition *ast.Node) []*ast.Node {
	if condition == nil {
		return nil
	}
	if condition.Kind() == ast.ConjunctionAnd {
		return condition.Nodes(field.Children)
	}
	return []*ast.Node{condition}
}

// ItemOf is the select item that a GROUP BY or ORDER BY expression means, by its place, alias or shape; -1 for none.
func ItemOf(expression *ast.Node, items []*ast.Node) int {
	return findItem(expression, items)
}

// OfSet tells whether a SELECT stands in IN or EXISTS, where repeated rows do not count.
func (s Site) OfSet(t *Tree) bool {
	n := len(s.path)
	if n < 2 || s.path[n-1] != any(field.Node) || s.path[n-2] != any(field.Subquery) {
		return false
	}
	var at any = t.root
	for _, step := range s.path[:n-2] {
		switch x := at.(type) {
		case *ast.Node:
			f, _ := step.(field.Field)
			at = x.Get(f)
		case []any:
			i, _ := step.(int)
			at = x[i]
		}
	}
	expression, _ := at.(*ast.Node)
	kind := expression.Text(field.SubqueryType)
	return kind == "ANY" || kind == "EXISTS" || kind == "NOT_EXISTS"
}
