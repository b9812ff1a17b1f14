package edit

import (
	"strings"

	"tovrel/core/fault"
	"tovrel/core/sql"
)

// shapes are the mistakes of writing a question in another shape.
func shapes() []*Edit {
	return []*Edit{
		{Name: "semi-join-to-join", Doc: "EXISTS or IN became a join, which counts rows more than once", Code: fault.JoinFanOut, Inverse: fault.JoinFanOut, make: semiJoinToJoin},
		{Name: "absent-to-join", Doc: "those without any were looked for in a join that drops them", Code: fault.JoinRowsLost, Inverse: fault.JoinRowsAdded, make: absentToJoin},
		{Name: "rows-repeated", Doc: "a join repeats rows, which are then added up more than once", Code: fault.JoinFanOut, Inverse: fault.JoinFanOut, make: rowsRepeated},
		{Name: "complement", Doc: "a share was taken for its rest", Code: fault.Formula, Inverse: fault.Formula, make: complement},
		{Name: "strip-call", Doc: "values are not brought to one form before they are grouped or compared", Code: fault.GroupKeyExtra, Inverse: fault.GroupKeyMissing, make: stripCall},
		{Name: "else-zero", Doc: "a mean is taken of those alone that meet a condition, or of all", Code: fault.AggregateFunction, Inverse: fault.AggregateFunction, make: elseZero},
		{Name: "product-of-sums", Doc: "sums are multiplied where products were to be added up, or the reverse", Code: fault.Formula, Inverse: fault.Formula, make: productOfSums},
		{Name: "drop-order", Doc: "the order is left out", Code: fault.WrongOrder, Inverse: fault.WrongOrder, make: dropOrder},
	}
}

// inSubquery is the column and the SELECT of `column IN (SELECT …)`; nil for other conditions.
func inSubquery(node map[string]any) (column, inner map[string]any) {
	if sql.Text(node, "class") != "SUBQUERY" || sql.Text(node, "subquery_type") != "ANY" {
		return nil, nil
	}
	inner = sql.Object(sql.Object(node, "subquery"), "node")
	if sql.Text(inner, "type") != "SELECT_NODE" || len(sql.List(inner, "select_list")) != 1 {
		return nil, nil
	}
	return sql.Object(node, "child"), inner
}

// semiJoinToJoin turns a condition `x IN (SELECT y FROM t …)` of a SELECT into a join with t.
func semiJoinToJoin(s Subject, at sql.Site) []Change {
	if sql.Text(at.Node, "type") != "SELECT_NODE" || sql.Object(at.Node, "from_table") == nil {
		return nil
	}
	parts := sql.Conditions(sql.Object(at.Node, "where_clause"))
	var out []Change
	for i, part := range parts {
		column, inner := inSubquery(part)
		if column == nil || sql.Object(inner, "from_table") == nil {
			continue
		}
		key := sql.List(inner, "select_list")[0]
		out = append(out, joined(s, at, parts, i, sql.Object(inner, "from_table"), sql.Compare("COMPARE_EQUAL", column, key), sql.Object(inner, "where_clause")))
	}
	return out
}

// joined puts a table into a SELECT's FROM in place of one of its conditions.
func joined(s Subject, at sql.Site, parts []map[string]any, drop int, table, on, more map[string]any) Change {
	rest := append(append([]map[string]any(nil), parts[:drop]...), parts[drop+1:]...)
	rest = append(rest, sql.Conditions(more)...)
	c := altered(s, at, func(n map[string]any) {
		join := map[string]any{"type": "JOIN", "alias": "", "left": n["from_table"], "right": sql.Copy(table), "join_type": "INNER", "ref_type": "REGULAR",
			"using_columns": []any{}, "delim_flipped": false, "duplicate_eliminated_columns": []any{}}
		if left, right := sql.ColumnName(sql.Object(on, "left")), sql.ColumnName(sql.Object(on, "right")); left != "" && strings.EqualFold(left, right) {
			join["using_columns"] = []any{left}
		} else {
			join["condition"] = on
		}
		n["from_table"] = join
		delete(n, "where_clause")
		if len(rest) > 0 {
			n["where_clause"] = sql.And(rest...)
		}
	})
	c.Before, c.After = sql.Fragment(parts[drop]), "JOIN "+sql.Fragment(table)
	return c
}

// absentToJoin turns NOT IN (SELECT …) into an inner join with a null test, which nothing meets.
func absentToJoin(s Subject, at sql.Site) []Change {
	if sql.Text(at.Node, "type") != "SELECT_NODE" || sql.Object(at.Node, "from_table") == nil {
		return nil
	}
	parts := sql.Conditions(sql.Object(at.Node, "where_clause"))
	var out []Change
	for i, part := range parts {
		inside := sql.List(part, "children")
		if sql.Text(part, "type") != "OPERATOR_NOT" || len(inside) != 1 {
			continue
		}
		column, inner := inSubquery(inside[0])
		if column == nil || sql.Object(inner, "from_table") == nil {
			continue
		}
		key := sql.List(inner, "select_list")[0]
		isNull := map[string]any{"class": "OPERATOR", "type": "OPERATOR_IS_NULL", "alias": "", "children": []any{key}}
		out = append(out, joined(s, at, parts, i, sql.Object(inner, "from_table"), sql.Compare("COMPARE_EQUAL", column, key), isNull))
	}
	return out
}

// rowsRepeated adds up every row of a joined table once, in all sums and means of columns of one table: it can only repair.
func rowsRepeated(s Subject, at sql.Site) []Change {
	if s.Other == nil || sql.Text(at.Node, "type") != "SELECT_NODE" || sql.Text(sql.Object(at.Node, "from_table"), "type") != "JOIN" {
		return nil
	}
	folded := 0
	c := altered(s, at, func(n map[string]any) {
		n["select_list"] = sql.Alter(n["select_list"], func(node map[string]any) map[string]any {
			list := map[string]string{"sum": "list_sum", "avg": "list_avg"}[sql.FunctionName(node)]
			table := tableOf(argument(node))
			if list == "" || table == "" {
				return node
			}
			folded++
			once := sql.Call("list", false, sql.Call("row", false, sql.Name("", table), argument(node)))
			once["distinct"] = true
			return withAlias(sql.Call(list, false, sql.Call("map_values", false, sql.Call("map_from_entries", false, once))), node)
		})
	})
	if folded == 0 {
		return nil
	}
	c.Before, c.After, c.Mends = "", "", true
	return one(c)
}

// tableOf is the table that all columns of an expression are written with; "" where there is none, or more than one.
func tableOf(expression map[string]any) string {
	if expression == nil {
		return ""
	}
	found, several := "", false
	_ = sql.Alter(sql.Copy(expression), func(node map[string]any) map[string]any {
		if sql.ColumnName(node) != "" {
			names, _ := node["column_names"].([]any)
			table := ""
			if len(names) == 2 {
				table, _ = names[0].(string)
			}
			several = several || table == "" || found != "" && !strings.EqualFold(found, table)
			found = table
		}
		return node
	})
	if several {
		return ""
	}
	return found
}

// complement turns a share into one less the share.
func complement(s Subject, at sql.Site) []Change {
	if !shownNumber(at) {
		return nil
	}
	return one(replace(s, at, withAlias(sql.Call("-", true, sql.Number("1"), at.Node), at.Node)))
}

// stripCall leaves a call of one argument out, in one place and in all: lower(trim(plan)) becomes plan.
func stripCall(s Subject, at sql.Site) []Change {
	name := sql.FunctionName(at.Node)
	inner := argument(at.Node)
	if sql.Text(at.Node, "class") != "FUNCTION" || inner == nil || len(sql.List(at.Node, "arguments")) != 1 || sql.IsAggregate(name) {
		return nil
	}
	plain := inner
	for sql.Text(plain, "class") == "FUNCTION" && len(sql.List(plain, "arguments")) == 1 && !sql.IsAggregate(sql.FunctionName(plain)) {
		plain = argument(plain)
	}
	var out []Change
	for _, with := range []map[string]any{inner, plain} {
		c := replace(s, at, withAlias(sql.Copy(with), at.Node))
		if !inItem(at) && !at.In("group_expressions") {
			c.Code = fault.FilterValue
		}
		out = append(out, c)
		if sql.Same(inner, plain) {
			break
		}
	}
	return out
}

// elseZero drops ELSE 0 from the CASE in an aggregate, or adds it.
func elseZero(s Subject, at sql.Site) []Change {
	if sql.Text(at.Node, "class") != "CASE" || !inItem(at) {
		return nil
	}
	otherwise := sql.Object(at.Node, "else_expr")
	null := map[string]any{"class": "CONSTANT", "type": "VALUE_CONSTANT", "alias": "", "literal": map[string]any{"kind": "NULL_LITERAL", "text": "NULL"}}
	if sql.Text(sql.Object(otherwise, "literal"), "kind") == "NULL_LITERAL" || otherwise == nil {
		null = sql.Number("0")
	}
	return one(altered(s, at, func(n map[string]any) { n["else_expr"] = null }))
}

// productOfSums turns sum(a * b) into sum(a) * sum(b), and back.
func productOfSums(s Subject, at sql.Site) []Change {
	if sql.FunctionName(at.Node) == "sum" {
		sides := operands(argument(at.Node))
		if sides == nil || sql.FunctionName(argument(at.Node)) != "*" {
			return nil
		}
		return one(replace(s, at, withAlias(sql.Call("*", true, sql.Call("sum", false, sides[0]), sql.Call("sum", false, sides[1])), at.Node)))
	}
	sides := operands(at.Node)
	if sides == nil || sql.FunctionName(at.Node) != "*" || sql.FunctionName(sides[0]) != "sum" || sql.FunctionName(sides[1]) != "sum" {
		return nil
	}
	return one(replace(s, at, withAlias(sql.Call("sum", false, sql.Call("*", true, argument(sides[0]), argument(sides[1]))), at.Node)))
}

func dropOrder(s Subject, at sql.Site) []Change {
	if sql.Text(at.Node, "type") != "ORDER_MODIFIER" || at.Role != "modifiers" {
		return nil
	}
	return one(Change{Tree: s.Tree.Without(at), Before: "ORDER BY", After: ""})
}
