package render

import (
	"bytes"
	"fmt"
	"io"
	"strings"

	"tovrel/view"
)

// writeMarkdown writes a screen as CommonMark with GitHub tables. A screen that is a single grid is that table alone.
func writeMarkdown(w io.Writer, s view.Screen) error {
	var b bytes.Buffer
	for _, t := range s.Headline {
		fmt.Fprintf(&b, "**%s**\n\n", t.Text)
	}
	for _, p := range s.Parts {
		if p.Grid != nil && len(p.Grid.Rows) == 0 && p.Grid.Machine {
			continue
		}
		if p.Title != "" {
			fmt.Fprintf(&b, "### %s\n\n", p.Title)
		}
		markdownPart(&b, p)
		b.WriteByte('\n')
	}
	for _, n := range s.Next {
		b.WriteString(n + "\n\n")
	}
	_, err := w.Write(append(bytes.TrimRight(b.Bytes(), "\n"), '\n'))
	return err
}

func markdownPart(b *bytes.Buffer, p view.Part) {
	switch {
	case p.Grid != nil:
		markdownGrid(b, *p.Grid)
	case p.Gauge != nil:
		fmt.Fprintf(b, "%s: %s (%s %s to %s)\n", p.Gauge.Name, view.Percent(p.Gauge.Value), p.Gauge.Note, view.Percent(p.Gauge.Low), view.Percent(p.Gauge.High))
	case p.Bars != nil:
		for _, bar := range p.Bars {
			fmt.Fprintf(b, "- %s: %d (%s)\n", bar.Name, bar.Value, bar.Note)
		}
	case p.Code != nil:
		fmt.Fprintf(b, "```%s\n%s\n```\n", p.Code.Language, strings.TrimRight(p.Code.Text, "\n"))
	}
	for _, l := range p.Lines {
		b.WriteString(l.Text + "\\\n")
	}
	if len(p.Lines) > 0 {
		b.Truncate(b.Len() - 2)
		b.WriteByte('\n')
	}
}

// markdownGrid writes a grid as a table; marks stand before verdicts and around differences as on a terminal.
func markdownGrid(b *bytes.Buffer, g view.Grid) {
	p := &printer{Options: Options{Unicode: true}}
	b.WriteByte('|')
	for _, c := range g.Columns {
		b.WriteString(" " + bars(c.Name) + " |")
	}
	b.WriteString("\n|")
	for _, c := range g.Columns {
		if c.Right {
			b.WriteString(" ---: |")
		} else {
			b.WriteString(" --- |")
		}
	}
	b.WriteByte('\n')
	for _, row := range g.Rows {
		b.WriteByte('|')
		for _, cell := range row {
			b.WriteString(" " + bars(p.cell(cell)) + " |")
		}
		b.WriteByte('\n')
	}
}

func bars(s string) string { return strings.ReplaceAll(s, "|", `\|`) }
