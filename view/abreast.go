package view

import (
	"cmp"
	"fmt"

	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/table"
)

// Answerer is a run's answer to a question that several runs were asked.
type Answerer struct {
	Name    string // short: the run's number, or a letter
	Run     record.Run
	Attempt record.Attempt
	Tables  Tables
	Others  []record.Attempt
}

// abreastForm is the JSON form of one question of several runs.
type abreastForm struct {
	Question string         `json:"question"`
	Expected *table.Table   `json:"expected"`
	Answers  []questionForm `json:"answers"` // in the order of the runs
}

// Abreast shows one question of several runs: what is expected and every answer beside each other, cell by cell, and the queries below.
func Abreast(all []Answerer) Screen {
	form := abreastForm{Question: all[0].Attempt.Question, Answers: []questionForm{}}
	right := 0
	g := gridOf(all,
		declare(Column{Name: "run", Keep: true}, func(a Answerer) Cell { return text(a.Name) }),
		declare(Column{Name: "translator", Keep: true}, func(a Answerer) Cell { return text(a.Run.Translator) }),
		declare(Column{Name: "verdict", Keep: true}, func(a Answerer) Cell {
			return Cell{Text: string(a.Attempt.Verdict), Verdict: a.Attempt.Verdict}
		}),
		declare(Column{Name: "why", Wrap: true}, func(a Answerer) Cell {
			if a.Attempt.Verdict == score.Right {
				return text(cmp.Or(a.Attempt.Why, "it is what is expected"))
			}
			return text(whyOf(a.Attempt))
		}),
	)
	for _, a := range all {
		form.Answers = append(form.Answers, questionFormOf(a.Run, a.Attempt, a.Tables))
		if a.Attempt.Verdict == score.Right {
			right++
		}
	}
	base := baseOf(all)
	screen := Screen{Headline: []Text{{Tone: Strong, Text: fmt.Sprintf("%s: %d of %s right.", form.Question, right,
		plural(len(all), "answer is", "answers are"))}}, Parts: []Part{{Grid: g}}}
	g.Main = true
	if base >= 0 {
		form.Expected = all[base].Tables.Expected
		screen.Parts = append(screen.Parts, abreastParts(all, base)...)
	}
	for _, a := range all {
		if a.Attempt.Query != "" {
			screen.Parts = append(screen.Parts, Part{Title: "The query of " + a.Run.Translator + " (" + a.Name + ")",
				Code: &Code{"sql", answerText(a.Attempt)}})
		}
	}
	if base >= 0 && all[base].Attempt.Reference != "" {
		screen.Parts = append(screen.Parts, Part{Title: "The reference query", Code: &Code{"sql", referenceText(all[base].Attempt)}})
	}
	screen.Data = form
	return screen
}

// baseOf is the first answer that was held against a table; −1 where none was.
func baseOf(all []Answerer) int {
	for i, a := range all {
		if _, ok := comparison(a.Attempt, a.Tables.Expected, a.Tables.Answer); ok {
			return i
		}
	}
	return -1
}

// abreastParts lay the answers beside the expected table of the base. An answer to another expected table, or without one, stands apart.
func abreastParts(all []Answerer, base int) []Part {
	expected := all[base].Tables.Expected
	var beside []laid
	var lines []Text
	for _, a := range all {
		c, ok := comparison(a.Attempt, a.Tables.Expected, a.Tables.Answer)
		switch {
		case !ok:
			lines = append(lines, Text{Text: fmt.Sprintf("%s (%s) has no table to lay beside it.", a.Run.Translator, a.Name)})
		case a.Attempt.Expected != all[base].Attempt.Expected:
			lines = append(lines, Text{Text: fmt.Sprintf("%s (%s) was held against another expected table; see it with `tovrel show %s "+
				"%s`.",
				a.Run.Translator, a.Name, a.Name, a.Attempt.Question)})
		default:
			beside = append(beside, layOut(a.Name, c))
		}
	}
	parts := []Part{{Title: "Expected and answers, cell by cell; = is what is expected", Grid: abreastGrid(expected, beside)}}
	if len(lines) > 0 {
		parts = append(parts, Part{Lines: lines})
	}
	return parts
}

// laid is an answer along the rows of an expected table.
type laid struct {
	name    string
	c       Comparison
	rows    map[int]line         // by expected row
	columns map[int]*shownColumn // by expected column; none where the answer has no such column
	extra   []int                // rows that are not expected
}

func layOut(name string, c Comparison) laid {
	l := laid{name: name, c: c, rows: map[int]line{}, columns: map[int]*shownColumn{}}
	for _, p := range c.Match.Columns {
		if p.Answer >= 0 {
			column := newShownColumn(c.Answer.Columns[p.Answer], nil)
			l.columns[p.Expected] = &column
		}
	}
	for _, row := range c.lines() {
		if row.expected >= 0 {
			l.rows[row.expected] = row
		} else {
			l.extra = append(l.extra, row.answer)
		}
	}
	return l
}

// cell is what an answer has for an expected cell.
func (l laid) cell(row, column int) Cell {
	line, has := l.rows[row]
	shown := l.columns[column]
	switch {
	case !has || line.answer < 0:
		return Cell{Text: "no row", Tone: Wrong}
	case shown == nil:
		return Cell{Text: "no column", Tone: Wrong}
	case !line.differs[l.place(column)]:
		return Cell{Text: "=", Tone: Faint}
	}
	return side(*shown, line.answer, true)
}

// place is where an expected column stands among the aligned ones.
func (l laid) place(column int) int {
	for i, p := range l.c.Match.Columns {
		if p.Expected == column {
			return i
		}
	}
	return -1
}

func (l laid) equal(row int) bool {
	line, has := l.rows[row]
	return has && line.equal() && len(l.columns) == len(l.c.Expected.Columns)
}

func abreastGrid(expected *table.Table, beside []laid) *Grid {
	g := &Grid{Columns: []Column{{Name: "row", Keep: true, Right: true}}}
	for _, c := range expected.Columns {
		g.Groups = append(g.Groups, Group{c.Name, 1 + len(beside)})
		g.Columns = append(g.Columns, Column{Name: "expected", Right: c.Type.Kind.Number()})
		for _, l := range beside {
			g.Columns = append(g.Columns, Column{Name: l.name, Right: c.Type.Kind.Number()})
		}
	}
	g.Groups = append([]Group{{"", 1}}, g.Groups...)
	same := 0
	for row := range expected.Rows() {
		if equalInAll(beside, row) && expected.Rows() > maxAbreast || len(g.Rows) >= maxShown {
			same++
			continue
		}
		cells := []Cell{count(row + 1)}
		for i, c := range expected.Columns {
			cells = append(cells, side(newShownColumn(c, nil), row, false))
			for _, l := range beside {
				cells = append(cells, l.cell(row, i))
			}
		}
		g.Rows = append(g.Rows, cells)
	}
	for _, l := range beside {
		for _, row := range l.extra[:min(maxAbreast, len(l.extra))] {
			g.Rows = append(g.Rows, extraRow(expected, beside, l, row))
		}
	}
	if same > 0 {
		g.Rows = append(g.Rows, foldedRow(same, len(g.Columns)))
	}
	return g
}

// maxAbreast is up to how many rows equal rows are shown, and how many extra rows of an answer.
const maxAbreast = 12

func equalInAll(beside []laid, row int) bool {
	for _, l := range beside {
		if !l.equal(row) {
			return false
		}
	}
	return true
}

// extraRow is a row of one answer that is not expected.
func extraRow(expected *table.Table, beside []laid, of laid, row int) []Cell {
	cells := []Cell{{Text: "extra", Tone: Wrong}}
	for i := range expected.Columns {
		cells = append(cells, Cell{})
		for _, l := range beside {
			cell := Cell{}
			if shown := l.columns[i]; shown != nil && l.name == of.name {
				cell = side(*shown, row, true)
			}
			cells = append(cells, cell)
		}
	}
	return cells
}
