package edit

import (
	"tovrel/core/fault"
	"tovrel/core/query"
)

// conditions are the mistakes in what rows are taken.
func conditions() []*Edit {
	return []*Edit{
		{Name: "drop-condition", Doc: "a condition is left out", Code: fault.FilterMissing, Inverse: fault.FilterExtra, make: dropCondition},
		{Name: "strictness", Doc: "the edge of a range is off: > for >=, < for <=", Code: fault.Boundary, Inverse: fault.Boundary, make: strictness},
		{Name: "open-between", Doc: "BETWEEN loses its last value", Code: fault.Boundary, Inverse: fault.Boundary, make: openBetween},
		{Name: "drop-alternative", Doc: "one of several accepted values is left out", Code: fault.FilterValue, Inverse: fault.FilterValue, make: dropAlternative},
		{Name: "drop-not", Doc: "a condition is turned round", Code: fault.FilterValue, Inverse: fault.FilterValue, make: dropNot},
		{Name: "turn-comparison", Doc: "a comparison is turned round", Code: fault.FilterValue, Inverse: fault.FilterValue, make: turnComparison},
		{Name: "other-condition", Doc: "a column is compared in another way", Code: fault.FilterValue, Inverse: fault.FilterValue, make: otherCondition},
		{Name: "other-conditions", Doc: "a column is held to other bounds", Code: fault.FilterValue, Inverse: fault.FilterValue, make: otherConditionsOf},
		{Name: "add-condition", Doc: "a condition too many", Code: fault.FilterExtra, Inverse: fault.FilterMissing, make: addCondition},
	}
}

// clauseCode is the fault of a condition that is left out, by the clause that it stands in.
func clauseCode(at query.Site) fault.Code {
	switch {
	case at.In("having"):
		return fault.Having
	case isKeyEquality(at.Node):
		return fault.JoinKey
	}
	return fault.FilterMissing
}

// isKeyEquality tells a join's column = column.
func isKeyEquality(node map[string]any) bool {
	return query.Text(node, "type") == "COMPARE_EQUAL" && query.ColumnName(query.Object(node, "left")) != "" && query.ColumnName(query.Object(node, "right")) != ""
}

func dropCondition(s Subject, at query.Site) []Change {
	inAnd := at.Role == "children" && query.Text(at.Parent, "type") == "CONJUNCTION_AND"
	whole := at.Role == "where_clause" || at.Role == "having" || at.Role == "filter" || at.Role == "qualify"
	if !inAnd && !whole || query.Text(at.Node, "class") == "" {
		return nil
	}
	c := Change{Tree: s.Tree.Without(at), Before: query.Fragment(at.Node), Code: clauseCode(at)}
	if whole && query.Text(at.Node, "type") == "CONJUNCTION_AND" {
		return nil // its parts are dropped one by one
	}
	out := one(c)
	if tree, places := withoutAll(s.Tree, at.Node); places > 1 {
		c.Tree = tree
		out = append(out, c)
	}
	return out
}

// withoutAll leaves out a condition at all its places.
func withoutAll(t *query.Tree, condition map[string]any) (*query.Tree, int) {
	for places := 0; ; places++ {
		found := false
		for _, site := range t.Sites() {
			isPart := site.Role == "children" && query.Text(site.Parent, "type") == "CONJUNCTION_AND" || site.Role == "where_clause" || site.Role == "having"
			if isPart && query.Text(site.Node, "class") != "" && query.Same(site.Node, condition) {
				t, found = t.Without(site), true
				break
			}
		}
		if !found {
			return t, places
		}
	}
}

var otherStrictness = map[string]string{"COMPARE_GREATERTHAN": "COMPARE_GREATERTHANOREQUALTO", "COMPARE_GREATERTHANOREQUALTO": "COMPARE_GREATERTHAN",
	"COMPARE_LESSTHAN": "COMPARE_LESSTHANOREQUALTO", "COMPARE_LESSTHANOREQUALTO": "COMPARE_LESSTHAN"}

func strictness(s Subject, at query.Site) []Change {
	other := otherStrictness[query.Text(at.Node, "type")]
	if other == "" {
		return nil
	}
	c := altered(s, at, func(n map[string]any) { n["type"] = other })
	flipped := query.Copy(at.Node)
	flipped["type"] = other
	out := one(c)
	if tree, places := s.Tree.EveryWhere(at.Node, flipped); places > 1 {
		c.Tree = tree
		out = append(out, c)
	}
	return out
}

func openBetween(s Subject, at query.Site) []Change {
	if query.Text(at.Node, "type") != "COMPARE_BETWEEN" {
		return nil
	}
	input, lower, upper := query.Object(at.Node, "input"), query.Object(at.Node, "lower"), query.Object(at.Node, "upper")
	var out []Change
	for _, kinds := range [][2]string{{"COMPARE_GREATERTHANOREQUALTO", "COMPARE_LESSTHAN"}, {"COMPARE_GREATERTHAN", "COMPARE_LESSTHANOREQUALTO"}} {
		out = append(out, replace(s, at, query.And(query.Compare(kinds[0], input, lower), query.Compare(kinds[1], input, upper))))
	}
	return out
}

func dropAlternative(s Subject, at query.Site) []Change {
	if query.Text(at.Node, "type") == "CONJUNCTION_OR" {
		return dropOr(s, at)
	}
	inList := at.Role == "children" && query.Text(at.Parent, "type") == "COMPARE_IN" && query.Text(at.Node, "class") == "CONSTANT"
	if !inList || len(query.List(at.Parent, "children")) < 3 {
		return nil
	}
	return one(Change{Tree: s.Tree.Without(at), Before: query.Fragment(at.Node)})
}

// dropOr leaves out each of the alternatives of an OR in turn.
func dropOr(s Subject, at query.Site) []Change {
	all := query.List(at.Node, "children")
	var out []Change
	for i, dropped := range all {
		var c Change
		if len(all) == 2 {
			c = replace(s, at, all[1-i])
		} else {
			list, _ := at.Node["children"].([]any)
			c = altered(s, at, func(n map[string]any) { n["children"] = without(list, i) })
		}
		c.Before, c.After = query.Fragment(dropped), ""
		out = append(out, c)
	}
	return out
}

func dropNot(s Subject, at query.Site) []Change {
	inner := query.List(at.Node, "children")
	if query.Text(at.Node, "type") != "OPERATOR_NOT" || len(inner) != 1 {
		return nil
	}
	return one(replace(s, at, inner[0]))
}

var turned = map[string]string{"COMPARE_EQUAL": "COMPARE_NOTEQUAL", "COMPARE_NOTEQUAL": "COMPARE_EQUAL", "COMPARE_GREATERTHAN": "COMPARE_LESSTHAN", "COMPARE_LESSTHAN": "COMPARE_GREATERTHAN",
	"COMPARE_GREATERTHANOREQUALTO": "COMPARE_LESSTHANOREQUALTO", "COMPARE_LESSTHANOREQUALTO": "COMPARE_GREATERTHANOREQUALTO"}

func turnComparison(s Subject, at query.Site) []Change {
	other := turned[query.Text(at.Node, "type")]
	if other == "" || isKeyEquality(at.Node) {
		return nil
	}
	return one(altered(s, at, func(n map[string]any) { n["type"] = other }))
}

// addCondition adds the other query's conditions, by the plain names of their columns.
func addCondition(s Subject, at query.Site) []Change {
	if s.Other == nil || query.Text(at.Node, "type") != "SELECT_NODE" {
		return nil
	}
	var out []Change
	for _, clause := range []string{"where_clause", "having"} {
		have := query.Object(at.Node, clause)
		if clause == "having" && len(query.List(at.Node, "group_expressions")) == 0 {
			continue
		}
		for _, condition := range otherConditions(s.Other, clause) {
			plain := unqualified(condition)
			known := false
			for _, h := range query.Conditions(have) {
				known = known || query.Same(unqualified(h), plain)
			}
			if known {
				continue
			}
			c := altered(s, at, func(n map[string]any) { n[clause] = query.And(have, plain) })
			c.Before, c.After = "", query.Fragment(plain)
			if clause == "having" {
				c.Code = fault.Having
			}
			out = append(out, c)
		}
	}
	return out
}

// otherConditions are the conditions of a query, those of its joins among its WHERE.
func otherConditions(t *query.Tree, clause string) []map[string]any {
	var out []map[string]any
	for _, site := range t.Sites() {
		if site.Role == clause || clause == "where_clause" && site.Role == "condition" && query.Text(site.Parent, "type") == "JOIN" {
			for _, c := range query.Conditions(site.Node) {
				if !isKeyEquality(c) {
					out = append(out, c)
				}
			}
		}
	}
	return out
}

// unqualified is a copy of an expression without the tables of its columns: aliases differ between queries.
func unqualified(node map[string]any) map[string]any {
	out := query.Copy(node)
	var visit func(v any)
	visit = func(v any) {
		switch x := v.(type) {
		case map[string]any:
			if query.Text(x, "class") == "COLUMN_REF" {
				x["column_names"] = []any{query.ColumnName(x)}
			}
			for _, child := range x {
				visit(child)
			}
		case []any:
			for _, child := range x {
				visit(child)
			}
		}
	}
	visit(out)
	return out
}
