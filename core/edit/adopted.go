package edit

import (
	"maps"
	"slices"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// adopted are the mistakes that show once a part of the other query stands in the place of its counterpart: whatever the difference is,
// it is found, and named by what differs within.
func adopted() []*Edit {
	return []*Edit{
		{Name: "other-item", Doc: "something else is shown", Code: fault.Formula, Inverse: fault.Formula, make: otherItem},
		{Name: "other-group-key", Doc: "the rows are grouped by something else", Code: fault.GroupKeyMissing,
			Inverse: fault.GroupKeyExtra, make: otherGroupKey},
		{Name: "other-window-order", Doc: "another row comes first", Code: fault.WrongOrder, Inverse: fault.WrongOrder,
			make: otherWindowOrder},
	}
}

// homed is a copy of an expression of the other query whose columns are written with the tables of a FROM; nil where one has no place
// there.
func homed(s Subject, from, expression *ast.Node) *ast.Node {
	here, there := aliases(from), map[string]string{}
	for _, site := range s.Other.Sites() {
		if site.Node.Kind() == ast.BaseTable {
			maps.Copy(there, aliases(site.Node))
		}
	}
	derived := len(here) == 0
	fits := true
	out, _ := sql.Alter(ast.Copy(expression), func(node *ast.Node) *ast.Node {
		name := sql.ColumnName(node)
		if node.Class() != ast.ColumnRef || name == "" {
			return node
		}
		table := ""
		if names := node.Names(field.ColumnNames); len(names) > 1 {
			table = there[names[len(names)-2]]
		}
		home := ""
		for _, alias := range slices.Sorted(maps.Keys(here)) {
			owns := slices.ContainsFunc(s.Columns[here[alias]], func(c Column) bool { return strings.EqualFold(c.Name, name) })
			if owns && (home == "" || here[alias] == table) {
				home = alias
			}
		}
		fits = fits && (home != "" || derived)
		return withAlias(sql.Name(home, name), node)
	}).(*ast.Node)
	if !fits {
		return nil
	}
	return out
}

// otherItem shows what the other query shows in place of an item, where both or neither aggregate.
func otherItem(s Subject, at sql.Site) []Change {
	if s.Other == nil || at.Node.Kind() != ast.SelectNode {
		return nil
	}
	var out []Change
	for i, item := range at.Node.Nodes(field.SelectList) {
		if item.Class() == ast.Star {
			continue
		}
		for _, other := range othersItems(s, at.Node.Node(field.FromTable), item) {
			c := altered(s, at, func(n *ast.Node) { putItem(n, at.Node, i, other) })
			c.Before, c.After = sql.Fragment(item), sql.Fragment(other)
			code, sure := difference(s, item, other)
			c.Code, c.Unsure, c.Key = code, !sure, isKey(at.Node, i)
			if c.Key && (code == fault.Formula || code == fault.WrongMeasure || slices.Equal(sql.ColumnsIn(item), sql.ColumnsIn(other))) {
				c.Code, c.Unsure = fault.GroupKeyMissing, false
			}
			out = append(out, c)
		}
	}
	return out
}

// isKey tells an item that its SELECT groups by.
func isKey(n *ast.Node, place int) bool {
	for _, k := range n.Nodes(field.GroupExpressions) {
		if sql.ItemOf(k, n.Nodes(field.SelectList)) == place {
			return true
		}
	}
	return false
}

// othersItems are the different items of the other query that may stand in an item's place, under its name.
func othersItems(s Subject, from, item *ast.Node) []*ast.Node {
	seen := map[string]bool{sql.Canonical(item): true}
	var out []*ast.Node
	for _, site := range s.Other.Sites() {
		if site.Role != field.SelectList || site.Node.Class() == ast.Star || sql.HasAggregate(site.Node) != sql.HasAggregate(item) {
			continue
		}
		node := homed(s, from, site.Node)
		if node == nil || seen[sql.Canonical(node)] {
			continue
		}
		seen[sql.Canonical(node)] = true
		node.Set(field.Alias, sql.ItemName(item))
		out = append(out, node)
	}
	return out
}

// putItem puts another item in a place of a SELECT, and groups by it where the one before was grouped by.
func putItem(n, was *ast.Node, place int, item *ast.Node) {
	items, keys := was.Nodes(field.SelectList), was.Nodes(field.GroupExpressions)
	list := anyList(items)
	list[place] = item
	n.Set(field.SelectList, list)
	if len(keys) == 0 {
		return
	}
	written := resolvedKeys(keys, items)
	for k, key := range keys {
		if sql.ItemOf(key, items) == place {
			bare := ast.Copy(item)
			bare.Set(field.Alias, "")
			written[k] = bare
		}
	}
	n.Set(field.GroupExpressions, written)
}

// otherGroupKey groups by one of the other query's keys in place of one that is not shown, or is shown and replaced with it.
func otherGroupKey(s Subject, at sql.Site) []Change {
	keys, items := at.Node.Nodes(field.GroupExpressions), at.Node.Nodes(field.SelectList)
	if s.Other == nil || at.Node.Kind() != ast.SelectNode || len(keys) == 0 {
		return nil
	}
	var theirs []*ast.Node
	for _, site := range s.Other.Sites() {
		for _, k := range site.Node.Nodes(field.GroupExpressions) {
			if node := homed(s, at.Node.Node(field.FromTable), keyNode(k, site.Node.Nodes(field.SelectList))); node != nil {
				node.Set(field.Alias, "")
				theirs = append(theirs, node)
			}
		}
	}
	var out []Change
	for i, key := range keys {
		for _, other := range theirs {
			if sql.Canonical(unqualified(keyNode(key, items))) == sql.Canonical(unqualified(other)) {
				continue
			}
			shown := sql.ItemOf(key, items)
			c := altered(s, at, func(n *ast.Node) {
				if shown >= 0 {
					putItem(n, at.Node, shown, withAlias(ast.Copy(other), ast.New(ast.Fields{field.Alias: sql.ItemName(items[shown])})))
					return
				}
				written := resolvedKeys(keys, items)
				written[i] = other
				n.Set(field.GroupExpressions, written)
			})
			c.Key = true
			c.Before, c.After = "GROUP BY "+sql.Fragment(bareOf(keyNode(key, items))), "GROUP BY "+sql.Fragment(other)
			out = append(out, c)
		}
	}
	return out
}

// otherWindowOrder turns the order of a window round, or takes over what the other query orders a window by.
func otherWindowOrder(s Subject, at sql.Site) []Change {
	orders := at.Node.Nodes(field.Orders)
	if at.Node.Class() != ast.Window || len(orders) == 0 || s.Other == nil {
		return nil
	}
	var out []Change
	if len(orders) > 1 {
		c := altered(s, at, func(n *ast.Node) { n.Set(field.Orders, turnedRound(orders)) })
		c.Before, c.After = "ORDER BY "+sql.Fragment(orders[0].Node(field.Expression)), "the reverse order"
		out = append(out, c)
	}
	for _, column := range otherMeasured(s, orders[0].Node(field.Expression)) {
		c := altered(s, at, func(n *ast.Node) {
			first := ast.Copy(orders[0])
			first.Set(field.Expression, column)
			n.Set(field.Orders, append([]any{first}, anyList(orders[1:])...))
		})
		c.Before, c.After = "ORDER BY "+sql.Fragment(orders[0].Node(field.Expression)), "ORDER BY "+sql.Fragment(column)
		c.Code, _ = difference(s, orders[0].Node(field.Expression), column)
		out = append(out, c)
	}
	return out
}

// turnedRound are the keys of an order, each in the other direction.
func turnedRound(orders []*ast.Node) []any {
	var out []any
	for _, o := range orders {
		turned := ast.Copy(o)
		turned.Set(field.Type, ast.Descending)
		if o.Kind() == ast.Descending {
			turned.Set(field.Type, ast.Ascending)
		}
		out = append(out, turned)
	}
	return out
}

// otherMeasured are the columns of a column's table that may be meant in its place: those that the other query names.
func otherMeasured(s Subject, expression *ast.Node) []*ast.Node {
	name := sql.ColumnName(expression)
	if name == "" {
		return nil
	}
	seen := map[string]bool{strings.ToLower(name): true}
	var out []*ast.Node
	for _, site := range s.Other.Sites() {
		other := sql.ColumnName(site.Node)
		if other == "" || seen[strings.ToLower(other)] || !sameTable(s, name, other) {
			continue
		}
		seen[strings.ToLower(other)] = true
		out = append(out, renamed(expression, other))
	}
	return out
}

// sameTable tells whether some table has both columns.
func sameTable(s Subject, a, b string) bool {
	for _, columns := range s.Columns {
		has := func(name string) bool {
			return slices.ContainsFunc(columns, func(c Column) bool { return strings.EqualFold(c.Name, name) })
		}
		if has(a) && has(b) {
			return true
		}
	}
	return false
}
