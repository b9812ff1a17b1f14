package view

import "fmt"

// DraftForm is the JSON form of a question that was proposed.
type DraftForm struct {
	Question string `json:"question"`
	Kind     string `json:"kind"`
	Text     string `json:"text"`
	Query    string `json:"query"`
}

// draftedForm is the JSON form of proposals.
type draftedForm struct {
	File   string      `json:"file"`
	Drafts []DraftForm `json:"drafts"`
	DryRun bool        `json:"dry_run"`
}

// Drafted shows the questions that were proposed for a golden set.
func Drafted(file string, drafts []DraftForm, dryRun bool) Screen {
	if drafts == nil {
		drafts = []DraftForm{}
	}
	g := gridOf(drafts,
		declare(Column{Name: "question", Keep: true}, func(d DraftForm) Cell { return text(d.Question) }),
		declare(Column{Name: "kind", Spare: true}, func(d DraftForm) Cell { return text(d.Kind) }),
		declare(Column{Name: "text", Wrap: true}, func(d DraftForm) Cell { return text(d.Text) }),
	)
	g.Main = true
	screen := Screen{Parts: []Part{{Grid: g}}, Data: draftedForm{file, drafts, dryRun}}
	switch {
	case len(drafts) == 0:
		screen.Headline = []Text{{Text: "There is nothing to propose that is not asked already."}}
		screen.Parts = nil
	case dryRun:
		screen.Headline = []Text{{Tone: Strong, Text: fmt.Sprintf("%s would be added to %s as drafts.",
			plural(len(drafts), "question", "questions"), file)}}
	default:
		screen.Headline = []Text{{Tone: Strong, Text: fmt.Sprintf("%s in %s, as drafts with their answers.",
			plural(len(drafts), "question stands", "questions stand"), file)}}
		screen.Next = []string{fmt.Sprintf("Read them, say them in your own words, and take `draft: true` away from those to "+
			"keep; then `tovrel run`. See all with `tovrel set list %s`.", file)}
	}
	return screen
}
