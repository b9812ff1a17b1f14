// Package yamldoc reads YAML strictly: every value is asked for by name and type, what nobody asked for is a problem, and
// every problem has its file, line and column. It does not write YAML.
package yamldoc

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/goccy/go-yaml"
	"github.com/goccy/go-yaml/ast"
	"github.com/goccy/go-yaml/lexer"
	"github.com/goccy/go-yaml/parser"

	"tovrel/core/near"
	"tovrel/core/pattern"
	"tovrel/core/source"
)

// Reader reads one YAML document, which may be a block inside a larger text.
type Reader struct {
	file     string
	whole    []byte // the text that the document stands in, for excerpts
	before   int    // lines of it before the document
	Problems source.Problems
}

// Node is a value in the document.
type Node = ast.Node

// Read parses a document that starts after a number of lines of a whole text. The node is nil for an empty or broken
// document; the reader's Problems tell which.
func Read(file string, whole, document []byte, before int) (*Reader, Node) {
	r := &Reader{file: file, whole: whole, before: before}
	if len(document) > maxBytes {
		r.add(1, 1, "yaml-size", fmt.Sprintf("the document has %d MB; at most %d are read", len(document)>>20, maxBytes>>20),
			"split it into several files")
		return r, nil
	}
	tokens := lexer.Tokenize(string(document))
	if b := beyond(tokens); b != nil {
		r.add(b.line, b.column, "yaml-bounds", b.message, b.remedy)
		return r, nil
	}
	parsed, err := parser.Parse(tokens, 0)
	if err != nil {
		r.syntax(err)
		return r, nil
	}
	var root Node
	for _, doc := range parsed.Docs {
		if doc.Body == nil {
			continue
		}
		if root != nil {
			r.Report(doc.Body, "yaml-documents", "a second YAML document starts here", "keep one document; remove the line ---")
			return r, nil
		}
		root = doc.Body
	}
	return r, root
}

// placed finds the place of another part in a message about YAML.
var placed = pattern.Of(`at \[(\d+):\d+\]`)

func (r *Reader) syntax(err error) {
	line, column, message := 1, 1, err.Error()
	if e, ok := err.(yaml.Error); ok {
		message = e.GetMessage()
		if t := e.GetToken(); t != nil && t.Position != nil {
			line, column = t.Position.Line, t.Position.Column
		}
	}
	message = placed.ReplaceAllStringFunc(message, func(at string) string { // counted from where the document begins
		inner, _ := strconv.Atoi(placed.FindStringSubmatch(at)[1])
		return fmt.Sprintf("in line %d", inner+r.before)
	})
	r.add(line, column, "yaml-syntax", "not readable as YAML: "+message, "check the indentation, colons and quotes of this line")
}

// Report adds a problem at a node.
func (r *Reader) Report(n Node, code, message, remedy string) {
	line, column := place(n)
	r.add(line, column, code, message, remedy)
}

func (r *Reader) add(line, column int, code, message, remedy string) {
	if len(r.Problems) >= maxProblems {
		return // what is mended first makes room for the others
	}
	line += r.before
	r.Problems = append(r.Problems, source.Problem{
		Position: source.Position{File: r.file, Line: line, Column: column},
		Code:     code, Severity: source.Error, Message: message, Remedy: remedy, Excerpt: source.Line(r.whole, line),
	})
}

// Position is where a node stands in the whole text.
func (r *Reader) Position(n Node) source.Position {
	line, column := place(n)
	return source.Position{File: r.file, Line: line + r.before, Column: column}
}

func place(n Node) (line, column int) {
	if m, ok := n.(*ast.MappingNode); ok && !m.IsFlowStyle && len(m.Values) > 0 {
		return place(m.Values[0].Key)
	}
	if m, ok := n.(*ast.MappingValueNode); ok {
		return place(m.Key)
	}
	if n == nil || n.GetToken() == nil || n.GetToken().Position == nil {
		return 1, 1
	}
	return n.GetToken().Position.Line, n.GetToken().Position.Column
}

// Entry is a key of a mapping with its value.
type Entry struct {
	Key   string
	At    Node // the key's place
	Value Node
}

// Entries gives a mapping's entries in their order; a null gives none.
func (r *Reader) Entries(n Node, what string) []Entry {
	var pairs []*ast.MappingValueNode
	switch m := plain(n).(type) {
	case *ast.MappingNode:
		pairs = m.Values
	case *ast.MappingValueNode:
		pairs = []*ast.MappingValueNode{m}
	case *ast.NullNode, nil:
		return nil
	default:
		r.Report(n, "yaml-type", what+" must be a mapping of keys to values", "write it as `key: value` lines")
		return nil
	}
	entries := make([]Entry, len(pairs))
	for i, p := range pairs {
		entries[i] = Entry{keyText(p.Key), p.Key, p.Value}
	}
	return entries
}

func keyText(key ast.MapKeyNode) string {
	if s, ok := key.(*ast.StringNode); ok {
		return s.Value
	}
	return key.GetToken().Value
}

// Keys says which keys a mapping may have: those that are read, and those that are documented but not built yet.
type Keys struct {
	Known  []string
	NotYet []string
}

// Fields gives a mapping's values by key, and reports keys that are unknown or not built yet.
func (r *Reader) Fields(n Node, what string, keys Keys) map[string]Node {
	fields := map[string]Node{}
	for _, e := range r.Entries(n, what) {
		switch {
		case contains(keys.Known, e.Key):
			fields[e.Key] = e.Value
		case contains(keys.NotYet, e.Key):
			r.Report(e.At, "not-yet", fmt.Sprintf("%s: the key %q is not built yet", what, e.Key), "leave it out for now")
		default:
			all := append(append([]string(nil), keys.Known...), keys.NotYet...)
			r.Report(e.At, "unknown-key", fmt.Sprintf("%s has no key %q", what, e.Key), near.Hint(e.Key, all))
		}
	}
	return fields
}

func contains(list []string, s string) bool {
	return slices.Contains(list, s)
}

// plain unwraps anchors and tags.
func plain(n Node) Node {
	switch x := n.(type) {
	case *ast.AnchorNode:
		return plain(x.Value)
	case *ast.TagNode:
		return plain(x.Value)
	}
	return n
}

// scalar is a scalar's text as written, without quotes.
func scalar(n Node) (string, bool) {
	switch x := plain(n).(type) {
	case *ast.StringNode:
		return x.Value, true
	case *ast.LiteralNode:
		return x.Value.Value, true
	case *ast.IntegerNode, *ast.FloatNode, *ast.BoolNode, *ast.InfinityNode, *ast.NanNode:
		return x.GetToken().Value, true
	}
	return "", false
}

// Braces tells where the brace stands that closes a mapping; false for one that is written in lines, or another value.
func (r *Reader) Braces(n Node) (source.Position, bool) {
	m, ok := plain(n).(*ast.MappingNode)
	if !ok || !m.IsFlowStyle || m.End == nil || m.End.Position == nil {
		return source.Position{}, false
	}
	return source.Position{File: r.file, Line: m.End.Position.Line + r.before, Column: m.End.Position.Column}, true
}

// IsNull tells whether a value is absent or null.
func IsNull(n Node) bool {
	_, null := plain(n).(*ast.NullNode)
	return n == nil || null
}

// IsMapping tells whether a value is a mapping.
func IsMapping(n Node) bool {
	switch plain(n).(type) {
	case *ast.MappingNode, *ast.MappingValueNode:
		return true
	}
	return false
}

// Text reads a scalar as text; "" with a problem for anything else.
func (r *Reader) Text(n Node, what string) string {
	s, ok := scalar(n)
	if !ok {
		r.Report(n, "yaml-type", what+" must be a text", "write one value, in quotes if it holds special characters")
	}
	return s
}

// Texts reads a list of scalars, or a single one.
func (r *Reader) Texts(n Node, what string) []string {
	var out []string
	for _, item := range r.Items(n, what) {
		out = append(out, r.Text(item, what))
	}
	return out
}

// Items gives a list's nodes; a single value is a list of one.
func (r *Reader) Items(n Node, what string) []Node {
	switch x := plain(n).(type) {
	case *ast.SequenceNode:
		return x.Values
	case *ast.NullNode, nil:
		return nil
	case *ast.MappingNode, *ast.MappingValueNode:
		r.Report(n, "yaml-type", what+" must be a list", "write it as [a, b] or as `- a` lines")
		return nil
	}
	return []Node{n}
}

// Number reads a finite number that is at least a bound.
func (r *Reader) Number(n Node, what string, atLeast float64) float64 {
	s, _ := scalar(n)
	f, err := strconv.ParseFloat(s, 64)
	if err != nil || math.IsNaN(f) || math.IsInf(f, 0) || f < atLeast {
		r.Report(n, "yaml-type", fmt.Sprintf("%s must be a number of at least %v", what, atLeast), "")
		return atLeast
	}
	return f
}

// Whole reads a whole number that is at least a bound.
func (r *Reader) Whole(n Node, what string, atLeast int) int {
	s, _ := scalar(n)
	i, err := strconv.Atoi(strings.ReplaceAll(s, "_", ""))
	if err != nil || i < atLeast {
		r.Report(n, "yaml-type", fmt.Sprintf("%s must be a whole number of at least %d", what, atLeast), "")
		return atLeast
	}
	return i
}

// Bool reads true or false.
func (r *Reader) Bool(n Node, what string) bool {
	if b, ok := plain(n).(*ast.BoolNode); ok {
		return b.Value
	}
	r.Report(n, "yaml-type", what+" must be true or false", "")
	return false
}

// Duration reads a positive duration such as 30s, 2m or 500ms.
func (r *Reader) Duration(n Node, what string) time.Duration {
	s, _ := scalar(n)
	d, err := time.ParseDuration(s)
	if err != nil || d <= 0 {
		r.Report(n, "yaml-type", what+" must be a duration", "write it with its unit, such as 30s, 2m or 500ms")
		return time.Second
	}
	return d
}

var sizeUnits = []struct {
	name  string
	bytes int64
}{{"KB", 1 << 10}, {"MB", 1 << 20}, {"GB", 1 << 30}, {"B", 1}}

// Size reads a positive number of bytes such as 256MB or 1GB (units of 1024).
func (r *Reader) Size(n Node, what string) int64 {
	s, _ := scalar(n)
	for _, unit := range sizeUnits {
		digits, ok := strings.CutSuffix(strings.ToUpper(strings.TrimSpace(s)), unit.name)
		if !ok {
			continue
		}
		if f, err := strconv.ParseFloat(strings.TrimSpace(digits), 64); err == nil && f > 0 && f < 1e6 || err == nil &&
			unit.bytes == 1 && f > 0 {
			return int64(f * float64(unit.bytes))
		}
	}
	r.Report(n, "yaml-type", what+" must be a size", "write it with its unit, such as 256MB or 1GB")
	return 1 << 30
}
