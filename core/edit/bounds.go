package edit

import (
	"slices"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// columnOf is the column that a condition is about, also within a call such as year(day); "" for none, or for several.
func columnOf(condition *ast.Node) string {
	found := ""
	several := false
	var visit func(v any)
	visit = func(v any) {
		switch x := v.(type) {
		case *ast.Node:
			if x.Class() == ast.Subquery {
				several = true
				return
			}
			if name := strings.ToLower(sql.ColumnName(x)); name != "" {
				several = several || found != "" && found != name
				found = name
			}
			for child := range x.Values {
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
func split(condition *ast.Node) []*ast.Node {
	if condition.Kind() != ast.CompareBetween {
		return []*ast.Node{condition}
	}
	input := condition.Node(field.Input)
	return []*ast.Node{sql.Compare(ast.CompareGreaterEqual, input, condition.Node(field.Lower)),
		sql.Compare(ast.CompareLessEqual, input, condition.Node(field.Upper))}
}

// about lists a clause's conditions on a column, BETWEEN taken apart, in the other query.
func about(t *sql.Tree, column string) []*ast.Node {
	var out []*ast.Node
	for _, clause := range []field.Field{field.Where, field.Having} {
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
	inAnd := at.Role == field.Children && at.Parent.Kind() == ast.ConjunctionAnd
	clause := at.Role == field.Where || at.Role == field.Having || at.Role == field.Condition && at.Parent.Kind() == ast.Join ||
		at.Role == field.Filter
	return (inAnd || clause) && at.Node.Class() != ast.None && at.Node.Kind() != ast.ConjunctionAnd
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
		if sql.HasAggregate(at.Node) {
			c.Code = groupsCode(s, at.Node, other)
		}
		out = append(out, c)
	}
	return out
}

// groupsCode is the fault of one condition on groups for another: of what is compared, where that is another.
func groupsCode(s Subject, was, is *ast.Node) fault.Code {
	x, y := parts(was), parts(is)
	for i := range min(len(x), len(y)) {
		if x[i].Class() != ast.Constant && y[i].Class() != ast.Constant && !alike(x[i], y[i]) {
			code, _ := difference(s, x[i], y[i])
			return code
		}
	}
	return fault.Having
}

// conditionCode is the fault of one condition for another on the same column.
func conditionCode(was, is *ast.Node) fault.Code {
	before, after := constants(was), constants(is)
	switch before, after := sql.Canonical(was), sql.Canonical(is); {
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
func constants(node *ast.Node) []string {
	var out []string
	var visit func(v any)
	visit = func(v any) {
		switch x := v.(type) {
		case *ast.Node:
			if x.Class() == ast.Constant {
				_, text := literal(x)
				out = append(out, text)
			}
			for child := range x.Values {
				visit(child)
			}
		case []any:
			for _, child := range x {
				visit(child)
			}
		}
	}
	visit(node)
	slices.Sort(out)
	return out
}

// otherConditionsOf puts all of the other query's conditions on a column in place of all of a clause's: another period, other bounds.
func otherConditionsOf(s Subject, at sql.Site) []Change {
	if s.Other == nil || at.Node.Kind() != ast.SelectNode {
		return nil
	}
	parts := sql.Conditions(at.Node.Node(field.Where))
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
		var kept, own []*ast.Node
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
		c := altered(s, at, func(n *ast.Node) {
			n.Set(field.Where, sql.And(append(append([]*ast.Node(nil), kept...), theirs...)...))
		})
		c.Before, c.After = sql.Fragment(sql.And(own...)), sql.Fragment(sql.And(theirs...))
		c.Code = boundsCode(own, theirs)
		out = append(out, c)
	}
	return out
}

// allAmong tells whether some conditions are all among others.
func allAmong(some, others []*ast.Node) bool {
	for _, s := range some {
		found := false
		for _, o := range others {
			for _, part := range split(o) {
				found = found || sql.Canonical(unqualified(part)) == sql.Canonical(s)
			}
		}
		if !found {
			return false
		}
	}
	return true
}

// boundsCode is the fault of other bounds: those of dates are another period, but for a day at an edge.
func boundsCode(was, is []*ast.Node) fault.Code {
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
