package view

import "fmt"

// HarvestForm is the JSON form of a question that users asked.
type HarvestForm struct {
	Question string `json:"question"` // its name in a golden set
	Text     string `json:"text"`
	State    string `json:"state"` // draft, held, rejected added
	Asked    int    `json:"asked"`
	Wordings int    `json:"wordings"`
	Query    string `json:"query"`
	Rejected int    `json:"rejected"` // queries that were rated down, and are new
}

type harvestedForm struct {
	File      string        `json:"file"`
	Questions []HarvestForm `json:"questions"`
	DryRun    bool          `json:"dry_run"`
}

func (f HarvestForm) isDraft() bool { return f.State == "draft" }

// Harvested shows what became of rated questions.
func Harvested(file string, rated int, forms []HarvestForm, dryRun bool) Screen {
	drafts, held := 0, 0
	for _, f := range forms {
		if f.isDraft() {
			drafts++
		} else {
			held++
		}
	}
	g := gridOf(forms,
		declare(Column{Name: "state", Keep: true}, func(f HarvestForm) Cell {
			return Cell{Text: f.State, Tone: map[bool]Tone{true: Right, false: Faint}[f.isDraft()]}
		}),
		declare(Column{Name: "question", Keep: true}, func(f HarvestForm) Cell { return text(f.Question) }),
		declare(Column{Name: "text", Head: true}, func(f HarvestForm) Cell { return text(f.Text) }),
		declare(Column{Name: "asked", Right: true}, func(f HarvestForm) Cell { return count(f.Asked) }),
		declare(Column{Name: "wordings", Right: true}, func(f HarvestForm) Cell { return count(f.Wordings) }),
		declare(Column{Name: "query"}, func(f HarvestForm) Cell {
			return Cell{Text: f.Query, Shown: map[bool]string{true: "–", false: "yes"}[f.Query == ""]}
		}),
		declare(Column{Name: "rated down", Right: true}, func(f HarvestForm) Cell { return count(f.Rejected) }),
	)
	g.Main = true
	verb := "Appended"
	if dryRun {
		verb = "Would append"
	}
	screen := Screen{Data: harvestedForm{file, append([]HarvestForm{}, forms...), dryRun},
		Headline: []Text{{Tone: Strong, Text: fmt.Sprintf("%s %s to %s, of %s; %s held already.", verb,
			plural(drafts, "draft", "drafts"), file,
			plural(rated, "rated question", "rated questions"), plural(held, "is", "are"))}}}
	if len(forms) > 0 {
		screen.Parts = []Part{{Grid: g}}
	}
	if drafts > 0 {
		screen.Next = []string{"Look at each draft, mend its query, and take `draft: true` out to have it scored."}
	}
	return screen
}
