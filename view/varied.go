package view

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/versus"
)

// mostVaried is how many lines are shown of each thing that varied.
const mostVaried = 12

// variedPart says what the runs were made under differently, a line each; what changed inside is below it.
func variedPart(c versus.Comparison) Part {
	if len(c.Varied) == 0 {
		return Part{Lines: []Text{{Tone: Faint, Text: "These runs differ in nothing that is recorded: translator, settings, model, " +
			"briefing and data are the same."}}}
	}
	p := Part{Title: "These runs differ in"}
	for _, v := range c.Varied {
		if len(v.Changed) == 1 && !strings.HasPrefix(v.Changed[0], "+") && !strings.HasPrefix(v.Changed[0], "-") {
			p.Lines = append(p.Lines, Text{Text: v.What + ": " + v.Changed[0]})
			continue
		}
		p.Lines = append(p.Lines, Text{Text: v.What + ":"})
		for _, line := range v.Changed[:min(mostVaried, len(v.Changed))] {
			tone := Plain
			switch line[:1] {
			case "+":
				tone = Right
			case "-":
				tone = Wrong
			}
			p.Lines = append(p.Lines, Text{Tone: tone, Text: "  " + line})
		}
		if more := len(v.Changed) - mostVaried; more > 0 {
			p.Lines = append(p.Lines, Text{Tone: Faint, Text: fmt.Sprintf("  and %s; all with --output json", plural(more, "more line",
				"more lines"))})
		}
	}
	return p
}

// onlyBriefing tells whether nothing but what the translator was told was varied.
func onlyBriefing(c versus.Comparison) bool {
	return len(c.Varied) > 0 && !slices.ContainsFunc(c.Varied, func(v versus.Varied) bool {
		return v.What != versus.VariedBriefing && v.What != versus.VariedLevel
	})
}

// driftForm is the JSON form of how far answers are the same.
type driftForm struct {
	Questions int        `json:"questions"` // that both runs have an answer of, on the same ground
	Changed   int        `json:"changed"`
	Share     *float64   `json:"share"`
	Queries   int        `json:"queries_changed"` // questions whose query, or words, are another text
	Steps     []stepForm `json:"steps"`
}

// stepForm counts changed answers by their verdicts.
type stepForm struct {
	Was       score.Verdict `json:"was"`
	Is        score.Verdict `json:"is"`
	Questions int           `json:"questions"`
}

func driftFormOf(d versus.Drift) driftForm {
	f := driftForm{Questions: d.Questions, Changed: len(d.Changed), Share: d.Share(), Queries: d.Queries, Steps: []stepForm{}}
	for _, was := range score.Verdicts() {
		for _, is := range score.Verdicts() {
			if n := d.Steps[versus.Step{Was: was, Is: is}]; n > 0 {
				f.Steps = append(f.Steps, stepForm{was, is, n})
			}
		}
	}
	return f
}

// driftLine says how many answers changed, right or wrong.
func driftLine(d versus.Drift) Text {
	if d.Questions == 0 {
		return Text{Text: "No question has an answer in both runs, so none can have changed."}
	}
	line := fmt.Sprintf("Answers changed: %d of %d", len(d.Changed), d.Questions)
	var steps []string
	for _, s := range driftFormOf(d).Steps {
		words := fmt.Sprintf("%d %s → %s", s.Questions, s.Was, s.Is)
		if s.Was == s.Is {
			words = fmt.Sprintf("%d %s → another %s answer", s.Questions, s.Was, s.Is)
		}
		steps = append(steps, words)
	}
	if len(steps) > 0 {
		line += " (" + strings.Join(steps, ", ") + ")"
	}
	if d.Known > 0 {
		line += fmt.Sprintf(". The text of the query changed in %d", d.Queries)
	}
	return Text{Text: line + "."}
}

// circumstancesOf says by which model a run was answered, and how much of the briefing was told; "" where neither is known.
func circumstancesOf(s record.Summary) string {
	var parts []string
	if len(s.Models) > 0 {
		parts = append(parts, "Model: "+strings.Join(s.Models, ", "))
	}
	if s.Level != "" {
		parts = append(parts, "briefing: "+s.Level)
	}
	if len(parts) == 0 {
		return ""
	}
	words := strings.Join(parts, "; ")
	return strings.ToUpper(words[:1]) + words[1:]
}
