// Package sql reads a query's syntax tree, in the JSON form that the engine's serialiser writes: what it asks in whatever form
// (features), its outermost order and cuts, which columns it reads, the places of the tree and copies of it, today in place of the
// clock; and it compares two queries by clause. Its nodes are in ast, the gate before a worker in gate, the formatter in format. It
// neither parses SQL nor runs it.
package sql

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strconv"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/format"
)

// MaxBytes is the longest query text that is looked at: longer ones hold the engine's parser and optimiser for minutes.
const MaxBytes = 64 << 10

// ParseError is what the serialiser says of a text that it does not take.
type ParseError struct {
	Message  string
	Position int // byte offset in the query, -1 where unknown
	Syntax   bool
}

func (e *ParseError) Error() string { return e.Message }

// Tree is the syntax tree of one reading statement.
type Tree struct {
	root *ast.Node
}

// serialised is the serialiser's answer.
type serialised struct {
	Error      bool             `json:"error"`
	Type       string           `json:"error_type"`
	Message    string           `json:"error_message"`
	Position   string           `json:"position"`
	Statements []map[string]any `json:"statements"`
}

// Read takes the serialiser's JSON. The error is *ParseError when the text does not parse and *Refusal when it is
// something else than one statement.
func Read(body []byte) (*Tree, error) {
	var doc serialised
	decoder := json.NewDecoder(bytes.NewReader(body))
	decoder.UseNumber() // places without a location are numbers beyond a float's reach
	if err := decoder.Decode(&doc); err != nil {
		return nil, fmt.Errorf("the engine's syntax tree cannot be read: %w", err)
	}
	if doc.Error && doc.Type == "not implemented" {
		return nil, &Refusal{Why: "only one reading statement is allowed, and this is another kind of statement"}
	}
	if doc.Error {
		position, err := strconv.Atoi(doc.Position)
		if err != nil {
			position = -1
		}
		return nil, &ParseError{Message: doc.Message, Position: position, Syntax: doc.Type == "parser"}
	}
	switch len(doc.Statements) {
	case 1:
	case 0:
		return nil, &ParseError{Message: "the query is empty", Position: -1, Syntax: true}
	default:
		return nil, &Refusal{Why: fmt.Sprintf("only one statement is allowed, and these are %d", len(doc.Statements))}
	}
	node, _ := ast.Of(doc.Statements[0]["node"]).(*ast.Node)
	if node == nil {
		return nil, fmt.Errorf("the engine's syntax tree has no node")
	}
	if tooDeep(node, maxDepth) {
		return nil, &Refusal{Why: fmt.Sprintf("the query is nested deeper than %d levels", maxDepth)}
	}
	return &Tree{node}, nil
}

// maxDepth is how deep a tree may be nested, in objects and lists: everything that walks a tree calls itself for each level. The
// engine stops at 300 nested expressions, which are about 1,200 levels.
const maxDepth = 3000

func tooDeep(v any, most int) bool {
	if most < 0 {
		return true
	}
	switch x := v.(type) {
	case *ast.Node:
		for child := range x.Values {
			if tooDeep(child, most-1) {
				return true
			}
		}
	case []any:
		for _, child := range x {
			if tooDeep(child, most-1) {
				return true
			}
		}
	}
	return false
}

// Serialised is the tree in the form that the engine's deserialiser reads. It errs as Node.MarshalJSON does.
func (t *Tree) Serialised() ([]byte, error) {
	return json.Marshal(map[string]any{"error": false, "statements": []any{map[string]any{"node": t.root}}})
}

// Formatted is the query as people write it, over several lines; false where the tree has a part that has no such form, and the text
// must be shown as it came.
func (t *Tree) Formatted() (string, bool) { return format.Query(t.root, format.Width) }

// Shape is the tree without the places of its parts in the text: two texts of one query have the same.
func (t *Tree) Shape() string {
	b, err := json.Marshal(t.root.Map(unplaced))
	if err != nil {
		return ""
	}
	return string(b)
}

// TreeOf is the tree of an outermost node.
func TreeOf(root *ast.Node) *Tree { return &Tree{root} }
