package view

import "fmt"

// DryRun is what a run would ask of a translator.
type DryRun struct {
	Translator string   `json:"translator"`
	Questions  int      `json:"questions"`
	Attempts   int      `json:"attempts"`
	Cost       *float64 `json:"cost"` // nil where it is not known
}

type dryRunForm struct {
	Runs      []DryRun `json:"runs"`
	Questions []string `json:"questions"`
}

// DryRuns shows what runs would ask, and what they would cost.
func DryRuns(rows []DryRun, questions []string) Screen {
	g := &Grid{Main: true, Columns: []Column{{Name: "translator", Keep: true}, {Name: "questions", Right: true},
		{Name: "asks", Right: true}, {Name: "cost", Right: true}}}
	total := 0
	for _, r := range rows {
		total += r.Attempts
		cost := Cell{Text: "", Shown: "unknown", Tone: Faint}
		if r.Cost != nil {
			cost = text(fmt.Sprintf("%.4f", *r.Cost))
		}
		g.Rows = append(g.Rows, []Cell{text(r.Translator), count(r.Questions), count(r.Attempts), cost})
	}
	return Screen{
		Headline: []Text{{Tone: Strong, Text: fmt.Sprintf("%s would be made; nothing was asked.", plural(total, "ask", "asks"))}},
		Parts:    []Part{{Grid: g}}, Data: dryRunForm{append([]DryRun{}, rows...), append([]string{}, questions...)},
		Next: []string{"The cost is reckoned from each translator's last run. Leave out --dry-run to ask."},
	}
}
