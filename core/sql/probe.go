package sql

import (
	"strconv"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// Probe is a query like another, that shows what its result does not: the values that it is ordered by, and the rows behind
// its cut.
type Probe struct {
	Tree   *Tree
	Keys   int   // the last columns of its result: the values of the keys that are no column of the other's, in their order
	Offset int   // how many of its rows the other skips
	Limit  int   // how many of its rows the other keeps after those; -1 for all
	TopN   *TopN // a cut by row_number, whose columns are then the last ones; Keys is 0 then
}

// Added is how many columns its result has beyond the other's.
func (p Probe) Added() int {
	if p.TopN != nil {
		return p.TopN.Columns()
	}
	return p.Keys
}

// Probe makes the probe of a query; false where it would not differ, or cannot be made: under DISTINCT and in set operations
// nothing can be added, and a LIMIT that is no plain number is left alone.
func (t *Tree) Probe() (Probe, bool) {
	outer := t.Outer()
	p := Probe{Limit: -1}
	root := ast.Copy(t.root)
	hidden := 0
	for _, key := range outer.AskedOrder() {
		if key.Item < 0 {
			hidden++
		}
	}
	if limit, offset, ok := plainLimit(root); ok && len(outer.AskedOrder()) > 0 && (hidden == 0 || offset == 0) {
		dropModifier(root, ast.LimitModifier)
		p.Limit, p.Offset = limit, offset
	}
	if hidden == 0 && p.Limit < 0 {
		if n, ok := topN(root); ok {
			return Probe{Tree: &Tree{root}, Limit: -1, TopN: &n}, true
		}
	}
	if hidden > 0 && !t.addKeys(root, outer) {
		return Probe{}, false
	}
	p.Keys = hidden
	p.Tree = &Tree{root}
	return p, hidden > 0 || p.Limit >= 0
}

// addKeys appends the asked keys that are no select items to the select list; false where that would change the result.
func (t *Tree) addKeys(root *ast.Node, outer Outer) bool {
	if root.Kind() != ast.SelectNode {
		return false
	}
	for _, modifier := range root.Nodes(field.Modifiers) {
		if modifier.Kind() == ast.DistinctModifier {
			return false
		}
	}
	byAll := root.Text(field.AggregateHandling) == "FORCE_AGGREGATES" // GROUP BY ALL: a new item that is no aggregate regroups
	items := root.Items(field.SelectList)
	asked := len(outer.AskedOrder())
	for _, modifier := range root.Nodes(field.Modifiers) {
		for _, order := range modifier.Nodes(field.Orders) {
			expression := order.Node(field.Expression)
			key := orderKeys(order, selectItems(root))
			if len(key) != 1 || key[0].Item >= 0 {
				continue
			}
			if asked == 0 || byAll && !key[0].Aggregate {
				return false
			}
			items = append(items, ast.Copy(expression))
		}
	}
	root.Set(field.SelectList, items)
	return true
}

// plainLimit reads a LIMIT and OFFSET of plain numbers of rows.
func plainLimit(root *ast.Node) (limit, offset int, ok bool) {
	for _, modifier := range root.Nodes(field.Modifiers) {
		if modifier.Kind() != ast.LimitModifier || modifier.Text(field.LimitType) == "PERCENTAGE" {
			continue
		}
		limit, ok = wholeConstant(modifier.Node(field.Limit))
		if skip := modifier.Node(field.Offset); skip != nil && ok {
			offset, ok = wholeConstant(skip)
		}
		return limit, offset, ok
	}
	return 0, 0, false
}

func wholeConstant(expression *ast.Node) (int, bool) {
	n, err := strconv.Atoi(expression.Node(field.Literal).Text(field.Text))
	return n, err == nil && n >= 0
}

func dropModifier(root *ast.Node, kind ast.Kind) {
	all := root.Items(field.Modifiers)
	var kept []any
	for _, m := range all {
		if o, ok := m.(*ast.Node); !ok || o.Kind() != kind {
			kept = append(kept, m)
		}
	}
	root.Set(field.Modifiers, kept)
}
