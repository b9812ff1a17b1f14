package sql

import (
	"encoding/json"
	"strconv"
	"strings"
)

// OrderKey is one key of an outermost ORDER BY.
type OrderKey struct {
	Item       int    // index of the select item that it orders by, -1 when it is no select item
	Name       string // the alias or column it names, "" for other expressions
	Descending bool
	Aggregate  bool   // orders by an aggregate
	Nulls      string // "first", "last", or "" where unsaid
}

// Outer is what a query does to its rows last: the order and the cut.
type Outer struct {
	Keys  []OrderKey
	Limit bool // has a LIMIT, OFFSET or percentage
}

// AskedOrder gives the keys whose order was asked for, rather than being for display: where a key is an aggregate or
// descending, or there is a LIMIT. Ascending keys after the first aggregate or descending one are tie-breakers.
func (o Outer) AskedOrder() []OrderKey {
	first := -1
	for i, k := range o.Keys {
		if k.Aggregate || k.Descending {
			first = i
			break
		}
	}
	if first < 0 {
		if o.Limit {
			return o.Keys
		}
		return nil
	}
	asked := append([]OrderKey(nil), o.Keys[:first+1]...)
	for _, k := range o.Keys[first+1:] {
		if k.Aggregate || k.Descending {
			asked = append(asked, k)
		}
	}
	return asked
}

// Outer reads the outermost ORDER BY and LIMIT.
func (t *Tree) Outer() Outer {
	var outer Outer
	items := selectItems(t.root)
	for _, modifier := range list(t.root, "modifiers") {
		switch text(modifier, "type") {
		case "ORDER_MODIFIER":
			for _, order := range list(modifier, "orders") {
				outer.Keys = append(outer.Keys, orderKeys(order, items)...)
			}
		case "LIMIT_MODIFIER", "LIMIT_PERCENT_MODIFIER":
			outer.Limit = true
		}
	}
	return outer
}

// RoundedItems tells of each select item whether it is itself rounded or cast, so that its value is no longer at full
// precision. Items after a star have no known place and are left out.
func (t *Tree) RoundedItems() []bool {
	var rounded []bool
	for _, item := range selectItems(t.root) {
		if text(item, "class") == "STAR" {
			break
		}
		name := functionName(item)
		rounded = append(rounded, name == "round" || name == "trunc" || name == "round_even" || text(item, "class") == "CAST")
	}
	return rounded
}

// selectItems are the select list of the outermost SELECT, or of a set operation's first one.
func selectItems(node map[string]any) []map[string]any {
	for text(node, "type") == "SET_OPERATION_NODE" {
		children := list(node, "children")
		if len(children) == 0 {
			return nil
		}
		node = children[0]
	}
	return list(node, "select_list")
}

// orderKeys resolves one ORDER BY entry; ORDER BY ALL stands for every select item.
func orderKeys(order map[string]any, items []map[string]any) []OrderKey {
	expression := object(order, "expression")
	key := OrderKey{Item: -1, Descending: text(order, "type") == "DESCENDING"}
	switch text(order, "null_order") {
	case "NULLS FIRST":
		key.Nulls = "first"
	case "NULLS LAST":
		key.Nulls = "last"
	}
	if text(expression, "class") == "STAR" {
		keys := make([]OrderKey, len(items))
		for i, item := range items {
			keys[i] = key
			keys[i].Item, keys[i].Name, keys[i].Aggregate = i, itemName(item), hasAggregate(item)
		}
		return keys
	}
	key.Item = findItem(expression, items)
	key.Name = columnName(expression)
	key.Aggregate = hasAggregate(expression)
	if key.Item >= 0 {
		key.Name = itemName(items[key.Item])
		key.Aggregate = hasAggregate(items[key.Item])
	}
	return []OrderKey{key}
}

// findItem finds the select item that an ORDER BY expression means: by position, alias, or the same expression.
func findItem(expression map[string]any, items []map[string]any) int {
	if text(expression, "class") == "CONSTANT" {
		n, err := strconv.Atoi(text(object(expression, "literal"), "text"))
		if err != nil || n < 1 || n > len(items) || starBefore(items, n) {
			return -1
		}
		return n - 1
	}
	name := columnName(expression)
	for i, item := range items {
		if starBefore(items, i+1) {
			return -1
		}
		if alias := text(item, "alias"); alias != "" && strings.EqualFold(alias, name) {
			return i
		}
	}
	want := shape(expression)
	for i, item := range items {
		if shape(item) == want || name != "" && strings.EqualFold(columnName(item), name) {
			return i
		}
	}
	return -1
}

// starBefore tells whether one of the first n items is a star, after which places are unknown.
func starBefore(items []map[string]any, n int) bool {
	for _, item := range items[:min(n, len(items))] {
		if text(item, "class") == "STAR" {
			return true
		}
	}
	return false
}

// itemName is the name of the result column that a select item makes, as far as it is written.
func itemName(item map[string]any) string {
	if alias := text(item, "alias"); alias != "" {
		return alias
	}
	return columnName(item)
}

// columnName is the last part of a column reference, "" for other expressions.
func columnName(expression map[string]any) string {
	if text(expression, "class") != "COLUMN_REF" {
		return ""
	}
	names, _ := expression["column_names"].([]any)
	if len(names) == 0 {
		return ""
	}
	name, _ := names[len(names)-1].(string)
	return name
}

// shape is an expression's JSON without places and aliases, so that equal expressions have equal shapes.
func shape(expression map[string]any) string {
	b, err := json.Marshal(stripped(expression))
	if err != nil {
		return ""
	}
	return string(b)
}

func stripped(v any) any {
	switch x := v.(type) {
	case map[string]any:
		out := map[string]any{}
		for k, child := range x {
			if k != "alias" && k != "query_location" && k != "query_location_length" {
				out[k] = stripped(child)
			}
		}
		return out
	case []any:
		out := make([]any, len(x))
		for i, child := range x {
			out[i] = stripped(child)
		}
		return out
	}
	return v
}

// aggregates are the functions that make one value of many rows; the tree does not tell them from others.
var aggregates = map[string]bool{"sum": true, "count": true, "count_star": true, "avg": true, "mean": true, "min": true, "max": true, "median": true,
	"mode": true, "first": true, "last": true, "any_value": true, "arg_min": true, "arg_max": true, "min_by": true, "max_by": true,
	"string_agg": true, "group_concat": true, "listagg": true, "array_agg": true, "list": true, "count_if": true, "countif": true,
	"bool_and": true, "bool_or": true, "product": true, "fsum": true, "sum_no_overflow": true, "favg": true, "quantile": true, "quantile_cont": true,
	"quantile_disc": true, "percentile_cont": true, "percentile_disc": true, "stddev": true, "stddev_samp": true, "stddev_pop": true,
	"variance": true, "var_samp": true, "var_pop": true, "corr": true, "covar_pop": true, "covar_samp": true, "regr_slope": true,
	"approx_count_distinct": true, "approx_quantile": true, "entropy": true, "kurtosis": true, "skewness": true, "mad": true,
	"histogram": true, "bit_and": true, "bit_or": true, "bit_xor": true, "geomean": true}

// hasAggregate tells whether an expression holds an aggregate outside subqueries. A windowed aggregate counts too: an
// order by it is a ranking.
func hasAggregate(expression map[string]any) bool {
	if text(expression, "class") == "SUBQUERY" {
		return false
	}
	if _, called := expression["function_name"]; called && aggregates[functionName(expression)] {
		return true
	}
	for _, child := range expression {
		switch x := child.(type) {
		case map[string]any:
			if hasAggregate(x) {
				return true
			}
		case []any:
			for _, c := range x {
				if o, ok := c.(map[string]any); ok && hasAggregate(o) {
					return true
				}
			}
		}
	}
	return false
}
