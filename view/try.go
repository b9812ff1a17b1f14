package view

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/versus"
)

// Trial is what a change of the briefing was worth, whole and entry by entry.
type Trial struct {
	Translator, Dataset string
	File, Present       string // of the proposed briefing and of the present one
	Comparison          versus.Comparison
	Entries             []TrialEntry
	Each                bool // the entries were tried one by one
	Asked, Reused       int  // attempts
	Seed                uint64
}

// TrialEntry is one changed entry.
type TrialEntry struct {
	Name       string
	Changed    []string
	Comparison *versus.Comparison // with the present briefing; nil where it was not tried for itself
	Skipped    bool               // the budget was spent
}

type trialForm struct {
	Translator string           `json:"translator"`
	Dataset    string           `json:"dataset"`
	Briefing   string           `json:"briefing"`
	Asked      int              `json:"asked"`
	UsedAgain  int              `json:"used_again"` // attempts whose answers the history had
	Comparison compareForm      `json:"comparison"`
	Entries    []trialEntryForm `json:"entries"`
}

type trialEntryForm struct {
	Entry      string         `json:"entry"`
	Changed    []string       `json:"changed"`
	Effect     string         `json:"effect"` // helps, hurts, both, nothing, not tried
	Run        int            `json:"run,omitempty"`
	Difference float64        `json:"difference"`
	Interval   [2]float64     `json:"interval"`
	PValue     float64        `json:"p_value"`
	Outcome    versus.Outcome `json:"outcome,omitempty"`
	Improved   []string       `json:"improved"`
	Regressed  []string       `json:"regressed"`
	Answers    []string       `json:"changed_answers"`
}

// The effects of an entry.
const (
	helps    = "helps"
	hurts    = "hurts"
	both     = "both"
	nothing  = "nothing"
	notTried = "not tried"
)

// effect is what an entry did for itself: by the share of right attempts of each question, also where a question was only shaken.
func (e TrialEntry) effect() string {
	if e.Comparison == nil {
		return notTried
	}
	up, down := 0, 0
	for _, f := range e.Comparison.Flips {
		switch rank := map[string]int{"broken": 0, "flaky": 1, "solid": 2}; {
		case rank[string(f.Is)] > rank[string(f.Was)]:
			up++
		default:
			down++
		}
	}
	switch {
	case up > 0 && down > 0:
		return both
	case up > 0:
		return helps
	case down > 0:
		return hurts
	}
	return nothing
}

// TrialScreen shows what a change of the briefing was worth.
func TrialScreen(t Trial) Screen {
	o := CompareOptions{Seed: t.Seed}
	screen := Compare(t.Comparison, o)
	form := trialForm{Translator: t.Translator, Dataset: t.Dataset, Briefing: t.File, Asked: t.Asked, UsedAgain: t.Reused,
		Comparison: compareFormOf(t.Comparison, o), Entries: []trialEntryForm{}}
	for _, e := range t.Entries {
		form.Entries = append(form.Entries, e.form())
	}
	screen.Data = form
	screen.Headline = append(screen.Headline, Text{Tone: Faint, Text: fmt.Sprintf("%s asked; %s of the history used again.",
		plural(t.Asked, "answer was", "answers were"), plural(t.Reused, "answer", "answers"))})
	if t.Each {
		for i := range screen.Parts {
			if g := screen.Parts[i].Grid; g != nil {
				g.Main = false
			}
		}
		const differs = 1 // the part that says what was changed comes first
		screen.Parts = slices.Insert(screen.Parts, differs, entryParts(t.Entries)...)
	}
	screen.Next = tryNext(t)
	return screen
}

func (e TrialEntry) form() trialEntryForm {
	f := trialEntryForm{Entry: e.Name, Changed: e.Changed, Effect: e.effect(), PValue: 1, Improved: []string{}, Regressed: []string{},
		Answers: []string{}}
	if c := e.Comparison; c != nil {
		f.Run, f.Difference, f.Interval, f.PValue, f.Outcome = c.After.Run, c.Difference, c.Interval, c.PValue, c.Outcome
		f.Improved, f.Regressed, f.Answers = c.Of(versus.Improved), c.Of(versus.Regressed), some(c.Drift.Changed)
	}
	return f
}

// effectWords say what an entry did, and on which questions.
func effectWords(e TrialEntry) string {
	if e.Skipped {
		return "not tried: the budget was spent"
	}
	if e.Comparison == nil {
		return notTried
	}
	var words []string
	for _, kind := range []versus.FlipKind{versus.Improved, versus.Regressed, versus.Unstable} {
		if names := e.Comparison.Of(kind); len(names) > 0 {
			words = append(words, string(kind)+": "+someOf(names))
		}
	}
	if len(words) == 0 {
		if n := len(e.Comparison.Drift.Changed); n > 0 {
			return plural(n, "answer", "answers") + " changed, none of them to or from right"
		}
		return "no answer changed"
	}
	return strings.Join(words, "; ")
}

func entryParts(entries []TrialEntry) []Part {
	tones := map[string]Tone{helps: Right, hurts: Wrong, both: Lucky, notTried: Faint, nothing: Faint}
	g := gridOf(entries,
		declare(Column{Name: "entry", Keep: true}, func(e TrialEntry) Cell { return text(e.Name) }),
		declare(Column{Name: "for itself", Keep: true}, func(e TrialEntry) Cell { return Cell{Text: e.effect(), Tone: tones[e.effect()]} }),
		declare(Column{Name: "points", Right: true, Keep: true}, func(e TrialEntry) Cell {
			if e.Comparison == nil {
				return Cell{Shown: "–", Tone: Faint}
			}
			return text(points(e.Comparison.Difference))
		}),
		declare(Column{Name: "beyond noise"}, func(e TrialEntry) Cell {
			if e.Comparison == nil {
				return Cell{}
			}
			return text(map[bool]string{true: "no", false: "yes"}[e.Comparison.Outcome == versus.NoChange])
		}),
		declare(Column{Name: "what changed", Wrap: true}, func(e TrialEntry) Cell { return text(effectWords(e)) }),
	)
	g.Main = true
	return []Part{{Title: "Entry by entry: the present briefing with this one change", Grid: g},
		{Lines: []Text{{Tone: Faint, Text: "An entry helps or hurts by the questions that it turned; beyond noise says whether so many " +
			"would turn by chance."}}}}
}

// tryNext says how to take a briefing over, or what to take out of it first.
func tryNext(t Trial) []string {
	var harmful []string
	for _, e := range t.Entries {
		if e.effect() == hurts {
			harmful = append(harmful, e.Name)
		}
	}
	present := t.Present
	if present == "" {
		return []string{fmt.Sprintf("Take it over: name it as briefing: %s under datasets: %s in tovrel.yaml.", t.File, t.Dataset)}
	}
	over := fmt.Sprintf("Take it over with `cp %s %s`.", t.File, present)
	if len(harmful) > 0 {
		return []string{fmt.Sprintf("What hurts: %s. Take that out of %s, and try again: what was answered is not asked again.",
			strings.TrimSuffix(strings.Join(harmful, "; "), "."), t.File), over}
	}
	if !t.Each && len(t.Entries) > 1 {
		return []string{fmt.Sprintf("Which of its %d changes did that? `tovrel try --briefing %s -t %s --each`", len(t.Entries), t.File,
			t.Translator), over}
	}
	return []string{over}
}
