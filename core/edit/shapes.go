package edit

import (
	"strings"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// shapes are the mistakes of writing a question in another shape.
func shapes() []*Edit {
	return []*Edit{
		{Name: "semi-join-to-join", Doc: "EXISTS or IN became a join, which counts rows more than once", Code: fault.JoinFanOut,
			Inverse: fault.JoinFanOut, make: semiJoinToJoin},
		{Name: "absent-to-join", Doc: "those without any were looked for in a join that drops them", Code: fault.JoinRowsLost,
			Inverse: fault.JoinRowsAdded, make: absentToJoin},
		{Name: "rows-repeated", Doc: "a join repeats rows, which are then added up more than once", Code: fault.JoinFanOut,
			Inverse: fault.JoinFanOut, make: rowsRepeated},
		{Name: "complement", Doc: "a share was taken for its rest", Code: fault.Formula, Inverse: fault.Formula, make: complement},
		{Name: "strip-call", Doc: "values are not brought to one form before they are grouped or compared",
			Code: fault.GroupKeyExtra, Inverse: fault.GroupKeyMissing, make: stripCall},
		{Name: "else-zero", Doc: "a mean is taken of those alone that meet a condition, or of all",
			Code: fault.AggregateFunction, Inverse: fault.AggregateFunction, make: elseZero},
		{Name: "product-of-sums", Doc: "sums are multiplied where products were to be added up, or the reverse",
			Code: fault.Formula, Inverse: fault.Formula, make: productOfSums},
		{Name: "drop-order", Doc: "the order is left out", Code: fault.WrongOrder, Inverse: fault.WrongOrder, make: dropOrder},
	}
}

// inSubquery is the column and the SELECT of `column IN (SELECT …)`; nil for other conditions.
func inSubquery(node *ast.Node) (column, inner *ast.Node) {
	if node.Class() != ast.Subquery || node.Text(field.SubqueryType) != "ANY" {
		return nil, nil
	}
	inner = node.Node(field.Subquery).Node(field.Node)
	if inner.Kind() != ast.SelectNode || len(inner.Nodes(field.SelectList)) != 1 {
		return nil, nil
	}
	return node.Node(field.Child), inner
}

// semiJoinToJoin turns a condition `x IN (SELECT y FROM t …)` of a SELECT into a join with t.
func semiJoinToJoin(s Subject, at sql.Site) []Change {
	if at.Node.Kind() != ast.SelectNode || at.Node.Node(field.FromTable) == nil {
		return nil
	}
	parts := sql.Conditions(at.Node.Node(field.Where))
	var out []Change
	for i, part := range parts {
		column, inner := inSubquery(part)
		if column == nil || inner.Node(field.FromTable) == nil {
			continue
		}
		key := inner.Nodes(field.SelectList)[0]
		out = append(out, joined(s, at, parts, i, inner.Node(field.FromTable), sql.Compare(ast.CompareEqual, column, key),
			inner.Node(field.Where)))
	}
	return out
}

// joined puts a table into a SELECT's FROM in place of one of its conditions.
func joined(s Subject, at sql.Site, parts []*ast.Node, drop int, table, on, more *ast.Node) Change {
	rest := append(append([]*ast.Node(nil), parts[:drop]...), parts[drop+1:]...)
	rest = append(rest, sql.Conditions(more)...)
	c := altered(s, at, func(n *ast.Node) {
		var using []string
		condition := on
		if left, right := sql.ColumnName(on.Node(field.Left)), sql.ColumnName(on.Node(field.Right)); left != "" &&
			strings.EqualFold(left, right) {
			using, condition = []string{left}, nil
		}
		n.Set(field.FromTable, innerJoin(n.Node(field.FromTable), ast.Copy(table), using, condition))
		n.Drop(field.Where)
		if len(rest) > 0 {
			n.Set(field.Where, sql.And(rest...))
		}
	})
	c.Before, c.After = sql.Fragment(parts[drop]), "JOIN "+sql.Fragment(table)
	return c
}

// absentToJoin turns NOT IN (SELECT …) into an inner join with a null test, which nothing meets.
func absentToJoin(s Subject, at sql.Site) []Change {
	if at.Node.Kind() != ast.SelectNode || at.Node.Node(field.FromTable) == nil {
		return nil
	}
	parts := sql.Conditions(at.Node.Node(field.Where))
	var out []Change
	for i, part := range parts {
		inside := part.Nodes(field.Children)
		if part.Kind() != ast.OperatorNot || len(inside) != 1 {
			continue
		}
		column, inner := inSubquery(inside[0])
		if column == nil || inner.Node(field.FromTable) == nil {
			continue
		}
		key := inner.Nodes(field.SelectList)[0]
		isNull := ast.New(ast.Fields{field.Class: ast.Operator, field.Type: ast.OperatorIsNull, field.Alias: "",
			field.Children: []any{key}})
		out = append(out, joined(s, at, parts, i, inner.Node(field.FromTable), sql.Compare(ast.CompareEqual, column, key), isNull))
	}
	return out
}

// rowsRepeated adds up every row of a joined table once, in all sums and means of columns of one table: it can only repair.
func rowsRepeated(s Subject, at sql.Site) []Change {
	if s.Other == nil || at.Node.Kind() != ast.SelectNode || at.Node.Node(field.FromTable).Kind() != ast.Join {
		return nil
	}
	folded := 0
	c := altered(s, at, func(n *ast.Node) {
		n.Set(field.SelectList, sql.Alter(n.Get(field.SelectList), func(node *ast.Node) *ast.Node {
			list := map[string]string{"sum": "list_sum", "avg": "list_avg"}[node.FunctionName()]
			table := tableOf(argument(node))
			if list == "" || table == "" {
				return node
			}
			folded++
			once := sql.Call("list", false, sql.Call("row", false, sql.Name("", table), argument(node)))
			once.Set(field.Distinct, true)
			return withAlias(sql.Call(list, false, sql.Call("map_values", false, sql.Call("map_from_entries", false, once))), node)
		}))
	})
	if folded == 0 {
		return nil
	}
	c.Before, c.After, c.Mends = "", "", true
	return one(c)
}

// tableOf is the table that all columns of an expression are written with; "" where there is none, or more than one.
func tableOf(expression *ast.Node) string {
	if expression == nil {
		return ""
	}
	found, several := "", false
	_ = sql.Alter(ast.Copy(expression), func(node *ast.Node) *ast.Node {
		if sql.ColumnName(node) != "" {
			names := node.Names(field.ColumnNames)
			table := ""
			if len(names) == 2 {
				table = names[0]
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
	name := at.Node.FunctionName()
	inner := argument(at.Node)
	if at.Node.Class() != ast.Function || inner == nil || len(at.Node.Nodes(field.Arguments)) != 1 || sql.IsAggregate(name) {
		return nil
	}
	plain := inner
	for plain.Class() == ast.Function && len(plain.Nodes(field.Arguments)) == 1 && !sql.IsAggregate(plain.FunctionName()) {
		plain = argument(plain)
	}
	var out []Change
	for _, with := range []*ast.Node{inner, plain} {
		c := replace(s, at, withAlias(ast.Copy(with), at.Node))
		if !inItem(at) && !at.In(field.GroupExpressions) {
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
	if at.Node.Class() != ast.Case || !inItem(at) {
		return nil
	}
	otherwise := at.Node.Node(field.ElseExpr)
	null := nullLiteral()
	if otherwise.Node(field.Literal).Text(field.Kind) == "NULL_LITERAL" || otherwise == nil {
		null = sql.Number("0")
	}
	return one(altered(s, at, func(n *ast.Node) { n.Set(field.ElseExpr, null) }))
}

// productOfSums turns sum(a * b) into sum(a) * sum(b), and back.
func productOfSums(s Subject, at sql.Site) []Change {
	if at.Node.FunctionName() == "sum" {
		sides := operands(argument(at.Node))
		if sides == nil || argument(at.Node).FunctionName() != "*" {
			return nil
		}
		return one(replace(s, at, withAlias(sql.Call("*", true, sql.Call("sum", false, sides[0]),
			sql.Call("sum", false, sides[1])), at.Node)))
	}
	sides := operands(at.Node)
	if sides == nil || at.Node.FunctionName() != "*" || sides[0].FunctionName() != "sum" || sides[1].FunctionName() != "sum" {
		return nil
	}
	return one(replace(s, at, withAlias(sql.Call("sum", false, sql.Call("*", true, argument(sides[0]), argument(sides[1]))), at.Node)))
}

func dropOrder(s Subject, at sql.Site) []Change {
	if at.Node.Kind() != ast.OrderModifier || at.Role != field.Modifiers {
		return nil
	}
	return one(Change{Tree: s.Tree.Without(at), Before: "ORDER BY", After: ""})
}
