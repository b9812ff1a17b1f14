package dialect

import (
	"fmt"
	"strconv"
	"strings"

	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// withoutQualify is a query in which SELECT … QUALIFY c is a SELECT of what an inner one gives WHERE its column c is true, and GROUP BY ALL
// names its keys; where it is asked for, ORDER BY names its keys too, instead of counting items.
func withoutQualify(root *ast.Node, named bool) *ast.Node {
	out, _ := plainer{named, new(int)}.rewritten(root).(*ast.Node)
	return out
}

type plainer struct {
	named bool
	parts *int // derived tables that were given a name
}

func (p plainer) rewritten(v any) any {
	switch x := v.(type) {
	case *ast.Node:
		if x == nil {
			return x
		}
		out := x.Map(func(_ field.Field, v any) (any, bool) { return p.rewritten(v), true })
		if out.Kind() == ast.Subquery && out.Class() == ast.None && out.Text(field.Alias) == "" {
			*p.parts++
			out.Set(field.Alias, fmt.Sprintf("tovrel_part_%d", *p.parts)) // servers want one
		}
		if p.named && out.Kind() == ast.SetOperationNode && len(out.Items(field.Modifiers)) > 0 {
			return orderedOutside(out)
		}
		if p.named && out.Kind() == ast.SelectNode {
			out = withNamedOrder(out)
		}
		if out.Kind() == ast.SelectNode && out.Text(field.AggregateHandling) == "FORCE_AGGREGATES" {
			out = withKeys(out)
		}
		if out.Kind() == ast.SelectNode && out.Has(field.Qualify) {
			return nested(out)
		}
		return out
	case []any:
		out := make([]any, len(x))
		for i, child := range x {
			out[i] = p.rewritten(child)
		}
		return out
	}
	return v
}

// withNamedOrder is a SELECT whose ORDER BY has no numbers of items, but the items.
func withNamedOrder(n *ast.Node) *ast.Node {
	items := n.Nodes(field.SelectList)
	var modifiers []any
	for _, m := range n.Nodes(field.Modifiers) {
		if m.Kind() == ast.OrderModifier {
			m = m.Plain()
			var orders []*ast.Node
			for _, o := range m.Nodes(field.Orders) {
				literal := o.Node(field.Expression).Node(field.Literal)
				at, err := strconv.Atoi(literal.Text(field.Text))
				if err == nil && literal.Text(field.Kind) == "INTEGER" && at >= 1 && at <= len(items) && items[at-1].Class() != ast.Star {
					o = o.Plain()
					item := items[at-1].Plain()
					item.Set(field.Alias, "")
					o.Set(field.Expression, item)
				}
				orders = append(orders, o)
			}
			m.Set(field.Orders, orders)
		}
		modifiers = append(modifiers, m)
	}
	out := n.Plain()
	out.Set(field.Modifiers, modifiers)
	return out
}

// withKeys is a SELECT whose GROUP BY names its keys: the items that aggregate nothing.
func withKeys(n *ast.Node) *ast.Node {
	var keys []*ast.Node
	var set []any
	for _, item := range n.Nodes(field.SelectList) {
		if item.Class() == ast.Star {
			return n
		}
		if !sql.HasAggregate(item) {
			key := item.Plain()
			key.Set(field.Alias, "")
			set = append(set, len(keys))
			keys = append(keys, key)
		}
	}
	out := n.Plain()
	out.Set(field.AggregateHandling, "STANDARD_HANDLING")
	out.Set(field.GroupExpressions, keys)
	out.Set(field.GroupSets, []any{set})
	if len(keys) == 0 {
		out.Set(field.GroupSets, []any{})
	}
	return out
}

// kept is the name of the column by which rows of an inner SELECT are kept, orderedBy that of one by which they are ordered.
const kept, orderedBy, inner = "tovrel_kept", "tovrel_order_%d", "tovrel_inner"

// nested is a SELECT over an inner one that gives its items, what its QUALIFY asks, and what it is ordered by.
func nested(n *ast.Node) *ast.Node {
	below, above := n.Plain(), n.Plain()
	below.Drop(field.Qualify)
	below.Set(field.Modifiers, []any{})
	below.Set(field.CteMap, ast.New(ast.Fields{field.Map: []any{}}))
	var items, shown []*ast.Node
	for _, item := range n.Nodes(field.SelectList) {
		if item.Class() == ast.Star {
			return n // its columns have no names here
		}
		name := sql.ItemName(item)
		if name == "" {
			name = fmt.Sprintf("column_%d", len(items)+1)
		}
		named := item.Plain()
		named.Set(field.Alias, name)
		items, shown = append(items, named), append(shown, reference(name))
	}
	condition, _ := withItems(n.Node(field.Qualify), n.Nodes(field.SelectList)).(*ast.Node)
	condition = condition.Plain()
	condition.Set(field.Alias, kept)
	items = append(items, condition)
	var modifiers []any
	for _, m := range n.Nodes(field.Modifiers) {
		if m.Kind() == ast.OrderModifier {
			m, items = orderedAbove(m, items)
		}
		modifiers = append(modifiers, m)
	}
	below.Set(field.SelectList, items)
	for _, f := range []field.Field{field.Where, field.Having, field.Qualify} {
		above.Drop(f)
	}
	above.Set(field.Modifiers, modifiers)
	above.Set(field.SelectList, shown)
	above.Set(field.GroupExpressions, []any{})
	above.Set(field.GroupSets, []any{})
	above.Set(field.Where, reference(kept))
	above.Set(field.FromTable, ast.New(ast.Fields{field.Type: ast.Subquery, field.Alias: inner, field.ColumnNameAlias: []any{},
		field.Subquery: ast.New(ast.Fields{field.Node: below})}))
	return above
}

// withItems is an expression with the items themselves in place of their aliases.
func withItems(v any, items []*ast.Node) any {
	switch x := v.(type) {
	case *ast.Node:
		if x == nil {
			return x
		}
		if path := x.Names(field.ColumnNames); x.Class() == ast.ColumnRef && len(path) == 1 {
			for _, item := range items {
				if strings.EqualFold(item.Text(field.Alias), path[0]) {
					plain := item.Plain()
					plain.Set(field.Alias, "")
					return plain
				}
			}
		}
		return x.Map(func(_ field.Field, v any) (any, bool) { return withItems(v, items), true })
	case []any:
		out := make([]any, len(x))
		for i, child := range x {
			out[i] = withItems(child, items)
		}
		return out
	}
	return v
}

// orderedOutside is a set operation whose ORDER BY stands around it, by the names of its columns.
func orderedOutside(n *ast.Node) *ast.Node {
	first := n
	for first.Kind() == ast.SetOperationNode {
		if children := first.Nodes(field.Children); len(children) > 0 {
			first = children[0]
		} else {
			first = first.Node(field.Left)
		}
	}
	items := first.Nodes(field.SelectList)
	var modifiers []any
	for _, m := range n.Nodes(field.Modifiers) {
		var orders []*ast.Node
		for _, o := range m.Nodes(field.Orders) {
			at, err := strconv.Atoi(o.Node(field.Expression).Node(field.Literal).Text(field.Text))
			if err == nil && at >= 1 && at <= len(items) && sql.ItemName(items[at-1]) != "" {
				o = o.Plain()
				o.Set(field.Expression, reference(sql.ItemName(items[at-1])))
			}
			orders = append(orders, o)
		}
		if m = m.Plain(); len(orders) > 0 {
			m.Set(field.Orders, orders)
		}
		modifiers = append(modifiers, m)
	}
	below := n.Plain()
	below.Set(field.Modifiers, []any{})
	below.Set(field.CteMap, ast.New(ast.Fields{field.Map: []any{}}))
	star := ast.New(ast.Fields{field.Class: ast.Star, field.Type: ast.Star, field.Alias: ""})
	return ast.New(ast.Fields{field.Type: ast.SelectNode, field.CteMap: n.Node(field.CteMap), field.Modifiers: modifiers,
		field.SelectList: []*ast.Node{star}, field.GroupExpressions: []any{}, field.GroupSets: []any{},
		field.AggregateHandling: "STANDARD_HANDLING", field.FromTable: ast.New(ast.Fields{field.Type: ast.Subquery, field.Alias: inner,
			field.ColumnNameAlias: []any{}, field.Subquery: ast.New(ast.Fields{field.Node: below})})})
}

// orderedAbove is an ORDER BY of the outer SELECT: by the inner one's items where they have that name, else by columns that it gets for
// that.
func orderedAbove(m *ast.Node, items []*ast.Node) (*ast.Node, []*ast.Node) {
	named := map[string]bool{}
	for _, item := range items {
		named[sql.ItemName(item)] = true
	}
	var orders []*ast.Node
	for _, o := range m.Nodes(field.Orders) {
		e := o.Node(field.Expression)
		out := o.Plain()
		switch path := e.Names(field.ColumnNames); {
		case e.Class() == ast.Constant, e.Class() == ast.ColumnRef && len(path) == 1 && named[path[0]]:
		default:
			added := e.Plain()
			added.Set(field.Alias, fmt.Sprintf(orderedBy, len(items)))
			out.Set(field.Expression, reference(added.Text(field.Alias)))
			items = append(items, added)
		}
		orders = append(orders, out)
	}
	out := m.Plain()
	out.Set(field.Orders, orders)
	return out, items
}

func reference(name string) *ast.Node {
	return ast.New(ast.Fields{field.Class: ast.ColumnRef, field.Type: ast.ColumnRef, field.Alias: "", field.ColumnNames: []string{name}})
}
