package edit

import (
	"strconv"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/sql"
)

// grouping are the mistakes in what an answer has a row for.
func grouping() []*Edit {
	return []*Edit{
		{Name: "drop-group-key", Doc: "the answer is coarser than asked", Code: fault.GroupKeyMissing, Inverse: fault.GroupKeyExtra, make: dropGroupKey},
		{Name: "add-group-key", Doc: "the answer is finer than asked", Code: fault.GroupKeyExtra, Inverse: fault.GroupKeyMissing, make: addGroupKey},
		{Name: "part-of-date", Doc: "the same month or quarter of all years is put together", Code: fault.GroupKeyMissing, Inverse: fault.GroupKeyExtra, make: partOfDate},
		{Name: "select-distinct", Doc: "repeated rows are dropped, or kept", Code: fault.Distinct, Inverse: fault.Distinct, make: selectDistinct},
		{Name: "union-all", Doc: "UNION drops repeated rows, UNION ALL keeps them", Code: fault.Distinct, Inverse: fault.Distinct, make: unionAll},
	}
}

// groupSets is the one grouping over all keys.
func groupSets(keys int) []any {
	set := []any{}
	for i := range keys {
		set = append(set, i)
	}
	if keys == 0 {
		return []any{}
	}
	return []any{set}
}

// dropGroupKey drops a key with its select items and order; keys by place or alias are read as the item they mean.
func dropGroupKey(s Subject, at sql.Site) []Change {
	if sql.Text(at.Node, "type") != "SELECT_NODE" {
		return nil
	}
	keys, items := sql.List(at.Node, "group_expressions"), sql.List(at.Node, "select_list")
	var out []Change
	for i := range keys {
		shown := sql.ItemOf(keys[i], items)
		c := altered(s, at, func(n map[string]any) {
			written := resolvedKeys(keys, items)
			n["group_expressions"] = without(written, i)
			n["group_sets"] = groupSets(len(keys) - 1)
			if shown >= 0 {
				all, _ := n["select_list"].([]any)
				n["select_list"] = without(all, shown)
				n["modifiers"] = []any{}
			}
		})
		c.Before, c.After = "GROUP BY "+sql.Fragment(keyNode(keys[i], items)), ""
		out = append(out, c)
	}
	return out
}

// keyNode is the expression that a key means.
func keyNode(key map[string]any, items []map[string]any) map[string]any {
	if at := sql.ItemOf(key, items); at >= 0 {
		return items[at]
	}
	return key
}

func resolvedKeys(keys, items []map[string]any) []any {
	var out []any
	for _, k := range keys {
		node := sql.Copy(keyNode(k, items))
		node["alias"] = ""
		out = append(out, node)
	}
	return out
}

func without(list []any, at int) []any {
	return append(append([]any{}, list[:at]...), list[at+1:]...)
}

// addGroupKey adds a key that only the other query groups by, shown and not.
func addGroupKey(s Subject, at sql.Site) []Change {
	if s.Other == nil || sql.Text(at.Node, "type") != "SELECT_NODE" || !at.Outermost() {
		return nil
	}
	keys, items := sql.List(at.Node, "group_expressions"), sql.List(at.Node, "select_list")
	if len(keys) == 0 {
		return nil
	}
	var out []Change
	other := s.Other.Root()
	otherItems := sql.List(other, "select_list")
	for _, k := range sql.List(other, "group_expressions") {
		node := unqualified(keyNode(k, otherItems))
		node["alias"] = ""
		known := false
		for _, own := range keys {
			known = known || sql.Same(unqualified(keyNode(own, items)), node)
		}
		if known {
			continue
		}
		for _, shown := range []bool{true, false} {
			c := altered(s, at, func(n map[string]any) {
				n["group_expressions"] = append(resolvedKeys(keys, items), node)
				n["group_sets"] = groupSets(len(keys) + 1)
				if shown {
					all, _ := n["select_list"].([]any)
					n["select_list"] = append([]any{node}, all...)
					n["modifiers"] = []any{}
				}
			})
			c.Before, c.After = "", "GROUP BY … "+sql.Fragment(node)
			out = append(out, c)
		}
	}
	return out
}

// partOfDate turns date_trunc('quarter', day) into quarter(day), in all places, as far as the unit repeats from year to year; and back.
func partOfDate(s Subject, at sql.Site) []Change {
	name, arguments := sql.FunctionName(at.Node), sql.List(at.Node, "arguments")
	var with map[string]any
	switch {
	case name == "date_trunc" && len(arguments) == 2:
		_, unit := literal(argument(at.Node))
		if unit = strings.ToLower(unit); !repeating[unit] {
			return nil
		}
		with = sql.Call(unit, false, sql.Object(arguments[1], "expression"))
	case repeating[name] && len(arguments) == 1:
		with = sql.Call("date_trunc", false, sql.String(name), argument(at.Node))
	default:
		return nil
	}
	c := replace(s, at, withAlias(with, at.Node))
	out := one(c)
	if tree, places := s.Tree.EveryWhere(at.Node, with); places > 1 {
		c.Tree = tree
		out = append(out, c)
	}
	for i := range out {
		if name != "date_trunc" {
			out[i].Code = fault.GroupKeyExtra
		}
	}
	return out
}

// repeating are the units of time that come back every year.
var repeating = map[string]bool{"quarter": true, "month": true, "week": true, "day": true, "hour": true}

func selectDistinct(s Subject, at sql.Site) []Change {
	if sql.Text(at.Node, "type") != "SELECT_NODE" {
		return nil
	}
	modifiers, _ := at.Node["modifiers"].([]any)
	for i, m := range sql.List(at.Node, "modifiers") {
		if sql.Text(m, "type") == "DISTINCT_MODIFIER" {
			c := altered(s, at, func(n map[string]any) { n["modifiers"] = without(modifiers, i) })
			c.Before, c.After = "DISTINCT", ""
			return one(c)
		}
	}
	if sql.NeverRepeats(at.Node) || at.OfSet(s.Tree) {
		return nil // it would change nothing
	}
	c := altered(s, at, func(n map[string]any) {
		n["modifiers"] = append([]any{map[string]any{"type": "DISTINCT_MODIFIER", "distinct_on_targets": []any{}}}, modifiers...)
	})
	c.Before, c.After = "", "DISTINCT"
	return one(c)
}

func unionAll(s Subject, at sql.Site) []Change {
	if sql.Text(at.Node, "type") != "SET_OPERATION_NODE" {
		return nil
	}
	all, _ := at.Node["setop_all"].(bool)
	c := altered(s, at, func(n map[string]any) { n["setop_all"] = !all })
	c.Before, c.After = map[bool]string{true: "UNION ALL", false: "UNION"}[all], map[bool]string{true: "UNION", false: "UNION ALL"}[all]
	return one(c)
}

// presentation are the mistakes in how an answer is shown.
func presentation() []*Edit {
	return []*Edit{
		{Name: "other-limit", Doc: "too few or too many rows are kept", Code: fault.Limit, Inverse: fault.Limit, make: otherLimit},
		{Name: "reverse-order", Doc: "the order is turned round", Code: fault.WrongOrder, Inverse: fault.WrongOrder, make: reverseOrder},
	}
}

func otherLimit(s Subject, at sql.Site) []Change {
	if sql.Text(at.Node, "type") != "LIMIT_MODIFIER" {
		if sql.Text(at.Node, "type") == "SELECT_NODE" && s.Other != nil && at.Outermost() {
			return addLimit(s, at)
		}
		return nil
	}
	out := []Change{{Tree: s.Tree.Without(at), Before: sql.Fragment(at.Node)}}
	n, err := strconv.Atoi(sql.Text(sql.Object(sql.Object(at.Node, "limit"), "literal"), "text"))
	if err != nil {
		return out
	}
	numbers := []int{n + 1, n - 1, 2 * n}
	if s.Other != nil {
		for _, m := range sql.List(s.Other.Root(), "modifiers") {
			if k, err := strconv.Atoi(sql.Text(sql.Object(sql.Object(m, "limit"), "literal"), "text")); err == nil {
				numbers = append([]int{k}, numbers...)
			}
		}
	}
	for _, k := range numbers {
		if k > 0 && k != n {
			out = append(out, altered(s, at, func(m map[string]any) { m["limit"] = sql.Number(strconv.Itoa(k)) }))
		}
	}
	return out
}

// addLimit takes over the other query's limit.
func addLimit(s Subject, at sql.Site) []Change {
	for _, m := range sql.List(at.Node, "modifiers") {
		if sql.Text(m, "type") == "LIMIT_MODIFIER" {
			return nil
		}
	}
	for _, m := range sql.List(s.Other.Root(), "modifiers") {
		if sql.Text(m, "type") == "LIMIT_MODIFIER" {
			c := altered(s, at, func(n map[string]any) {
				modifiers, _ := n["modifiers"].([]any)
				n["modifiers"] = append(append([]any{}, modifiers...), m)
			})
			c.Before, c.After = "", sql.Fragment(m)
			return one(c)
		}
	}
	return nil
}

func reverseOrder(s Subject, at sql.Site) []Change {
	if at.Role != "orders" || sql.Object(at.Node, "expression") == nil {
		return nil
	}
	to := "DESCENDING"
	if sql.Text(at.Node, "type") == "DESCENDING" {
		to = "ASCENDING"
	}
	c := altered(s, at, func(n map[string]any) { n["type"] = to })
	words := map[bool]string{true: " DESC", false: ""}
	key := sql.Fragment(sql.Object(at.Node, "expression"))
	c.Before, c.After = "ORDER BY "+key+words[to != "DESCENDING"], "ORDER BY "+key+words[to == "DESCENDING"]
	return one(c)
}
