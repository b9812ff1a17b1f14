package view

import (
	"fmt"

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
}

// Why shows the cause of a wrong answer, the evidence, and every edit that was tried.
func Why(f WhyForm, ended string) Screen {
	if f.Faults == nil {
		f.Faults = []fault.Fault{}
	}
	if f.Edits == nil {
		f.Edits = []record.Edit{}
	}
	screen := Screen{Data: f, Headline: whyHeadline(f)}
	if f.Matched {
		return screen
	}
	if ended != "" {
		screen.Headline = append(screen.Headline, Text{Tone: Unscored, Text: "The search ended at " + ended + "."})
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
	}
	return parts
}

// editParts list the edits that were run; the main grid is what CSV is made of.
func editParts(f WhyForm, main bool) []Part {
	hit := map[bool]Cell{false: {Text: "no", Tone: Faint}, true: {Text: "yes", Tone: Strong}}
	of := map[bool]string{false: "reference", true: "answer"}
	g := gridOf(f.Edits,
		declare(Column{Name: "hit", Keep: true}, func(e record.Edit) Cell { return hit[e.Hit] }),
		declare(Column{Name: "fault", Keep: true}, func(e record.Edit) Cell { return text(string(e.Code)) }),
		declare(Column{Name: "of", Keep: true}, func(e record.Edit) Cell { return text(of[e.Repair]) }),
		declare(Column{Name: "distance", Right: true}, func(e record.Edit) Cell { return count(e.Distance) }),
		declare(Column{Name: "edit", Head: true}, func(e record.Edit) Cell { return text(e.Edit) }),
	)
	g.Main = main
	if len(g.Rows) == 0 {
		return nil
	}
	return []Part{{Title: fmt.Sprintf("Edits that were run, %d ms", f.DurationMS), Grid: g}}
}

// whyQuestionForm is the JSON form of a diagnosis of one question of a run.
type whyQuestionForm struct {
	questionForm
	Matched    bool          `json:"matched"`
	Tried      int           `json:"tried"`
	DurationMS int64         `json:"duration_ms"`
	Edits      []record.Edit `json:"edits"`
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
	question.Data = whyQuestionForm{form, f.Matched, f.Tried, f.DurationMS, f.Edits}
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
