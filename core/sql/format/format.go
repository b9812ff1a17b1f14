// Package format writes syntax trees as people write SQL: clauses on lines of their own, the writer's aliases, literals and casts, no
// brackets or quotes without need. It writes what it knows: a tree with anything else in it has no form, and is shown as it came.
package format

import (
	"strconv"
	"strings"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/core/sql/layout"
)

// Width is how wide formatted queries are, where the text allows.
const Width = 100

// Query writes a statement over several lines; false where a part of it has no form.
func Query(root *ast.Node, width int) (string, bool) {
	w := &writer{}
	doc := w.query(root, layout.Hard)
	return layout.Render(doc, width), !w.unknown
}

// Fragment writes any node on one line, such as a condition or a clause: an expression without its alias, a join without what it is on;
// false where a part of it has no form.
func Fragment(node *ast.Node) (string, bool) {
	w := &writer{}
	doc := layout.Text("")
	switch {
	case node == nil:
	case node.Class() != ast.None:
		doc = w.expression(node, lowest)
	case isQuery(node):
		doc = w.query(node, layout.Line)
	case node.Kind() == ast.Join:
		doc = layout.List(layout.Text(w.joinWord(node)+" "), w.right(node))
	case node.Has(field.Expression):
		doc = w.order(node)
	default:
		doc = w.modifierOrSource(node)
	}
	return layout.Flat(doc), !w.unknown
}

// Item writes a select item on one line, with its alias; false where it has no form.
func Item(node *ast.Node) (string, bool) {
	w := &writer{}
	doc := w.item(node)
	return layout.Flat(doc), !w.unknown
}

// Join writes a join on one line with what it is on; false where it has no form.
func Join(node *ast.Node) (string, bool) {
	w := &writer{}
	doc := w.joined(node)
	return layout.Flat(doc), !w.unknown
}

// writer makes docs of nodes. What it does not know it notes and writes as nothing.
type writer struct {
	unknown bool
	style   Style
}

func (w *writer) give() layout.Doc {
	w.unknown = true
	return layout.Text("")
}

func isQuery(n *ast.Node) bool { return strings.HasSuffix(n.Kind().String(), "_NODE") }

// query writes a statement, its clauses apart by what is given: a line for each, or as many lines as they need.
func (w *writer) query(n *ast.Node, apart layout.Doc) layout.Doc {
	var clauses []layout.Doc
	if ctes := n.Node(field.CteMap).Nodes(field.Map); len(ctes) > 0 {
		clauses = append(clauses, w.with(ctes))
	}
	switch n.Kind() {
	case ast.SelectNode:
		clauses = append(clauses, w.selectClauses(n)...)
	case ast.SetOperationNode:
		clauses = append(clauses, w.setOperation(n, apart)...)
	case ast.RecursiveCteNode:
		return w.recursive(n, apart)
	default:
		return w.give()
	}
	return layout.Join(apart, append(clauses, w.modifiers(n)...))
}

func (w *writer) with(ctes []*ast.Node) layout.Doc {
	word := "WITH "
	var all []layout.Doc
	for _, entry := range ctes {
		value := entry.Node(field.Value)
		inner := value.Node(field.QueryNode)
		if inner == nil {
			inner = value.Node(field.Query).Node(field.Node)
		}
		head := w.name(entry.Text(field.Key)) + w.columnNames(value.Names(field.Aliases)) + " AS "
		switch value.Text(field.Materialized) {
		case "CTE_MATERIALIZE_ALWAYS":
			head += "MATERIALIZED "
		case "CTE_MATERIALIZE_NEVER":
			head += "NOT MATERIALIZED "
		}
		if len(value.Items(field.KeyTargets)) > 0 {
			w.give()
		}
		if inner.Kind() == ast.RecursiveCteNode {
			word = "WITH RECURSIVE "
		}
		all = append(all, layout.List(layout.Text(head), w.bracketed(w.query(inner, layout.Line))))
	}
	return layout.List(layout.Text(word), layout.Join(layout.List(layout.Text(","), layout.Hard), all))
}

// bracketed puts a statement into brackets, indented where it takes several lines.
func (w *writer) bracketed(d layout.Doc) layout.Doc {
	return layout.Group(layout.Text("("), layout.Nest(2, layout.List(layout.Soft, d)), layout.Soft, layout.Text(")"))
}

func (w *writer) recursive(n *ast.Node, apart layout.Doc) layout.Doc {
	word := "UNION"
	if n.Is(field.UnionAll) {
		word = "UNION ALL"
	}
	return layout.Join(apart, []layout.Doc{w.query(n.Node(field.Left), apart), layout.Text(word), w.query(n.Node(field.Right), apart)})
}

func (w *writer) selectClauses(n *ast.Node) []layout.Doc {
	if n.Has(field.Sample) {
		w.give()
	}
	var head strings.Builder
	head.WriteString("SELECT")
	for _, m := range n.Nodes(field.Modifiers) {
		if m.Kind() == ast.DistinctModifier {
			head.WriteString(" " + layout.Flat(w.distinct(m)))
		}
	}
	clauses := []layout.Doc{w.listClause(head.String(), w.items(n.Nodes(field.SelectList)))}
	if from := n.Node(field.FromTable); from != nil && from.Kind() != ast.Empty {
		clauses = append(clauses, layout.List(layout.Text("FROM "), w.from(from)))
	}
	clauses = w.condition(clauses, "WHERE", n.Node(field.Where))
	clauses = append(clauses, w.groupBy(n)...)
	clauses = w.condition(clauses, "HAVING", n.Node(field.Having))
	return w.condition(clauses, "QUALIFY", n.Node(field.Qualify))
}

// listClause is a clause of items, as many on a line as fit.
func (w *writer) listClause(head string, items []layout.Doc) layout.Doc {
	parts := make([]layout.Doc, len(items))
	for i, item := range items {
		parts[i] = item
		if i < len(items)-1 {
			parts[i] = layout.List(item, layout.Text(","))
		}
	}
	return layout.List(layout.Text(head+" "), layout.Nest(4, layout.Fill(parts...)))
}

func (w *writer) items(list []*ast.Node) []layout.Doc {
	var all []layout.Doc
	for _, item := range list {
		all = append(all, w.item(item))
	}
	return all
}

// item is an expression with its alias.
func (w *writer) item(n *ast.Node) layout.Doc {
	written := w.expression(n, lowest)
	if alias := n.Text(field.Alias); alias != "" {
		return layout.List(written, layout.Text(" AS "+w.name(alias)))
	}
	return written
}

// condition adds a clause of conditions: those that AND joins each on a line, where they do not fit on one.
func (w *writer) condition(clauses []layout.Doc, word string, n *ast.Node) []layout.Doc {
	if n == nil {
		return clauses
	}
	return append(clauses, layout.Group(layout.Text(word+" "), layout.Nest(2, w.expression(n, lowest))))
}

func (w *writer) groupBy(n *ast.Node) []layout.Doc {
	keys, sets := n.Nodes(field.GroupExpressions), n.Items(field.GroupSets)
	switch {
	case len(keys) == 0 && len(sets) == 0:
		if n.Text(field.AggregateHandling) == "FORCE_AGGREGATES" {
			return []layout.Doc{layout.Text("GROUP BY ALL")}
		}
		return nil
	case len(sets) == 1 && wholeSet(sets[0], len(keys)) && len(keys) > 0:
		return []layout.Doc{w.listClause("GROUP BY", w.expressions(keys))}
	}
	var written []string
	all := w.expressions(keys)
	for _, set := range sets {
		places, _ := set.([]any)
		var members []string
		for _, p := range places {
			at, err := strconv.Atoi(textOf(p))
			if err != nil || at >= len(all) {
				w.give()
				continue
			}
			members = append(members, layout.Flat(all[at]))
		}
		written = append(written, "("+strings.Join(members, ", ")+")")
	}
	return []layout.Doc{layout.Text("GROUP BY GROUPING SETS (" + strings.Join(written, ", ") + ")")}
}

// wholeSet tells a grouping set of all keys in their order.
func wholeSet(set any, keys int) bool {
	places, _ := set.([]any)
	if len(places) != keys {
		return false
	}
	for i, p := range places {
		if textOf(p) != strconv.Itoa(i) {
			return false
		}
	}
	return true
}

func (w *writer) setOperation(n *ast.Node, apart layout.Doc) []layout.Doc {
	word := n.Text(field.SetopType)
	if n.Is(field.SetopAll) {
		word += " ALL"
	}
	var all []layout.Doc
	children := n.Nodes(field.Children)
	if len(children) == 0 {
		children = []*ast.Node{n.Node(field.Left), n.Node(field.Right)}
	}
	for i, child := range children {
		if i > 0 {
			all = append(all, layout.Text(word))
		}
		first := i == 0 && child.Kind() == ast.SetOperationNode && n.Text(field.SetopType) != "INTERSECT" // they are read from the left
		plain := len(w.modifiers(child)) == 0 && len(child.Node(field.CteMap).Nodes(field.Map)) == 0
		if plain && (first || child.Kind() == ast.SelectNode) {
			all = append(all, w.query(child, apart))
		} else {
			all = append(all, w.bracketed(w.query(child, layout.Line)))
		}
	}
	return all
}

// modifiers are ORDER BY and LIMIT with OFFSET; DISTINCT stands at the SELECT.
func (w *writer) modifiers(n *ast.Node) []layout.Doc {
	var out []layout.Doc
	for _, m := range n.Nodes(field.Modifiers) {
		switch m.Kind() {
		case ast.DistinctModifier:
			if n.Kind() != ast.SelectNode {
				w.give()
			}
		case ast.OrderModifier, ast.LimitModifier, ast.LimitPercentModifier:
			out = append(out, w.modifierOrSource(m))
		default:
			w.give()
		}
	}
	return out
}

// modifierOrSource writes what is neither expression nor statement.
func (w *writer) modifierOrSource(m *ast.Node) layout.Doc {
	switch m.Kind() {
	case ast.DistinctModifier:
		return w.distinct(m)
	case ast.OrderModifier:
		return w.listClause("ORDER BY", w.orders(m.Nodes(field.Orders)))
	case ast.LimitModifier, ast.LimitPercentModifier:
		return layout.Text(w.limit(m))
	}
	return w.from(m)
}

func (w *writer) distinct(m *ast.Node) layout.Doc {
	on := m.Nodes(field.DistinctOnTargets)
	if len(on) == 0 {
		return layout.Text("DISTINCT")
	}
	return layout.List(layout.Text("DISTINCT ON ("), layout.Join(layout.Text(", "), w.expressions(on)), layout.Text(")"))
}

func (w *writer) limit(m *ast.Node) string {
	var parts []string
	if limit := m.Node(field.Limit); limit != nil {
		written := "LIMIT " + layout.Flat(w.expression(limit, atom))
		if m.Text(field.LimitType) == "PERCENTAGE" {
			written += "%"
		}
		parts = append(parts, written)
	}
	if offset := m.Node(field.Offset); offset != nil {
		parts = append(parts, "OFFSET "+layout.Flat(w.expression(offset, atom)))
	}
	return strings.Join(parts, " ")
}

func (w *writer) orders(list []*ast.Node) []layout.Doc {
	var all []layout.Doc
	for _, o := range list {
		all = append(all, w.order(o))
	}
	return all
}

func (w *writer) order(o *ast.Node) layout.Doc {
	if w.style.Order != nil {
		return layout.Text(w.style.Order(o, w.text))
	}
	written := w.expression(o.Node(field.Expression), lowest)
	if e := o.Node(field.Expression); e.Class() == ast.Star && e.Is(field.Columns) && !e.Has(field.Expr) {
		written = layout.Text("ALL")
	}
	switch o.Kind() {
	case ast.Descending:
		written = layout.List(written, layout.Text(" DESC"))
	case ast.Ascending:
		written = layout.List(written, layout.Text(" ASC"))
	}
	if nulls := o.Text(field.NullOrder); strings.HasPrefix(nulls, "NULLS ") {
		written = layout.List(written, layout.Text(" "+nulls))
	}
	return written
}
