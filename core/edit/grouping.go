package edit

import (
	"strconv"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// grouping are the mistakes in what an answer has a row for.
func grouping() []*Edit {
	return []*Edit{
		{Name: "drop-group-key", Doc: "the answer is coarser than asked", Code: fault.GroupKeyMissing,
			Inverse: fault.GroupKeyExtra, make: dropGroupKey},
		{Name: "add-group-key", Doc: "the answer is finer than asked", Code: fault.GroupKeyExtra,
			Inverse: fault.GroupKeyMissing, make: addGroupKey},
		{Name: "part-of-date", Doc: "the same month or quarter of all years is put together", Code: fault.GroupKeyMissing,
			Inverse: fault.GroupKeyExtra, make: partOfDate},
		{Name: "select-distinct", Doc: "repeated rows are dropped, or kept", Code: fault.Distinct, Inverse: fault.Distinct,
			make: selectDistinct},
		{Name: "union-all", Doc: "UNION drops repeated rows, UNION ALL keeps them", Code: fault.Distinct,
			Inverse: fault.Distinct, make: unionAll},
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
	if at.Node.Kind() != ast.SelectNode {
		return nil
	}
	keys, items := at.Node.Nodes(field.GroupExpressions), at.Node.Nodes(field.SelectList)
	var out []Change
	for i := range keys {
		shown := sql.ItemOf(keys[i], items)
		c := altered(s, at, func(n *ast.Node) {
			written := resolvedKeys(keys, items)
			n.Set(field.GroupExpressions, without(written, i))
			n.Set(field.GroupSets, groupSets(len(keys)-1))
			if shown >= 0 {
				all := n.Items(field.SelectList)
				n.Set(field.SelectList, without(all, shown))
				n.Set(field.Modifiers, []any{})
			}
		})
		c.Before, c.After = "GROUP BY "+sql.Fragment(keyNode(keys[i], items)), ""
		out = append(out, c)
	}
	return out
}

// keyNode is the expression that a key means.
func keyNode(key *ast.Node, items []*ast.Node) *ast.Node {
	if at := sql.ItemOf(key, items); at >= 0 {
		return items[at]
	}
	return key
}

func resolvedKeys(keys, items []*ast.Node) []any {
	var out []any
	for _, k := range keys {
		node := ast.Copy(keyNode(k, items))
		node.Set(field.Alias, "")
		out = append(out, node)
	}
	return out
}

func without(list []any, at int) []any {
	return append(append([]any{}, list[:at]...), list[at+1:]...)
}

// addGroupKey adds a key that only the other query groups by, shown and not.
func addGroupKey(s Subject, at sql.Site) []Change {
	if s.Other == nil || at.Node.Kind() != ast.SelectNode || !at.Outermost() {
		return nil
	}
	keys, items := at.Node.Nodes(field.GroupExpressions), at.Node.Nodes(field.SelectList)
	if len(keys) == 0 {
		return nil
	}
	var out []Change
	other := s.Other.Root()
	otherItems := other.Nodes(field.SelectList)
	for _, k := range other.Nodes(field.GroupExpressions) {
		node := unqualified(keyNode(k, otherItems))
		node.Set(field.Alias, "")
		known := false
		for _, own := range keys {
			known = known || sql.Same(unqualified(keyNode(own, items)), node)
		}
		if known {
			continue
		}
		for _, shown := range []bool{true, false} {
			c := altered(s, at, func(n *ast.Node) {
				n.Set(field.GroupExpressions, append(resolvedKeys(keys, items), node))
				n.Set(field.GroupSets, groupSets(len(keys)+1))
				if shown {
					all := n.Items(field.SelectList)
					n.Set(field.SelectList, append([]any{node}, all...))
					n.Set(field.Modifiers, []any{})
				}
			})
			c.Before, c.After = "", "GROUP BY "+sql.Fragment(node)
			out = append(out, c)
		}
	}
	return out
}

// partOfDate turns date_trunc('quarter', day) into quarter(day), in all places, as far as the unit repeats from year to year; and back.
func partOfDate(s Subject, at sql.Site) []Change {
	name, arguments := at.Node.FunctionName(), at.Node.Nodes(field.Arguments)
	var with *ast.Node
	switch {
	case name == "date_trunc" && len(arguments) == 2:
		_, unit := literal(argument(at.Node))
		if unit = strings.ToLower(unit); !repeating[unit] {
			return nil
		}
		with = sql.Call(unit, false, arguments[1].Node(field.Expression))
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
	if at.Node.Kind() != ast.SelectNode {
		return nil
	}
	modifiers := at.Node.Items(field.Modifiers)
	for i, m := range at.Node.Nodes(field.Modifiers) {
		if m.Kind() == ast.DistinctModifier {
			c := altered(s, at, func(n *ast.Node) { n.Set(field.Modifiers, without(modifiers, i)) })
			c.Before, c.After = "DISTINCT", ""
			return one(c)
		}
	}
	if sql.NeverRepeats(at.Node) || at.OfSet(s.Tree) {
		return nil // it would change nothing
	}
	c := altered(s, at, func(n *ast.Node) {
		n.Set(field.Modifiers, append([]any{ast.New(ast.Fields{field.Type: ast.DistinctModifier,
			field.DistinctOnTargets: []any{}})}, modifiers...))
	})
	c.Before, c.After = "", "DISTINCT"
	return one(c)
}

func unionAll(s Subject, at sql.Site) []Change {
	if at.Node.Kind() != ast.SetOperationNode {
		return nil
	}
	all := at.Node.Is(field.SetopAll)
	c := altered(s, at, func(n *ast.Node) { n.Set(field.SetopAll, !all) })
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
	if at.Node.Kind() != ast.LimitModifier {
		if at.Node.Kind() == ast.SelectNode && s.Other != nil && at.Outermost() {
			return addLimit(s, at)
		}
		return nil
	}
	out := []Change{{Tree: s.Tree.Without(at), Before: sql.Fragment(at.Node)}}
	n, err := strconv.Atoi(at.Node.Node(field.Limit).Node(field.Literal).Text(field.Text))
	if err != nil {
		return out
	}
	numbers := []int{n + 1, n - 1, 2 * n}
	if s.Other != nil {
		for _, m := range s.Other.Root().Nodes(field.Modifiers) {
			if k, err := strconv.Atoi(m.Node(field.Limit).Node(field.Literal).Text(field.Text)); err == nil {
				numbers = append([]int{k}, numbers...)
			}
		}
	}
	for _, k := range numbers {
		if k > 0 && k != n {
			out = append(out, altered(s, at, func(m *ast.Node) { m.Set(field.Limit, sql.Number(strconv.Itoa(k))) }))
		}
	}
	return out
}

// addLimit takes over the other query's limit.
func addLimit(s Subject, at sql.Site) []Change {
	for _, m := range at.Node.Nodes(field.Modifiers) {
		if m.Kind() == ast.LimitModifier {
			return nil
		}
	}
	for _, m := range s.Other.Root().Nodes(field.Modifiers) {
		if m.Kind() == ast.LimitModifier {
			c := altered(s, at, func(n *ast.Node) {
				modifiers := n.Items(field.Modifiers)
				n.Set(field.Modifiers, append(append([]any{}, modifiers...), m))
			})
			c.Before, c.After = "", sql.Fragment(m)
			return one(c)
		}
	}
	return nil
}

func reverseOrder(s Subject, at sql.Site) []Change {
	if at.Role != field.Orders || at.Node.Node(field.Expression) == nil {
		return nil
	}
	to := ast.Descending
	if at.Node.Kind() == ast.Descending {
		to = ast.Ascending
	}
	c := altered(s, at, func(n *ast.Node) { n.Set(field.Type, to) })
	words := map[bool]string{true: " DESC", false: ""}
	key := sql.Fragment(at.Node.Node(field.Expression))
	c.Before, c.After = "ORDER BY "+key+words[to != ast.Descending], "ORDER BY "+key+words[to == ast.Descending]
	return one(c)
}
