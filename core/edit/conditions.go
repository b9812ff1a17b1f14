package edit

import (
	"tovrel/core/fault"
	"tovrel/core/sql"
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
func clauseCode(at sql.Site) fault.Code {
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
	return sql.Text(node, "type") == "COMPARE_EQUAL" && sql.ColumnName(sql.Object(node, "left")) != "" && sql.ColumnName(sql.Object(node, "right")) != ""
}

func dropCondition(s Subject, at sql.Site) []Change {
	inAnd := at.Role == "children" && sql.Text(at.Parent, "type") == "CONJUNCTION_AND"
	whole := at.Role == "where_clause" || at.Role == "having" || at.Role == "filter" || at.Role == "qualify"
	if !inAnd && !whole || sql.Text(at.Node, "class") == "" {
		return nil
	}
	c := Change{Tree: s.Tree.Without(at), Before: sql.Fragment(at.Node), Code: clauseCode(at)}
	if whole && sql.Text(at.Node, "type") == "CONJUNCTION_AND" {
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
func withoutAll(t *sql.Tree, condition map[string]any) (*sql.Tree, int) {
	for places := 0; ; places++ {
		found := false
		for _, site := range t.Sites() {
			isPart := site.Role == "children" && sql.Text(site.Parent, "type") == "CONJUNCTION_AND" || site.Role == "where_clause" || site.Role == "having"
			if isPart && sql.Text(site.Node, "class") != "" && sql.Same(site.Node, condition) {
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

func strictness(s Subject, at sql.Site) []Change {
	other := otherStrictness[sql.Text(at.Node, "type")]
	if other == "" {
		return nil
	}
	c := altered(s, at, func(n map[string]any) { n["type"] = other })
	flipped := sql.Copy(at.Node)
	flipped["type"] = other
	out := one(c)
	if tree, places := s.Tree.EveryWhere(at.Node, flipped); places > 1 {
		c.Tree = tree
		out = append(out, c)
	}
	return out
}

func openBetween(s Subject, at sql.Site) []Change {
	if sql.Text(at.Node, "type") != "COMPARE_BETWEEN" {
		return nil
	}
	input, lower, upper := sql.Object(at.Node, "input"), sql.Object(at.Node, "lower"), sql.Object(at.Node, "upper")
	var out []Change
	for _, kinds := range [][2]string{{"COMPARE_GREATERTHANOREQUALTO", "COMPARE_LESSTHAN"}, {"COMPARE_GREATERTHAN", "COMPARE_LESSTHANOREQUALTO"}} {
		out = append(out, replace(s, at, sql.And(sql.Compare(kinds[0], input, lower), sql.Compare(kinds[1], input, upper))))
	}
	return out
}

func dropAlternative(s Subject, at sql.Site) []Change {
	if sql.Text(at.Node, "type") == "CONJUNCTION_OR" {
		return dropOr(s, at)
	}
	inList := at.Role == "children" && sql.Text(at.Parent, "type") == "COMPARE_IN" && sql.Text(at.Node, "class") == "CONSTANT"
	if !inList || len(sql.List(at.Parent, "children")) < 3 {
		return nil
	}
	return one(Change{Tree: s.Tree.Without(at), Before: sql.Fragment(at.Node)})
}

// dropOr leaves out each of the alternatives of an OR in turn.
func dropOr(s Subject, at sql.Site) []Change {
	all := sql.List(at.Node, "children")
	var out []Change
	for i, dropped := range all {
		var c Change
		if len(all) == 2 {
			c = replace(s, at, all[1-i])
		} else {
			list, _ := at.Node["children"].([]any)
			c = altered(s, at, func(n map[string]any) { n["children"] = without(list, i) })
		}
		c.Before, c.After = sql.Fragment(dropped), ""
		out = append(out, c)
	}
	return out
}

func dropNot(s Subject, at sql.Site) []Change {
	inner := sql.List(at.Node, "children")
	if sql.Text(at.Node, "type") != "OPERATOR_NOT" || len(inner) != 1 {
		return nil
	}
	return one(replace(s, at, inner[0]))
}

var turned = map[string]string{"COMPARE_EQUAL": "COMPARE_NOTEQUAL", "COMPARE_NOTEQUAL": "COMPARE_EQUAL", "COMPARE_GREATERTHAN": "COMPARE_LESSTHAN", "COMPARE_LESSTHAN": "COMPARE_GREATERTHAN",
	"COMPARE_GREATERTHANOREQUALTO": "COMPARE_LESSTHANOREQUALTO", "COMPARE_LESSTHANOREQUALTO": "COMPARE_GREATERTHANOREQUALTO"}

func turnComparison(s Subject, at sql.Site) []Change {
	other := turned[sql.Text(at.Node, "type")]
	if other == "" || isKeyEquality(at.Node) {
		return nil
	}
	return one(altered(s, at, func(n map[string]any) { n["type"] = other }))
}

// addCondition adds the other query's conditions, by the plain names of their columns.
func addCondition(s Subject, at sql.Site) []Change {
	if s.Other == nil || sql.Text(at.Node, "type") != "SELECT_NODE" {
		return nil
	}
	var out []Change
	for _, clause := range []string{"where_clause", "having"} {
		have := sql.Object(at.Node, clause)
		if clause == "having" && len(sql.List(at.Node, "group_expressions")) == 0 {
			continue
		}
		for _, condition := range otherConditions(s.Other, clause) {
			plain := unqualified(condition)
			known := false
			for _, h := range sql.Conditions(have) {
				known = known || sql.Same(unqualified(h), plain)
			}
			if known {
				continue
			}
			c := altered(s, at, func(n map[string]any) { n[clause] = sql.And(have, plain) })
			c.Before, c.After = "", sql.Fragment(plain)
			if clause == "having" {
				c.Code = fault.Having
			}
			out = append(out, c)
		}
	}
	return out
}

// otherConditions are the conditions of a query, those of its joins among its WHERE.
func otherConditions(t *sql.Tree, clause string) []map[string]any {
	var out []map[string]any
	for _, site := range t.Sites() {
		if site.Role == clause || clause == "where_clause" && site.Role == "condition" && sql.Text(site.Parent, "type") == "JOIN" {
			for _, c := range sql.Conditions(site.Node) {
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
	out := sql.Copy(node)
	var visit func(v any)
	visit = func(v any) {
		switch x := v.(type) {
		case map[string]any:
			if sql.Text(x, "class") == "COLUMN_REF" {
				x["column_names"] = []any{sql.ColumnName(x)}
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
