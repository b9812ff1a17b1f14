package dialect

import (
	"strings"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/core/sql/format"
)

// forTrino writes what Trino writes otherwise than the embedded engine; false for the common form.
func (w *writing) forTrino(e *ast.Node, write format.Write) (string, bool) {
	switch e.Class() {
	case ast.ColumnRef:
		if path := e.Names(field.ColumnNames); len(path) == 1 && clockWords[strings.ToLower(path[0])] {
			return strings.ToLower(path[0]), true
		}
	case ast.Cast:
		text, literal := isText(e.Node(field.Child))
		name := strings.ToUpper(e.Node(field.TypeExpr).Text(field.TypeName))
		switch {
		case literal && name == "INTERVAL":
			number, unit, ok := strings.Cut(strings.TrimSpace(text), " ")
			if !ok || unitNames[strings.ToLower(unit)] == "" {
				return w.give("the interval " + quoted(text)), true
			}
			return trinoInterval(number, unitNames[strings.ToLower(unit)]), true
		case literal && strings.HasPrefix(name, "TIMESTAMP"):
			text, zone, _ := strings.Cut(text, "+")
			if !strings.Contains(text, ":") {
				text += " 00:00:00"
			}
			if zone != "" || name != "TIMESTAMP" {
				text += " UTC"
			}
			return "TIMESTAMP " + quoted(text), true
		case e.Is(field.TryCast):
			return "TRY_CAST(" + write(e.Node(field.Child), false) + " AS " + w.typed(e.Node(field.TypeExpr)) + ")", true
		}
	case ast.Lambda:
		return w.give("a lambda"), true
	case ast.Function:
		return w.trinoCall(e, write)
	}
	return "", false
}

func trinoInterval(number, unit string) string {
	if unit == "quarter" {
		return "(3 * INTERVAL " + quoted(number) + " MONTH)"
	}
	return "INTERVAL " + quoted(number) + " " + strings.ToUpper(unit)
}

func (w *writing) trinoCall(e *ast.Node, write format.Write) (string, bool) {
	if unit, number := intervalOf(e); unit != "" {
		if number.Class() != ast.Constant {
			return w.give("an interval that is computed, and moves nothing"), true
		}
		return trinoInterval(number.Node(field.Literal).Text(field.Text), unit), true
	}
	arguments := e.Nodes(field.Arguments)
	if e.FunctionName() == "concat" {
		var all []string
		for _, a := range arguments {
			all = append(all, "coalesce("+write(a.Node(field.Expression), false)+", '')")
		}
		return "(" + strings.Join(all, " || ") + ")", true
	}
	if !e.Is(field.IsOperator) || len(arguments) != 2 {
		return "", false
	}
	left, right := arguments[0].Node(field.Expression), arguments[1].Node(field.Expression)
	a, b := w.columns.kindOf(left), w.columns.kindOf(right)
	called := e.FunctionName()
	if called == "+" || called == "-" {
		return w.trinoMoved(called, a, b, left, right, write)
	}
	x, y := write(left, false), write(right, false)
	switch called {
	case "/":
		return "(CAST(" + x + " AS double) / " + "CAST(" + y + " AS double))", true
	case "//":
		if a.isWhole() && b.isWhole() {
			return "(" + write(left, true) + " / nullif(" + y + ", 0))", true
		}
		return w.give("// of what is no whole number"), true
	case "%":
		return "(" + write(left, true) + " % nullif(" + y + ", 0))", true
	case "^", "**":
		return "power(" + x + ", " + y + ")", true
	case "~~*", "!~~*":
		return "(lower(" + x + ")" + map[bool]string{true: " NOT"}[called == "!~~*"] + " LIKE lower(" + y + "))", true
	case "~~~", "@>", "<@", "&&", "^@", "->>", "->", "~", "!~":
		return w.give("the operator " + called), true
	}
	return "", false
}

// trinoMoved writes a sum or a difference that moves a day or a moment.
func (w *writing) trinoMoved(operator string, a, b kind, left, right *ast.Node, write format.Write) (string, bool) {
	sign := map[string]string{"-": "-"}[operator]
	unit, number := intervalOf(right)
	switch {
	case unit == "quarter":
		return "date_add('month', " + sign + "3 * " + write(number, true) + ", " + write(left, false) + ")", true
	case unit != "":
		return "date_add('" + unit + "', " + sign + write(number, true) + ", " + write(left, false) + ")", true
	case !a.isTime():
		return "", false
	case operator == "-" && a == day && b == day:
		return "date_diff('day', " + write(right, false) + ", " + write(left, false) + ")", true
	case operator == "-" && b.isTime():
		return w.give("a difference of moments"), true
	case b.isWhole():
		return "date_add('day', " + sign + write(right, true) + ", " + write(left, false) + ")", true
	}
	return "", false
}

// trinoLacks is a part of a query that Trino has no form for; "" for none.
func trinoLacks(n *ast.Node) string {
	switch {
	case len(n.Items(field.DistinctOnTargets)) > 0:
		return "DISTINCT ON"
	case n.Kind() == ast.TableFunction:
		return "a function in FROM"
	case strings.HasPrefix(n.Text(field.Materialized), "CTE_MATERIALIZE_A"):
		return "MATERIALIZED"
	}
	return ""
}
