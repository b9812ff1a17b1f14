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
	total := 0
	for _, r := range rows {
		total += r.Attempts
	}
	g := gridOf(rows,
		declare(Column{Name: "translator", Keep: true}, func(r DryRun) Cell { return text(r.Translator) }),
		declare(Column{Name: "questions", Right: true}, func(r DryRun) Cell { return count(r.Questions) }),
		declare(Column{Name: "asks", Right: true}, func(r DryRun) Cell { return count(r.Attempts) }),
		declare(Column{Name: "cost", Right: true}, func(r DryRun) Cell {
			if r.Cost == nil {
				return Cell{Text: "", Shown: "unknown", Tone: Faint}
			}
			return text(fmt.Sprintf("%.4f", *r.Cost))
		}),
	)
	g.Main = true
	return Screen{
		Headline: []Text{{Tone: Strong, Text: fmt.Sprintf("%s would be made; nothing was asked.", plural(total, "ask", "asks"))}},
		Parts:    []Part{{Grid: g}}, Data: dryRunForm{append([]DryRun{}, rows...), append([]string{}, questions...)},
		Next: []string{"The cost is reckoned from each translator's last run. Leave out --dry-run to ask."},
	}
}
