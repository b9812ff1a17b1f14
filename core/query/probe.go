package query

import (
	"encoding/json"
	"strconv"
)

// Probe is a query like another, that shows what its result does not: the values that it is ordered by, and the rows behind
// its cut.
type Probe struct {
	Tree  *Tree
	Keys  int // the last columns of its result: the values of the keys that are no column of the other's, in their order
	Limit int // how many of its rows the other keeps, from the first; -1 for all
}

// Probe makes the probe of a query; false where it would not differ, or cannot be made: under DISTINCT and in set operations
// nothing can be added, and a LIMIT that is no plain number, or comes with an OFFSET, is left alone.
func (t *Tree) Probe() (Probe, bool) {
	outer := t.Outer()
	p := Probe{Limit: -1}
	root := copyOf(t.root).(map[string]any)
	if limit, ok := plainLimit(root); ok && len(outer.AskedOrder()) > 0 {
		dropModifier(root, "LIMIT_MODIFIER")
		p.Limit = limit
	}
	hidden := 0
	for _, key := range outer.AskedOrder() {
		if key.Item < 0 {
			hidden++
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
func (t *Tree) addKeys(root map[string]any, outer Outer) bool {
	if text(root, "type") != "SELECT_NODE" {
		return false
	}
	for _, modifier := range list(root, "modifiers") {
		if text(modifier, "type") == "DISTINCT_MODIFIER" {
			return false
		}
	}
	byAll := text(root, "aggregate_handling") == "FORCE_AGGREGATES" // GROUP BY ALL: a new item that is no aggregate regroups
	items, _ := root["select_list"].([]any)
	asked := len(outer.AskedOrder())
	for _, modifier := range list(root, "modifiers") {
		for _, order := range list(modifier, "orders") {
			expression := object(order, "expression")
			key := orderKeys(order, selectItems(root))
			if len(key) != 1 || key[0].Item >= 0 {
				continue
			}
			if asked == 0 || byAll && !key[0].Aggregate {
				return false
			}
			items = append(items, copyOf(expression))
		}
	}
	root["select_list"] = items
	return true
}

// plainLimit reads a LIMIT of a plain number of rows without OFFSET.
func plainLimit(root map[string]any) (int, bool) {
	for _, modifier := range list(root, "modifiers") {
		if text(modifier, "type") != "LIMIT_MODIFIER" {
			continue
		}
		if _, offset := modifier["offset"].(map[string]any); offset || text(modifier, "limit_type") == "PERCENTAGE" {
			return 0, false
		}
		n, err := strconv.Atoi(text(object(object(modifier, "limit"), "literal"), "text"))
		return n, err == nil && n >= 0
	}
	return 0, false
}

func dropModifier(root map[string]any, kind string) {
	all, _ := root["modifiers"].([]any)
	var kept []any
	for _, m := range all {
		if o, ok := m.(map[string]any); !ok || text(o, "type") != kind {
			kept = append(kept, m)
		}
	}
	root["modifiers"] = kept
}

// copyOf copies a tree.
func copyOf(v any) any {
	switch x := v.(type) {
	case map[string]any:
		out := make(map[string]any, len(x))
		for k, child := range x {
			out[k] = copyOf(child)
		}
		return out
	case []any:
		out := make([]any, len(x))
		for i, child := range x {
			out[i] = copyOf(child)
		}
		return out
	case json.Number:
		return x
	}
	return v
}
