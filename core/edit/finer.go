package edit

import (
	"fmt"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// finer are the mistakes of grouping once more, or at another place, than was asked.
func finer() []*Edit {
	return []*Edit{
		{Name: "mean-of-groups", Doc: "a mean is taken of the means of finer groups, in which every group weighs the same",
			Code: fault.GroupKeyExtra, Inverse: fault.GroupKeyMissing, make: meanOfGroups},
		{Name: "largest-for-latest", Doc: "the largest value of each group stands for that of its latest row",
			Code: fault.AggregateFunction, Inverse: fault.AggregateFunction, make: largestForLatest},
		{Name: "derived-key", Doc: "a derived table is grouped by another column, by which it is then joined",
			Code: fault.JoinKey, Inverse: fault.JoinKey, make: derivedKey},
	}
}

// innerGroupColumns are the columns that the derived tables and CTEs of the other query are grouped by.
func innerGroupColumns(s Subject) []string {
	if s.Other == nil {
		return nil
	}
	seen := map[string]bool{}
	var out []string
	for _, site := range s.Other.Sites() {
		if site.Node.Kind() != ast.SelectNode || site.Outermost() {
			continue
		}
		items := site.Node.Nodes(field.SelectList)
		for _, key := range site.Node.Nodes(field.GroupExpressions) {
			if name := sql.ColumnName(keyNode(key, items)); name != "" && !seen[strings.ToLower(name)] {
				seen[strings.ToLower(name)] = true
				out = append(out, name)
			}
		}
	}
	return out
}

// meanOfGroups takes means over groups that are finer by one column, and the mean of these.
func meanOfGroups(s Subject, at sql.Site) []Change {
	if at.Node.Kind() != ast.SelectNode || !at.Outermost() || at.Node.Node(field.Having) != nil {
		return nil
	}
	items, keys := at.Node.Nodes(field.SelectList), at.Node.Nodes(field.GroupExpressions)
	isKey, means := keyItems(items, keys)
	if means == 0 {
		return nil
	}
	var out []Change
	for _, column := range innerGroupColumns(s) {
		known := false
		for _, k := range keys {
			known = known || strings.EqualFold(sql.ColumnName(keyNode(k, items)), column)
		}
		if known {
			continue
		}
		c := altered(s, at, func(n *ast.Node) { groupTwice(n, at.Node, isKey, column) })
		c.Before, c.After = "", "GROUP BY "+column+" below the mean"
		out = append(out, c)
	}
	return out
}

// keyItems tells which items are group keys, and how many are means; no means where an item is something else.
func keyItems(items, keys []*ast.Node) (isKey []bool, means int) {
	isKey = make([]bool, len(items))
	for _, k := range keys {
		if at := sql.ItemOf(k, items); at >= 0 {
			isKey[at] = true
		}
	}
	for i, item := range items {
		switch {
		case isKey[i]:
		case item.FunctionName() == "avg" && len(item.Nodes(field.Arguments)) == 1:
			means++
		default:
			return isKey, 0
		}
	}
	return isKey, means
}

// groupTwice makes a SELECT read itself, grouped by one column more, as a derived table.
func groupTwice(n, was *ast.Node, isKey []bool, column string) {
	inner := ast.Copy(was)
	items := was.Nodes(field.SelectList)
	var innerItems, outerItems, outerKeys []any
	for i, item := range items {
		name := fmt.Sprintf("part_%d", i)
		below := ast.Copy(item)
		below.Set(field.Alias, name)
		innerItems = append(innerItems, below)
		above := sql.Name("", name)
		if isKey[i] {
			outerKeys = append(outerKeys, sql.Name("", name))
		} else {
			above = sql.Call("avg", false, above)
		}
		above.Set(field.Alias, sql.ItemName(item))
		outerItems = append(outerItems, above)
	}
	keys := resolvedKeys(was.Nodes(field.GroupExpressions), items)
	inner.Set(field.SelectList, innerItems)
	inner.Set(field.GroupExpressions, append(keys, sql.Name("", column)))
	inner.Set(field.GroupSets, groupSets(len(keys)+1))
	inner.Set(field.Modifiers, []any{})
	n.Set(field.FromTable, ast.New(ast.Fields{field.Type: ast.Subquery, field.Alias: "parts", field.ColumnNameAlias: []any{},
		field.Subquery: ast.New(ast.Fields{field.NamedParamMap: []any{}, field.Node: inner})}))
	n.Set(field.SelectList, outerItems)
	n.Set(field.GroupExpressions, outerKeys)
	n.Set(field.GroupSets, groupSets(len(outerKeys)))
	n.Set(field.Modifiers, []any{})
	if outerKeys == nil {
		n.Set(field.GroupExpressions, []any{})
	}
	n.Set(field.CteMap, ast.New(ast.Fields{field.Map: []any{}}))
	n.Drop(field.Where)
}

// largestForLatest turns QUALIFY row_number() … = 1 into a grouping by the parts, with the largest of everything else.
func largestForLatest(s Subject, at sql.Site) []Change {
	qualify := at.Node.Node(field.Qualify)
	window := qualify.Node(field.Left)
	partitions := window.Nodes(field.Partitions)
	if at.Node.Kind() != ast.SelectNode || qualify.Kind() != ast.CompareEqual || window.Kind() != ast.WindowRowNumber ||
		len(partitions) == 0 {
		return nil
	}
	c := altered(s, at, func(n *ast.Node) {
		var items, keys []any
		for _, p := range partitions {
			keys = append(keys, ast.Copy(p))
		}
		for _, item := range at.Node.Nodes(field.SelectList) {
			isPart := false
			for _, p := range partitions {
				isPart = isPart || sql.Same(unqualified(item), unqualified(p))
			}
			shown := ast.Copy(item)
			if !isPart {
				shown = sql.Call("max", false, item)
				shown.Set(field.Alias, sql.ItemName(item))
			}
			items = append(items, shown)
		}
		n.Drop(field.Qualify)
		n.Set(field.SelectList, items)
		n.Set(field.GroupExpressions, keys)
		n.Set(field.GroupSets, groupSets(len(keys)))
	})
	c.Before, c.After = "QUALIFY "+sql.Fragment(qualify), "GROUP BY "+sql.Fragment(partitions[0])+" with the largest of everything else"
	return one(c)
}

// derivedKey groups a derived table by another column under the same name.
func derivedKey(s Subject, at sql.Site) []Change {
	if at.Node.Kind() != ast.SelectNode || at.Outermost() {
		return nil
	}
	items, keys := at.Node.Nodes(field.SelectList), at.Node.Nodes(field.GroupExpressions)
	var out []Change
	for i, key := range keys {
		shown := sql.ItemOf(key, items)
		name := sql.ColumnName(keyNode(key, items))
		if name == "" || shown < 0 {
			continue
		}
		for _, column := range innerGroupColumns(s) {
			if strings.EqualFold(column, name) {
				continue
			}
			c := altered(s, at, func(n *ast.Node) {
				written := resolvedKeys(keys, items)
				written[i] = sql.Name("", column)
				all := append([]any{}, anyList(items)...)
				other := sql.Name("", column)
				other.Set(field.Alias, sql.ItemName(items[shown]))
				all[shown] = other
				n.Set(field.SelectList, all)
				n.Set(field.GroupExpressions, written)
			})
			c.Before, c.After = "GROUP BY "+name, "GROUP BY "+column
			if !joinedBy(s.Tree, sql.ItemName(items[shown])) {
				c.Code = fault.GroupKeyMissing
			}
			out = append(out, c)
		}
	}
	return out
}

// joinedBy tells whether a query joins on a column of a name.
func joinedBy(t *sql.Tree, name string) bool {
	for _, site := range t.Sites() {
		for _, using := range site.Node.Names(field.UsingColumns) {
			if strings.EqualFold(using, name) {
				return true
			}
		}
		if isKeyEquality(site.Node) && (strings.EqualFold(sql.ColumnName(site.Node.Node(field.Left)), name) ||
			strings.EqualFold(sql.ColumnName(site.Node.Node(field.Right)), name)) {
			return true
		}
	}
	return false
}

func anyList(nodes []*ast.Node) []any {
	out := make([]any, len(nodes))
	for i, n := range nodes {
		out[i] = n
	}
	return out
}
