package format

import (
	"tovrel/core/sql/ast"
	"tovrel/core/sql/layout"
)

// Style is how a dialect writes what it does not write as the embedded engine does. A nil function leaves that to the common form.
type Style struct {
	Name func(name string) string
	Type func(t *ast.Node) string // of the type of a cast
	// Expression writes an expression so that it holds together wherever it stands; false for the common form. Write writes one below it,
	// in brackets where it would not hold together as an operand.
	Expression func(e *ast.Node, write Write) (string, bool)
	Order      func(o *ast.Node, write Write) string // an item of ORDER BY
	Everywhere string                                // stands before IN with a subquery, and before JOIN: "GLOBAL " on a cluster
	Called     func(e *ast.Node) string              // the name of a function that is written in the common form
}

// Write writes an expression on one line: as an operand that holds together, or as it is.
type Write func(e *ast.Node, operand bool) string

// Query writes a statement on one line; false where a part of it has no form.
func (s Style) Query(root *ast.Node) (string, bool) {
	w := &writer{style: s}
	text := layout.Flat(w.query(root, layout.Line))
	return text, !w.unknown
}

// text is a Write.
func (w *writer) text(e *ast.Node, operand bool) string {
	if operand {
		return w.flat(e, atom)
	}
	return w.flat(e, lowest)
}

// functionName is the name under which a call is written, as it is known here or in the style's dialect.
func (w *writer) functionName(e *ast.Node, called string) string {
	if w.style.Called != nil && called == e.FunctionName() {
		called = w.style.Called(e)
	}
	return functionName(called)
}
