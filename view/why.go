package view

import (
	"fmt"
	"slices"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
)

// WhyForm is the JSON form of a diagnosis by hand.
type WhyForm struct {
	Matched    bool          `json:"matched"`
	Faults     []fault.Fault `json:"faults"`
	Tried      int           `json:"tried"`
	DurationMS int64         `json:"duration_ms"`
	Edits      []record.Edit `json:"edits"`

	Alterations []record.Alteration `json:"alterations"`
	// Notes say what could not be done, and why.
	Notes []string `json:"notes,omitempty"`
	// All lists on the screen also what showed nothing.
	All bool `json:"-"`
}

// Why shows the cause of a wrong answer, the evidence, and the edits that were tried.
func Why(f WhyForm, ended string) Screen {
	if f.Faults == nil {
		f.Faults = []fault.Fault{}
	}
	if f.Edits == nil {
		f.Edits = []record.Edit{}
	}
	if f.Alterations == nil {
		f.Alterations = []record.Alteration{}
	}
	screen := Screen{Data: f, Headline: whyHeadline(f)}
	if f.Matched {
		return screen
	}
	if ended != "" {
		screen.Headline = append(screen.Headline, Text{Tone: Unscored, Text: "The search ended at " + ended + "."})
	}
	for _, n := range f.Notes {
		screen.Headline = append(screen.Headline, Text{Tone: Unscored, Text: "Note: " + n + "."})
	}
	screen.Parts = append(evidenceParts(f.Faults), editParts(f, true)...)
	return screen
}

func whyHeadline(f WhyForm) []Text {
	switch {
	case f.Matched:
		return []Text{{Tone: Right, Text: "The answer is right: there is nothing to explain."}}
	case len(f.Faults) == 0:
		return []Text{{Tone: Wrong, Text: fmt.Sprintf("The answer is wrong, and no cause could be shown; %s tried.",
			plural(f.Tried, "edit was", "edits were"))}}
	}
	main := f.Faults[0]
	return []Text{{Tone: Wrong, Text: fmt.Sprintf("%s (%s): %s.", main.Code, main.Certainty, main.Evidence)}}
}

// evidenceParts are the faults with the edited queries that show them.
func evidenceParts(faults []fault.Fault) []Part {
	var parts []Part
	for _, fa := range faults {
		if fa.Edit != "" {
			parts = append(parts, Part{Title: fmt.Sprintf("%s, %s", fa.Code, fa.Certainty), Lines: []Text{{Text: fa.Edit}}})
		}
		if fa.Query != "" {
			parts = append(parts, Part{Title: "The edited query", Code: &Code{"sql", fa.Query}})
		}
		if fa.Rows != nil {
			parts = append(parts, rowsPart(fa.Rows))
		}
	}
	return parts
}

// rowsPart are rows of the data that make a difference.
func rowsPart(r *fault.Rows) Part {
	g := &Grid{}
	for _, name := range r.Columns {
		g.Columns = append(g.Columns, Column{Name: name})
	}
	for _, row := range r.First {
		var cells []Cell
		for _, c := range row {
			if c == nil {
				cells = append(cells, Cell{Text: "null", Tone: Faint})
			} else {
				cells = append(cells, text(*c))
			}
		}
		g.Rows = append(g.Rows, cells)
	}
	title := fmt.Sprintf("The rows of %s that make the difference", r.Table)
	if more := r.Count - int64(len(r.First)); more > 0 {
		title = fmt.Sprintf("%d of the %d rows of %s that make the difference", len(r.First), r.Count, r.Table)
	}
	return Part{Title: title, Grid: g}
}

// editParts list what was run: on the screen what showed something, or all; the main grid, which is what CSV is made of, always has all.
func editParts(f WhyForm, main bool) []Part {
	edits, alterations := f.Edits, f.Alterations
	if !f.All {
		edits = slices.DeleteFunc(slices.Clone(edits), func(e record.Edit) bool { return !e.Hit })
		alterations = slices.DeleteFunc(slices.Clone(alterations), func(a record.Alteration) bool { return a.Shows == "" })
	}
	var parts []Part
	if len(f.Edits) > 0 {
		g := editGrid(edits)
		g.Main, g.Exact, g.Machine = main, func() *Grid { return editGrid(f.Edits) }, len(edits) == 0
		parts = append(parts, Part{Title: fmt.Sprintf("Edits that were run, %d ms", f.DurationMS), Grid: g})
	}
	if len(alterations) > 0 {
		parts = append(parts, Part{Title: "Changes of the data under which the queries were run", Grid: alterationGrid(alterations)})
	}
	if vain := len(f.Edits) - len(edits) + len(f.Alterations) - len(alterations); vain > 0 {
		parts = append(parts, Part{Lines: []Text{{Tone: Faint, Text: fmt.Sprintf("%s nothing; --all lists them.",
			plural(vain, "more edit or change of the data shows", "more edits and changes of the data show"))}}})
	}
	return parts
}

func editGrid(edits []record.Edit) *Grid {
	hit := map[bool]Cell{false: {Text: "no", Tone: Faint}, true: {Text: "yes", Tone: Strong}}
	of := map[bool]string{false: "reference", true: "answer"}
	return gridOf(edits,
		declare(Column{Name: "hit", Keep: true}, func(e record.Edit) Cell { return hit[e.Hit] }),
		declare(Column{Name: "fault", Keep: true}, func(e record.Edit) Cell { return text(string(e.Code)) }),
		declare(Column{Name: "of", Keep: true}, func(e record.Edit) Cell { return text(of[e.Repair]) }),
		declare(Column{Name: "distance", Right: true}, func(e record.Edit) Cell { return count(e.Distance) }),
		declare(Column{Name: "edit", Head: true}, func(e record.Edit) Cell { return text(e.Edit) }),
	)
}

func alterationGrid(all []record.Alteration) *Grid {
	return gridOf(all,
		declare(Column{Name: "shows", Keep: true}, func(a record.Alteration) Cell {
			if a.Shows == "" {
				return Cell{Text: "nothing", Tone: Faint}
			}
			return Cell{Text: string(a.Shows), Tone: Strong}
		}),
		declare(Column{Name: "change of the data", Head: true}, func(a record.Alteration) Cell { return text(a.Change) }),
	)
}

// whyQuestionForm is the JSON form of a diagnosis of one question of a run.
type whyQuestionForm struct {
	questionForm
	Matched    bool          `json:"matched"`
	Tried      int           `json:"tried"`
	DurationMS int64         `json:"duration_ms"`
	Edits      []record.Edit `json:"edits"`

	Alterations []record.Alteration `json:"alterations"`
}

// WhyQuestion adds to the view of one question the cause, the evidence, and every edit that was tried.
func WhyQuestion(question Screen, f WhyForm, ended string) Screen {
	form, _ := question.Data.(questionForm)
	if f.Edits == nil {
		f.Edits = []record.Edit{}
	}
	if len(f.Faults) > 0 {
		form.Faults = f.Faults
	}
	if f.Alterations == nil {
		f.Alterations = []record.Alteration{}
	}
	question.Data = whyQuestionForm{form, f.Matched, f.Tried, f.DurationMS, f.Edits, f.Alterations}
	why := Why(f, ended)
	question.Headline = append(why.Headline, question.Headline...)
	var rest []Part
	for _, p := range question.Parts {
		if p.Title != "Faults" {
			rest = append(rest, p)
		}
	}
	question.Parts = append(append(evidenceParts(f.Faults), rest...), editParts(f, false)...)
	return question
}

// causesForm is the JSON form of the causes of a run.
type causesForm struct {
	Run        int                  `json:"run"`
	Translator string               `json:"translator"`
	Faults     map[fault.Code]int   `json:"faults"`
	Families   map[fault.Family]int `json:"families"`
	Attempts   []Attempt            `json:"attempts"` // those that are not right, and scored
}

// Causes shows the causes of all answers of a run that are not right; false where there is none.
func Causes(r record.Run, attempts []record.Attempt) (Screen, bool) {
	s := record.Summarise(r, attempts)
	form := causesForm{Run: r.ID, Translator: r.Translator, Faults: s.Faults, Families: s.Families, Attempts: []Attempt{}}
	proved := 0
	var explained []record.Attempt
	for _, a := range attempts {
		if len(a.Faults) == 0 || a.Verdict == score.Unscored {
			continue
		}
		explained = append(explained, a)
		form.Attempts = append(form.Attempts, attemptOf(a))
		if a.Faults[0].Certainty == fault.Proved {
			proved++
		}
	}
	g := gridOf(explained,
		declare(Column{Name: "fault", Keep: true}, func(a record.Attempt) Cell { return text(string(mainFault(a).Code)) }),
		declare(Column{Name: "certainty", Keep: true}, func(a record.Attempt) Cell { return text(string(mainFault(a).Certainty)) }),
		declare(Column{Name: "question", Keep: true}, func(a record.Attempt) Cell { return text(a.Question) }),
		declare(Column{Name: "evidence", Wrap: true}, func(a record.Attempt) Cell { return text(mainFault(a).Evidence) }),
	)
	g.Main = true
	if len(g.Rows) == 0 {
		return Screen{Data: form, Headline: []Text{{Tone: Right,
			Text: fmt.Sprintf("Run %d, %s: no answer is wrong, there is nothing to explain.", r.ID, r.Translator)}}}, false
	}
	screen := Screen{Data: form, Headline: []Text{{Tone: Strong,
		Text: fmt.Sprintf("Run %d, %s: of %s that are not right, the cause of %d is proved.", r.ID, r.Translator,
			plural(len(g.Rows), "attempt", "attempts"), proved)}}}
	screen.Parts = []Part{{Title: "Main faults", Bars: faultBars(s)}, {Title: "Causes", Grid: g}}
	screen.Next = []string{fmt.Sprintf("See the first with every edit that was tried with `tovrel why %d %s`.", r.ID,
		form.Attempts[0].Question)}
	return screen, true
}
