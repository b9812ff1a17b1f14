package format

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/core/sql/layout"
)

// How tightly expressions hold together: one that holds less than its place asks for stands in brackets.
const (
	lowest = iota
	alternative
	conjunction
	negation
	comparison
	operation // the operators without a place of their own, such as ||
	sum
	product
	power
	sign
	atom
)

// binary are the operators between two expressions, and how tightly they hold.
var binary = map[string]int{"+": sum, "-": sum, "*": product, "/": product, "//": product, "%": product, "^": power,
	"**": power, "||": operation,
	"&": operation, "|": operation, "<<": operation, ">>": operation, "&&": operation, "@>": operation, "<@": operation,
	"^@": operation, "->>": operation,
	"~~": comparison, "!~~": comparison, "~~*": comparison, "!~~*": comparison, "~~~": comparison}

// likes are the operators that people write as words.
var likes = map[string]string{"~~": "LIKE", "!~~": "NOT LIKE", "~~*": "ILIKE", "!~~*": "NOT ILIKE", "~~~": "GLOB"}

var comparisons = map[ast.Kind]string{ast.CompareEqual: "=", ast.CompareNotEqual: "<>", ast.CompareLess: "<", ast.CompareLessEqual: "<=",
	ast.CompareGreater: ">", ast.CompareGreaterEqual: ">=", ast.CompareDistinctFrom: "IS DISTINCT FROM",
	ast.CompareNotDistinctFrom: "IS NOT DISTINCT FROM"}

// opposite is the comparison that is true where another is not: x > ALL is NOT x <= ANY.
var opposite = map[ast.Kind]string{ast.CompareNotEqual: "=", ast.CompareLess: ">=", ast.CompareLessEqual: ">", ast.CompareGreater: "<=",
	ast.CompareGreaterEqual: "<"}

func (w *writer) expressions(list []*ast.Node) []layout.Doc {
	var all []layout.Doc
	for _, e := range list {
		all = append(all, w.expression(e, lowest))
	}
	return all
}

// expression writes an expression for a place that asks it to hold together so tightly.
func (w *writer) expression(e *ast.Node, asked int) layout.Doc {
	written, holds := w.plain(e)
	if holds < asked {
		return layout.List(layout.Text("("), written, layout.Text(")"))
	}
	return written
}

func (w *writer) flat(e *ast.Node, asked int) string { return layout.Flat(w.expression(e, asked)) }

// plain writes an expression without brackets around it, and says how tightly it holds together.
func (w *writer) plain(e *ast.Node) (layout.Doc, int) {
	if w.style.Expression != nil {
		if written, is := w.style.Expression(e, w.text); is {
			return layout.Text(written), atom
		}
	}
	switch e.Class() {
	case ast.ColumnRef:
		return layout.Text(w.dotted(e.Names(field.ColumnNames))), atom
	case ast.Constant:
		return w.constant(e.Node(field.Literal))
	case ast.Comparison:
		return w.between(e.Node(field.Left), comparisons[e.Kind()], e.Node(field.Right)), comparison
	case ast.Conjunction:
		return w.conjunction(e)
	case ast.Between:
		return layout.List(w.expression(e.Node(field.Input), operation), layout.Text(" BETWEEN "),
			w.expression(e.Node(field.Lower), operation),
			layout.Text(" AND "), w.expression(e.Node(field.Upper), operation)), comparison
	case ast.Operator:
		return w.operator(e)
	case ast.Function:
		return w.function(e)
	case ast.Window:
		return w.window(e), atom
	case ast.Cast:
		return w.cast(e), atom
	case ast.Case:
		return w.caseOf(e), atom
	case ast.Star:
		return w.star(e), atom
	case ast.Subquery:
		return w.subquery(e, false)
	case ast.Collate:
		return layout.List(w.expression(e.Node(field.Child), atom), layout.Text(" COLLATE "+e.Text(field.Collation))), sign
	case ast.Lambda:
		return w.lambda(e)
	}
	return w.give(), atom
}

func (w *writer) between(left *ast.Node, operator string, right *ast.Node) layout.Doc {
	if operator == "" {
		return w.give()
	}
	return layout.List(w.expression(left, operation), layout.Text(" "+operator+" "), w.expression(right, operation))
}

func (w *writer) conjunction(e *ast.Node) (layout.Doc, int) {
	word, holds := "AND", conjunction
	if e.Kind() == ast.ConjunctionOr {
		word, holds = "OR", alternative
	}
	var all []layout.Doc
	for i, child := range e.Nodes(field.Children) {
		written := layout.Group(w.expression(child, holds+1))
		if i > 0 {
			written = layout.List(layout.Text(word+" "), written)
		}
		all = append(all, written)
	}
	return layout.Group(layout.Join(layout.Line, all)), holds
}

func (w *writer) constant(literal *ast.Node) (layout.Doc, int) {
	text := literal.Text(field.Text)
	switch literal.Text(field.Kind) {
	case "STRING":
		return layout.Text(quotedText(text)), atom
	case "NULL_LITERAL":
		return layout.Text("NULL"), atom
	case "INTEGER", "NUMERIC", "BOOLEAN":
		if strings.HasPrefix(text, "-") {
			return layout.Text(text), sign
		}
		return layout.Text(text), atom
	}
	return w.give(), atom
}

func (w *writer) operator(e *ast.Node) (layout.Doc, int) {
	all := e.Nodes(field.Children)
	if len(all) == 0 {
		return w.give(), atom
	}
	switch e.Kind() {
	case ast.OperatorIsNull:
		return layout.List(w.expression(all[0], operation), layout.Text(" IS NULL")), comparison
	case ast.OperatorIsNotNull:
		return layout.List(w.expression(all[0], operation), layout.Text(" IS NOT NULL")), comparison
	case ast.OperatorNot:
		return w.not(all[0])
	case ast.OperatorCoalesce:
		return w.call("coalesce", w.expressions(all)), atom
	case ast.GroupingFunction:
		return w.call("GROUPING", w.expressions(all)), atom
	case ast.OperatorTry:
		return w.call("TRY", w.expressions(all)), atom
	case ast.CompareIn, ast.CompareNotIn:
		word := map[ast.Kind]string{ast.CompareIn: " IN ", ast.CompareNotIn: " NOT IN "}[e.Kind()]
		return layout.List(w.expression(all[0], operation), layout.Text(word), w.call("", w.expressions(all[1:]))), comparison
	case ast.ArrayConstructor:
		return layout.Group(layout.Text("["), layout.Join(layout.Text(", "), w.expressions(all)), layout.Text("]")), atom
	case ast.ArrayExtract, ast.ArraySlice:
		if len(all) < 2 || len(all) > 3 {
			return w.give(), atom
		}
		return layout.List(w.expression(all[0], atom), layout.Text("["), layout.Join(layout.Text(":"), w.expressions(all[1:])),
			layout.Text("]")), atom
	}
	return w.give(), atom
}

func (w *writer) not(e *ast.Node) (layout.Doc, int) {
	switch {
	case e.Class() == ast.Between:
		return layout.List(w.expression(e.Node(field.Input), operation), layout.Text(" NOT BETWEEN "),
			w.expression(e.Node(field.Lower), operation),
			layout.Text(" AND "), w.expression(e.Node(field.Upper), operation)), comparison
	case e.Class() == ast.Subquery && e.Text(field.SubqueryType) == "ANY":
		return w.subquery(e, true)
	}
	return layout.List(layout.Text("NOT "), w.expression(e, negation)), negation
}

// subquery writes a statement within an expression; negated is what NOT makes of one with ANY.
func (w *writer) subquery(e *ast.Node, negated bool) (layout.Doc, int) {
	inner := w.bracketed(w.query(e.Node(field.Subquery).Node(field.Node), layout.Line))
	kind := ast.KindOf(e.Text(field.ComparisonType))
	switch e.Text(field.SubqueryType) {
	case "SCALAR":
		return inner, atom
	case "EXISTS":
		return layout.List(layout.Text("EXISTS "), inner), atom
	case "NOT_EXISTS":
		return layout.List(layout.Text("NOT EXISTS "), inner), negation
	case "ANY":
		word := comparisons[kind] + " ANY"
		switch {
		case kind == ast.CompareEqual && negated:
			word = w.style.Everywhere + "NOT IN"
		case kind == ast.CompareEqual:
			word = w.style.Everywhere + "IN"
		case negated:
			word = opposite[kind] + " ALL"
		}
		return layout.List(w.expression(e.Node(field.Child), operation), layout.Text(" "+word+" "), inner), comparison
	}
	return w.give(), atom
}

func (w *writer) call(function string, arguments []layout.Doc) layout.Doc {
	for i := range arguments[:max(0, len(arguments)-1)] {
		arguments[i] = layout.List(arguments[i], layout.Text(","))
	}
	return layout.Group(layout.Text(function+"("), layout.Nest(4, layout.Fill(arguments...)), layout.Text(")"))
}

func (w *writer) arguments(e *ast.Node) []layout.Doc {
	var all []layout.Doc
	for _, a := range e.Nodes(field.Arguments) {
		written := w.expression(a.Node(field.Expression), lowest)
		if named := a.Text(field.Name); named != "" {
			written = layout.List(layout.Text(w.name(named)+" := "), written)
		}
		all = append(all, written)
	}
	return all
}

func (w *writer) function(e *ast.Node) (layout.Doc, int) {
	called := e.FunctionName()
	all := e.Nodes(field.Arguments)
	if e.Is(field.IsOperator) || escapes[called] != "" {
		return w.infix(called, all)
	}
	if written, ok := w.interval(called, all); ok {
		return written, atom
	}
	if e.Is(field.ExportState) || len(e.Node(field.QualifiedName).Names(field.Path)) > 1 {
		return w.give(), atom
	}
	arguments := w.arguments(e)
	switch {
	case called == "count_star" && len(all) == 0:
		called, arguments = "count", []layout.Doc{layout.Text("*")}
	case called == "row" && len(all) > 1 && plainArguments(all):
		return layout.Group(layout.Text("("), layout.Join(layout.Text(", "), arguments), layout.Text(")")), atom
	case called == "list_value":
		return layout.Group(layout.Text("["), layout.Join(layout.Text(", "), arguments), layout.Text("]")), atom
	case called == "date_part" && len(all) == 2 && isUnit(all[0].Node(field.Expression)):
		unit := strings.ToLower(all[0].Node(field.Expression).Node(field.Literal).Text(field.Text))
		return layout.List(layout.Text("extract("+unit+" FROM "), w.expression(all[1].Node(field.Expression), lowest),
			layout.Text(")")), atom
	}
	if e.Is(field.Distinct) && len(arguments) > 0 {
		arguments[0] = layout.List(layout.Text("DISTINCT "), arguments[0])
	}
	if orders := e.Node(field.OrderBys).Nodes(field.Orders); len(orders) > 0 {
		inOrder := layout.List(layout.Text("ORDER BY "), layout.Join(layout.Text(", "), w.orders(orders)))
		if len(arguments) == 0 {
			return layout.List(w.call(w.functionName(e, called), nil), layout.Text(" WITHIN GROUP ("), inOrder, layout.Text(")")), atom
		}
		arguments[len(arguments)-1] = layout.List(arguments[len(arguments)-1], layout.Text(" "), inOrder)
	}
	written := w.call(w.functionName(e, called), arguments)
	if filter := e.Node(field.Filter); filter != nil {
		written = layout.List(written, layout.Text(" FILTER (WHERE "), w.expression(filter, lowest), layout.Text(")"))
	}
	return written, atom
}

// escapes are the functions that patterns with ESCAPE are read as, by their words.
var escapes = map[string]string{"like_escape": "LIKE", "not_like_escape": "NOT LIKE", "ilike_escape": "ILIKE",
	"not_ilike_escape": "NOT ILIKE"}

// plainArguments tells arguments that have no names.
func plainArguments(all []*ast.Node) bool {
	return !slices.ContainsFunc(all, func(a *ast.Node) bool { return a.Text(field.Name) != "" })
}

func (w *writer) infix(operator string, all []*ast.Node) (layout.Doc, int) {
	const withEscape = 3 // operands
	if word := escapes[operator]; word != "" && len(all) == withEscape {
		return layout.List(w.expression(all[0].Node(field.Expression), operation), layout.Text(" "+word+" "),
			w.expression(all[1].Node(field.Expression), operation), layout.Text(" ESCAPE "),
			w.expression(all[2].Node(field.Expression), atom)), comparison
	}
	holds, known := binary[operator]
	switch {
	case len(all) == 1 && (operator == "-" || operator == "+" || operator == "~" || operator == "@"):
		return layout.List(layout.Text(operator), w.expression(all[0].Node(field.Expression), atom)), sign
	case len(all) != 2 || !known:
		return w.give(), atom
	}
	left, right := holds, holds+1
	if holds == comparison {
		left = operation
	}
	if word := likes[operator]; word != "" {
		operator = word
	}
	return layout.List(w.expression(all[0].Node(field.Expression), left), layout.Text(" "+operator+" "),
		w.expression(all[1].Node(field.Expression), right)), holds
}

// units are what intervals are of, by the functions that make them.
var units = map[string]string{"to_years": "YEAR", "to_quarters": "QUARTER", "to_months": "MONTH", "to_weeks": "WEEK",
	"to_days": "DAY", "to_hours": "HOUR",
	"to_minutes": "MINUTE", "to_seconds": "SECOND", "to_milliseconds": "MILLISECOND", "to_microseconds": "MICROSECOND"}

// interval writes INTERVAL 1 HOUR for what the engine makes of it: to_hours(CAST(trunc(CAST(1 AS DOUBLE)) AS BIGINT)).
func (w *writer) interval(called string, all []*ast.Node) (layout.Doc, bool) {
	if units[called] == "" || len(all) != 1 {
		return layout.Doc{}, false
	}
	e := all[0].Node(field.Expression)
	if isWhole := e.Class() == ast.Cast && e.Node(field.Child).FunctionName() == "trunc"; isWhole {
		e = e.Node(field.Child).Nodes(field.Arguments)[0].Node(field.Expression)
	}
	if e.Class() != ast.Cast || typeName(e) != "DOUBLE" || e.Is(field.TryCast) {
		return layout.Doc{}, false
	}
	number := e.Node(field.Child)
	if number.Class() == ast.Constant && !strings.HasPrefix(number.Node(field.Literal).Text(field.Text), "-") {
		return layout.Text("INTERVAL " + w.flat(number, atom) + " " + units[called]), true
	}
	return layout.List(layout.Text("INTERVAL ("), w.expression(number, lowest), layout.Text(") "+units[called])), true
}

// isUnit tells the unit of EXTRACT(YEAR FROM …), which the engine writes in capitals.
func isUnit(e *ast.Node) bool {
	text := e.Node(field.Literal).Text(field.Text)
	return e.Node(field.Literal).Text(field.Kind) == "STRING" && units["to_"+strings.ToLower(text)+"s"] != "" &&
		text == strings.ToUpper(text)
}

func typeName(cast *ast.Node) string {
	if t := cast.Node(field.TypeExpr); len(t.Items(field.Children)) == 0 {
		return t.Text(field.TypeName)
	}
	return ""
}

// written are the types of literals such as DATE '2031-05-01'.
var written = map[string]bool{"DATE": true, "TIME": true, "TIMESTAMP": true, "TIMESTAMPTZ": true, "INTERVAL": true}

func (w *writer) cast(e *ast.Node) layout.Doc {
	child := e.Node(field.Child)
	if t := typeName(e); written[t] && child.Class() == ast.Constant &&
		child.Node(field.Literal).Text(field.Kind) == "STRING" && !e.Is(field.TryCast) {
		return layout.Text(t + " " + quotedText(child.Node(field.Literal).Text(field.Text)))
	}
	word := "CAST("
	if e.Is(field.TryCast) {
		word = "TRY_CAST("
	}
	return layout.List(layout.Text(word), w.expression(child, lowest), layout.Text(" AS "+w.typeText(e.Node(field.TypeExpr))+")"))
}

func (w *writer) typeText(t *ast.Node) string {
	name := t.Text(field.TypeName)
	all := t.Nodes(field.Children)
	if w.style.Type != nil {
		return w.style.Type(t)
	}
	if t.Class() != ast.TypeExpression || len(t.Node(field.QualifiedName).Names(field.Path)) > 1 {
		w.give()
		return ""
	}
	if strings.EqualFold(name, "list") && len(all) == 1 {
		return w.typeText(all[0]) + "[]"
	}
	if len(all) == 0 {
		return name
	}
	var parts []string
	for _, c := range all {
		switch {
		case c.Class() == ast.Constant:
			parts = append(parts, w.flat(c, lowest))
		case c.Text(field.Alias) != "":
			parts = append(parts, quotedName(c.Text(field.Alias))+" "+w.typeText(c))
		default:
			parts = append(parts, w.typeText(c))
		}
	}
	return name + "(" + strings.Join(parts, ", ") + ")"
}

func (w *writer) caseOf(e *ast.Node) layout.Doc {
	parts := []layout.Doc{layout.Text("CASE")}
	for _, check := range e.Nodes(field.CaseChecks) {
		parts = append(parts, layout.List(layout.Text("WHEN "), w.expression(check.Node(field.WhenExpr), lowest), layout.Text(" THEN "),
			w.expression(check.Node(field.ThenExpr), lowest)))
	}
	if otherwise := e.Node(field.ElseExpr); otherwise != nil && otherwise.Node(field.Literal).Text(field.Kind) != "NULL_LITERAL" {
		parts = append(parts, layout.List(layout.Text("ELSE "), w.expression(otherwise, lowest)))
	}
	return layout.Group(layout.Nest(4, layout.Join(layout.Line, append(parts, layout.Text("END")))))
}

func (w *writer) star(e *ast.Node) layout.Doc {
	for _, f := range []field.Field{field.ReplaceList, field.RenameList, field.QualifiedExcludeList, field.Expr} {
		if len(e.Items(f)) > 0 || e.Node(f) != nil {
			return w.give()
		}
	}
	star := "*"
	if relation := e.Text(field.RelationName); relation != "" {
		star = w.name(relation) + ".*"
	}
	if out := e.Names(field.ExcludeList); len(out) > 0 {
		star += " EXCLUDE" + w.columnNames(out)
	}
	return layout.Text(star)
}

func (w *writer) lambda(e *ast.Node) (layout.Doc, int) {
	parameters := e.Node(field.LHS)
	if e.Text(field.SyntaxType) != "LAMBDA_KEYWORD" || parameters.Class() != ast.ColumnRef {
		return w.give(), atom
	}
	return layout.List(layout.Text("lambda "+w.flat(parameters, atom)+": "), w.expression(e.Node(field.Expr), lowest)), lowest
}

// textOf is a number of a tree as text.
func textOf(v any) string {
	if n, ok := v.(json.Number); ok {
		return n.String()
	}
	return fmt.Sprint(v)
}
