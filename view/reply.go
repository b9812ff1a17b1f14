package view

import (
	"fmt"
	"math"
	"strings"

	"tovrel/core/record"
	"tovrel/core/table"
)

// What a reply says beyond its answer, and what it is where it is no table.

// FactsLine is what was found of facts, in a line.
func FactsLine(f record.Facts) string {
	var parts []string
	add := func(what string, all []string) {
		for _, one := range all {
			parts = append(parts, what+": "+one)
		}
	}
	add("stated", f.Stated)
	add("in part", f.Partly)
	add("missing", f.Missing)
	if f.Contradicted != "" {
		add("to be avoided", []string{f.Contradicted})
	}
	return strings.Join(parts, "; ")
}

// RowsLine is a table in a line: its first rows, and how many there are.
func RowsLine(t *table.Table, rows int) string {
	const most = 4
	var all []string
	for row := range min(t.Rows(), most) {
		var cells []string
		for _, c := range t.Columns {
			cells = append(cells, cellShown(c, row, table.DisplayDecimals(c)))
		}
		all = append(all, strings.Join(cells, ", "))
	}
	line := strings.Join(t.Names(), ", ") + ": " + strings.Join(all, "; ")
	if rows > most {
		line += fmt.Sprintf("; … (%d rows)", rows)
	}
	return line
}

// factGrid lists the facts of a question with what the reply states of each.
func factGrid(f record.Facts) *Grid {
	type row struct {
		what Tone
		mark string
		fact string
	}
	var rows []row
	for _, fact := range f.Stated {
		rows = append(rows, row{Right, "stated", fact})
	}
	for _, fact := range f.Partly {
		rows = append(rows, row{Unscored, "in part", fact})
	}
	for _, fact := range f.Missing {
		rows = append(rows, row{Wrong, "missing", fact})
	}
	if f.Contradicted != "" {
		rows = append(rows, row{Wrong, "to be avoided", f.Contradicted})
	}
	return gridOf(rows,
		declare(Column{Name: "fact is", Keep: true}, func(r row) Cell { return Cell{Text: r.mark, Tone: r.what} }),
		declare(Column{Name: "fact", Wrap: true}, func(r row) Cell { return text(r.fact) }),
	)
}

// replyParts are the parts of a screen about a reply in words, by facts or as a chart.
func replyParts(a record.Attempt, tables Tables) []Part {
	var parts []Part
	if a.Facts != nil {
		parts = append(parts, Part{Title: "Facts", Grid: factGrid(*a.Facts)})
	}
	if a.Look != nil && a.Chart == nil {
		parts = append(parts, Part{Title: "The reply", Code: &Code{"text", a.Look.Reply}})
	}
	if a.Chart != nil {
		lines := []Text{{Text: a.Chart.Form}}
		if len(a.Chart.Dropped) > 0 {
			lines = append(lines, Text{Tone: Faint, Text: "Keys that are not known and were left out: " + strings.Join(a.Chart.Dropped,
				", ") + "."})
		}
		parts = append(parts, Part{Title: "The chart", Lines: lines})
		if drawn := drawing(*a.Chart, tables.Answer); drawn != "" {
			parts = append(parts, Part{Code: &Code{"text", drawn}})
		}
	}
	return parts
}

// mostDrawn bounds the marks of a drawing, widest their length.
const mostDrawn, widest = 24, 32

// drawing draws a chart's data: a bar or a point for each row, with its name and its number.
func drawing(c record.Chart, t *table.Table) string {
	if t == nil || c.Label < 0 || c.Value < 0 || c.Label >= len(t.Columns) || c.Value >= len(t.Columns) {
		return ""
	}
	labels, values := t.Columns[c.Label], t.Columns[c.Value]
	top, room := 0.0, 0
	for row := range min(t.Rows(), mostDrawn) {
		if x, ok := values.Value(row).Float64(); ok {
			top = math.Max(top, math.Abs(x))
		}
		room = max(room, len([]rune(labels.Value(row).String())))
	}
	var lines []string
	decimals := table.DisplayDecimals(values)
	for row := range min(t.Rows(), mostDrawn) {
		x, ok := values.Value(row).Float64()
		if !ok || values.IsNull(row) {
			x = 0
		}
		length := 0
		if top > 0 {
			length = int(math.Round(math.Abs(x) / top * widest))
		}
		mark := strings.Repeat("█", length)
		if c.Mark == "line" || c.Mark == "point" || c.Mark == "circle" || c.Mark == "area" {
			mark = strings.Repeat(" ", max(0, length-1)) + "●"
		}
		name := labels.Value(row).String()
		name += strings.Repeat(" ", room-len([]rune(name)))
		lines = append(lines, fmt.Sprintf("%s  %s %s", name, mark, cellShown(values, row, decimals)))
	}
	if n := t.Rows() - mostDrawn; n > 0 {
		lines = append(lines, fmt.Sprintf("and %s more", plural(n, "row", "rows")))
	}
	return strings.Join(lines, "\n")
}

// cellShown is a number as people are shown it; a dash for none.
func cellShown(c *table.Column, row, decimals int) string {
	if c.IsNull(row) {
		return "–"
	}
	if !c.Type.Kind.Number() {
		return c.Value(row).String()
	}
	return table.DisplayNumber(c.Value(row), decimals)
}

// saidBeside are the lines about what a reply says of itself: the model, the tokens, its explanation.
func saidBeside(a record.Attempt) []Text {
	var lines []Text
	if a.Explanation != "" {
		lines = append(lines, Text{Text: "It explains: " + a.Explanation})
	}
	var parts []string
	if a.Model != "" {
		parts = append(parts, "model "+a.Model)
	}
	if a.InputTokens+a.OutputTokens > 0 {
		parts = append(parts, fmt.Sprintf("%d tokens in, %d out", a.InputTokens, a.OutputTokens))
	}
	if len(parts) > 0 {
		lines = append(lines, Text{Tone: Faint, Text: "Reply: " + strings.Join(parts, ", ") + "."})
	}
	return lines
}
