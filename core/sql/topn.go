package sql

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// TopN describes a cut by row_number: which of a probe's last columns hold the place, the keys and the parts.
type TopN struct {
	Keep  int        // rows kept in each part
	Keys  []OrderKey // that count in the window's order; their values are in this order
	Parts int        // PARTITION BY expressions
}

// Columns is how many columns the probe shows for it: the place, the keys, the parts.
func (n TopN) Columns() int { return 1 + len(n.Keys) + n.Parts }

// topN rewrites a copy of the tree so that the rows behind a cut by row_number are shown: in a QUALIFY, or in the WHERE
// around a derived table or CTE that numbers its rows. False where there is no such cut, or the tree does more than that.
func topN(root *ast.Node) (TopN, bool) {
	if root.Kind() != ast.SelectNode || hasModifier(root, ast.DistinctModifier) || hasModifier(root, ast.LimitModifier) || hasStar(root) {
		return TopN{}, false
	}
	if condition := root.Node(field.Qualify); condition != nil {
		window, keep, ok := numbered(condition, selectItems(root))
		if !ok {
			return TopN{}, false
		}
		n, shown, ok := topNOf(window, keep, root)
		root.Drop(field.Qualify)
		appendItems(root, shown)
		return n, ok
	}
	return topNInside(root)
}

// topNInside handles the form SELECT … FROM (SELECT …, row_number() OVER … AS rn FROM …) WHERE rn <= n.
func topNInside(root *ast.Node) (TopN, bool) {
	inner := innerSelect(root)
	if inner == nil || inner.Kind() != ast.SelectNode || hasModifier(inner, ast.DistinctModifier) ||
		hasModifier(inner, ast.LimitModifier) || grouped(root) {
		return TopN{}, false
	}
	window, keep, ok := takeNumbered(root, selectItems(inner))
	if !ok {
		return TopN{}, false
	}
	n, shown, ok := topNOf(window, keep, inner)
	if !ok {
		return TopN{}, false
	}
	var references []any
	for i, item := range shown {
		name := fmt.Sprintf("tovrel_shown_%d", i)
		item.(*ast.Node).Set(field.Alias, name)
		references = append(references, ast.New(ast.Fields{field.Class: ast.ColumnRef, field.Type: ast.ColumnRef,
			field.Alias: "", field.ColumnNames: []any{name}}))
	}
	appendItems(inner, shown)
	appendItems(root, references)
	return n, true
}

// innerSelect is the derived table or CTE that a SELECT reads alone; nil for any other FROM.
func innerSelect(root *ast.Node) *ast.Node {
	from := root.Node(field.FromTable)
	if names := from.Names(field.ColumnNameAlias); len(names) > 0 {
		return nil
	}
	switch from.Kind() {
	case ast.Subquery:
		return from.Node(field.Subquery).Node(field.Node)
	case ast.BaseTable:
		for _, entry := range root.Node(field.CteMap).Nodes(field.Map) {
			value := entry.Node(field.Value)
			if names := value.Names(field.Aliases); len(names) == 0 &&
				strings.EqualFold(entry.Text(field.Key), from.Text(field.TableName)) {
				if node := value.Node(field.QueryNode); node != nil {
					return node
				}
				return value.Node(field.Query).Node(field.Node)
			}
		}
	}
	return nil
}

// takeNumbered removes from WHERE the condition on the number of a row, and gives the window that numbers it.
func takeNumbered(root *ast.Node, inner []*ast.Node) (*ast.Node, int, bool) {
	where := root.Node(field.Where)
	if window, keep, ok := numbered(where, inner); ok {
		root.Drop(field.Where)
		return window, keep, true
	}
	if where.Kind() != ast.ConjunctionAnd {
		return nil, 0, false
	}
	children := where.Items(field.Children)
	for i, child := range children {
		condition, _ := child.(*ast.Node)
		if window, keep, ok := numbered(condition, inner); ok {
			where.Set(field.Children, append(append([]any{}, children[:i]...), children[i+1:]...))
			return window, keep, true
		}
	}
	return nil, 0, false
}

// numbered reads a condition such as row_number() OVER (…) <= 3, or one on an alias of that, and gives the window and how many
// rows of a part it keeps.
func numbered(condition *ast.Node, items []*ast.Node) (window *ast.Node, keep int, ok bool) {
	left, right, kind := condition.Node(field.Left), condition.Node(field.Right), condition.Kind()
	if left.Class() == ast.Constant {
		left, right = right, left
		kind = map[ast.Kind]ast.Kind{ast.CompareGreater: ast.CompareLess, ast.CompareGreaterEqual: ast.CompareLessEqual,
			ast.CompareEqual: kind}[kind]
	}
	if name := columnName(left); name != "" {
		for _, item := range items {
			if strings.EqualFold(item.Text(field.Alias), name) {
				left = item
			}
		}
	}
	n, err := strconv.Atoi(right.Node(field.Literal).Text(field.Text))
	if left.Kind() != ast.WindowRowNumber || err != nil {
		return nil, 0, false
	}
	switch kind {
	case ast.CompareLessEqual:
		return left, n, true
	case ast.CompareLess:
		return left, n - 1, true
	case ast.CompareEqual:
		return left, n, n == 1
	}
	return nil, 0, false
}

// topNOf gives the select items that show a window's places, keys and parts; false where they would regroup the rows.
func topNOf(window *ast.Node, keep int, node *ast.Node) (TopN, []any, bool) {
	n := TopN{Keep: keep}
	place := ast.Copy(window)
	place.Set(field.Alias, "")
	shown := []any{place}
	var keys []OrderKey
	expressions := map[string]*ast.Node{}
	for i, order := range window.Nodes(field.Orders) {
		for _, k := range orderKeys(order, nil) {
			k.Name = strconv.Itoa(i)
			expressions[k.Name] = ast.Copy(order.Node(field.Expression))
			keys = append(keys, k)
		}
	}
	n.Keys = Outer{Keys: keys, Limit: true}.AskedOrder()
	for _, k := range n.Keys {
		shown = append(shown, expressions[k.Name])
	}
	parts := window.Items(field.Partitions)
	n.Parts = len(parts)
	for _, p := range parts {
		shown = append(shown, ast.Copy(p))
	}
	if node.Text(field.AggregateHandling) == "FORCE_AGGREGATES" { // GROUP BY ALL: a new item that is no aggregate regroups
		for _, item := range shown[1:] {
			expression, _ := item.(*ast.Node)
			if !hasAggregate(expression) && findItem(expression, selectItems(node)) < 0 {
				return n, nil, false
			}
		}
	}
	return n, shown, len(n.Keys) > 0
}

func appendItems(node *ast.Node, more []any) {
	items := node.Items(field.SelectList)
	node.Set(field.SelectList, append(append([]any{}, items...), more...))
}

func hasModifier(node *ast.Node, kind ast.Kind) bool {
	for _, m := range node.Nodes(field.Modifiers) {
		if m.Kind() == kind {
			return true
		}
	}
	return false
}

func hasStar(node *ast.Node) bool {
	items := selectItems(node)
	return starBefore(items, len(items))
}

// grouped tells whether a SELECT makes one row of several.
func grouped(node *ast.Node) bool {
	if groups := node.Items(field.GroupExpressions); len(groups) > 0 || node.Text(field.AggregateHandling) == "FORCE_AGGREGATES" {
		return true
	}
	return slices.ContainsFunc(selectItems(node), hasAggregate)
}

// NeverRepeats tells a SELECT whose rows are distinct by themselves: it gives one row, or shows everything that it is grouped by.
func NeverRepeats(node *ast.Node) bool {
	if !grouped(node) {
		return false
	}
	items := selectItems(node)
	for _, g := range node.Nodes(field.GroupExpressions) {
		if place, ok := wholeConstant(g); ok && place >= 1 && place <= len(items) {
			continue
		}
		if findItem(g, items) < 0 {
			return false
		}
	}
	return len(node.Nodes(field.GroupSets)) <= 1
}

// Ranks tells whether a query ranks rows, so that all that are tied count.
func (t *Tree) Ranks() bool {
	for _, site := range t.Sites() {
		if kind := site.Node.Kind(); kind == ast.WindowRank || kind == ast.WindowRankDense {
			return true
		}
	}
	return false
}
