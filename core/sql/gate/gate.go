// Package gate decides whether a query may run: it lets through what does nothing but read the dataset, and refuses everything that it
// does not know. It looks at the syntax tree of the engine's own parser, so that nothing is judged that the engine would read otherwise.
// Behind it stand the engine's own locks (read-only, no files, no network, no settings); neither relies on the other.
//
// What to review: nodes.go lists the kinds of nodes that may occur, functions.txt the functions that may be called, denied.txt those
// that may not, with the reason. A function that stands in neither is refused where the engine has it.
package gate

import (
	"fmt"
	"strings"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// Refusal says why a query may not run.
type Refusal struct {
	Why       string
	Catalogue bool // it would only read what the engine knows of itself
}

func (e *Refusal) Error() string { return e.Why }

// Check refuses every tree that may do anything but read the dataset, at the first place that is not known to be harmless. Has tells
// whether the engine has a function of a name: one that it has not is an error of the query, which the engine explains better. The
// error is *Refusal.
func Check(root *ast.Node, has func(function string) bool) error {
	return (&reviewer{has}).value(field.Field{}, root)
}

type reviewer struct {
	has func(string) bool
}

// value looks at a node or a list of them, in the order of their fields, so that the same query is refused with the same words.
func (r *reviewer) value(under field.Field, v any) error {
	switch v := v.(type) {
	case *ast.Node:
		if err := r.node(under, v); err != nil {
			return err
		}
		for _, f := range v.Fields() {
			if err := r.value(f, v.Get(f)); err != nil {
				return err
			}
		}
	case []any:
		for _, item := range v {
			if err := r.value(under, item); err != nil {
				return err
			}
		}
	}
	return nil
}

// node looks at one node, by the field that it stands in.
func (r *reviewer) node(under field.Field, node *ast.Node) error {
	kind, class := node.Kind(), node.Class()
	if strings.HasSuffix(kind.String(), "_NODE") && !statements[kind] {
		verb, _, _ := strings.Cut(kind.String(), "_")
		return &Refusal{Why: fmt.Sprintf("only reading is allowed, and the query holds a %s", verb)}
	}
	if class != ast.None && !classes[class] {
		return &Refusal{Why: fmt.Sprintf("an expression of the kind %s is not known to be harmless", strings.ToLower(class.String()))}
	}
	if places[under] && kind != ast.None && class == ast.None && !statements[kind] { // else a side of a comparison or of a set operation
		if err := r.source(kind, node); err != nil {
			return err
		}
	}
	if name := node.FunctionName(); name != "" && !tableFunctions[name] { // some of them, such as unnest, stand in a SELECT too
		return r.function(name)
	}
	return nil
}

// source looks at what stands in FROM.
func (r *reviewer) source(kind ast.Kind, node *ast.Node) error {
	switch kind {
	case ast.ShowRef:
		return &Refusal{"only SELECT is allowed, not SHOW, DESCRIBE or SUMMARIZE", true}
	case ast.TableFunction:
		if name := node.Node(field.Function).FunctionName(); !tableFunctions[name] {
			return &Refusal{fmt.Sprintf("the table function %s is not allowed", name), begins(name, cataloguePrefixes)}
		}
	case ast.BaseTable:
		return table(node)
	}
	if !sources[kind] {
		return &Refusal{Why: fmt.Sprintf("a source of the kind %s is not known to be harmless", strings.ToLower(kind.String()))}
	}
	return nil
}

// table refuses the engine's own tables.
func table(node *ast.Node) error {
	for _, name := range node.Node(field.QualifiedName).Names(field.Path) {
		if begins(strings.ToLower(name), systemPrefixes) {
			return &Refusal{fmt.Sprintf("the system table %s is not allowed", name), true}
		}
	}
	return nil
}

func (r *reviewer) function(name string) error {
	switch {
	case begins(name, cataloguePrefixes):
		return &Refusal{fmt.Sprintf("the function %s is not allowed", name), true}
	case Denied(name) != "":
		return &Refusal{Why: fmt.Sprintf("the function %s is not allowed", name)}
	case !allowed[name] && (r.has == nil || r.has(name)):
		return &Refusal{Why: fmt.Sprintf("the function %s is not known to be harmless", name)}
	}
	return nil
}

func begins(name string, prefixes []string) bool {
	for _, prefix := range prefixes {
		if strings.HasPrefix(name, prefix) {
			return true
		}
	}
	return false
}
