package view

import (
	"fmt"
)

// RefreshedForm is the JSON form of one answer of a golden set that was computed again.
type RefreshedForm struct {
	Question string     `json:"question"`
	Reading  string     `json:"reading"` // "" for the question's own answer
	File     string     `json:"file"`
	Line     int        `json:"line"`
	State    string     `json:"state"`             // changed, no table yet, same, fails, hand-written, expects no table
	Because  string     `json:"because,omitempty"` // what changed: data, query; "" where that is not known
	Cells    []CellForm `json:"cells"`
	Added    int        `json:"rows_added"`
	Gone     int        `json:"rows_gone"`
	Why      string     `json:"why,omitempty"`
}

// The states of an answer that was computed again.
const (
	RefreshChanged = "changed"
	RefreshNew     = "no table yet"
	RefreshSame    = "same"
	RefreshFails   = "fails"
	RefreshByHand  = "hand-written"
	RefreshNone    = "expects no table" // a question that is to be asked back or declined
)

// Writes tells whether refreshing writes a table for the answer.
func (r RefreshedForm) Writes() bool { return r.State == RefreshChanged || r.State == RefreshNew }

// CellForm is a cell that changes.
type CellForm struct {
	Row    int    `json:"row"` // from 1
	Column string `json:"column"`
	Was    string `json:"was"`
	Is     string `json:"is"`
}

type refreshForm struct {
	DryRun  bool            `json:"dry_run"`
	Answers []RefreshedForm `json:"answers"`
}

// answerName is the question, with the reading where it is not the expected answer itself.
func (r RefreshedForm) answerName() string {
	if r.Reading == "" {
		return r.Question
	}
	return r.Question + ", reading " + r.Reading
}

// Refresh shows what recomputing the expected answers changes.
func Refresh(all []RefreshedForm, dryRun bool) Screen {
	form := refreshForm{DryRun: dryRun, Answers: all}
	if form.Answers == nil {
		form.Answers = []RefreshedForm{}
	}
	counts := map[string]int{}
	var changing, byHand []RefreshedForm
	for _, r := range all {
		counts[r.State]++
		switch r.State {
		case RefreshChanged, RefreshNew, RefreshFails:
			changing = append(changing, r)
		case RefreshByHand:
			byHand = append(byHand, r)
		}
	}
	name := declare(Column{Name: "question", Keep: true}, func(r RefreshedForm) Cell { return text(r.answerName()) })
	g := gridOf(changing, name,
		declare(Column{Name: "state", Keep: true}, func(r RefreshedForm) Cell {
			return Cell{Text: r.State, Tone: map[string]Tone{RefreshChanged: Strong, RefreshNew: Strong, RefreshFails: Wrong}[r.State]}
		}),
		declare(Column{Name: "because"}, func(r RefreshedForm) Cell { return text(r.Because) }),
		declare(Column{Name: "what changes", Wrap: true}, func(r RefreshedForm) Cell { return text(changeWords(r)) }),
	)
	g.Main = true
	review := gridOf(byHand, name,
		declare(Column{Name: "place"}, func(r RefreshedForm) Cell { return text(fmt.Sprintf("%s:%d", r.File, r.Line)) }))
	screen := Screen{Data: form, Headline: []Text{{Tone: Strong, Text: refreshHeadline(len(all), counts)}}}
	if len(g.Rows) > 0 {
		screen.Parts = append(screen.Parts, Part{Title: "What changes", Grid: g})
	}
	if len(review.Rows) > 0 {
		screen.Parts = append(screen.Parts, Part{Title: "Written by hand, without a reference query: look at them yourself", Grid: review})
	}
	if dryRun && counts[RefreshChanged]+counts[RefreshNew] > 0 {
		screen.Next = []string{"Write them with `tovrel set refresh --yes`."}
	}
	return screen
}

// refreshHeadline counts what has an answer; what expects none is told apart.
func refreshHeadline(all int, counts map[string]int) string {
	line := fmt.Sprintf("%s: %d changed, %d without a table yet, %d the same, %d whose query fails, %d written by hand.",
		plural(all-counts[RefreshNone], "answer", "answers"),
		counts[RefreshChanged], counts[RefreshNew], counts[RefreshSame], counts[RefreshFails], counts[RefreshByHand])
	if n := counts[RefreshNone]; n > 0 {
		line += " " + plural(n, "question expects", "questions expect") + " no table."
	}
	return line
}

func changeWords(r RefreshedForm) string {
	if r.Why != "" {
		return r.Why
	}
	words := ""
	const most = 3
	for i, c := range r.Cells {
		if i == most {
			words += fmt.Sprintf("and %d more cells; ", len(r.Cells)-most)
			break
		}
		words += fmt.Sprintf("row %d, %s: %s → %s; ", c.Row, c.Column, c.Was, c.Is)
	}
	if r.Added+r.Gone > 0 {
		words += fmt.Sprintf("%s new, %d gone; ", plural(r.Added, "row", "rows"), r.Gone)
	}
	if len(words) > 2 {
		words = words[:len(words)-2]
	}
	return words
}
