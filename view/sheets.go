package view

import (
	"fmt"
	"strings"

	"tovrel/core/golden"
	"tovrel/core/table"
)

type sheetsForm struct {
	Questions []sheetQuestion `json:"questions"`
}

type sheetQuestion struct {
	Question   string       `json:"question"`
	Reading    string       `json:"reading"`
	Text       string       `json:"text"`
	AlsoAsked  []string     `json:"also_asked"`
	Tags       []string     `json:"tags"`
	Difficulty string       `json:"difficulty"`
	Weight     float64      `json:"weight"`
	Expect     string       `json:"expect"`
	Query      string       `json:"query"`
	Expected   *table.Table `json:"expected"`
}

// SetSheets makes a sheet of questions, and one of each expected table. Read gives an answer's written table, nil for none. It errs as
// read does, with the question's name.
func SetSheets(sets []*golden.Set, read func(*golden.Set, golden.Answer) (*table.Table, error)) (Screen, error) {
	form := sheetsForm{[]sheetQuestion{}}
	questions := &Grid{Main: true}
	for _, name := range golden.SheetColumns() {
		questions.Columns = append(questions.Columns, Column{Name: name, Right: name == "weight"})
	}
	var tables []Part
	add := func(s *golden.Set, q *golden.Question, reading string, a golden.Answer) error {
		t, err := read(s, a)
		if err != nil {
			return fmt.Errorf("%s: %w", s.QuestionName(q), err)
		}
		form.Questions = append(form.Questions, sheetQuestion{s.QuestionName(q), reading, q.Text, some(q.AlsoAsked),
			some(q.Tags), q.Difficulty, q.Weight, string(q.Expect), a.Query, t})
		cells := golden.SheetCells(s, q, reading, a)
		if t != nil {
			cells["table"] = fmt.Sprintf("%d %s", len(form.Questions), q.ID)
			grid := tableGrid(t)
			grid.Main = false
			tables = append(tables, Part{Title: cells["table"], Grid: grid})
		}
		var row []Cell
		for _, name := range golden.SheetColumns() {
			row = append(row, text(cells[name]))
		}
		questions.Rows = append(questions.Rows, row)
		return nil
	}
	for _, s := range sets {
		for _, q := range s.All() {
			if err := add(s, q, "", q.Answer); err != nil {
				return Screen{}, err
			}
			for _, r := range q.Readings {
				if err := add(s, q, r.Title, r.Answer); err != nil {
					return Screen{}, err
				}
			}
		}
	}
	return Screen{Data: form, Headline: []Text{{Tone: Strong,
		Text: plural(len(form.Questions), "question and reading", "questions and readings") + " of " +
			plural(len(sets), "golden set", "golden sets") + "."}},
		Parts: append([]Part{{Title: "Questions", Grid: questions}}, tables...)}, nil
}

// ImportChange is what a spreadsheet changes of a question.
type ImportChange struct {
	Question string   `json:"question"`
	Changed  []string `json:"changed"`
}

type importedForm struct {
	Changes []ImportChange `json:"changes"`
	DryRun  bool           `json:"dry_run"`
}

// Imported shows what a spreadsheet changed.
func Imported(changes []ImportChange, dryRun bool) Screen {
	verb := "changed"
	if dryRun {
		verb = "would change"
	}
	screen := Screen{Data: importedForm{append([]ImportChange{}, changes...), dryRun},
		Headline: []Text{{Tone: Strong, Text: plural(len(changes), "question", "questions") + " " + verb + "."}}}
	if len(changes) == 0 {
		return screen
	}
	g := gridOf(changes,
		declare(Column{Name: "question", Keep: true}, func(c ImportChange) Cell { return text(c.Question) }),
		declare(Column{Name: "what"}, func(c ImportChange) Cell { return text(strings.Join(c.Changed, ", ")) }),
	)
	g.Main = true
	screen.Parts = []Part{{Grid: g}}
	screen.Next = []string{"Compute expected tables anew with `tovrel set refresh`, and look for defects with `tovrel set check`."}
	return screen
}
