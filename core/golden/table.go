package golden

import (
	"errors"
	"fmt"
	"strings"

	"tovrel/core/source"
	"tovrel/core/table"
	"tovrel/core/value"
)

// Written is a table as it stands in the document.
type Written struct {
	At         source.Position
	Names      []string
	Cells      [][]table.Cell
	start, end int // its bytes in the document
}

// rawCell is a cell's text between two bars, and where it starts in its line.
type rawCell struct {
	text string
	at   int
}

// splitRow splits a table's line at its bars; a bar after a backslash is part of the cell.
func splitRow(text string) []rawCell {
	var cells []rawCell
	start := len(text) - len(strings.TrimLeft(text, " \t"))
	body := strings.TrimRight(text, " \t")
	if strings.HasPrefix(body[min(start, len(body)):], "|") {
		start++
	}
	for i := start; i < len(body); i++ {
		if body[i] == '|' && body[i-1] != '\\' {
			cells = append(cells, rawCell{body[start:i], start})
			start = i + 1
		}
	}
	if start < len(body) {
		cells = append(cells, rawCell{body[start:], start})
	}
	return cells
}

// readTable reads a table's lines and reports ragged rows.
func (p *parser) readTable(b block) *Written {
	w := &Written{At: source.Position{File: p.set.File, Line: b.line, Column: 1}, start: b.table[0].start, end: b.table[len(b.table)-1].end}
	for _, c := range splitRow(b.table[0].text) {
		w.Names = append(w.Names, cellOf(c.text).Text)
	}
	if n := len(splitRow(b.table[1].text)); n != len(w.Names) {
		p.report(b.table[1].number, 1, "ragged-table",
			fmt.Sprintf("the line under the header has %d cells and the header has %d", n, len(w.Names)),
			"give both lines the same number of cells")
		return w
	}
	for _, l := range b.table[2:] {
		row := splitRow(l.text)
		if len(row) != len(w.Names) {
			p.report(l.number, raggedColumn(l.text, row, len(w.Names)), "ragged-row",
				fmt.Sprintf("this row has %d cells and the header has %d", len(row), len(w.Names)), raggedRemedy(l.text))
			continue
		}
		cells := make([]table.Cell, len(row))
		for i, c := range row {
			cells[i] = cellOf(c.text)
		}
		w.Cells = append(w.Cells, cells)
	}
	return w
}

// raggedColumn points at the first cell too many, or behind the last one.
func raggedColumn(text string, row []rawCell, want int) int {
	if len(row) > want {
		return row[want].at + 1
	}
	return max(1, len(strings.TrimRight(text, " \t")))
}

func raggedRemedy(text string) string {
	if !strings.Contains(text, "|") {
		return "leave a blank line between the table and the text"
	}
	return `add or remove a cell; a bar inside a cell is written \|`
}

// cellOf reads a cell: NULL, text in backticks, or what it says.
func cellOf(raw string) table.Cell {
	text := strings.ReplaceAll(strings.TrimSpace(raw), `\|`, "|")
	if text == "NULL" {
		return table.Cell{Null: true}
	}
	if ticks := len(text) - len(strings.TrimLeft(text, "`")); ticks > 0 && len(text) >= 2*ticks+1 {
		fence := strings.Repeat("`", ticks)
		inner := text[ticks : len(text)-ticks]
		if strings.HasSuffix(text, fence) && !strings.HasSuffix(inner, "`") && !strings.Contains(" "+inner+" ", " "+fence+" ") {
			if strings.HasPrefix(inner, " ") && strings.HasSuffix(inner, " ") && strings.TrimSpace(inner) != "" {
				inner = inner[1 : len(inner)-1]
			}
			return table.Cell{Text: inner, Literal: true}
		}
	}
	return table.Cell{Text: text}
}

// Typed gives the written table with typed columns; types overrides what the cells look like, by column name. It errs where a cell is
// none of the type that is set for its column.
func (w *Written) Typed(types map[string]value.Kind) (*table.Table, error) {
	t := &table.Table{}
	for c, name := range w.Names {
		cells := make([]table.Cell, len(w.Cells))
		for r, row := range w.Cells {
			cells[r] = row[c]
		}
		kind, given := types[name]
		if !given {
			t.Columns = append(t.Columns, table.FromCells(name, cells))
			continue
		}
		column, err := table.FromCellsTyped(name, cells, value.Type{Kind: kind})
		if err != nil {
			return nil, fmt.Errorf("column %s: %w", name, err)
		}
		t.Columns = append(t.Columns, column)
	}
	return t, nil
}

// FormatTable writes a table as a golden set holds it: columns padded, numbers to the right and with the same decimals,
// at most 6 behind the first significant digit of a float column's smallest value. A text that could be read as something
// else stands in backticks. The error names a cell that a Markdown table cannot hold.
func FormatTable(t *table.Table) (string, error) {
	rows := make([][]string, t.Rows()+1)
	for _, c := range t.Columns {
		rows[0] = append(rows[0], escapeBars(c.Name))
	}
	for i, c := range t.Columns {
		cells, err := displayColumn(c)
		if err != nil {
			return "", fmt.Errorf("column %s: %w", t.Columns[i].Name, err)
		}
		for r, text := range cells {
			rows[r+1] = append(rows[r+1], text)
		}
	}
	return layOut(rows, t), nil
}

func layOut(rows [][]string, t *table.Table) string {
	widths := make([]int, len(t.Columns))
	for _, row := range rows {
		for i, text := range row {
			widths[i] = max(widths[i], len([]rune(text)), 3)
		}
	}
	var b strings.Builder
	write := func(row []string) {
		for i, text := range row {
			pad := strings.Repeat(" ", widths[i]-len([]rune(text)))
			if t.Columns[i].Type.Kind.Number() {
				b.WriteString("| " + pad + text + " ")
			} else {
				b.WriteString("| " + text + pad + " ")
			}
		}
		b.WriteString("|\n")
	}
	write(rows[0])
	for i, c := range t.Columns {
		if c.Type.Kind.Number() {
			b.WriteString("| " + strings.Repeat("-", widths[i]-1) + ": ")
		} else {
			b.WriteString("| " + strings.Repeat("-", widths[i]) + " ")
		}
	}
	b.WriteString("|\n")
	for _, row := range rows[1:] {
		write(row)
	}
	return strings.TrimSuffix(b.String(), "\n")
}

func displayColumn(c *table.Column) ([]string, error) {
	decimals := table.DisplayDecimals(c)
	literal := looksTyped(c)
	out := make([]string, c.Len())
	for r := range out {
		v := c.Value(r)
		switch {
		case v.IsNull():
			out[r] = "NULL"
		case c.Type.Kind.Number():
			out[r] = table.DisplayNumber(v, decimals)
		case v.Kind() == value.Text:
			text, err := textCell(v.Str(), literal)
			if err != nil {
				return nil, fmt.Errorf("row %d: %w", r+1, err)
			}
			out[r] = text
		default:
			out[r] = escapeBars(v.String())
		}
	}
	return out, nil
}

// looksTyped tells whether a text column would be read as one of another type.
func looksTyped(c *table.Column) bool {
	if c.Type.Kind != value.Text {
		return false
	}
	cells := make([]table.Cell, c.Len())
	for r := range cells {
		cells[r] = table.Cell{Text: strings.TrimSpace(c.Value(r).Str()), Null: c.IsNull(r)}
	}
	return table.Infer(cells).Kind != value.Text
}

// textCell writes a text so that it reads back as that text; literal forces the backticks.
func textCell(s string, literal bool) (string, error) {
	if strings.ContainsAny(s, "\n\r") {
		return "", fmt.Errorf("a table cell cannot hold a line break; keep this answer in a file (expected: …)")
	}
	literal = literal || strings.ContainsAny(s, "<[&") // markup, where the document is shown
	if plain := cellOf(escapeBars(s)); !literal && !plain.Null && !plain.Literal && plain.Text == s {
		return escapeBars(s), nil
	}
	if s == "" {
		return "", nil
	}
	fence, inner := "`", s
	for strings.Contains(s, fence) {
		fence += "`"
	}
	if strings.HasPrefix(s, "`") || strings.HasSuffix(s, "`") || strings.HasPrefix(s, " ") && strings.HasSuffix(s, " ") &&
		strings.TrimSpace(s) != "" {
		inner = " " + s + " "
	}
	return fence + escapeBars(inner) + fence, nil
}

func escapeBars(s string) string { return strings.ReplaceAll(s, "|", `\|`) }

// TableOf reads a table that stands in a text by itself, as Markdown. It errs where the text is no table, or a row has other cells than
// the head.
func TableOf(markdown string) (*table.Table, error) {
	set, problems := Parse("", []byte("---\ngolden-set: x\ndataset: x\n---\n\n## Table {#x}\n\n"+markdown+"\n"))
	if len(problems) > 0 || len(set.Questions) != 1 || set.Questions[0].Answer.Table == nil {
		return nil, errors.New("it is no table")
	}
	return set.Questions[0].Answer.Table.Typed(nil)
}
