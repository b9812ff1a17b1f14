package render

import (
	"bytes"
	"fmt"
	"io"
	"math"
	"slices"
	"strings"

	"github.com/jedib0t/go-pretty/v6/text"

	"tovrel/core/score"
	"tovrel/view"
)

// marks stand before verdicts, so that colour is never needed to read them.
var marks = map[score.Verdict]string{score.Right: "●", score.Lucky: "◐", score.Wrong: "✕", score.Failed: "!", score.Unscored: "·"}

// asciiMarks are for terminals without UTF-8.
var asciiMarks = map[score.Verdict]string{score.Right: "ok", score.Lucky: "~", score.Wrong: "x", score.Failed: "!", score.Unscored: "-"}

// Mark is the mark of a verdict.
func Mark(v score.Verdict, o Options) string {
	if o.Unicode {
		return marks[v]
	}
	return asciiMarks[v]
}

// colours are of the Okabe-Ito palette: they stay apart for colour-blind readers, on dark and light.
var colours = map[view.Tone]string{
	view.Right: "38;2;0;114;178", view.Lucky: "38;2;230;159;0", view.Wrong: "38;2;213;94;0", view.Failed: "38;2;204;121;167",
	view.Unscored: "38;2;128;128;128", view.Faint: "2", view.Strong: "1", view.Differs: "1;38;2;213;94;0",
}

// plainer replaces what a terminal without UTF-8 cannot show.
var plainer = strings.NewReplacer("…", "...", "│", "|", "─", "-", "●", "*", "├", "|", "┤", "|", "█", "#", "‹", "[", "›", "]",
	"–", "-", "\u2009", " ", "·", ".", "▁", "_", "▂", ".", "▃", "-", "▄", "=", "▅", "+", "▆", "*", "▇", "%", "→", "->", "≤",
	"<=", "≥", ">=", "◐", "~", "✕", "x")

// printer writes one screen to a terminal or a pipe.
type printer struct {
	Options
	b bytes.Buffer
}

func terminal(w io.Writer, s view.Screen, o Options) error {
	p := &printer{Options: o}
	for _, line := range s.Headline {
		p.line(line)
	}
	for _, part := range s.Parts {
		p.part(part)
	}
	if len(s.Next) > 0 {
		p.b.WriteByte('\n')
	}
	for _, next := range s.Next {
		p.line(view.Text{Tone: view.Faint, Text: next})
	}
	out := strings.TrimPrefix(p.b.String(), "\n")
	if !o.Unicode {
		out = plainer.Replace(out)
	}
	_, err := io.WriteString(w, out)
	return err
}

func (p *printer) paint(tone view.Tone, s string) string {
	code := colours[tone]
	if !p.Color || code == "" || s == "" {
		return s
	}
	return "\x1b[" + code + "m" + s + "\x1b[0m"
}

func (p *printer) line(t view.Text) {
	for _, l := range p.wrap(p.marked(t.Verdict, printable(t.Text))) {
		p.b.WriteString(p.paint(t.Tone, l) + "\n")
	}
}

// marked puts a verdict's mark before a text.
func (p *printer) marked(v score.Verdict, s string) string {
	switch {
	case v == "":
		return s
	case p.Unicode:
		return marks[v] + " " + s
	}
	return asciiMarks[v] + " " + s
}

// wrap breaks a sentence at spaces to the width of the terminal.
func (p *printer) wrap(s string) []string {
	if p.Width <= 0 {
		return []string{s}
	}
	return wrapped(s, p.Width, "  ")
}

// wrapped breaks a text at spaces; the lines after the first begin with an indent. A word that is longer than a line stays whole.
func wrapped(s string, width int, indent string) []string {
	if text.StringWidthWithoutEscSequences(s) <= width {
		return []string{s}
	}
	rest := strings.TrimLeft(s, " ")
	margin := s[:len(s)-len(rest)]
	var lines []string
	current := ""
	for i, word := range strings.Split(rest, " ") {
		switch {
		case i == 0:
			current = margin + word
		case text.StringWidthWithoutEscSequences(current+" "+word) > width:
			lines = append(lines, current)
			current = margin + indent + word
		default:
			current += " " + word
		}
	}
	return append(lines, current)
}

func (p *printer) part(part view.Part) {
	if part.Grid != nil && (part.Grid.Machine || len(part.Grid.Columns) == 0) {
		return
	}
	p.b.WriteByte('\n')
	if part.Title != "" {
		p.line(view.Text{Tone: view.Strong, Text: part.Title})
	}
	switch {
	case part.Grid != nil:
		p.grid(*part.Grid)
	case part.Gauge != nil:
		p.gauge(*part.Gauge)
	case part.Gauges != nil:
		p.gauges(part.Gauges)
	case part.Trend != nil:
		p.trend(*part.Trend)
	case part.Bars != nil:
		p.bars(part.Bars)
	case part.Table != "":
		p.b.WriteString(Plain(part.Table))
	case part.Code != nil:
		p.code(*part.Code)
	}
	for _, l := range part.Lines {
		p.line(l)
	}
}

func (p *printer) code(c view.Code) {
	for l := range strings.SplitSeq(strings.TrimRight(c.Text, "\n"), "\n") {
		lines := []string{printable(l)}
		if c.Language == "sql" && p.Width > 0 {
			lines = clauses(lines[0], p.Width-2)
		}
		for _, l := range lines {
			p.b.WriteString("  " + l + "\n")
		}
	}
}

// gauge draws a share with its interval on a scale from 0 to 100 %.
func (p *printer) gauge(g view.Gauge) {
	g.Name, g.Note = printable(g.Name), printable(g.Note)
	cells := 50
	if around := text.StringWidthWithoutEscSequences(g.Name+g.Note) + len("  0 %  100 %    "); p.Width > 0 {
		cells = min(cells, max(10, p.Width-around-1))
	}
	at := func(share float64) int { return min(cells, max(0, int(share*float64(cells)+0.5))) }
	scale := []rune(strings.Repeat("·", cells+1))
	for i := at(g.Low); i <= at(g.High); i++ {
		scale[i] = '─'
	}
	scale[at(g.Low)], scale[at(g.High)], scale[at(g.Value)] = '├', '┤', '●'
	fmt.Fprintf(&p.b, "%s  0 %% %s 100 %%  %s\n", g.Name, p.paint(view.Right, string(scale)), p.paint(view.Faint, g.Note))
}

// gauges draws shares under each other on one scale.
func (p *printer) gauges(all []view.Gauge) {
	all = slices.Clone(all)
	name, note := 0, 0
	for i, g := range all {
		g.Name, g.Note = printable(g.Name), printable(g.Note)
		all[i] = g
		name, note = max(name, text.StringWidthWithoutEscSequences(g.Name)), max(note, text.StringWidthWithoutEscSequences(g.Note))
	}
	for _, g := range all {
		g.Name += strings.Repeat(" ", name-text.StringWidthWithoutEscSequences(g.Name))
		g.Note += strings.Repeat(" ", note-text.StringWidthWithoutEscSequences(g.Note))
		p.gauge(g)
	}
}

// levels are the heights of a trend's columns.
var levels = []rune("▁▂▃▄▅▆▇█")

// trend draws values over time as columns on a scale from 0 to 100 %.
func (p *printer) trend(t view.Trend) {
	values := t.Values
	if room := p.Width - text.StringWidthWithoutEscSequences(t.Name) - 24; p.Width > 0 && len(values) > max(room, 8) {
		values = values[len(values)-max(room, 8):]
	}
	var b strings.Builder
	for _, v := range values {
		if math.IsNaN(v) {
			b.WriteRune('·')
			continue
		}
		b.WriteRune(levels[min(len(levels)-1, max(0, int(v*float64(len(levels)))))])
	}
	note := ""
	if t.Limit != nil {
		note = fmt.Sprintf("limit %.0f %%", 100**t.Limit)
	}
	fmt.Fprintf(&p.b, "%s  %s  %s\n", printable(t.Name), p.paint(view.Right, b.String()), p.paint(view.Faint, note))
}

func (p *printer) bars(bars []view.Bar) {
	most, width := 0, 0
	bars = slices.Clone(bars)
	for i, b := range bars {
		b.Name, b.Note = printable(b.Name), printable(b.Note)
		bars[i] = b
		most, width = max(most, b.Value), max(width, text.StringWidthWithoutEscSequences(b.Name))
	}
	room := barRoom
	for _, b := range bars { // a name in a note is there to be copied: bars give way
		if beside := text.StringWidthWithoutEscSequences(b.Note) + width + len("    ") + len(fmt.Sprint(b.Value)); p.Width > 0 {
			room = min(room, max(shortestBar, p.Width-beside-1))
		}
	}
	for _, b := range bars {
		length := max(1, b.Value*room/max(most, 1))
		name := b.Name + strings.Repeat(" ", width-text.StringWidthWithoutEscSequences(b.Name))
		line := fmt.Sprintf("%s  %s %d  %s", name,
			p.paint(view.Wrong, strings.Repeat("█", length)+strings.Repeat(" ", room-length)), b.Value, p.paint(view.Faint, b.Note))
		p.b.WriteString(strings.TrimRight(line, " ") + "\n")
	}
}

// barRoom is how long a bar is at most, shortestBar the room that the longest has at least.
const barRoom, shortestBar = 24, 6

// cutMiddle keeps the beginning and the end of a text around an ellipsis.
func cutMiddle(s string, width int) string {
	if width <= 1 {
		return "…"
	}
	runes := []rune(s)
	head, tail := 0, len(runes)
	left, used := (width)/2, 0
	for head < len(runes) && used+text.StringWidthWithoutEscSequences(string(runes[head])) <= left {
		used += text.StringWidthWithoutEscSequences(string(runes[head]))
		head++
	}
	for tail > head && used+text.StringWidthWithoutEscSequences(string(runes[tail-1])) <= width-1 {
		used += text.StringWidthWithoutEscSequences(string(runes[tail-1]))
		tail--
	}
	return string(runes[:head]) + "…" + string(runes[tail:])
}
