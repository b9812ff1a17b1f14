package edit

import (
	"fmt"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/sql"
)

// finer are the mistakes of grouping once more, or at another place, than was asked.
func finer() []*Edit {
	return []*Edit{
		{Name: "mean-of-groups", Doc: "a mean is taken of the means of finer groups, in which every group weighs the same", Code: fault.GroupKeyExtra, Inverse: fault.GroupKeyMissing, make: meanOfGroups},
		{Name: "largest-for-latest", Doc: "the largest value of each group stands for that of its latest row", Code: fault.AggregateFunction, Inverse: fault.AggregateFunction, make: largestForLatest},
		{Name: "derived-key", Doc: "a derived table is grouped by another column, by which it is then joined", Code: fault.JoinKey, Inverse: fault.JoinKey, make: derivedKey},
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
		if sql.Text(site.Node, "type") != "SELECT_NODE" || site.Outermost() {
			continue
		}
		items := sql.List(site.Node, "select_list")
		for _, key := range sql.List(site.Node, "group_expressions") {
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
	if sql.Text(at.Node, "type") != "SELECT_NODE" || !at.Outermost() || sql.Object(at.Node, "having") != nil {
		return nil
	}
	items, keys := sql.List(at.Node, "select_list"), sql.List(at.Node, "group_expressions")
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
		c := altered(s, at, func(n map[string]any) { groupTwice(n, at.Node, isKey, column) })
		c.Before, c.After = "", "GROUP BY … "+column+" below the mean"
		out = append(out, c)
	}
	return out
}

// keyItems tells which items are group keys, and how many are means; no means where an item is something else.
func keyItems(items, keys []map[string]any) (isKey []bool, means int) {
	isKey = make([]bool, len(items))
	for _, k := range keys {
		if at := sql.ItemOf(k, items); at >= 0 {
			isKey[at] = true
		}
	}
	for i, item := range items {
		switch {
		case isKey[i]:
		case sql.FunctionName(item) == "avg" && len(sql.List(item, "arguments")) == 1:
			means++
		default:
			return isKey, 0
		}
	}
	return isKey, means
}

// groupTwice makes a SELECT read itself, grouped by one column more, as a derived table.
func groupTwice(n, was map[string]any, isKey []bool, column string) {
	inner := sql.Copy(was)
	items := sql.List(was, "select_list")
	var innerItems, outerItems, outerKeys []any
	for i, item := range items {
		name := fmt.Sprintf("part_%d", i)
		below := sql.Copy(item)
		below["alias"] = name
		innerItems = append(innerItems, below)
		above := sql.Name("", name)
		if isKey[i] {
			outerKeys = append(outerKeys, sql.Name("", name))
		} else {
			above = sql.Call("avg", false, above)
		}
		above["alias"] = sql.ItemName(item)
		outerItems = append(outerItems, above)
	}
	keys := resolvedKeys(sql.List(was, "group_expressions"), items)
	inner["select_list"], inner["group_expressions"], inner["group_sets"], inner["modifiers"] = innerItems, append(keys, sql.Name("", column)), groupSets(len(keys)+1), []any{}
	n["from_table"] = map[string]any{"type": "SUBQUERY", "alias": "parts", "column_name_alias": []any{}, "subquery": map[string]any{"named_param_map": []any{}, "node": inner}}
	n["select_list"], n["group_expressions"], n["group_sets"], n["modifiers"] = outerItems, outerKeys, groupSets(len(outerKeys)), []any{}
	if outerKeys == nil {
		n["group_expressions"] = []any{}
	}
	n["cte_map"] = map[string]any{"map": []any{}}
	delete(n, "where_clause")
}

// largestForLatest turns QUALIFY row_number() … = 1 into a grouping by the parts, with the largest of everything else.
func largestForLatest(s Subject, at sql.Site) []Change {
	qualify := sql.Object(at.Node, "qualify")
	window := sql.Object(qualify, "left")
	partitions := sql.List(window, "partitions")
	if sql.Text(at.Node, "type") != "SELECT_NODE" || sql.Text(qualify, "type") != "COMPARE_EQUAL" || sql.Text(window, "type") != "WINDOW_ROW_NUMBER" || len(partitions) == 0 {
		return nil
	}
	c := altered(s, at, func(n map[string]any) {
		var items, keys []any
		for _, p := range partitions {
			keys = append(keys, sql.Copy(p))
		}
		for _, item := range sql.List(at.Node, "select_list") {
			isPart := false
			for _, p := range partitions {
				isPart = isPart || sql.Same(unqualified(item), unqualified(p))
			}
			shown := sql.Copy(item)
			if !isPart {
				shown = sql.Call("max", false, item)
				shown["alias"] = sql.ItemName(item)
			}
			items = append(items, shown)
		}
		delete(n, "qualify")
		n["select_list"], n["group_expressions"], n["group_sets"] = items, keys, groupSets(len(keys))
	})
	c.Before, c.After = "row_number() = 1", "max(…) GROUP BY "+sql.Fragment(partitions[0])
	return one(c)
}

// derivedKey groups a derived table by another column under the same name.
func derivedKey(s Subject, at sql.Site) []Change {
	if sql.Text(at.Node, "type") != "SELECT_NODE" || at.Outermost() {
		return nil
	}
	items, keys := sql.List(at.Node, "select_list"), sql.List(at.Node, "group_expressions")
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
			c := altered(s, at, func(n map[string]any) {
				written := resolvedKeys(keys, items)
				written[i] = sql.Name("", column)
				all := append([]any{}, anyList(items)...)
				other := sql.Name("", column)
				other["alias"] = sql.ItemName(items[shown])
				all[shown] = other
				n["select_list"], n["group_expressions"] = all, written
			})
			c.Before, c.After = "GROUP BY "+name, "GROUP BY "+column
			out = append(out, c)
		}
	}
	return out
}

func anyList(nodes []map[string]any) []any {
	out := make([]any, len(nodes))
	for i, n := range nodes {
		out[i] = n
	}
	return out
}
