// Package source says where in a text something stands, and what is wrong there.
//
// It knows no files: the name in a Position is only a label.
package source

import (
	"bytes"
	"cmp"
	"fmt"
	"slices"
	"strings"
)

// Position is a place in a named text. Line and Column count from 1; a zero Line means the whole text.
type Position struct {
	File   string
	Line   int
	Column int
}

// String is "file:line:column", as far as these are known.
func (p Position) String() string {
	switch {
	case p.Line == 0:
		return p.File
	case p.Column == 0:
		return fmt.Sprintf("%s:%d", p.File, p.Line)
	default:
		return fmt.Sprintf("%s:%d:%d", p.File, p.Line, p.Column)
	}
}

// Severity tells whether a problem must be mended.
type Severity string

// The severities: an Error makes a check fail, a Warning is listed, Advice only where it is asked for.
const (
	Error   Severity = "error"
	Warning Severity = "warning"
	Advice  Severity = "advice"
)

// Problem is one defect with its place, a stable code, and what to do about it.
type Problem struct {
	Position
	Code     string
	Severity Severity
	Message  string // what is wrong
	Remedy   string // what to do; may be empty
	Excerpt  string // the line it stands in; may be empty
}

// Error gives the position, the message and remedy, then the line with a caret under the place.
func (p Problem) Error() string {
	var b strings.Builder
	if at := p.Position.String(); at != "" {
		b.WriteString(at + ": ")
	}
	b.WriteString(p.Message)
	if p.Remedy != "" {
		b.WriteString("; " + p.Remedy)
	}
	if p.Excerpt != "" {
		excerpt, column := window(strings.ReplaceAll(p.Excerpt, "\t", " "), p.Column)
		b.WriteString("\n  " + excerpt)
		if column > 0 {
			b.WriteString("\n  " + strings.Repeat(" ", column-1) + "^")
		}
	}
	return b.String()
}

// window cuts a long line around a column, counted from 1; 0 where none is known.
func window(line string, column int) (string, int) {
	const widest, before = 160, 60
	runes := []rune(line)
	if len(runes) <= widest {
		return line, column
	}
	from := max(0, min(column-before, len(runes)-widest+2))
	cut := string(runes[from:min(len(runes), from+widest)])
	if from > 0 {
		cut = "…" + cut
		from--
	}
	if from+widest < len(runes) {
		cut += "…"
	}
	return cut, max(0, column-from)
}

// Problems is a list of problems that is itself an error.
type Problems []Problem

// Error joins all problems, one after another.
func (ps Problems) Error() string {
	lines := make([]string, len(ps))
	for i, p := range ps {
		lines[i] = p.Error()
	}
	return strings.Join(lines, "\n")
}

// Sort orders problems by file, line, column and code.
func (ps Problems) Sort() {
	slices.SortStableFunc(ps, func(a, b Problem) int {
		return cmp.Or(strings.Compare(a.File, b.File), cmp.Compare(a.Line, b.Line), cmp.Compare(a.Column, b.Column),
			strings.Compare(a.Code, b.Code))
	})
}

// Errors counts the problems of severity Error.
func (ps Problems) Errors() int { return ps.Count(Error) }

// Count counts the problems of a severity.
func (ps Problems) Count(severity Severity) int {
	n := 0
	for _, p := range ps {
		if p.Severity == severity {
			n++
		}
	}
	return n
}

// Line is the line-th line of a text, counted from 1, without its ending.
func Line(text []byte, line int) string {
	for ; line > 1; line-- {
		end := bytes.IndexByte(text, '\n')
		if end < 0 {
			return ""
		}
		text = text[end+1:]
	}
	if line < 1 {
		return ""
	}
	first, _, _ := bytes.Cut(text, []byte("\n"))
	return strings.TrimSuffix(string(first), "\r")
}
