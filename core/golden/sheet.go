package golden

import (
	"fmt"
	"strings"
)

// SheetColumns are the columns of a sheet of questions, in their order.
func SheetColumns() []string {
	return []string{"question", "reading", "text", "also_asked", "tags", "difficulty", "weight", "expect", "reference_query", "table"}
}

// SheetCells are what a sheet says of a question or of its reading of a title ("" for the question itself), by column. The table is not
// among them: it has a sheet of its own.
func SheetCells(s *Set, q *Question, reading string, a Answer) map[string]string {
	return map[string]string{"question": s.QuestionName(q), "reading": reading, "text": q.Text,
		"also_asked": strings.Join(q.AlsoAsked, "\n"),
		"tags":       strings.Join(q.Tags, ", "), "difficulty": q.Difficulty, "weight": fmt.Sprint(q.Weight), "expect": string(q.Expect),
		"reference_query": a.Query}
}

// ReadingOf is a question's answer under its reading of a title; its own for "". It errs where there is no such reading.
func (q *Question) ReadingOf(title string) (Answer, error) {
	if title == "" {
		return q.Answer, nil
	}
	for _, r := range q.Readings {
		if r.Title == title {
			return r.Answer, nil
		}
	}
	return Answer{}, fmt.Errorf("it has no reading %q: add it in the golden set", title)
}

// QuestionOf is the question of a name within the set; nil for none.
func (s *Set) QuestionOf(id string) *Question {
	for _, q := range s.All() {
		if q.ID == id {
			return q
		}
	}
	return nil
}
