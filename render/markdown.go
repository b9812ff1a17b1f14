package render

import (
	"bytes"
	"fmt"
	"io"
	"math"
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
		markdownGauge(b, "", *p.Gauge)
	case p.Gauges != nil:
		for _, g := range p.Gauges {
			markdownGauge(b, "- ", g)
		}
	case p.Trend != nil:
		for i, v := range p.Trend.Values {
			if i == 0 || !math.IsNaN(v) {
				fmt.Fprintf(b, "- %s, %d: %s\n", p.Trend.Name, i+1, view.Percent(v))
			}
		}
	case p.Bars != nil:
		for _, bar := range p.Bars {
			line := fmt.Sprintf("- %s: %d", bar.Name, bar.Value)
			if strings.HasPrefix(bar.Name, " ") {
				line = fmt.Sprintf("  - %s: %d", strings.TrimSpace(bar.Name), bar.Value)
			}
			if bar.Note != "" {
				line += " (" + bar.Note + ")"
			}
			b.WriteString(line + "\n")
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

func markdownGauge(b *bytes.Buffer, before string, g view.Gauge) {
	fmt.Fprintf(b, "%s%s: %s (%s %s to %s)\n", before, g.Name, view.Percent(g.Value), g.Note, view.Percent(g.Low), view.Percent(g.High))
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
