package view

import (
	"fmt"

	"tovrel/core/record"
	"tovrel/core/table"
)

const (
	// around is how many equal rows stay visible beside a difference.
	around = 1
	// maxShown is how many rows of a side-by-side table are shown.
	maxShown = 40
)

// line is a row of a side-by-side table: an expected row, an answer row, or both.
type line struct {
	expected, answer int // -1 for none
	differs          map[int]bool
}

// grid shows the two tables beside each other, expected then answer: the differing cells marked, equal rows between folded
// into a count, missing and extra rows named.
func (c Comparison) grid() *Grid {
	g := &Grid{Main: true, Exact: c.exact, Groups: []Group{{"", 1}}, Columns: []Column{{Name: "", Keep: true}}}
	parts := fold(c.lines())
	var expectedRows, answerRows []int
	for _, p := range parts {
		if p.folded == 0 && p.line.expected >= 0 {
			expectedRows = append(expectedRows, p.line.expected)
		}
		if p.folded == 0 && p.line.answer >= 0 && p.line.answer < c.Answer.Rows() {
			answerRows = append(answerRows, p.line.answer)
		}
	}
	left := make([]shownColumn, len(c.Match.Columns))
	for i, p := range c.Match.Columns {
		column := c.Expected.Columns[p.Expected]
		g.Columns = append(g.Columns, Column{Name: column.Name, Right: column.Type.Kind.Number()})
		left[i] = newShownColumn(column, expectedRows)
	}
	g.Columns = append(g.Columns, Column{Name: "│", Keep: true, Rule: true})
	g.Groups = append(g.Groups, Group{"expected", len(left)}, Group{"│", 1})
	order := c.answerColumns()
	right := make([]shownColumn, len(order))
	for i, j := range order {
		if j < 0 {
			g.Columns = append(g.Columns, Column{Name: "(none)"})
			continue
		}
		column := c.Answer.Columns[j]
		g.Columns = append(g.Columns, Column{Name: column.Name, Right: column.Type.Kind.Number()})
		right[i] = newShownColumn(column, answerRows)
	}
	g.Groups = append(g.Groups, Group{"answer", len(right)})
	for _, part := range parts {
		if part.folded > 0 {
			g.Rows = append(g.Rows, foldedRow(part.folded, len(g.Columns)))
			continue
		}
		g.Rows = append(g.Rows, c.row(part.line, left, right))
	}
	return g
}

// exactRows is up to how many rows of both tables are listed for machines; beyond, only those that differ.
const exactRows = 1000

// exact lists the rows of both tables for machines: each column has a name of its own, and no row is folded.
func (c Comparison) exact() *Grid {
	g := &Grid{Columns: []Column{{Name: "row"}}}
	used := map[string]int{}
	add := func(side string, column *table.Column) shownColumn {
		name := side + " " + column.Name
		if used[name]++; used[name] > 1 {
			name = fmt.Sprintf("%s (%d)", name, used[name])
		}
		g.Columns = append(g.Columns, Column{Name: name, Right: column.Type.Kind.Number()})
		return newShownColumn(column, nil)
	}
	left := make([]shownColumn, len(c.Match.Columns))
	for i, p := range c.Match.Columns {
		left[i] = add("expected", c.Expected.Columns[p.Expected])
	}
	var right []shownColumn
	for _, j := range c.answerColumns() {
		if j >= 0 {
			right = append(right, add("answer", c.Answer.Columns[j]))
		}
	}
	lines := c.lines()
	for _, l := range lines {
		if len(lines) > exactRows && l.equal() {
			continue
		}
		row := []Cell{rowMark(l)}
		for _, cells := range left {
			row = append(row, side(cells, l.expected, false))
		}
		for _, cells := range right {
			row = append(row, side(cells, l.answer, false))
		}
		g.Rows = append(g.Rows, row)
	}
	return g
}

// answerColumns lists the answer's columns in the order of the expected ones, -1 for none, then the extra ones.
func (c Comparison) answerColumns() []int {
	var order []int
	for _, p := range c.Match.Columns {
		order = append(order, p.Answer)
	}
	return append(order, c.Match.Extra...)
}

// lines lists the rows of both tables: the expected ones in their order, then what the answer has more.
func (c Comparison) lines() []line {
	differs := map[int]map[int]bool{}
	for _, cell := range c.Match.Cells {
		if differs[cell.ExpectedRow] == nil {
			differs[cell.ExpectedRow] = map[int]bool{}
		}
		differs[cell.ExpectedRow][cell.Column] = true
	}
	var lines []line
	for e, a := range c.Match.AnswerOf {
		if e >= c.Expected.Rows() {
			break
		}
		lines = append(lines, line{e, a, differs[e]})
	}
	for _, a := range c.Match.ExtraRows {
		if a < c.Answer.Rows() {
			lines = append(lines, line{-1, a, nil})
		}
	}
	return lines
}

func (l line) equal() bool { return l.expected >= 0 && l.answer >= 0 && len(l.differs) == 0 }

// folded is a line, or a count of equal rows in its place.
type folded struct {
	line   line
	folded int
}

// fold hides equal rows that are not beside a difference. A table without differences shows its first rows.
func fold(lines []line) []folded {
	show := make([]bool, len(lines))
	differences := false
	for i, l := range lines {
		if l.equal() {
			continue
		}
		differences = true
		for j := max(0, i-around); j <= min(len(lines)-1, i+around); j++ {
			show[j] = true
		}
	}
	var parts []folded
	shown := 0
	for i, l := range lines {
		if (show[i] || !differences || len(lines) <= 12) && shown < maxShown {
			parts = append(parts, folded{line: l})
			shown++
			continue
		}
		if n := len(parts); n > 0 && parts[n-1].folded > 0 {
			parts[n-1].folded++
			continue
		}
		parts = append(parts, folded{folded: 1})
	}
	return parts
}

func foldedRow(n, columns int) []Cell {
	row := make([]Cell, columns)
	row[0] = Cell{Text: "…", Tone: Faint}
	row[1] = Cell{Text: fmt.Sprintf("%s more", plural(n, "row", "rows")), Tone: Faint, Span: true}
	return row
}

func (c Comparison) row(l line, left, right []shownColumn) []Cell {
	row := []Cell{rowMark(l)}
	for i, cells := range left {
		row = append(row, side(cells, l.expected, l.differs[i] || l.answer < 0))
	}
	row = append(row, Cell{Text: "│", Tone: Faint})
	for i, cells := range right {
		row = append(row, side(cells, l.answer, i < len(left) && l.differs[i] || l.expected < 0))
	}
	return row
}

func rowMark(l line) Cell {
	switch {
	case l.answer < 0:
		return Cell{Text: "missing", Tone: Wrong}
	case l.expected < 0:
		return Cell{Text: "extra", Tone: Wrong}
	case len(l.differs) > 0:
		return Cell{Text: "differs", Tone: Wrong}
	}
	return Cell{Text: "equal", Tone: Faint}
}

func side(column shownColumn, row int, differs bool) Cell {
	if column.column == nil || row < 0 || row >= column.column.Len() {
		return Cell{}
	}
	cell := column.cell(row)
	if differs {
		cell.Differs, cell.Tone = true, Differs
	}
	return cell
}

// keptNote says how many rows of a table are kept, where that is not all; "" where it is.
func keptNote(name string, t *table.Table, rows int) string {
	if t == nil || rows <= t.Rows() {
		return ""
	}
	return fmt.Sprintf("Of the %s's %s, the first %s are kept.", name, plural(rows, "row", "rows"), grouped(fmt.Sprint(t.Rows())))
}

// comparison is an attempt's two tables with their alignment; false where they never met.
func comparison(a record.Attempt, expected, answer *table.Table) (Comparison, bool) {
	return Comparison{expected, answer, a.Match}, a.Match != nil && expected != nil && answer != nil
}
