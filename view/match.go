package view

import (
	"encoding/json"
	"fmt"

	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/table"
	"tovrel/core/value"
)

// maxListed is how many cells and rows of each kind are listed; the counts are whole.
const maxListed = 100

// MatchForm is the JSON form of a match.
type MatchForm struct {
	Matched     bool           `json:"matched"`
	Closeness   *float64       `json:"closeness"`
	Remarks     []match.Remark `json:"remarks"`
	Faults      []fault.Fault  `json:"faults"`
	Notes       []string       `json:"notes"`
	Columns     []matchColumn  `json:"columns"`
	Cells       []matchCell    `json:"cells"`
	MissingRows int            `json:"missing_rows"`
	ExtraRows   int            `json:"extra_rows"`
	Missing     [][]rawJSON    `json:"missing"`
	Extra       [][]rawJSON    `json:"extra"`
}

type matchColumn struct {
	Expected string  `json:"expected"`
	Answer   *string `json:"answer"`
	Type     string  `json:"type"`
}

type matchCell struct {
	ExpectedRow int             `json:"expected_row"`
	AnswerRow   int             `json:"answer_row"`
	Column      string          `json:"column"`
	Expected    json.RawMessage `json:"expected"`
	Answer      json.RawMessage `json:"answer"`
}

// Comparison is two tables and how they were aligned.
type Comparison struct {
	Expected, Answer *table.Table
	Match            *record.Match
}

// form makes the JSON form of a comparison's alignment. Rows beyond what is kept of a table are not listed.
func (c Comparison) form() MatchForm {
	f := MatchForm{Remarks: []match.Remark{}, Faults: []fault.Fault{}, Notes: []string{}, Columns: []matchColumn{}, Cells: []matchCell{},
		MissingRows: len(c.Match.Missing), ExtraRows: len(c.Match.ExtraRows), Missing: [][]rawJSON{}, Extra: [][]rawJSON{}}
	for _, p := range c.Match.Columns {
		column := matchColumn{Expected: c.Expected.Columns[p.Expected].Name, Type: c.Expected.Columns[p.Expected].Type.String()}
		if p.Answer >= 0 {
			column.Answer = &c.Answer.Columns[p.Answer].Name
		}
		f.Columns = append(f.Columns, column)
	}
	for _, cell := range c.Match.Cells {
		if len(f.Cells) == maxListed || cell.ExpectedRow >= c.Expected.Rows() || cell.AnswerRow >= c.Answer.Rows() {
			continue
		}
		e := c.Expected.Columns[cell.Column]
		a := c.Answer.Columns[c.Match.Columns[cell.Column].Answer]
		f.Cells = append(f.Cells, matchCell{cell.ExpectedRow + 1, cell.AnswerRow + 1, e.Name, e.Value(cell.ExpectedRow).JSON(),
			a.Value(cell.AnswerRow).JSON()})
	}
	f.Missing = listRows(c.Expected, c.Match.Missing)
	f.Extra = listRows(c.Answer, c.Match.ExtraRows)
	return f
}

func listRows(t *table.Table, rows []int) [][]rawJSON {
	out := [][]rawJSON{}
	for _, r := range rows {
		if r >= t.Rows() || len(out) == maxListed {
			continue
		}
		var cells []rawJSON
		for _, v := range t.Row(r) {
			cells = append(cells, v.JSON())
		}
		out = append(out, cells)
	}
	return out
}

// Match shows whether two tables match and how they differ.
func Match(r match.Result) Screen {
	c := Comparison{r.Tables.Expected, r.Tables.Answer, record.Compact(r)}
	form := c.form()
	form.Matched, form.Closeness = r.Matched, r.Closeness
	form.MissingRows, form.ExtraRows = len(r.Missing), len(r.ExtraRows)
	if r.Remarks != nil {
		form.Remarks = r.Remarks
	}
	if r.Faults != nil {
		form.Faults = r.Faults
	}
	if r.Notes != nil {
		form.Notes = r.Notes
	}
	screen := Screen{Data: form, Headline: []Text{matchHeadline(r)}}
	var notes []Text
	for _, remark := range r.Remarks {
		notes = append(notes, Text{Text: "Remark: " + remarkWords[remark]})
	}
	for _, n := range r.Notes {
		notes = append(notes, Text{Tone: Unscored, Text: "Note: " + n})
	}
	if len(notes) > 0 {
		screen.Parts = append(screen.Parts, Part{Lines: notes})
	}
	screen.Parts = append(screen.Parts, Part{Title: "Columns", Grid: c.columnGrid()})
	if r.Matched {
		screen.Parts = append(screen.Parts, Part{Grid: &Grid{Main: true, Machine: true, Exact: c.exact}})
	} else {
		screen.Parts = append(screen.Parts, Part{Title: "Expected and answer", Grid: c.grid()})
		screen.Next = []string{"All rows beside each other: add `--output csv`; the first 100 differences: `--output json`."}
	}
	return screen
}

// remarkWords say what a remark means.
var remarkWords = map[match.Remark]string{
	"hidden-column":     "the query reads a column that the briefing hides (hidden-column)",
	"unchecked-figures": "the reply has numbers that could not be checked (unchecked-figures)",
	"one-of-several":    "one of several statements gives the answer (one-of-several)",
	match.TotalRow:      "a row of totals that was not asked (total-row)",
	"parts-disagree":    "another part of the reply says something else (parts-disagree)",
	match.ExtraColumn:   "the answer has more columns than were asked (extra-column)",
	match.Rounded:       "the answer is rounded (rounded)",
	match.Reordered:     "the rows stand in another order, which was not asked (reordered)",
	match.Renamed:       "columns have other names (renamed)",
	match.Relabelled:    "codes stand for labels, or labels for codes (relabelled)",
	match.Rescaled:      "the numbers are on another scale, by a factor of 100 (rescaled)",
	match.Reformatted:   "numbers or periods are written in another form (reformatted)",
	match.Crosstab:      "one table is the crosstab of the other (crosstab)",
	match.Tied:          "another choice was taken among rows that are tied at the cut (tied)",
	match.Empty:         "both tables are empty (empty)",
}

func matchHeadline(r match.Result) Text {
	if r.Matched {
		return Text{Right, "The tables match: " + r.Why + ".", score.Right}
	}
	line := "The tables do not match: " + r.Why
	if r.Closeness != nil {
		line += fmt.Sprintf(" (closeness %.2f)", *r.Closeness)
	}
	return Text{Wrong, line + ".", score.Wrong}
}

func (c Comparison) columnGrid() *Grid {
	type row struct {
		expected, answer Cell
		kind             value.Type
		how              string
	}
	var rows []row
	for _, p := range c.Match.Columns {
		e := c.Expected.Columns[p.Expected]
		r := row{text(e.Name), Cell{Text: "none", Tone: Wrong, Differs: true}, e.Type, ""}
		if p.Answer >= 0 {
			r.answer, r.how = text(c.Answer.Columns[p.Answer].Name), string(p.How)
		}
		rows = append(rows, r)
	}
	for _, j := range c.Match.Extra {
		a := c.Answer.Columns[j]
		rows = append(rows, row{Cell{Text: "none", Tone: Faint}, text(a.Name), a.Type, "extra"})
	}
	return gridOf(rows,
		declare(Column{Name: "expected column"}, func(r row) Cell { return r.expected }),
		declare(Column{Name: "answer column"}, func(r row) Cell { return r.answer }),
		declare(Column{Name: "type"}, func(r row) Cell { return text(r.kind.String()) }),
		declare(Column{Name: "found by"}, func(r row) Cell { return text(r.how) }),
	)
}
