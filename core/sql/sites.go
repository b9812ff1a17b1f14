package sql

import (
	"fmt"
	"sort"
	"strings"
)

// Site is a place in a tree: a node, and the way to it.
type Site struct {
	Node   map[string]any
	Role   string // the key that holds it in its parent, such as "where_clause"
	Parent map[string]any
	path   []any // keys and indexes from the root
}

// Sites lists all nodes of a tree, outer ones first, in the order of their keys.
func (t *Tree) Sites() []Site {
	var out []Site
	var visit func(v any, role string, parent map[string]any, path []any)
	visit = func(v any, role string, parent map[string]any, path []any) {
		switch x := v.(type) {
		case map[string]any:
			out = append(out, Site{x, role, parent, append([]any(nil), path...)})
			var keys []string
			for k := range x {
				keys = append(keys, k)
			}
			sort.Strings(keys)
			for _, k := range keys {
				visit(x[k], k, x, append(path, k))
			}
		case []any:
			for i, child := range x {
				visit(child, role, parent, append(path, i))
			}
		}
	}
	visit(t.root, "", nil, nil)
	return out
}

// With is a copy of the tree with another node in a place.
func (t *Tree) With(at Site, node map[string]any) *Tree {
	return &Tree{with(t.root, at.path, node).(map[string]any)}
}

// with copies the way to a place and shares the rest: trees are never changed.
func with(v any, path []any, node any) any {
	if len(path) == 0 {
		return node
	}
	switch x := v.(type) {
	case map[string]any:
		out := make(map[string]any, len(x))
		for k, child := range x {
			out[k] = child
		}
		key, _ := path[0].(string)
		if child := with(x[key], path[1:], node); child == nil {
			delete(out, key)
		} else {
			out[key] = child
		}
		return out
	case []any:
		out := append([]any(nil), x...)
		at, _ := path[0].(int)
		child := with(x[at], path[1:], node)
		if child == nil {
			return append(out[:at:at], out[at+1:]...)
		}
		out[at] = child
		return out
	}
	return v
}

// Without is a copy of the tree without the node in a place; the tree itself where that is all of it.
func (t *Tree) Without(at Site) *Tree {
	root, ok := with(t.root, at.path, nil).(map[string]any)
	if !ok {
		return t
	}
	return &Tree{root}
}

// Copy copies a node.
func Copy(node map[string]any) map[string]any { return copyOf(node).(map[string]any) }

// Fragment writes a node for people, short; "" for none.
func Fragment(node map[string]any) string {
	if node == nil {
		return ""
	}
	c := &canonical{features: Features{}, tables: map[string]int{}}
	if text(node, "class") != "" {
		if text(node, "class") == "COMPARISON" {
			return fmt.Sprintf("%s %s %s", c.expression(object(node, "left"), scope{}), comparisons[text(node, "type")], c.expression(object(node, "right"), scope{}))
		}
		if text(node, "type") == "COMPARE_BETWEEN" {
			return fmt.Sprintf("%s BETWEEN %s AND %s", c.expression(object(node, "input"), scope{}), c.expression(object(node, "lower"), scope{}), c.expression(object(node, "upper"), scope{}))
		}
		return c.expression(node, scope{})
	}
	switch text(node, "type") {
	case "JOIN":
		return text(node, "join_type") + " JOIN " + fromText(object(node, "right"))
	case "BASE_TABLE":
		return tableName(node)
	case "LIMIT_MODIFIER":
		return "LIMIT " + c.expression(object(node, "limit"), scope{})
	case "DISTINCT_MODIFIER":
		return "DISTINCT"
	}
	return strings.ToLower(text(node, "type"))
}

func fromText(node map[string]any) string {
	if name := tableName(node); name != "" {
		return name
	}
	return strings.ToLower(text(node, "type"))
}

// Text reads a node's field; "" where it is not there or no text.
func Text(node map[string]any, key string) string { return text(node, key) }

// Object reads a node within a node; nil where there is none.
func Object(node map[string]any, key string) map[string]any { return object(node, key) }

// List reads the nodes of a list; nil where there is none.
func List(node map[string]any, key string) []map[string]any { return list(node, key) }

// FunctionName is the name of a function call, in lower case; "" for another node.
func FunctionName(node map[string]any) string { return functionName(node) }

// ColumnName is the name of the column that a node refers to, without its table; "" for another node.
func ColumnName(node map[string]any) string { return columnName(node) }

// TableName is the name of the table of a FROM node; "" for another node.
func TableName(node map[string]any) string { return tableName(node) }

// HasAggregate tells whether an expression aggregates rows.
func HasAggregate(node map[string]any) bool { return hasAggregate(node) }

// Same tells whether two nodes are the same but for their places in the text.
func Same(a, b map[string]any) bool { return shape(a) == shape(b) }

// ItemName is the name that a select item has in the result; "" for an expression without an alias.
func ItemName(node map[string]any) string { return itemName(node) }

// IsAggregate tells whether a function of that name aggregates rows.
func IsAggregate(name string) bool { return aggregates[name] }

// Key is a tree's text, the same for the same tree.
func (t *Tree) Key() string { return shape(t.root) }

// Root is the tree's outermost node. It must not be changed.
func (t *Tree) Root() map[string]any { return t.root }

// In tells whether a place lies in what a key holds, such as "where_clause".
func (s Site) In(key string) bool {
	for _, step := range s.path {
		if step == any(key) {
			return true
		}
	}
	return false
}

// Outermost tells whether a place lies in the outermost SELECT itself, not in a subquery, derived table or CTE.
func (s Site) Outermost() bool { return !s.In("subquery") && !s.In("cte_map") }

// EveryWhere is a copy of the tree in which another node stands in all places of the same shape.
func (t *Tree) EveryWhere(node, with map[string]any) (tree *Tree, places int) {
	want := shape(node)
	var visit func(v any) any
	visit = func(v any) any {
		switch x := v.(type) {
		case map[string]any:
			if text(x, "class") == text(node, "class") && shape(x) == want {
				places++
				return with
			}
			out := make(map[string]any, len(x))
			for k, child := range x {
				out[k] = visit(child)
			}
			return out
		case []any:
			out := make([]any, len(x))
			for i, child := range x {
				out[i] = visit(child)
			}
			return out
		}
		return v
	}
	root, _ := visit(t.root).(map[string]any)
	return &Tree{root}, places
}

// Alter puts another node in place of each node below a value, the inner ones first. It changes the value: give it a copy.
func Alter(v any, alter func(node map[string]any) map[string]any) any {
	switch x := v.(type) {
	case map[string]any:
		for k, child := range x {
			x[k] = Alter(child, alter)
		}
		return alter(x)
	case []any:
		for i, child := range x {
			x[i] = Alter(child, alter)
		}
	}
	return v
}

// Call makes a call of a function, or of an operator.
func Call(name string, operator bool, arguments ...map[string]any) map[string]any {
	list := []any{} // never null: the engine wants a list
	for _, a := range arguments {
		plain := Copy(a)
		plain["alias"] = ""
		list = append(list, map[string]any{"name": "", "expression": plain})
	}
	return map[string]any{"class": "FUNCTION", "type": "FUNCTION", "alias": "", "function_name": name, "schema": "", "catalog": "",
		"qualified_name": map[string]any{"path": []any{name}}, "arguments": list, "distinct": false, "is_operator": operator, "export_state": false,
		"order_bys": map[string]any{"type": "ORDER_MODIFIER", "orders": []any{}}}
}

// Number makes a number.
func Number(digits string) map[string]any {
	return map[string]any{"class": "CONSTANT", "type": "VALUE_CONSTANT", "alias": "", "literal": map[string]any{"kind": "INTEGER", "text": digits}}
}

// String makes a text.
func String(text string) map[string]any {
	return map[string]any{"class": "CONSTANT", "type": "VALUE_CONSTANT", "alias": "", "literal": map[string]any{"kind": "STRING", "text": text}}
}

// Name makes a reference to a column, with the table's name where one is given.
func Name(table, column string) map[string]any {
	names := []any{column}
	if table != "" {
		names = []any{table, column}
	}
	return map[string]any{"class": "COLUMN_REF", "type": "COLUMN_REF", "alias": "", "column_names": names}
}

// Compare makes a comparison such as COMPARE_EQUAL.
func Compare(kind string, left, right map[string]any) map[string]any {
	return map[string]any{"class": "COMPARISON", "type": kind, "alias": "", "left": left, "right": right}
}

// And joins conditions; nil ones are left out.
func And(conditions ...map[string]any) map[string]any {
	var all []any
	for _, c := range conditions {
		switch {
		case c == nil:
		case text(c, "type") == "CONJUNCTION_AND":
			children, _ := c["children"].([]any)
			all = append(all, children...)
		default:
			all = append(all, c)
		}
	}
	if len(all) == 1 {
		one, _ := all[0].(map[string]any)
		return one
	}
	return map[string]any{"class": "CONJUNCTION", "type": "CONJUNCTION_AND", "alias": "", "children": all}
}

// Or makes the alternative of two conditions.
func Or(a, b map[string]any) map[string]any {
	return map[string]any{"class": "CONJUNCTION", "type": "CONJUNCTION_OR", "alias": "", "children": []any{a, b}}
}

// Conditions lists the parts of a condition that are joined by AND.
func Conditions(condition map[string]any) []map[string]any {
	if condition == nil {
		return nil
	}
	if text(condition, "type") == "CONJUNCTION_AND" {
		return list(condition, "children")
	}
	return []map[string]any{condition}
}

// ItemOf is the select item that a GROUP BY or ORDER BY expression means, by its place, alias or shape; -1 for none.
func ItemOf(expression map[string]any, items []map[string]any) int {
	return findItem(expression, items)
}

// OfSet tells whether a SELECT stands in IN or EXISTS, where repeated rows do not count.
func (s Site) OfSet(t *Tree) bool {
	n := len(s.path)
	if n < 2 || s.path[n-1] != "node" || s.path[n-2] != "subquery" {
		return false
	}
	var at any = t.root
	for _, step := range s.path[:n-2] {
		switch x := at.(type) {
		case map[string]any:
			key, _ := step.(string)
			at = x[key]
		case []any:
			i, _ := step.(int)
			at = x[i]
		}
	}
	expression, _ := at.(map[string]any)
	kind := text(expression, "subquery_type")
	return kind == "ANY" || kind == "EXISTS" || kind == "NOT_EXISTS"
}
