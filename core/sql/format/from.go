package format

import (
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/core/sql/layout"
)

// from writes what stands in FROM: tables side by side, each join on a line of its own where they do not fit on one.
func (w *writer) from(n *ast.Node) layout.Doc {
	if n.Has(field.Sample) {
		return w.give()
	}
	if n.Kind() != ast.Join {
		return w.source(n)
	}
	return layout.Group(w.chain(n))
}

// chain is a join with those on its left side, each after a place for a break.
func (w *writer) chain(n *ast.Node) layout.Doc {
	left := n.Node(field.Left)
	written := w.from(left)
	switch {
	case left.Kind() == ast.Join && isComma(left) && !isComma(n):
		written = layout.List(layout.Text("("), written, layout.Text(")")) // a comma binds least
	case left.Kind() == ast.Join && !left.Has(field.Sample):
		written = w.chain(left)
	}
	if isComma(n) {
		return layout.List(written, layout.Text(","), layout.Nest(4, layout.List(layout.Line, w.right(n))))
	}
	return layout.List(written, layout.Line, w.joined(n))
}

func isComma(join *ast.Node) bool {
	return join.Is(field.IsImplicit) && join.Text(field.RefType) == "CROSS"
}

// right is the right side of a join, in brackets where it is a join itself.
func (w *writer) right(n *ast.Node) layout.Doc {
	right := n.Node(field.Right)
	if right.Kind() == ast.Join && (!isComma(n) || isComma(right)) {
		return layout.List(layout.Text("("), w.from(right), layout.Text(")"))
	}
	return w.from(right)
}

// joined is a join from its word on.
func (w *writer) joined(n *ast.Node) layout.Doc {
	written := layout.List(layout.Text(w.style.Everywhere+w.joinWord(n)+" "), w.right(n))
	if using := n.Names(field.UsingColumns); len(using) > 0 {
		return layout.List(written, layout.Text(" USING"+w.columnNames(using)))
	}
	if on := n.Node(field.Condition); on != nil {
		return layout.Group(written, layout.Nest(4, layout.List(layout.Line, layout.Text("ON "), w.expression(on, lowest))))
	}
	return written
}

func (w *writer) joinWord(n *ast.Node) string {
	kind := map[string]string{"INNER": "JOIN", "LEFT": "LEFT JOIN", "RIGHT": "RIGHT JOIN", "FULL": "FULL JOIN",
		"SEMI": "SEMI JOIN", "ANTI": "ANTI JOIN",
		"OUTER": "FULL JOIN"}[n.Text(field.JoinType)]
	if kind == "" || n.Is(field.DelimFlipped) {
		w.give()
	}
	switch n.Text(field.RefType) {
	case "REGULAR":
		return kind
	case "NATURAL", "ASOF":
		return n.Text(field.RefType) + " " + kind
	case "CROSS":
		return "CROSS JOIN"
	case "POSITIONAL":
		return "POSITIONAL JOIN"
	}
	w.give()
	return kind
}

// source writes a table, a derived table or a table function.
func (w *writer) source(n *ast.Node) layout.Doc {
	switch n.Kind() {
	case ast.BaseTable:
		path := n.Node(field.QualifiedName).Names(field.Path)
		if len(path) == 0 {
			path = []string{n.Text(field.TableName)}
		}
		if n.Has(field.At) {
			w.give()
		}
		return layout.List(layout.Text(w.dotted(path)), w.aliased(n))
	case ast.Subquery:
		inner := n.Node(field.Subquery).Node(field.Node)
		if values := inner.Node(field.FromTable); values.Kind() == ast.ExpressionList && isStarAlone(inner) {
			return layout.List(w.values(values), w.aliased(n))
		}
		return layout.List(w.bracketed(w.query(inner, layout.Line)), w.aliased(n))
	case ast.TableFunction:
		if word := n.Text(field.WithOrdinality); word != "" && word != "WITHOUT_ORDINALITY" {
			w.give()
		}
		call := n.Node(field.Function)
		if name := call.FunctionName(); call.Class() != ast.Function || call.Is(field.IsOperator) || name == "list_value" ||
			name == "count_star" {
			return w.give()
		}
		return layout.List(w.expression(call, lowest), w.aliased(n))
	}
	return w.give()
}

func (w *writer) aliased(n *ast.Node) layout.Doc {
	alias := n.Text(field.Alias)
	if alias == "" {
		return layout.Text("")
	}
	return layout.Text(" AS " + w.name(alias) + w.columnNames(n.Names(field.ColumnNameAlias)))
}

// isStarAlone tells SELECT * without anything but its FROM.
func isStarAlone(n *ast.Node) bool {
	items := n.Nodes(field.SelectList)
	return len(items) == 1 && items[0].Class() == ast.Star && !n.Has(field.Where) && len(n.Items(field.Modifiers)) == 0 &&
		!n.Has(field.Having)
}

func (w *writer) values(n *ast.Node) layout.Doc {
	var rows []layout.Doc
	for _, row := range n.Items(field.Values) {
		cells, _ := row.([]any)
		var written []layout.Doc
		for _, c := range cells {
			cell, _ := c.(*ast.Node)
			written = append(written, w.expression(cell, lowest))
		}
		rows = append(rows, layout.List(layout.Text("("), layout.Join(layout.Text(", "), written), layout.Text(")")))
	}
	for i := range rows[:max(0, len(rows)-1)] {
		rows[i] = layout.List(rows[i], layout.Text(","))
	}
	return layout.List(layout.Text("(VALUES "), layout.Nest(4, layout.Fill(rows...)), layout.Text(")"))
}
