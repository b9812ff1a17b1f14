package sql

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/core/sql/format"
)

// Clause is how a clause of two queries differs: its parts that only one of them has, as people write them. A clause that one query
// does not have at all has no parts there.
type Clause struct {
	Name     string   `json:"clause"` // such as "WHERE"; of a WITH query, "WITH name: WHERE"
	Expected []string `json:"expected"`
	Answer   []string `json:"answer"`
}

// Clauses compares two queries clause by clause, in the order in which clauses are written: what they select, from, the conditions,
// groups and order. Equal clauses are left out; aliases and the order of conditions do not count. Queries of which one is a set
// operation and the other is not differ as a whole.
func Clauses(expected, answer *Tree) []Clause { return clausesOf("", expected.root, answer.root) }

func clausesOf(within string, expected, answer *ast.Node) []Clause {
	if expected.Kind() != answer.Kind() {
		return differing(within+"query", []part{written(expected)}, []part{written(answer)})
	}
	out := withClauses(within, expected, answer)
	switch expected.Kind() {
	case ast.SetOperationNode, ast.RecursiveCteNode:
		out = append(out, setClauses(within, expected, answer)...)
	default:
		out = append(out, selectClauses(within, expected, answer)...)
	}
	out = append(out, differing(within+"ORDER BY", orderParts(expected), orderParts(answer))...)
	return append(out, differing(within+"LIMIT", modifierParts(expected, ast.LimitModifier), modifierParts(answer, ast.LimitModifier))...)
}

func selectClauses(within string, expected, answer *ast.Node) []Clause {
	var out []Clause
	for _, c := range []struct {
		name string
		of   func(*ast.Node) []part
	}{
		{"DISTINCT", func(n *ast.Node) []part { return modifierParts(n, ast.DistinctModifier) }},
		{"SELECT", func(n *ast.Node) []part { return itemParts(n.Nodes(field.SelectList)) }},
		{"FROM", fromParts},
		{"WHERE", func(n *ast.Node) []part { return conditionParts(n.Node(field.Where)) }},
		{"GROUP BY", groupParts},
		{"HAVING", func(n *ast.Node) []part { return conditionParts(n.Node(field.Having)) }},
		{"QUALIFY", func(n *ast.Node) []part { return conditionParts(n.Node(field.Qualify)) }},
	} {
		out = append(out, differing(within+c.name, c.of(expected), c.of(answer))...)
	}
	return out
}

// setClauses compares the parts of set operations one by one.
func setClauses(within string, expected, answer *ast.Node) []Clause {
	word := func(n *ast.Node) []part {
		all := n.Is(field.SetopAll) || n.Is(field.UnionAll)
		said := strings.TrimSpace(cmp.Or(n.Text(field.SetopType), "UNION") + " " + strings.ToUpper(allText(all)))
		return []part{{text: said, key: said}}
	}
	out := differing(within+"set operation", word(expected), word(answer))
	x, y := partsOf(expected), partsOf(answer)
	for i := range max(len(x), len(y)) {
		name := within + ordinal(i) + " query"
		switch {
		case i >= len(x):
			out = append(out, Clause{name, []string{}, []string{Fragment(y[i])}})
		case i >= len(y):
			out = append(out, Clause{name, []string{Fragment(x[i])}, []string{}})
		default:
			out = append(out, clausesOf(name+": ", x[i], y[i])...)
		}
	}
	return out
}

// partsOf are the queries that a set operation joins, or that a recursive one begins with and goes on by.
func partsOf(n *ast.Node) []*ast.Node {
	if n.Kind() == ast.RecursiveCteNode {
		return []*ast.Node{n.Node(field.Left), n.Node(field.Right)}
	}
	return n.Nodes(field.Children)
}

func ordinal(i int) string {
	if words := []string{"first", "second", "third", "fourth"}; i < len(words) {
		return words[i]
	}
	return "further"
}

// withClauses compares the WITH queries of the same names; others are whole in one query and not in the other.
func withClauses(within string, expected, answer *ast.Node) []Clause {
	x, y := withQueries(expected), withQueries(answer)
	var out []Clause
	for _, name := range append(x.names, y.names...) {
		label := within + "WITH " + name
		one, other := x.queries[name], y.queries[name]
		switch {
		case one != nil && other != nil:
			out = append(out, clausesOf(label+": ", one, other)...)
			delete(x.queries, name)
			delete(y.queries, name)
		case one != nil:
			out = append(out, Clause{label, []string{Fragment(one)}, []string{}})
			delete(x.queries, name)
		case other != nil:
			out = append(out, Clause{label, []string{}, []string{Fragment(other)}})
			delete(y.queries, name)
		}
	}
	return out
}

type ctes struct {
	names   []string
	queries map[string]*ast.Node
}

func withQueries(n *ast.Node) ctes {
	out := ctes{queries: map[string]*ast.Node{}}
	for _, entry := range n.Node(field.CteMap).Nodes(field.Map) {
		name := strings.ToLower(entry.Text(field.Key))
		inner := entry.Node(field.Value).Node(field.QueryNode)
		if inner == nil {
			inner = entry.Node(field.Value).Node(field.Query).Node(field.Node)
		}
		out.names = append(out.names, name)
		out.queries[name] = inner
	}
	return out
}

// part is a part of a clause: as people write it, and what it is compared by.
type part struct {
	text, key string
	place     string // the select items that it means, which may differ themselves; "" for none
}

// written is a node as a part, without the alias of an expression: its form of a fixed order is what it is compared by.
func written(n *ast.Node) part {
	return part{text: whole(n), key: keyOf(n)}
}

// keyOf is the canonical form of an expression; where that leaves something out, as of a subquery, the text in small letters.
func keyOf(n *ast.Node) string {
	partial := n.Class() == ast.None
	_ = ast.Walk(n, func(inner *ast.Node) error { // never fails
		partial = partial || inner.Class() == ast.Subquery || inner.Class() == ast.Window || inner.Class() == ast.Lambda
		return nil
	})
	if partial {
		return strings.ToLower(whole(n))
	}
	c := &canonical{features: Features{}, tables: map[string]int{}}
	return c.expression(n, scope{})
}

// differing takes from two lists of parts what both have, as often as they have it; nil where nothing is left.
func differing(name string, expected, answer []part) []Clause {
	out := Clause{name, []string{}, []string{}}
	rest := slices.Clone(answer)
	for _, p := range expected {
		at := slices.IndexFunc(rest, func(other part) bool { return other.key == p.key || p.place != "" && p.place == other.place })
		if at < 0 {
			out.Expected = append(out.Expected, p.text)
			continue
		}
		rest = slices.Delete(rest, at, at+1)
	}
	for _, p := range rest {
		out.Answer = append(out.Answer, p.text)
	}
	if len(out.Expected)+len(out.Answer) == 0 {
		return nil
	}
	return []Clause{out}
}

func conditionParts(condition *ast.Node) []part {
	var out []part
	for _, n := range Conditions(condition) {
		out = append(out, written(n))
	}
	return out
}

// itemParts are the select items, shown with their aliases.
func itemParts(items []*ast.Node) []part {
	var out []part
	for _, item := range items {
		p := written(item)
		if text, ok := format.Item(item); ok {
			p.text = text
		}
		out = append(out, p)
	}
	return out
}

// fromParts are the tables and joins of a FROM, one by one.
func fromParts(n *ast.Node) []part {
	var out []part
	var visit func(from *ast.Node)
	visit = func(from *ast.Node) {
		if from.Kind() == ast.Join {
			visit(from.Node(field.Left))
		}
		if from != nil && from.Kind() != ast.Empty {
			out = append(out, part{text: wholeJoin(from), key: fromKey(from)}) // of a join, from its word on
		}
	}
	visit(n.Node(field.FromTable))
	return out
}

// fromKey is what a table or a join is compared by: aliases do not count, nor whether a join says USING or ON.
func fromKey(n *ast.Node) string {
	switch n.Kind() {
	case ast.BaseTable:
		return strings.ToLower(tableName(n))
	case ast.Join:
		on := Conditions(n.Node(field.Condition))
		for _, name := range n.Names(field.UsingColumns) {
			on = append(on, Compare(ast.CompareEqual, Name("", name), Name("", name)))
		}
		var keys []string
		for _, condition := range on {
			keys = append(keys, keyOf(condition))
		}
		slices.Sort(keys)
		return n.Text(field.JoinType) + " " + fromKey(n.Node(field.Right)) + " " + strings.Join(keys, " ")
	}
	return strings.ToLower(whole(n))
}

// groupParts are the keys of a grouping; a key by place or alias is the select item that it means.
func groupParts(n *ast.Node) []part {
	var out []part
	for _, key := range n.Nodes(field.GroupExpressions) {
		p := written(meant(key, n))
		p.place = placeOf(key, n)
		out = append(out, p)
	}
	if len(out) == 0 && n.Text(field.AggregateHandling) == "FORCE_AGGREGATES" {
		out = []part{{text: "ALL", key: "all"}}
	}
	return out
}

// meant is the select item that an expression means by its place or alias; the expression itself where it means none.
func meant(expression, of *ast.Node) *ast.Node {
	items := of.Nodes(field.SelectList)
	if at := findItem(expression, items); at >= 0 && at < len(items) {
		return items[at]
	}
	return expression
}

// placeOf is the place of the select item that an expression means; the expression itself where it means none.
func placeOf(expression, of *ast.Node) string {
	items := of.Nodes(field.SelectList)
	if at := findItem(expression, items); at >= 0 && at < len(items) {
		return fmt.Sprintf("item %d", at+1)
	}
	return keyOf(expression)
}

// orderParts are the keys of an order, as one part: the first key is not the second.
func orderParts(n *ast.Node) []part {
	var texts, keys, places []string
	for _, m := range n.Nodes(field.Modifiers) {
		if m.Kind() != ast.OrderModifier {
			continue
		}
		for _, order := range m.Nodes(field.Orders) {
			by := meant(order.Node(field.Expression), n)
			shown := order.Plain()
			shown.Set(field.Expression, by)
			direction := ""
			if order.Kind() == ast.Descending {
				direction = " desc"
			}
			direction += " " + order.Text(field.NullOrder)
			texts, keys = append(texts, whole(shown)), append(keys, keyOf(by)+direction)
			places = append(places, placeOf(order.Node(field.Expression), n)+direction)
		}
	}
	if len(texts) == 0 {
		return nil
	}
	return []part{{strings.Join(texts, ", "), strings.Join(keys, ", "), strings.Join(places, ", ")}}
}

func modifierParts(n *ast.Node, kind ast.Kind) []part {
	var out []part
	for _, m := range n.Nodes(field.Modifiers) {
		if m.Kind() == kind {
			out = append(out, written(m))
		}
	}
	return out
}

// longestFragment is how long a part of a query is where it stands in a sentence: longer ones are cut in the middle.
const longestFragment = 160

// Fragment writes a node for people, on one line, cut in the middle where it is long; "" for none.
func Fragment(node *ast.Node) string { return cutInTheMiddle(whole(node), longestFragment) }

// whole writes a node on one line; in canonical form where it has no other.
func whole(node *ast.Node) string {
	if node == nil {
		return ""
	}
	if text, ok := format.Fragment(node); ok {
		return text
	}
	return Canonical(node)
}

// wholeJoin is a table, or a join with what it is on.
func wholeJoin(n *ast.Node) string {
	if n.Kind() == ast.Join {
		if text, ok := format.Join(n); ok {
			return text
		}
	}
	return whole(n)
}

func cutInTheMiddle(text string, most int) string {
	runes := []rune(text)
	if len(runes) <= most {
		return text
	}
	half := (most - 3) / 2
	return string(runes[:half]) + " … " + string(runes[len(runes)-half:])
}
