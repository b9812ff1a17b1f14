package view

import (
	"fmt"

	"tovrel/core/table"
)

// AddedForm is the JSON form of a question that was added to a golden set.
type AddedForm struct {
	Question   string       `json:"question"`
	File       string       `json:"file"`
	AnswerFile string       `json:"answer_file,omitempty"`
	Table      *table.Table `json:"table"`
	Notes      []string     `json:"notes"` // how answers to it will be matched
	DryRun     bool         `json:"dry_run"`
}

// AddedQuestion shows a question that was added, with its answer.
func AddedQuestion(f AddedForm) Screen {
	verb := "Added"
	if f.DryRun {
		verb = "Would add"
	}
	screen := Screen{Parts: []Part{{Grid: tableGrid(f.Table)}}}
	screen.Headline = []Text{{Tone: Strong, Text: fmt.Sprintf("%s %s to %s, with this answer.", verb, f.Question, f.File)}}
	if f.AnswerFile != "" {
		screen.Headline = append(screen.Headline, Text{Text: "Its rows are in " + f.AnswerFile + " beside it."})
	}
	if f.Table.Rows() == 0 {
		screen.Headline = append(screen.Headline, Text{Tone: Wrong, Text: "The answer is empty: any query that finds nothing is right."})
	}
	for _, n := range f.Notes {
		screen.Headline = append(screen.Headline, Text{Text: n})
	}
	if f.Notes == nil {
		f.Notes = []string{}
	}
	screen.Data = f
	if !f.DryRun {
		screen.Next = []string{fmt.Sprintf("See what the answer can tell apart with `tovrel set strength %s`.", f.Question)}
	}
	return screen
}
