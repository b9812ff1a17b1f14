// Package ast holds the syntax tree of a query, as the engine's serialiser writes it, in nodes whose fields and kinds have names that the
// compiler knows. What a node has beyond them it keeps: a tree that is read and written again is the same.
package ast

import (
	"encoding/json"
	"maps"
	"slices"
	"strings"

	"tovrel/core/sql/ast/field"
)

// Node is an object of a syntax tree. All its methods take nil for a node without fields.
type Node struct {
	fields map[string]any // a *Node, a list ([]any), a text, a number (json.Number, int), a bool or nil
}

// Fields are what a node is made of. A Kind stands for its name.
type Fields map[field.Field]any

// New makes a node.
func New(fields Fields) *Node {
	n := &Node{make(map[string]any, len(fields))}
	for f, v := range fields {
		n.Set(f, v)
	}
	return n
}

// Of makes nodes of the objects in a value that JSON was read into.
func Of(v any) any {
	switch x := v.(type) {
	case map[string]any:
		n := &Node{make(map[string]any, len(x))}
		for k, child := range x {
			n.fields[k] = Of(child)
		}
		return n
	case []any:
		out := make([]any, len(x))
		for i, child := range x {
			out[i] = Of(child)
		}
		return out
	}
	return v
}

// MarshalJSON writes a node as the engine's deserialiser reads it. It errs where a field holds what JSON has no form for, which no tree
// that was read does.
func (n *Node) MarshalJSON() ([]byte, error) {
	if n == nil {
		return []byte("null"), nil
	}
	return json.Marshal(n.fields)
}

// Kind is a node's type, such as SELECT_NODE or COMPARE_EQUAL; None where it has none.
func (n *Node) Kind() Kind { return Kind{n.Text(field.Type)} }

// Class is the class of an expression, such as FUNCTION; None for what is no expression.
func (n *Node) Class() Kind { return Kind{n.Text(field.Class)} }

// Get is what a field holds; nil where it is not there.
func (n *Node) Get(f field.Field) any {
	if n == nil {
		return nil
	}
	return n.fields[f.String()]
}

// Has tells whether a field is there and holds something.
func (n *Node) Has(f field.Field) bool { return n.Get(f) != nil }

// Text is the text of a field; "" where it is not there or no text.
func (n *Node) Text(f field.Field) string {
	s, _ := n.Get(f).(string)
	return s
}

// Is tells whether a field is there and true.
func (n *Node) Is(f field.Field) bool {
	b, _ := n.Get(f).(bool)
	return b
}

// Node is the node in a field; nil where there is none.
func (n *Node) Node(f field.Field) *Node {
	o, _ := n.Get(f).(*Node)
	return o
}

// Items is the list in a field; nil where there is none. It must not be changed.
func (n *Node) Items(f field.Field) []any {
	list, _ := n.Get(f).([]any)
	return list
}

// Nodes are the nodes of the list in a field; nil where there is none.
func (n *Node) Nodes(f field.Field) []*Node {
	var out []*Node
	for _, item := range n.Items(f) {
		if o, ok := item.(*Node); ok {
			out = append(out, o)
		}
	}
	return out
}

// Names are the texts of the list in a field, such as the parts of a column's name; nil where there is none.
func (n *Node) Names(f field.Field) []string {
	var out []string
	for _, item := range n.Items(f) {
		if s, ok := item.(string); ok {
			out = append(out, s)
		}
	}
	return out
}

// Set puts a value into a field; on nil, a part that a tree lacks, it does nothing. Trees are never changed: it is for nodes that are being
// made.
func (n *Node) Set(f field.Field, v any) {
	if n == nil {
		return
	}
	n.fields[f.String()] = plain(v)
}

// plain is a value as nodes hold it: lists of any kind are lists of anything, a Kind is its name, a nil node is nil.
func plain(v any) any {
	switch x := v.(type) {
	case Kind:
		return x.name
	case *Node:
		if x == nil {
			return nil
		}
	case []*Node:
		return anyList(x)
	case []string:
		return anyList(x)
	}
	return v
}

func anyList[T any](list []T) []any {
	out := make([]any, len(list))
	for i, one := range list {
		out[i] = one
	}
	return out
}

// Drop takes a field away, from a node that is being made.
func (n *Node) Drop(f field.Field) { delete(n.fields, f.String()) }

// Fields are the fields that a node has, in the order of their names.
func (n *Node) Fields() []field.Field {
	if n == nil {
		return nil
	}
	out := make([]field.Field, 0, len(n.fields))
	for _, name := range slices.Sorted(maps.Keys(n.fields)) {
		out = append(out, field.Of(name))
	}
	return out
}

// Values gives what the fields hold, in no order.
func (n *Node) Values(yield func(any) bool) {
	if n == nil {
		return
	}
	for _, v := range n.fields {
		if !yield(v) {
			return
		}
	}
}

// Plain copies a node's fields, not what is below them.
func (n *Node) Plain() *Node { return &Node{maps.Clone(n.fields)} }

// Map copies a node with each field's value put through a function; a field for which that says false is left out.
func (n *Node) Map(of func(f field.Field, v any) (any, bool)) *Node {
	out := &Node{make(map[string]any, len(n.fields))}
	for k, v := range n.fields {
		if made, keep := of(field.Of(k), v); keep {
			out.fields[k] = made
		}
	}
	return out
}

// Copy copies a value with all that is below it.
func Copy[T any](v T) T {
	out, _ := copyOf(v).(T)
	return out
}

func copyOf(v any) any {
	switch x := v.(type) {
	case *Node:
		if x == nil {
			return x
		}
		return x.Map(func(_ field.Field, v any) (any, bool) { return copyOf(v), true })
	case []any:
		out := make([]any, len(x))
		for i, child := range x {
			out[i] = copyOf(child)
		}
		return out
	}
	return v
}

// Walk calls visit for every node below a value, outer ones first, until visit gives an error. Nodes beside each other come in no order:
// it is on the way of every query.
func Walk(v any, visit func(*Node) error) error {
	switch x := v.(type) {
	case *Node:
		if x == nil {
			return nil
		}
		if err := visit(x); err != nil {
			return err
		}
		for child := range x.Values {
			if err := Walk(child, visit); err != nil {
				return err
			}
		}
	case []any:
		for _, child := range x {
			if err := Walk(child, visit); err != nil {
				return err
			}
		}
	}
	return nil
}

// FunctionName is what the engine resolves a call to, in lower case: the last part of the qualified name, else the plain name; "" for what
// is no call.
func (n *Node) FunctionName() string {
	if path := n.Node(field.QualifiedName).Names(field.Path); len(path) > 0 && (n.Has(field.FunctionName) || n.Class() == Function) {
		return strings.ToLower(path[len(path)-1])
	}
	return strings.ToLower(n.Text(field.FunctionName))
}
