package view

import (
	"fmt"
	"strings"
)

// Worked is what one machine did of a run of a team.
type Worked struct {
	Run        int      `json:"run"`
	Translator string   `json:"translator"`
	Attempts   int      `json:"attempts"` // that were made here
	Differs    []string `json:"differs"`  // why nothing was taken; none where parts were
}

type workedForm struct {
	Runs []Worked `json:"runs"`
}

// Work shows what a worker did.
func Work(runs []Worked) Screen {
	made, differ := 0, false
	form := workedForm{make([]Worked, 0, len(runs))}
	for _, r := range runs {
		made, differ = made+r.Attempts, differ || len(r.Differs) > 0
		r.Differs = some(r.Differs)
		form.Runs = append(form.Runs, r)
	}
	columns := []column[Worked]{
		declare(Column{Name: "run", Right: true, Keep: true}, func(r Worked) Cell { return count(r.Run) }),
		declare(Column{Name: "translator", Keep: true}, func(r Worked) Cell { return text(r.Translator) }),
		declare(Column{Name: "attempts", Right: true}, func(r Worked) Cell { return count(r.Attempts) }),
	}
	if differ {
		columns = append(columns, declare(Column{Name: "took nothing, since this differs"},
			func(r Worked) Cell { return text(strings.Join(r.Differs, "; ")) }))
	}
	g := gridOf(runs, columns...)
	g.Main = true
	screen := Screen{Data: form, Headline: []Text{{Tone: Strong, Text: fmt.Sprintf("%s made here, of %s.",
		plural(made, "attempt", "attempts"), plural(len(runs), "run", "runs"))}}}
	if len(runs) > 0 {
		screen.Parts = []Part{{Grid: g}}
	}
	return screen
}
