package sql

import (
	"fmt"
	"strconv"
	"strings"
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
func topN(root map[string]any) (TopN, bool) {
	if text(root, "type") != "SELECT_NODE" || hasModifier(root, "DISTINCT_MODIFIER") || hasModifier(root, "LIMIT_MODIFIER") || hasStar(root) {
		return TopN{}, false
	}
	if condition := object(root, "qualify"); condition != nil {
		window, keep, ok := numbered(condition, selectItems(root))
		if !ok {
			return TopN{}, false
		}
		n, shown, ok := topNOf(window, keep, root)
		delete(root, "qualify")
		appendItems(root, shown)
		return n, ok
	}
	return topNInside(root)
}

// topNInside handles the form SELECT … FROM (SELECT …, row_number() OVER … AS rn FROM …) WHERE rn <= n.
func topNInside(root map[string]any) (TopN, bool) {
	inner := innerSelect(root)
	if inner == nil || text(inner, "type") != "SELECT_NODE" || hasModifier(inner, "DISTINCT_MODIFIER") || hasModifier(inner, "LIMIT_MODIFIER") || grouped(root) {
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
		item.(map[string]any)["alias"] = name
		references = append(references, map[string]any{"class": "COLUMN_REF", "type": "COLUMN_REF", "alias": "", "column_names": []any{name}})
	}
	appendItems(inner, shown)
	appendItems(root, references)
	return n, true
}

// innerSelect is the derived table or CTE that a SELECT reads alone; nil for any other FROM.
func innerSelect(root map[string]any) map[string]any {
	from := object(root, "from_table")
	if names, _ := from["column_name_alias"].([]any); len(names) > 0 {
		return nil
	}
	switch text(from, "type") {
	case "SUBQUERY":
		return object(object(from, "subquery"), "node")
	case "BASE_TABLE":
		for _, entry := range list(object(root, "cte_map"), "map") {
			value := object(entry, "value")
			if names, _ := value["aliases"].([]any); len(names) == 0 && strings.EqualFold(text(entry, "key"), text(from, "table_name")) {
				if node := object(value, "query_node"); node != nil {
					return node
				}
				return object(object(value, "query"), "node")
			}
		}
	}
	return nil
}

// takeNumbered removes from WHERE the condition on the number of a row, and gives the window that numbers it.
func takeNumbered(root map[string]any, inner []map[string]any) (map[string]any, int, bool) {
	where := object(root, "where_clause")
	if window, keep, ok := numbered(where, inner); ok {
		delete(root, "where_clause")
		return window, keep, true
	}
	if text(where, "type") != "CONJUNCTION_AND" {
		return nil, 0, false
	}
	children, _ := where["children"].([]any)
	for i, child := range children {
		condition, _ := child.(map[string]any)
		if window, keep, ok := numbered(condition, inner); ok {
			where["children"] = append(append([]any{}, children[:i]...), children[i+1:]...)
			return window, keep, true
		}
	}
	return nil, 0, false
}

// numbered reads a condition such as row_number() OVER (…) <= 3, or one on an alias of that, and gives the window and how many
// rows of a part it keeps.
func numbered(condition map[string]any, items []map[string]any) (window map[string]any, keep int, ok bool) {
	left, right, kind := object(condition, "left"), object(condition, "right"), text(condition, "type")
	if text(left, "class") == "CONSTANT" {
		left, right = right, left
		kind = map[string]string{"COMPARE_GREATERTHAN": "COMPARE_LESSTHAN", "COMPARE_GREATERTHANOREQUALTO": "COMPARE_LESSTHANOREQUALTO", "COMPARE_EQUAL": kind}[kind]
	}
	if name := columnName(left); name != "" {
		for _, item := range items {
			if strings.EqualFold(text(item, "alias"), name) {
				left = item
			}
		}
	}
	n, err := strconv.Atoi(text(object(right, "literal"), "text"))
	if text(left, "type") != "WINDOW_ROW_NUMBER" || err != nil {
		return nil, 0, false
	}
	switch kind {
	case "COMPARE_LESSTHANOREQUALTO":
		return left, n, true
	case "COMPARE_LESSTHAN":
		return left, n - 1, true
	case "COMPARE_EQUAL":
		return left, n, n == 1
	}
	return nil, 0, false
}

// topNOf gives the select items that show a window's places, keys and parts; false where they would regroup the rows.
func topNOf(window map[string]any, keep int, node map[string]any) (TopN, []any, bool) {
	n := TopN{Keep: keep}
	place := copyOf(window).(map[string]any)
	place["alias"] = ""
	shown := []any{place}
	var keys []OrderKey
	expressions := map[string]any{}
	for i, order := range list(window, "orders") {
		for _, k := range orderKeys(order, nil) {
			k.Name = strconv.Itoa(i)
			expressions[k.Name] = copyOf(object(order, "expression"))
			keys = append(keys, k)
		}
	}
	n.Keys = Outer{Keys: keys, Limit: true}.AskedOrder()
	for _, k := range n.Keys {
		shown = append(shown, expressions[k.Name])
	}
	parts, _ := window["partitions"].([]any)
	n.Parts = len(parts)
	for _, p := range parts {
		shown = append(shown, copyOf(p))
	}
	if text(node, "aggregate_handling") == "FORCE_AGGREGATES" { // GROUP BY ALL: a new item that is no aggregate regroups
		for _, item := range shown[1:] {
			expression, _ := item.(map[string]any)
			if !hasAggregate(expression) && findItem(expression, selectItems(node)) < 0 {
				return n, nil, false
			}
		}
	}
	return n, shown, len(n.Keys) > 0
}

func appendItems(node map[string]any, more []any) {
	items, _ := node["select_list"].([]any)
	node["select_list"] = append(append([]any{}, items...), more...)
}

func hasModifier(node map[string]any, kind string) bool {
	for _, m := range list(node, "modifiers") {
		if text(m, "type") == kind {
			return true
		}
	}
	return false
}

func hasStar(node map[string]any) bool {
	items := selectItems(node)
	return starBefore(items, len(items))
}

// grouped tells whether a SELECT makes one row of several.
func grouped(node map[string]any) bool {
	if groups, _ := node["group_expressions"].([]any); len(groups) > 0 || text(node, "aggregate_handling") == "FORCE_AGGREGATES" {
		return true
	}
	for _, item := range selectItems(node) {
		if hasAggregate(item) {
			return true
		}
	}
	return false
}

// NeverRepeats tells a SELECT whose rows are distinct by themselves: it gives one row, or shows everything that it is grouped by.
func NeverRepeats(node map[string]any) bool {
	if !grouped(node) {
		return false
	}
	items := selectItems(node)
	for _, g := range list(node, "group_expressions") {
		if place, ok := wholeConstant(g); ok && place >= 1 && place <= len(items) {
			continue
		}
		if findItem(g, items) < 0 {
			return false
		}
	}
	return len(list(node, "group_sets")) <= 1
}
