package view

import (
	"fmt"

	"tovrel/core/fault"
	"tovrel/core/run"
)

// WhyForm is the JSON form of a diagnosis by hand.
type WhyForm struct {
	Matched    bool          `json:"matched"`
	Faults     []fault.Fault `json:"faults"`
	Tried      int           `json:"tried"`
	DurationMS int64         `json:"duration_ms"`
	Edits      []run.Edit    `json:"edits"`
}

// Why shows the cause of a wrong answer, the evidence, and every edit that was tried.
func Why(f WhyForm, ended string) Screen {
	if f.Faults == nil {
		f.Faults = []fault.Fault{}
	}
	if f.Edits == nil {
		f.Edits = []run.Edit{}
	}
	screen := Screen{Data: f}
	switch {
	case f.Matched:
		screen.Headline = []Text{{Tone: Right, Text: "The answer is right: there is nothing to explain."}}
		return screen
	case len(f.Faults) == 0:
		screen.Headline = []Text{{Tone: Wrong, Text: fmt.Sprintf("The answer is wrong, and no cause could be shown; %s tried.", Plural(f.Tried, "edit was", "edits were"))}}
	default:
		main := f.Faults[0]
		screen.Headline = []Text{{Tone: Wrong, Text: fmt.Sprintf("%s (%s): %s.", main.Code, main.Certainty, main.Evidence)}}
	}
	if ended != "" {
		screen.Headline = append(screen.Headline, Text{Tone: Unscored, Text: "The search ended at " + ended + "."})
	}
	for _, fa := range f.Faults {
		title := fmt.Sprintf("%s, %s", fa.Code, fa.Certainty)
		if fa.Edit != "" {
			screen.Parts = append(screen.Parts, Part{Title: title, Lines: []Text{{Text: fa.Edit}}})
		}
		if fa.Query != "" {
			screen.Parts = append(screen.Parts, Part{Title: "The edited query", Code: &Code{"sql", fa.Query}})
		}
	}
	g := &Grid{Main: true, Columns: []Column{{Name: "hit", Keep: true}, {Name: "fault", Keep: true}, {Name: "of", Keep: true}, {Name: "distance", Right: true}, {Name: "edit"}}}
	for _, e := range f.Edits {
		hit, of := Cell{Text: "no", Tone: Faint}, "reference"
		if e.Hit {
			hit = Cell{Text: "yes", Tone: Strong}
		}
		if e.Repair {
			of = "answer"
		}
		g.Rows = append(g.Rows, []Cell{hit, text(string(e.Code)), text(of), count(e.Distance), text(e.Edit)})
	}
	if len(g.Rows) > 0 {
		screen.Parts = append(screen.Parts, Part{Title: fmt.Sprintf("Edits that were run, %d ms", f.DurationMS), Grid: g})
	}
	return screen
}
