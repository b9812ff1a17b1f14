package sql

import (
	"encoding/json"
	"strconv"
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
	root := copyOf(t.root).(map[string]any)
	hidden := 0
	for _, key := range outer.AskedOrder() {
		if key.Item < 0 {
			hidden++
		}
	}
	if limit, offset, ok := plainLimit(root); ok && len(outer.AskedOrder()) > 0 && (hidden == 0 || offset == 0) {
		dropModifier(root, "LIMIT_MODIFIER")
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

// plainLimit reads a LIMIT and OFFSET of plain numbers of rows.
func plainLimit(root map[string]any) (limit, offset int, ok bool) {
	for _, modifier := range list(root, "modifiers") {
		if text(modifier, "type") != "LIMIT_MODIFIER" || text(modifier, "limit_type") == "PERCENTAGE" {
			continue
		}
		limit, ok = wholeConstant(object(modifier, "limit"))
		if skip := object(modifier, "offset"); skip != nil && ok {
			offset, ok = wholeConstant(skip)
		}
		return limit, offset, ok
	}
	return 0, 0, false
}

func wholeConstant(expression map[string]any) (int, bool) {
	n, err := strconv.Atoi(text(object(expression, "literal"), "text"))
	return n, err == nil && n >= 0
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
