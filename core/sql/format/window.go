package format

import (
	"strings"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/core/sql/layout"
)

// window writes a function over a window.
func (w *writer) window(e *ast.Node) layout.Doc {
	if len(e.Items(field.ArgOrders)) > 0 || e.Is(field.IgnoreNulls) || e.Is(field.HasIgnoreNulls) ||
		len(e.Node(field.QualifiedName).Names(field.Path)) > 1 {
		return w.give()
	}
	arguments := w.arguments(e)
	called := e.FunctionName()
	if called == "count" && len(arguments) == 0 || called == "count_star" {
		called, arguments = "count", []layout.Doc{layout.Text("*")}
	}
	if e.Is(field.Distinct) && len(arguments) > 0 {
		arguments[0] = layout.List(layout.Text("DISTINCT "), arguments[0])
	}
	written := w.call(w.functionName(e, called), arguments)
	if filter := e.Node(field.FilterExpr); filter != nil {
		written = layout.List(written, layout.Text(" FILTER (WHERE "), w.expression(filter, lowest), layout.Text(")"))
	}
	var parts []layout.Doc
	if by := e.Nodes(field.Partitions); len(by) > 0 {
		parts = append(parts, layout.List(layout.Text("PARTITION BY "), layout.Join(layout.Text(", "), w.expressions(by))))
	}
	if orders := e.Nodes(field.Orders); len(orders) > 0 {
		parts = append(parts, layout.List(layout.Text("ORDER BY "), layout.Join(layout.Text(", "), w.orders(orders))))
	}
	if frame := w.frame(e); frame != "" {
		parts = append(parts, layout.Text(frame))
	}
	over := layout.Group(layout.Text(" OVER ("), layout.Nest(4, layout.Join(layout.Line, parts)), layout.Text(")"))
	return layout.List(written, over)
}

// frame is which rows around one a window takes; "" for those that it takes where nothing is said.
func (w *writer) frame(e *ast.Node) string {
	from, to := e.Text(field.Start), e.Text(field.End)
	if exclude := e.Text(field.ExcludeClause); exclude != "" && exclude != "NO_OTHER" {
		w.give()
	}
	if from == "UNBOUNDED_PRECEDING" && (to == "CURRENT_ROW_RANGE" || to == "") {
		return ""
	}
	unit := ""
	bound := func(said string, at *ast.Node) string {
		if said == "UNBOUNDED_PRECEDING" || said == "UNBOUNDED_FOLLOWING" {
			return strings.ReplaceAll(said, "_", " ")
		}
		place := strings.LastIndexByte(said, '_')
		if place < 0 {
			w.give()
			return ""
		}
		unit = said[place+1:]
		words := strings.ReplaceAll(said[:place], "_", " ")
		if rest, counted := strings.CutPrefix(words, "EXPR "); counted {
			return w.flat(at, operation) + " " + rest
		}
		return words
	}
	first := bound(from, e.Node(field.StartExpr))
	last := bound(to, e.Node(field.EndExpr))
	if unit == "" {
		unit = "ROWS"
	}
	return unit + " BETWEEN " + first + " AND " + last
}
