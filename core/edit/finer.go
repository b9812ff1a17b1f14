package edit

import (
	"fmt"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/query"
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
		if query.Text(site.Node, "type") != "SELECT_NODE" || site.Outermost() {
			continue
		}
		items := query.List(site.Node, "select_list")
		for _, key := range query.List(site.Node, "group_expressions") {
			if name := query.ColumnName(keyNode(key, items)); name != "" && !seen[strings.ToLower(name)] {
				seen[strings.ToLower(name)] = true
				out = append(out, name)
			}
		}
	}
	return out
}

// meanOfGroups takes means over groups that are finer by one column, and the mean of these.
func meanOfGroups(s Subject, at query.Site) []Change {
	if query.Text(at.Node, "type") != "SELECT_NODE" || !at.Outermost() || query.Object(at.Node, "having") != nil {
		return nil
	}
	items, keys := query.List(at.Node, "select_list"), query.List(at.Node, "group_expressions")
	isKey, means := keyItems(items, keys)
	if means == 0 {
		return nil
	}
	var out []Change
	for _, column := range innerGroupColumns(s) {
		known := false
		for _, k := range keys {
			known = known || strings.EqualFold(query.ColumnName(keyNode(k, items)), column)
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
		if at := query.ItemOf(k, items); at >= 0 {
			isKey[at] = true
		}
	}
	for i, item := range items {
		switch {
		case isKey[i]:
		case query.FunctionName(item) == "avg" && len(query.List(item, "arguments")) == 1:
			means++
		default:
			return isKey, 0
		}
	}
	return isKey, means
}

// groupTwice makes a SELECT read itself, grouped by one column more, as a derived table.
func groupTwice(n, was map[string]any, isKey []bool, column string) {
	inner := query.Copy(was)
	items := query.List(was, "select_list")
	var innerItems, outerItems, outerKeys []any
	for i, item := range items {
		name := fmt.Sprintf("part_%d", i)
		below := query.Copy(item)
		below["alias"] = name
		innerItems = append(innerItems, below)
		above := query.Name("", name)
		if isKey[i] {
			outerKeys = append(outerKeys, query.Name("", name))
		} else {
			above = query.Call("avg", false, above)
		}
		above["alias"] = query.ItemName(item)
		outerItems = append(outerItems, above)
	}
	keys := resolvedKeys(query.List(was, "group_expressions"), items)
	inner["select_list"], inner["group_expressions"], inner["group_sets"], inner["modifiers"] = innerItems, append(keys, query.Name("", column)), groupSets(len(keys)+1), []any{}
	n["from_table"] = map[string]any{"type": "SUBQUERY", "alias": "parts", "column_name_alias": []any{}, "subquery": map[string]any{"named_param_map": []any{}, "node": inner}}
	n["select_list"], n["group_expressions"], n["group_sets"], n["modifiers"] = outerItems, outerKeys, groupSets(len(outerKeys)), []any{}
	if outerKeys == nil {
		n["group_expressions"] = []any{}
	}
	n["cte_map"] = map[string]any{"map": []any{}}
	delete(n, "where_clause")
}

// largestForLatest turns QUALIFY row_number() … = 1 into a grouping by the parts, with the largest of everything else.
func largestForLatest(s Subject, at query.Site) []Change {
	qualify := query.Object(at.Node, "qualify")
	window := query.Object(qualify, "left")
	partitions := query.List(window, "partitions")
	if query.Text(at.Node, "type") != "SELECT_NODE" || query.Text(qualify, "type") != "COMPARE_EQUAL" || query.Text(window, "type") != "WINDOW_ROW_NUMBER" || len(partitions) == 0 {
		return nil
	}
	c := altered(s, at, func(n map[string]any) {
		var items, keys []any
		for _, p := range partitions {
			keys = append(keys, query.Copy(p))
		}
		for _, item := range query.List(at.Node, "select_list") {
			isPart := false
			for _, p := range partitions {
				isPart = isPart || query.Same(unqualified(item), unqualified(p))
			}
			shown := query.Copy(item)
			if !isPart {
				shown = query.Call("max", false, item)
				shown["alias"] = query.ItemName(item)
			}
			items = append(items, shown)
		}
		delete(n, "qualify")
		n["select_list"], n["group_expressions"], n["group_sets"] = items, keys, groupSets(len(keys))
	})
	c.Before, c.After = "row_number() = 1", "max(…) GROUP BY "+query.Fragment(partitions[0])
	return one(c)
}

// derivedKey groups a derived table by another column under the same name.
func derivedKey(s Subject, at query.Site) []Change {
	if query.Text(at.Node, "type") != "SELECT_NODE" || at.Outermost() {
		return nil
	}
	items, keys := query.List(at.Node, "select_list"), query.List(at.Node, "group_expressions")
	var out []Change
	for i, key := range keys {
		shown := query.ItemOf(key, items)
		name := query.ColumnName(keyNode(key, items))
		if name == "" || shown < 0 {
			continue
		}
		for _, column := range innerGroupColumns(s) {
			if strings.EqualFold(column, name) {
				continue
			}
			c := altered(s, at, func(n map[string]any) {
				written := resolvedKeys(keys, items)
				written[i] = query.Name("", column)
				all := append([]any{}, anyList(items)...)
				other := query.Name("", column)
				other["alias"] = query.ItemName(items[shown])
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
