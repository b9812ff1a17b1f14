// Package layout breaks texts into lines: what belongs together stays on a line where it fits, else it is broken at its places for that.
package layout

import (
	"slices"
	"strings"
	"unicode/utf8"
)

// Doc is a text with places at which it may be broken.
type Doc struct {
	kind  kind
	text  string
	parts []Doc
	by    int
}

type kind uint8

const (
	text kind = iota
	list
	line // a space, or a new line
	soft // nothing, or a new line
	hard // a new line
	nest
	group
	fill
)

// The places for breaks.
var (
	Line = Doc{kind: line, text: " "} // a space where the text is not broken
	Soft = Doc{kind: soft}            // nothing where it is not
	Hard = Doc{kind: hard}            // always broken
)

// Text is a text that is not broken.
func Text(s string) Doc { return Doc{kind: text, text: s} }

// List is one doc after the other.
func List(parts ...Doc) Doc { return Doc{kind: list, parts: parts} }

// Nest moves the lines that begin within a doc to the right.
func Nest(by int, d Doc) Doc { return Doc{kind: nest, by: by, parts: []Doc{d}} }

// Group is broken at all its own places, or at none where all of it fits.
func Group(parts ...Doc) Doc { return Doc{kind: group, parts: parts} }

// Fill puts parts one after the other, with a break only before one that does not fit on the line.
func Fill(parts ...Doc) Doc { return Doc{kind: fill, parts: parts} }

// Join puts a doc between others.
func Join(between Doc, parts []Doc) Doc {
	var all []Doc
	for i, p := range parts {
		if i > 0 {
			all = append(all, between)
		}
		all = append(all, p)
	}
	return List(all...)
}

// Flat is a doc on one line.
func Flat(d Doc) string {
	var b strings.Builder
	flat(&b, d)
	return b.String()
}

func flat(b *strings.Builder, d Doc) {
	switch d.kind {
	case text:
		b.WriteString(d.text)
	case line, hard:
		b.WriteByte(' ')
	case fill:
		for i, p := range d.parts {
			if i > 0 {
				b.WriteByte(' ')
			}
			flat(b, p)
		}
	default:
		for _, p := range d.parts {
			flat(b, p)
		}
	}
}

// Render breaks a doc so that lines are at most so many characters wide, as far as its places allow.
func Render(d Doc, width int) string {
	r := &renderer{width: width}
	r.write(d, 0, false, 0)
	lines := strings.Split(r.b.String(), "\n")
	for i := range lines {
		lines[i] = strings.TrimRight(lines[i], " ")
	}
	return strings.Join(lines, "\n")
}

type renderer struct {
	b     strings.Builder
	at    int // the column
	width int
}

// write writes a doc; trail is how much text follows it before the next place for a break.
func (r *renderer) write(d Doc, indent int, whole bool, trail int) {
	switch d.kind {
	case text:
		r.put(d.text)
	case line, soft:
		if whole {
			r.put(d.text)
		} else {
			r.newLine(indent)
		}
	case hard:
		r.newLine(indent)
	case nest:
		r.write(d.parts[0], indent+d.by, whole, trail)
	case group:
		whole = whole || !hasHard(d) && r.at+width(d)+trail <= r.width
		r.all(d.parts, indent, whole, trail)
	case fill:
		r.fill(d.parts, indent, whole, trail)
	default:
		r.all(d.parts, indent, whole, trail)
	}
}

func (r *renderer) all(parts []Doc, indent int, whole bool, trail int) {
	for i, p := range parts {
		follows, ends := lead(List(parts[i+1:]...))
		if !ends {
			follows += trail
		}
		r.write(p, indent, whole, follows)
	}
}

func (r *renderer) fill(parts []Doc, indent int, whole bool, trail int) {
	for i, p := range parts {
		follows := 0
		if i == len(parts)-1 {
			follows = trail
		}
		if i > 0 {
			if whole || r.at+1+width(p)+follows <= r.width {
				r.put(" ")
			} else {
				r.newLine(indent)
			}
		}
		r.write(Group(p), indent, whole, follows)
	}
}

// lead is how wide the text of a doc is up to its first place for a break, and whether it has one.
func lead(d Doc) (int, bool) {
	switch d.kind {
	case text:
		return utf8.RuneCountInString(d.text), false
	case line, soft, hard:
		return 0, true
	}
	wide := 0
	for i, p := range d.parts {
		if d.kind == fill && i > 0 {
			return wide, true
		}
		w, ends := lead(p)
		if wide += w; ends {
			return wide, true
		}
	}
	return wide, false
}

func (r *renderer) put(s string) {
	r.b.WriteString(s)
	if i := strings.LastIndexByte(s, '\n'); i >= 0 {
		r.at, s = 0, s[i+1:]
	}
	r.at += utf8.RuneCountInString(s)
}

func (r *renderer) newLine(indent int) {
	r.b.WriteString("\n" + strings.Repeat(" ", indent))
	r.at = indent
}

func hasHard(d Doc) bool {
	if d.kind == hard {
		return true
	}
	return slices.ContainsFunc(d.parts, hasHard)
}

// width is of a doc on one line.
func width(d Doc) int { return utf8.RuneCountInString(Flat(d)) }
