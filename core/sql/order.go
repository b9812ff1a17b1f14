package sql

import (
	"encoding/json"
	"strconv"
	"strings"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
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
	for _, modifier := range t.root.Nodes(field.Modifiers) {
		switch modifier.Kind() {
		case ast.OrderModifier:
			for _, order := range modifier.Nodes(field.Orders) {
				outer.Keys = append(outer.Keys, orderKeys(order, items)...)
			}
		case ast.LimitModifier, ast.LimitPercentModifier:
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
		if item.Class() == ast.Star {
			break
		}
		name := item.FunctionName()
		rounded = append(rounded, name == "round" || name == "trunc" || name == "round_even" || item.Class() == ast.Cast)
	}
	return rounded
}

// selectItems are the select list of the outermost SELECT, or of a set operation's first one.
func selectItems(node *ast.Node) []*ast.Node {
	for node.Kind() == ast.SetOperationNode {
		children := node.Nodes(field.Children)
		if len(children) == 0 {
			return nil
		}
		node = children[0]
	}
	return node.Nodes(field.SelectList)
}

// orderKeys resolves one ORDER BY entry; ORDER BY ALL stands for every select item.
func orderKeys(order *ast.Node, items []*ast.Node) []OrderKey {
	expression := order.Node(field.Expression)
	key := OrderKey{Item: -1, Descending: order.Kind() == ast.Descending}
	switch order.Text(field.NullOrder) {
	case "NULLS FIRST":
		key.Nulls = "first"
	case "NULLS LAST":
		key.Nulls = "last"
	}
	if expression.Class() == ast.Star {
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
func findItem(expression *ast.Node, items []*ast.Node) int {
	if expression.Class() == ast.Constant {
		n, err := strconv.Atoi(expression.Node(field.Literal).Text(field.Text))
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
		if alias := item.Text(field.Alias); alias != "" && strings.EqualFold(alias, name) {
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
func starBefore(items []*ast.Node, n int) bool {
	for _, item := range items[:min(n, len(items))] {
		if item.Class() == ast.Star {
			return true
		}
	}
	return false
}

// itemName is the name of the result column that a select item makes, as far as it is written.
func itemName(item *ast.Node) string {
	if alias := item.Text(field.Alias); alias != "" {
		return alias
	}
	return columnName(item)
}

// columnName is the last part of a column reference, "" for other expressions.
func columnName(expression *ast.Node) string {
	if expression.Class() != ast.ColumnRef {
		return ""
	}
	names := expression.Names(field.ColumnNames)
	if len(names) == 0 {
		return ""
	}
	return names[len(names)-1]
}

// shape is an expression's JSON without places and aliases, so that equal expressions have equal shapes.
func shape(expression *ast.Node) string {
	b, err := json.Marshal(stripped(expression))
	if err != nil {
		return ""
	}
	return string(b)
}

func stripped(v any) any {
	switch x := v.(type) {
	case *ast.Node:
		if x == nil {
			return nil
		}
		return x.Map(func(f field.Field, v any) (any, bool) { return stripped(v), !ofText[f] })
	case []any:
		out := make([]any, len(x))
		for i, child := range x {
			out[i] = stripped(child)
		}
		return out
	}
	return v
}

// unplaced leaves out where a field's value stands in the text.
func unplaced(f field.Field, v any) (any, bool) {
	if f == field.QueryLocation || f == field.QueryLocationLength {
		return nil, false
	}
	switch x := v.(type) {
	case *ast.Node:
		if x == nil {
			return nil, true
		}
		return x.Map(unplaced), true
	case []any:
		out := make([]any, len(x))
		for i, child := range x {
			out[i], _ = unplaced(field.Field{}, child)
		}
		return out, true
	}
	return v, true
}

// ofText are the fields that tell how a query is written, not what it asks.
var ofText = map[field.Field]bool{field.Alias: true, field.QueryLocation: true, field.QueryLocationLength: true}

// aggregates are the functions that make one value of many rows; the tree does not tell them from others.
var aggregates = map[string]bool{"sum": true, "count": true, "count_star": true, "avg": true, "mean": true, "min": true,
	"max": true, "median": true,
	"mode": true, "first": true, "last": true, "any_value": true, "arg_min": true, "arg_max": true, "min_by": true, "max_by": true,
	"string_agg": true, "group_concat": true, "listagg": true, "array_agg": true, "list": true, "count_if": true, "countif": true,
	"bool_and": true, "bool_or": true, "product": true, "fsum": true, "sum_no_overflow": true, "favg": true, "quantile": true,
	"quantile_cont": true,
	"quantile_disc": true, "percentile_cont": true, "percentile_disc": true, "stddev": true, "stddev_samp": true, "stddev_pop": true,
	"variance": true, "var_samp": true, "var_pop": true, "corr": true, "covar_pop": true, "covar_samp": true, "regr_slope": true,
	"approx_count_distinct": true, "approx_quantile": true, "entropy": true, "kurtosis": true, "skewness": true, "mad": true,
	"histogram": true, "bit_and": true, "bit_or": true, "bit_xor": true, "geomean": true}

// hasAggregate tells whether an expression holds an aggregate outside subqueries. A windowed aggregate counts too: an
// order by it is a ranking.
func hasAggregate(expression *ast.Node) bool {
	if expression.Class() == ast.Subquery {
		return false
	}
	if aggregates[expression.FunctionName()] {
		return true
	}
	for child := range expression.Values {
		switch x := child.(type) {
		case *ast.Node:
			if hasAggregate(x) {
				return true
			}
		case []any:
			for _, c := range x {
				if o, ok := c.(*ast.Node); ok && hasAggregate(o) {
					return true
				}
			}
		}
	}
	return false
}
