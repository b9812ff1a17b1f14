package golden

import (
	"bytes"
	"fmt"
)

// The bounds of a document: the Markdown library takes time by the square of the nesting of a line and of the brackets in a paragraph.
const (
	maxBytes    = 16 << 20
	maxLine     = 1 << 20
	maxHeading  = 4 << 10
	maxNesting  = 40   // quotes and lists within each other
	maxBrackets = 2000 // in one paragraph
)

// withinBounds reports the first place where a text goes beyond a bound.
func (p *parser) withinBounds(text []byte) bool {
	if len(text) > maxBytes {
		p.report(1, 1, "too-large", fmt.Sprintf("the file has %d MB; at most %d are read", len(text)>>20, maxBytes>>20),
			"put large expected tables into files (expected:), and split the set")
		return false
	}
	brackets, number := 0, 0
	for len(text) > 0 {
		var line []byte
		line, text, _ = bytes.Cut(text, []byte("\n"))
		number++
		trimmed := bytes.TrimSpace(line)
		if len(trimmed) == 0 {
			brackets = 0
			continue
		}
		if trimmed[0] != '|' { // each cell of a table is a paragraph of its own
			brackets += bytes.Count(trimmed, []byte("["))
		}
		indent := (len(line) - len(bytes.TrimLeft(line, " \t"))) / 2
		message := ""
		switch {
		case len(line) > maxLine:
			message = fmt.Sprintf("this line has %d KB; at most %d are read", len(line)>>10, maxLine>>10)
		case trimmed[0] == '#' && len(trimmed) > maxHeading:
			message = fmt.Sprintf("this heading has %d KB; at most %d are read", len(trimmed)>>10, maxHeading>>10)
		case nesting(trimmed)+indent > maxNesting && nesting(trimmed) > 0:
			message = fmt.Sprintf("quotes and lists are nested deeper than %d levels here", maxNesting)
		case brackets > maxBrackets:
			message = fmt.Sprintf("this paragraph has more than %d brackets", maxBrackets)
		}
		if message != "" {
			p.report(number, 1, "beyond-bounds", message, "shorten it, or leave a blank line within it")
			return false
		}
	}
	return true
}

// nesting counts the marks of quotes and lists that a line begins with.
func nesting(line []byte) int {
	n := 0
	for {
		line = bytes.TrimLeft(line, " \t")
		digits := len(line) - len(bytes.TrimLeft(line, "0123456789"))
		switch {
		case len(line) == 0:
			return n
		case line[0] == '>':
			line = line[1:]
		case bytes.IndexByte([]byte("-*+"), line[0]) >= 0 && (len(line) == 1 || line[1] == ' ' || line[1] == '\t'):
			line = line[1:]
		case digits > 0 && digits < 10 && len(line) > digits && (line[digits] == '.' || line[digits] == ')'):
			line = line[digits+1:]
		default:
			return n
		}
		n++
	}
}
