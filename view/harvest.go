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

// Harvested shows what became of rated questions.
func Harvested(file string, rated int, forms []HarvestForm, dryRun bool) Screen {
	drafts, held := 0, 0
	g := &Grid{Main: true, Columns: []Column{{Name: "state", Keep: true}, {Name: "question", Keep: true},
		{Name: "text", Head: true}, {Name: "asked", Right: true}, {Name: "wordings", Right: true}, {Name: "query"},
		{Name: "rated down", Right: true}}}
	for _, f := range forms {
		has, tone := "–", Faint
		if f.Query != "" {
			has = "yes"
		}
		switch f.State {
		case "draft":
			drafts++
			tone = Right
		default:
			held++
		}
		g.Rows = append(g.Rows, []Cell{{Text: f.State, Tone: tone}, text(f.Question), text(f.Text), count(f.Asked),
			count(f.Wordings), {Text: f.Query, Shown: has}, count(f.Rejected)})
	}
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
