package golden

import (
	"bytes"
	"slices"
	"strings"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	gmtext "github.com/yuin/goldmark/text"
	"github.com/yuin/goldmark/util"

	"tovrel/core/pattern"
)

// block is a top-level part of the document that means something to a golden set.
type block struct {
	kind  blockKind
	line  int    // where it starts, from 1
	level int    // of a heading
	text  string // a heading's text without marks; the content of a code block
	raw   string // a heading's own line
	open  bool   // a code block that is not closed
	table []line // a table's lines
}

type blockKind uint8

const (
	headingBlock blockKind = iota
	yamlBlock
	sqlBlock
	tableBlock
)

// line is one line of the document with its place.
type line struct {
	number     int
	start, end int // bytes, without the line ending
	text       string
}

// blocksOf splits a document (after its front matter) into blocks, in order. Offsets are those of the whole text.
func blocksOf(text []byte, from int) []block {
	masked := append([]byte(nil), text...)
	for i := range from { // keeps all offsets while hiding the front matter
		if masked[i] != '\n' {
			masked[i] = ' '
		}
	}
	index := lineIndex(text)
	var blocks []block
	root := goldmark.DefaultParser().Parse(gmtext.NewReader(masked))
	for node := root.FirstChild(); node != nil; node = node.NextSibling() {
		switch n := node.(type) {
		case *ast.Heading:
			blocks = append(blocks, headingOf(n, masked, index))
		case *ast.FencedCodeBlock:
			if b, ok := codeOf(n, masked, index); ok {
				blocks = append(blocks, b)
			}
		case *ast.Paragraph:
			blocks = append(blocks, tablesOf(n, text, index)...)
		}
	}
	return blocks
}

// lines finds the line of a byte offset.
type lines []int

func lineIndex(text []byte) lines {
	starts := lines{0}
	for i, c := range text {
		if c == '\n' {
			starts = append(starts, i+1)
		}
	}
	return starts
}

func (l lines) of(offset int) int {
	line, _ := slices.BinarySearch(l, offset+1)
	return line
}

func headingOf(n *ast.Heading, text []byte, index lines) block {
	b := block{kind: headingBlock, level: n.Level}
	if n.Lines().Len() == 0 { // a heading without text has no place of its own
		b.line = 1
		if previous := n.PreviousSibling(); previous != nil && previous.Lines() != nil && previous.Lines().Len() > 0 {
			b.line = index.of(previous.Lines().At(previous.Lines().Len()-1).Stop) + 1
		}
		return b
	}
	b.line = index.of(n.Lines().At(0).Start)
	b.raw = string(bytes.TrimRight(text[index[b.line-1]:endOfLine(text, index[b.line-1])], "\r"))
	b.text = strings.TrimSpace(inlineText(n, text))
	return b
}

func endOfLine(text []byte, from int) int {
	if i := bytes.IndexByte(text[from:], '\n'); i >= 0 {
		return from + i
	}
	return len(text)
}

// inlineText is a node's text without Markdown marks.
func inlineText(node ast.Node, text []byte) string {
	var b strings.Builder
	for child := node.FirstChild(); child != nil; child = child.NextSibling() {
		switch n := child.(type) {
		case *ast.Text:
			segment := n.Segment.Value(text)
			if n.IsRaw() || node.Kind() == ast.KindCodeSpan {
				b.Write(segment)
			} else {
				b.Write(util.UnescapePunctuations(util.ResolveEntityNames(util.ResolveNumericReferences(segment))))
			}
			if n.SoftLineBreak() || n.HardLineBreak() {
				b.WriteByte(' ')
			}
		case *ast.String:
			b.Write(n.Value)
		case *ast.AutoLink:
			b.Write(n.Label(text))
		default:
			b.WriteString(inlineText(child, text))
		}
	}
	return b.String()
}

func codeOf(n *ast.FencedCodeBlock, text []byte, index lines) (block, bool) {
	language := strings.ToLower(string(n.Language(text)))
	b := block{kind: sqlBlock}
	switch language {
	case "sql":
	case "yaml", "yml":
		b.kind = yamlBlock
	default:
		return b, false
	}
	b.line = index.of(n.Info.Segment.Start)
	var content strings.Builder
	for i := range n.Lines().Len() {
		segment := n.Lines().At(i)
		content.Write(segment.Value(text))
	}
	b.text = strings.ReplaceAll(content.String(), "\r\n", "\n")
	last := b.line + n.Lines().Len() + 1 // where the closing fence must stand
	b.open = last > len(index) || !closesFence(text, index, last)
	return b, true
}

func closesFence(text []byte, index lines, number int) bool {
	l := strings.TrimSpace(string(text[index[number-1]:endOfLine(text, index[number-1])]))
	return strings.HasPrefix(l, "```") || strings.HasPrefix(l, "~~~")
}

// tablesOf finds the table in a paragraph: a header line and the delimiter line under it, to the paragraph's end.
func tablesOf(n *ast.Paragraph, text []byte, index lines) []block {
	var all []line
	for i := range n.Lines().Len() {
		segment := n.Lines().At(i)
		number := index.of(segment.Start)
		start := index[number-1]
		end := endOfLine(text, start)
		for end > start && text[end-1] == '\r' {
			end--
		}
		all = append(all, line{number, start, end, string(text[start:end])})
	}
	for i := 1; i < len(all); i++ {
		if isDelimiter(all[i].text) && strings.Contains(all[i-1].text, "|") {
			return []block{{kind: tableBlock, line: all[i-1].number, table: all[i-1:]}}
		}
	}
	return nil
}

var delimiterCell = pattern.Of(`^:?-+:?$`)

// isDelimiter tells whether a line is the one between a table's header and its rows.
func isDelimiter(text string) bool {
	if !strings.Contains(text, "|") {
		return false
	}
	for _, cell := range splitRow(text) {
		if !delimiterCell.MatchString(strings.TrimSpace(cell.text)) {
			return false
		}
	}
	return true
}
