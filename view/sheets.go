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

// SetSheets makes a sheet of questions, and one of each expected table. Read gives an answer's written table, nil for none.
func SetSheets(sets []*golden.Set, read func(*golden.Set, golden.Answer) (*table.Table, error)) (Screen, error) {
	form := sheetsForm{[]sheetQuestion{}}
	questions := &Grid{Main: true, Columns: []Column{{Name: "question"}, {Name: "reading"}, {Name: "text"}, {Name: "also_asked"}, {Name: "tags"}, {Name: "difficulty"}, {Name: "weight", Right: true}, {Name: "expect"},
		{Name: "reference_query"}, {Name: "table"}}}
	var tables []Part
	add := func(s *golden.Set, q *golden.Question, reading string, a golden.Answer) error {
		t, err := read(s, a)
		if err != nil {
			return fmt.Errorf("%s: %w", s.QuestionName(q), err)
		}
		one := sheetQuestion{s.QuestionName(q), reading, q.Text, some(q.AlsoAsked), some(q.Tags), q.Difficulty, q.Weight, string(q.Expect), a.Query, t}
		form.Questions = append(form.Questions, one)
		title := ""
		if t != nil {
			title = fmt.Sprintf("%d %s", len(form.Questions), q.ID)
			grid := TableGrid(t)
			grid.Main = false
			tables = append(tables, Part{Title: title, Grid: grid})
		}
		questions.Rows = append(questions.Rows, []Cell{text(one.Question), text(reading), text(q.Text), text(strings.Join(q.AlsoAsked, "\n")), text(strings.Join(q.Tags, ", ")), text(q.Difficulty),
			text(fmt.Sprint(q.Weight)), text(one.Expect), text(a.Query), text(title)})
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
	return Screen{Data: form, Headline: []Text{{Tone: Strong, Text: Plural(len(form.Questions), "question and reading", "questions and readings") + " of " + Plural(len(sets), "golden set", "golden sets") + "."}},
		Parts: append([]Part{{Title: "Questions", Grid: questions}}, tables...)}, nil
}
