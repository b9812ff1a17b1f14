package view

import (
	"fmt"

	"tovrel/core/table"
)

// AcceptForm is the JSON form of what accepting an answer writes.
type AcceptForm struct {
	Question   string       `json:"question"`
	File       string       `json:"file"`
	Reading    string       `json:"reading"` // "" where the expected answer is replaced
	Replaced   bool         `json:"replaced"`
	Query      string       `json:"query"`
	Table      *table.Table `json:"table"`
	AnswerFile string       `json:"answer_file,omitempty"`
	Accepted   string       `json:"accepted"`
}

// Acceptance adds to the view of an attempt what accepting its answer writes.
func Acceptance(question Screen, f AcceptForm) Screen {
	words := fmt.Sprintf("Becomes the reading %q of %s in %s.", f.Reading, f.Question, f.File)
	if f.Replaced {
		words = fmt.Sprintf("Becomes the expected answer of %s in %s, in place of the present one.", f.Question, f.File)
	}
	if f.AnswerFile != "" {
		words += fmt.Sprintf(" Its table goes to %s beside it.", f.AnswerFile)
	}
	question.Parts = append(question.Parts, Part{Title: "What is written", Lines: []Text{{Text: words}, {Text: "accepted: " + f.Accepted}}})
	question.Next = nil
	question.Data = f
	return question
}
