package sql

import (
	"fmt"
	"sort"
	"strings"
)

// comparisons are written the same way round.
var comparisons = map[string]string{"COMPARE_EQUAL": "=", "COMPARE_NOTEQUAL": "<>", "COMPARE_LESSTHAN": "<", "COMPARE_LESSTHANOREQUALTO": "<=",
	"COMPARE_GREATERTHAN": ">", "COMPARE_GREATERTHANOREQUALTO": ">=", "COMPARE_DISTINCT_FROM": "is distinct from", "COMPARE_NOT_DISTINCT_FROM": "is not distinct from"}

// expression writes an expression in canonical form.
func (c *canonical) expression(e map[string]any, s scope) string {
	switch text(e, "class") {
	case "":
		return ""
	case "COLUMN_REF":
		return c.column(e, s)
	case "CONSTANT":
		return literalText(object(e, "literal"))
	case "COMPARISON":
		return c.comparison(e, s)
	case "CONJUNCTION":
		return c.several(list(e, "children"), s, map[string]string{"CONJUNCTION_AND": " and ", "CONJUNCTION_OR": " or "}[text(e, "type")], true)
	case "FUNCTION":
		return c.function(e, s)
	case "CAST":
		child := object(e, "child")
		if text(child, "class") == "CONSTANT" {
			return c.expression(child, s) // DATE '2031-05-01' is '2031-05-01'
		}
		return "cast(" + c.expression(child, s) + " as " + strings.ToLower(text(object(e, "type_expr"), "type_name")) + ")"
	case "STAR":
		return "*"
	case "CASE":
		return c.caseOf(e, s)
	case "BETWEEN":
		return c.several(halves(e), s, " and ", true)
	case "OPERATOR":
		if written := c.operator(e, s); written != "" {
			return written
		}
	case "SUBQUERY":
		return strings.ToLower(text(e, "subquery_type")) + " " + c.expression(object(e, "child"), s) + " subquery"
	}
	var parts []string
	for _, child := range children(e) {
		parts = append(parts, c.expression(child, s))
	}
	name := text(e, "type")
	if f := text(e, "function_name"); f != "" {
		name = f
	}
	return strings.ToLower(name) + "(" + strings.Join(parts, ", ") + ")"
}

func (c *canonical) caseOf(e map[string]any, s scope) string {
	written := "case"
	for _, check := range list(e, "case_checks") {
		written += " when " + c.expression(object(check, "when_expr"), s) + " then " + c.expression(object(check, "then_expr"), s)
	}
	if otherwise := c.expression(object(e, "else_expr"), s); otherwise != "" && otherwise != "null" {
		written += " else " + otherwise
	}
	return written + " end"
}

// column is a column's name, with its table only where the query reads that table twice; one of a derived table is what it stands for.
func (c *canonical) column(e map[string]any, s scope) string {
	names, _ := e["column_names"].([]any)
	name := strings.ToLower(columnName(e))
	if len(names) > 1 {
		qualifier, _ := names[len(names)-2].(string)
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
func (c *canonical) operator(e map[string]any, s scope) string {
	var parts []string
	for _, child := range list(e, "children") {
		parts = append(parts, c.expression(child, s))
	}
	if len(parts) == 0 {
		return ""
	}
	switch text(e, "type") {
	case "OPERATOR_IS_NULL":
		return parts[0] + " is null"
	case "OPERATOR_IS_NOT_NULL":
		return parts[0] + " is not null"
	case "OPERATOR_NOT":
		return "not " + parts[0]
	case "OPERATOR_COALESCE":
		return "coalesce(" + strings.Join(parts, ", ") + ")"
	case "COMPARE_IN", "COMPARE_NOT_IN":
		word := map[string]string{"COMPARE_IN": " in (", "COMPARE_NOT_IN": " not in ("}[text(e, "type")]
		values := append([]string(nil), parts[1:]...)
		sort.Strings(values)
		return parts[0] + word + strings.Join(values, ", ") + ")"
	}
	return ""
}

func literalText(literal map[string]any) string {
	if text(literal, "kind") == "NULL_LITERAL" {
		return "null"
	}
	if text(literal, "kind") == "STRING" {
		return "'" + text(literal, "text") + "'"
	}
	return strings.ToLower(text(literal, "text"))
}

func (c *canonical) comparison(e map[string]any, s scope) string {
	left, right, operator := c.expression(object(e, "left"), s), c.expression(object(e, "right"), s), comparisons[text(e, "type")]
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

func (c *canonical) several(all []map[string]any, s scope, between string, sorted bool) string {
	var parts []string
	for _, e := range all {
		parts = append(parts, c.expression(e, s))
	}
	if sorted {
		sort.Strings(parts)
	}
	return "(" + strings.Join(parts, between) + ")"
}

// sameFunctions are names of the same thing.
var sameFunctions = map[string]string{"count_star": "count", "mean": "avg", "date_part": "extract", "datepart": "extract", "datetrunc": "date_trunc",
	"datediff": "date_diff", "dayofmonth": "day", "argmax": "arg_max", "max_by": "arg_max", "argmin": "arg_min", "min_by": "arg_min", "ceiling": "ceil", "countif": "count_if",
	"arbitrary": "first", "now": "get_current_timestamp", "transaction_timestamp": "get_current_timestamp", "pow": "power", "position": "instr", "strpos": "instr",
	"char_length": "length", "character_length": "length", "len": "length", "array_agg": "list", "quantile": "quantile_disc", "stddev": "stddev_samp", "variance": "var_samp",
	"group_concat": "string_agg", "listagg": "string_agg", "lcase": "lower", "ucase": "upper", "substr": "substring", "split": "string_split", "str_split": "string_split",
	"string_to_array": "string_split", "ifnull": "coalesce", "nvl": "coalesce"}

func (c *canonical) function(e map[string]any, s scope) string {
	name := functionName(e)
	if same := sameFunctions[name]; same != "" {
		name = same
	}
	var arguments []map[string]any
	for _, a := range list(e, "arguments") {
		arguments = append(arguments, object(a, "expression"))
	}
	if operator, _ := e["is_operator"].(bool); operator && len(arguments) == 2 {
		return c.several(arguments, s, " "+name+" ", name == "+" || name == "*")
	}
	written := c.several(arguments, s, ", ", false)
	if len(arguments) == 0 && name == "count" {
		written = "(*)"
	}
	if distinct, _ := e["distinct"].(bool); distinct {
		written = "(distinct " + written[1:]
	}
	if filter := object(e, "filter"); filter != nil {
		written += fmt.Sprintf(" filter (%s)", c.expression(filter, s))
	}
	return name + written
}
