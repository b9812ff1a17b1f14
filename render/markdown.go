package render

import (
	"bytes"
	"fmt"
	"io"
	"math"
	"strings"

	"tovrel/core/pattern"
	"tovrel/view"
)

// writeMarkdown writes a screen as CommonMark with GitHub tables. A screen that is a single grid is that table alone.
func writeMarkdown(w io.Writer, s view.Screen, chartsBeside string) error {
	var b bytes.Buffer
	for _, t := range s.Headline {
		if said := prose(t.Text); said != "" {
			fmt.Fprintf(&b, "**%s**\n\n", said)
		}
	}
	if chartsBeside != "" {
		for _, c := range s.Charts {
			fmt.Fprintf(&b, "![%s. %s](<%s%s.svg>)\n\n", prose(c.Title), prose(c.Words), chartsBeside, c.Name)
		}
	}
	for _, p := range s.Parts {
		if p.Grid != nil && len(p.Grid.Rows) == 0 && p.Grid.Machine {
			continue
		}
		if p.Title != "" {
			fmt.Fprintf(&b, "### %s\n\n", prose(p.Title))
		}
		markdownPart(&b, p)
		b.WriteByte('\n')
	}
	for _, n := range s.Next {
		b.WriteString(prose(n) + "\n\n")
	}
	_, err := w.Write(append(bytes.TrimRight(b.Bytes(), "\n"), '\n'))
	return err
}

func markdownPart(b *bytes.Buffer, p view.Part) {
	switch {
	case p.Grid != nil:
		markdownGrid(b, *p.Grid)
	case p.Gauge != nil:
		markdownGauge(b, "", *p.Gauge)
	case p.Gauges != nil:
		for _, g := range p.Gauges {
			markdownGauge(b, "- ", g)
		}
	case p.Trend != nil:
		for i, v := range p.Trend.Values {
			if i == 0 || !math.IsNaN(v) {
				fmt.Fprintf(b, "- %s, %d: %s\n", prose(p.Trend.Name), i+1, view.Percent(v))
			}
		}
	case p.Bars != nil:
		for _, bar := range p.Bars {
			line := fmt.Sprintf("- %s: %d", prose(bar.Name), bar.Value)
			if strings.HasPrefix(bar.Name, " ") {
				line = fmt.Sprintf("  - %s: %d", prose(strings.TrimSpace(bar.Name)), bar.Value)
			}
			if bar.Note != "" {
				line += " (" + prose(bar.Note) + ")"
			}
			b.WriteString(line + "\n")
		}
	case p.Table != "":
		b.WriteString(Plain(p.Table))
	case p.Code != nil:
		text := Plain(strings.TrimRight(p.Code.Text, "\n"))
		fence := strings.Repeat("`", max(3, longestRun(text, '`')+1)) // longer than any inside
		fmt.Fprintf(b, "%s%s\n%s\n%s\n", fence, p.Code.Language, text, fence)
	}
	for _, l := range p.Lines {
		b.WriteString(prose(l.Text) + "\\\n")
	}
	if len(p.Lines) > 0 {
		b.Truncate(b.Len() - 2)
		b.WriteByte('\n')
	}
}

func markdownGauge(b *bytes.Buffer, before string, g view.Gauge) {
	note := prose(g.Note)
	if g.Note == view.Percent(g.Value) {
		note = "interval"
	}
	fmt.Fprintf(b, "%s%s: %s (%s %s to %s)\n", before, prose(g.Name), view.Percent(g.Value), note, view.Percent(g.Low),
		view.Percent(g.High))
}

// markdownGrid writes a grid as a table; marks stand before verdicts and around differences as on a terminal.
func markdownGrid(b *bytes.Buffer, g view.Grid) {
	p := &printer{Options: Options{Unicode: true}}
	var head, line strings.Builder
	for i, name := range groupedNames(g) {
		switch {
		case g.Columns[i].Rule:
			continue
		case g.Columns[i].Right:
			line.WriteString(" ---: |")
		default:
			line.WriteString(" --- |")
		}
		head.WriteString(" " + inCell(name) + " |")
	}
	b.WriteString("|" + head.String() + "\n|" + line.String() + "\n")
	for _, row := range g.Rows {
		b.WriteByte('|')
		for i, cell := range row {
			if !g.Columns[i].Rule {
				b.WriteString(" " + inCell(p.cell(cell)) + " |")
			}
		}
		b.WriteByte('\n')
	}
}

// groupedNames are the names of columns, with the heading over them before each: Markdown has no groups.
func groupedNames(g view.Grid) []string {
	var names []string
	for i, at := 0, 0; i < len(g.Columns); at++ {
		group := view.Group{Width: len(g.Columns)}
		if at < len(g.Groups) {
			group = g.Groups[at]
		}
		for end := i + group.Width; i < end; i++ {
			names = append(names, strings.TrimSpace(group.Name+" "+g.Columns[i].Name))
		}
	}
	return names
}

func inCell(text string) string { return bars(inline(text)) }

func bars(s string) string { return strings.ReplaceAll(s, "|", `\|`) }

// prose is a text in which nothing is markup but pairs of backticks: what stands between them is code, and what stands outside is escaped.
// Links, images, emphasis and HTML cannot come from data.
func prose(s string) string {
	s = inline(s)
	if s != "" && strings.IndexByte("#>+-=", s[0]) >= 0 {
		s = `\` + s
	}
	return numberedStart.ReplaceAllString(s, `$1\$2`)
}

// inline is a text as prose where no line begins: in a cell of a table.
func inline(s string) string {
	s = strings.TrimSpace(printable(s)) // an indented line would be code
	var b strings.Builder
	for i := 0; i < len(s); {
		if s[i] == '`' {
			run := runAt(s[i:], '`')
			if end := closing(s[i+run:], run); end >= 0 {
				b.WriteString(s[i : i+run+end])
				i += run + end
				continue
			}
			b.WriteString(strings.Repeat("\\`", run))
			i += run
			continue
		}
		switch c := s[i]; {
		case c == '<':
			b.WriteString("&lt;")
		case c == '&':
			b.WriteString("&amp;")
		case strings.HasPrefix(s[i:], "://"): // no address becomes a link by itself
			b.WriteString(`:\`)
		case strings.IndexByte(`\[]*~`, c) >= 0, c == '_' && !insideWord(s, i):
			b.WriteString(`\` + string(c))
		default:
			b.WriteByte(c)
		}
		i++
	}
	return b.String()
}

// insideWord tells whether letters or digits stand on both sides of a place.
func insideWord(s string, i int) bool {
	return i > 0 && i+1 < len(s) && isAlphanumeric(s[i-1]) && isAlphanumeric(s[i+1])
}

func isAlphanumeric(c byte) bool { return c >= '0' && c <= '9' || c|0x20 >= 'a' && c|0x20 <= 'z' }

// numberedStart is what would make a line one of a numbered list.
var numberedStart = pattern.Of(`^(\d{1,9})([.)])`)

// runAt counts how often a byte is repeated at the beginning.
func runAt(s string, c byte) int { return len(s) - len(strings.TrimLeft(s, string(c))) }

// closing is the place behind the run of exactly so many backticks that ends a piece of code; -1 where none does.
func closing(s string, run int) int {
	for at := 0; at < len(s); {
		next := strings.IndexByte(s[at:], '`')
		if next < 0 {
			return -1
		}
		at += next
		found := runAt(s[at:], '`')
		at += found
		if found == run {
			return at
		}
	}
	return -1
}

// longestRun is the longest repetition of a byte.
func longestRun(s string, c byte) int {
	longest := 0
	for at := 0; at < len(s); {
		run := runAt(s[at:], c)
		longest = max(longest, run)
		at += max(1, run)
	}
	return longest
}
