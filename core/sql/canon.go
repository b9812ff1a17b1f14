package sql

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// comparisons are written the same way round.
var comparisons = map[ast.Kind]string{ast.CompareEqual: "=", ast.CompareNotEqual: "<>", ast.CompareLess: "<", ast.CompareLessEqual: "<=",
	ast.CompareGreater: ">", ast.CompareGreaterEqual: ">=", ast.CompareDistinctFrom: "is distinct from",
	ast.CompareNotDistinctFrom: "is not distinct from"}

// expression writes an expression in canonical form.
func (c *canonical) expression(e *ast.Node, s scope) string {
	switch e.Class() {
	case ast.None:
		return ""
	case ast.ColumnRef:
		return c.column(e, s)
	case ast.Constant:
		return literalText(e.Node(field.Literal))
	case ast.Comparison:
		return c.comparison(e, s)
	case ast.Conjunction:
		return c.several(e.Nodes(field.Children), s,
			map[ast.Kind]string{ast.ConjunctionAnd: " and ", ast.ConjunctionOr: " or "}[e.Kind()], true)
	case ast.Function:
		return c.function(e, s)
	case ast.Cast:
		child := e.Node(field.Child)
		if child.Class() == ast.Constant {
			return c.expression(child, s) // DATE '2031-05-01' is '2031-05-01'
		}
		return "cast(" + c.expression(child, s) + " as " + strings.ToLower(e.Node(field.TypeExpr).Text(field.TypeName)) + ")"
	case ast.Star:
		return "*"
	case ast.Case:
		return c.caseOf(e, s)
	case ast.Between:
		return c.several(halves(e), s, " and ", true)
	case ast.Window:
		return c.window(e, s)
	case ast.Operator:
		if written := c.operator(e, s); written != "" {
			return written
		}
	case ast.Subquery:
		return strings.ToLower(e.Text(field.SubqueryType)) + " " + c.expression(e.Node(field.Child), s) + " subquery"
	}
	var parts []string
	for _, child := range children(e) {
		parts = append(parts, c.expression(child, s))
	}
	name := e.Kind().String()
	if f := e.Text(field.FunctionName); f != "" {
		name = f
	}
	return strings.ToLower(name) + "(" + strings.Join(parts, ", ") + ")"
}

func (c *canonical) caseOf(e *ast.Node, s scope) string {
	var written strings.Builder
	written.WriteString("case")
	for _, check := range e.Nodes(field.CaseChecks) {
		written.WriteString(" when " + c.expression(check.Node(field.WhenExpr), s) + " then " + c.expression(check.Node(field.ThenExpr), s))
	}
	if otherwise := c.expression(e.Node(field.ElseExpr), s); otherwise != "" && otherwise != "null" {
		written.WriteString(" else " + otherwise)
	}
	return written.String() + " end"
}

// column is a column's name, with its table only where the query reads that table twice; one of a derived table is what it stands for.
func (c *canonical) column(e *ast.Node, s scope) string {
	names := e.Names(field.ColumnNames)
	name := strings.ToLower(columnName(e))
	if len(names) > 1 {
		qualifier := names[len(names)-2]
		src, known := s.named(strings.ToLower(qualifier))
		if inner, derived := src.items[name]; known && derived {
			return c.standsFor(name, inner)
		}
		if known && c.tables[src.table] > 1 {
			return strings.ToLower(qualifier) + "." + name
		}
		return name
	}
	for _, src := range s.sources {
		if inner, derived := src.items[name]; derived {
			return c.standsFor(name, inner)
		}
	}
	return name
}

// operator writes the operators that people write without parentheses; "" for others.
func (c *canonical) operator(e *ast.Node, s scope) string {
	var parts []string
	for _, child := range e.Nodes(field.Children) {
		parts = append(parts, c.expression(child, s))
	}
	if len(parts) == 0 {
		return ""
	}
	switch e.Kind() {
	case ast.OperatorIsNull:
		return parts[0] + " is null"
	case ast.OperatorIsNotNull:
		return parts[0] + " is not null"
	case ast.OperatorNot:
		return "not " + parts[0]
	case ast.OperatorCoalesce:
		return "coalesce(" + strings.Join(parts, ", ") + ")"
	case ast.CompareIn, ast.CompareNotIn:
		if either := alternatives(e); len(either) == 1 {
			return c.comparison(either[0], s)
		} else if len(either) > 1 {
			return c.several(either, s, " or ", true)
		}
		word := map[ast.Kind]string{ast.CompareIn: " in (", ast.CompareNotIn: " not in ("}[e.Kind()]
		values := append([]string(nil), parts[1:]...)
		slices.Sort(values)
		return parts[0] + word + strings.Join(values, ", ") + ")"
	}
	return ""
}

// halves are the two comparisons that a BETWEEN stands for.
func halves(between *ast.Node) []*ast.Node {
	input := between.Node(field.Input)
	return []*ast.Node{Compare(ast.CompareLessEqual, between.Node(field.Lower), input),
		Compare(ast.CompareLessEqual, input, between.Node(field.Upper))}
}

// alternatives are the comparisons that IN over literals stands for; none for another expression.
func alternatives(e *ast.Node) []*ast.Node {
	all := e.Nodes(field.Children)
	if e.Kind() != ast.CompareIn || len(all) < 2 {
		return nil
	}
	var out []*ast.Node
	for _, v := range all[1:] {
		if v.Class() != ast.Constant && v.Node(field.Child).Class() != ast.Constant {
			return nil
		}
		out = append(out, Compare(ast.CompareEqual, all[0], v))
	}
	return out
}

// window writes a function over a window, whose parts may stand in any order.
func (c *canonical) window(e *ast.Node, s scope) string {
	name := e.FunctionName()
	if name == "" {
		name = strings.ToLower(strings.TrimPrefix(e.Kind().String(), "WINDOW_"))
	}
	if same := sameFunctions[name]; same != "" {
		name = same
	}
	arguments := e.Nodes(field.Children)
	for _, a := range e.Nodes(field.Arguments) {
		if inner := a.Node(field.Expression); inner != nil {
			arguments = append(arguments, inner)
		}
	}
	written := c.several(arguments, s, ", ", false)
	if e.Is(field.Distinct) {
		written = "(distinct " + written[1:]
	}
	if filter := e.Node(field.FilterExpr); filter != nil {
		written += fmt.Sprintf(" filter (%s)", c.expression(filter, s))
	}
	var orders []string
	for _, o := range e.Nodes(field.Orders) {
		order := c.expression(o.Node(field.Expression), s)
		if o.Kind() == ast.Descending {
			order += " desc"
		}
		orders = append(orders, order)
	}
	return name + written + " over " + c.several(e.Nodes(field.Partitions), s, ", ", true) + " by (" + strings.Join(orders, ", ") + ")"
}

func literalText(literal *ast.Node) string {
	if literal.Text(field.Kind) == "NULL_LITERAL" {
		return "null"
	}
	if literal.Text(field.Kind) == "STRING" {
		return "'" + literal.Text(field.Text) + "'"
	}
	return strings.ToLower(literal.Text(field.Text))
}

func (c *canonical) comparison(e *ast.Node, s scope) string {
	left, right, operator := c.expression(e.Node(field.Left), s), c.expression(e.Node(field.Right), s), comparisons[e.Kind()]
	switch operator {
	case ">":
		left, right, operator = right, left, "<"
	case ">=":
		left, right, operator = right, left, "<="
	case "=", "<>":
		if left > right {
			left, right = right, left
		}
	}
	return left + " " + operator + " " + right
}

func (c *canonical) several(all []*ast.Node, s scope, between string, sorted bool) string {
	var parts []string
	for _, e := range all {
		parts = append(parts, c.expression(e, s))
	}
	if sorted {
		slices.Sort(parts)
	}
	return "(" + strings.Join(parts, between) + ")"
}

// sameFunctions are names of the same thing.
var sameFunctions = map[string]string{"count_star": "count", "mean": "avg", "date_part": "extract", "datepart": "extract",
	"datetrunc": "date_trunc",
	"datediff":  "date_diff", "dayofmonth": "day", "argmax": "arg_max", "max_by": "arg_max", "argmin": "arg_min",
	"min_by": "arg_min", "ceiling": "ceil", "countif": "count_if",
	"arbitrary": "first", "now": "get_current_timestamp", "transaction_timestamp": "get_current_timestamp", "pow": "power",
	"position": "instr", "strpos": "instr",
	"char_length": "length", "character_length": "length", "len": "length", "array_agg": "list", "quantile": "quantile_disc",
	"stddev": "stddev_samp", "variance": "var_samp",
	"group_concat": "string_agg", "listagg": "string_agg", "lcase": "lower", "ucase": "upper", "substr": "substring",
	"split": "string_split", "str_split": "string_split",
	"string_to_array": "string_split", "ifnull": "coalesce", "nvl": "coalesce"}

func (c *canonical) function(e *ast.Node, s scope) string {
	name := e.FunctionName()
	if same := sameFunctions[name]; same != "" {
		name = same
	}
	var arguments []*ast.Node
	for _, a := range e.Nodes(field.Arguments) {
		arguments = append(arguments, a.Node(field.Expression))
	}
	if operator := e.Is(field.IsOperator); operator && len(arguments) == 2 {
		return c.several(arguments, s, " "+name+" ", name == "+" || name == "*")
	}
	written := c.several(arguments, s, ", ", false)
	counted := len(arguments) == 1 && arguments[0].Class() == ast.Constant && literalText(arguments[0].Node(field.Literal)) != "null" &&
		!e.Is(field.Distinct)
	if name == "count" && (len(arguments) == 0 || counted) {
		written = "(*)"
	}
	if distinct := e.Is(field.Distinct); distinct {
		written = "(distinct " + written[1:]
	}
	if filter := e.Node(field.Filter); filter != nil {
		written += fmt.Sprintf(" filter (%s)", c.expression(filter, s))
	}
	return name + written
}
