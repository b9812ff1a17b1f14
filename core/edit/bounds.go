package edit

import (
	"sort"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/sql"
)

// columnOf is the column that a condition is about, also within a call such as year(day); "" for none, or for several.
func columnOf(condition map[string]any) string {
	found := ""
	several := false
	var visit func(v any)
	visit = func(v any) {
		switch x := v.(type) {
		case map[string]any:
			if sql.Text(x, "class") == "SUBQUERY" {
				several = true
				return
			}
			if name := strings.ToLower(sql.ColumnName(x)); name != "" {
				several = several || found != "" && found != name
				found = name
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
	visit(condition)
	if several {
		return ""
	}
	return found
}

// split takes a BETWEEN apart into its two comparisons.
func split(condition map[string]any) []map[string]any {
	if sql.Text(condition, "type") != "COMPARE_BETWEEN" {
		return []map[string]any{condition}
	}
	input := sql.Object(condition, "input")
	return []map[string]any{sql.Compare("COMPARE_GREATERTHANOREQUALTO", input, sql.Object(condition, "lower")), sql.Compare("COMPARE_LESSTHANOREQUALTO", input, sql.Object(condition, "upper"))}
}

// about lists a clause's conditions on a column, BETWEEN taken apart, in the other query.
func about(t *sql.Tree, column string) []map[string]any {
	var out []map[string]any
	for _, clause := range []string{"where_clause", "having"} {
		for _, c := range otherConditions(t, clause) {
			for _, part := range split(c) {
				if columnOf(part) == column {
					out = append(out, unqualified(part))
				}
			}
		}
	}
	return out
}

// isPart tells a condition that stands alone in a clause or is joined to others by AND.
func isPart(at sql.Site) bool {
	inAnd := at.Role == "children" && sql.Text(at.Parent, "type") == "CONJUNCTION_AND"
	clause := at.Role == "where_clause" || at.Role == "having" || at.Role == "condition" && sql.Text(at.Parent, "type") == "JOIN" || at.Role == "filter"
	return (inAnd || clause) && sql.Text(at.Node, "class") != "" && sql.Text(at.Node, "type") != "CONJUNCTION_AND"
}

// otherCondition puts the other query's condition on the same column in place of one.
func otherCondition(s Subject, at sql.Site) []Change {
	column := columnOf(at.Node)
	if s.Other == nil || !isPart(at) || column == "" {
		return nil
	}
	var out []Change
	for _, other := range about(s.Other, column) {
		if sql.Same(unqualified(at.Node), other) {
			continue
		}
		c := replace(s, at, other)
		c.Code = conditionCode(at.Node, other)
		out = append(out, c)
	}
	return out
}

// conditionCode is the fault of one condition for another on the same column.
func conditionCode(was, is map[string]any) fault.Code {
	before, after := constants(was), constants(is)
	switch before, after := sql.Fragment(was), sql.Fragment(is); {
	case strings.Contains(before, "null") && strings.Contains(after, "null"):
		return fault.NullHandling
	case strings.HasSuffix(before, "is not null"):
		return fault.FilterExtra // nulls are left out by any other condition too
	case strings.HasSuffix(after, "is not null"):
		return fault.FilterMissing
	}
	if len(before) == 1 && len(after) == 1 {
		if before[0] == after[0] {
			return fault.Boundary
		}
		return literalCode(before[0], after[0])
	}
	for _, text := range append(before, after...) {
		if _, isDate := dateOf(text); isDate {
			return fault.TimeWindow
		}
	}
	return fault.FilterValue
}

// constants are the texts of the literals in an expression, sorted.
func constants(node map[string]any) []string {
	var out []string
	var visit func(v any)
	visit = func(v any) {
		switch x := v.(type) {
		case map[string]any:
			if sql.Text(x, "class") == "CONSTANT" {
				_, text := literal(x)
				out = append(out, text)
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
	visit(node)
	sort.Strings(out)
	return out
}

// otherConditionsOf puts all of the other query's conditions on a column in place of all of a clause's: another period, other bounds.
func otherConditionsOf(s Subject, at sql.Site) []Change {
	if s.Other == nil || sql.Text(at.Node, "type") != "SELECT_NODE" {
		return nil
	}
	parts := sql.Conditions(sql.Object(at.Node, "where_clause"))
	seen := map[string]bool{}
	var out []Change
	for _, part := range parts {
		column := columnOf(part)
		if column == "" || seen[column] {
			continue
		}
		seen[column] = true
		theirs := about(s.Other, column)
		if len(theirs) == 0 {
			continue
		}
		var kept, own []map[string]any
		for _, p := range parts {
			if columnOf(p) == column {
				own = append(own, p)
			} else {
				kept = append(kept, p)
			}
		}
		if len(own) == 1 && len(theirs) == 1 || allAmong(theirs, own) || allAmong(own, theirs) {
			continue // that is one condition for another, one left out or one too many
		}
		c := altered(s, at, func(n map[string]any) {
			n["where_clause"] = sql.And(append(append([]map[string]any(nil), kept...), theirs...)...)
		})
		c.Before, c.After = sql.Fragment(sql.And(own...)), sql.Fragment(sql.And(theirs...))
		c.Code = boundsCode(own, theirs)
		out = append(out, c)
	}
	return out
}

// allAmong tells whether some conditions are all among others.
func allAmong(some, others []map[string]any) bool {
	for _, s := range some {
		found := false
		for _, o := range others {
			for _, part := range split(o) {
				found = found || sql.Fragment(unqualified(part)) == sql.Fragment(s)
			}
		}
		if !found {
			return false
		}
	}
	return true
}

// boundsCode is the fault of other bounds: those of dates are another period, but for a day at an edge.
func boundsCode(was, is []map[string]any) fault.Code {
	var before, after []string
	for _, c := range was {
		before = append(before, constants(c)...)
	}
	for _, c := range is {
		after = append(after, constants(c)...)
	}
	dates, differ := 0, 0
	edge := len(before) == len(after)
	for i, text := range before {
		if _, isDate := dateOf(text); isDate {
			dates++
		}
		if edge && text != after[i] {
			differ++
			edge = literalCode(text, after[i]) == fault.Boundary
		}
	}
	switch {
	case dates > 0 && edge && differ <= 1:
		return fault.Boundary
	case dates > 0:
		return fault.TimeWindow
	}
	for _, text := range append(before, after...) {
		if _, isDate := dateOf(text); isDate || len(text) == 4 && (strings.HasPrefix(text, "19") || strings.HasPrefix(text, "20")) {
			return fault.TimeWindow
		}
	}
	return fault.FilterValue
}
