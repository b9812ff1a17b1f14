package view

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"tovrel/core/record"
	"tovrel/core/versus"
)

// gateForm is the JSON form of a gate's judgement.
type gateForm struct {
	Passed     bool            `json:"passed"`
	Run        int             `json:"run"`
	Translator string          `json:"translator"`
	Against    *string         `json:"against"`
	Conditions []conditionForm `json:"conditions"`
}

type conditionForm struct {
	Name    string         `json:"name"`
	Limit   any            `json:"limit"`
	Value   any            `json:"value"`
	Outcome versus.Verdict `json:"outcome"`
	Why     string         `json:"why"`
	Listed  []string       `json:"listed"`
	// how often in a year of nights it would not be met though nothing has changed; null where that cannot be told, absent where the
	// gate is not asked every night
	FalseAlarms *float64 `json:"false_alarms_a_year,omitempty"`
}

// Gate shows which conditions a run meets; against is the run that it was compared with, "" for none.
func Gate(r record.Run, against string, passed bool, conditions []versus.Judged) Screen {
	form := gateForm{Passed: passed, Run: r.ID, Translator: r.Translator, Conditions: []conditionForm{}}
	if against != "" {
		form.Against = &against
	}
	g := gridOf(conditions,
		declare(Column{Name: "condition", Keep: true}, func(c versus.Judged) Cell { return text(conditionName(c)) }),
		declare(Column{Name: "limit", Right: true, Keep: true},
			func(c versus.Judged) Cell { return Cell{Text: exactLimit(c), Shown: shownLimit(c)} }),
		declare(Column{Name: "value", Right: true, Keep: true},
			func(c versus.Judged) Cell { return Cell{Text: exactValue(c), Shown: shownValue(c)} }),
		declare(Column{Name: "outcome", Keep: true}, func(c versus.Judged) Cell {
			tones := map[versus.Verdict]Tone{versus.NotMet: Wrong, versus.NotEnough: Unscored}
			if tone, known := tones[c.Verdict]; known {
				return Cell{Text: string(c.Verdict), Tone: tone}
			}
			return Cell{Text: string(c.Verdict), Tone: Right}
		}),
		declare(Column{Name: "why", Wrap: true}, func(c versus.Judged) Cell { return text(conditionWhy(c)) }),
	)
	g.Main = true
	not, unsure := 0, 0
	var cases []Case
	for _, c := range conditions {
		form.Conditions = append(form.Conditions,
			conditionForm{conditionName(c), jsonLimit(c), jsonValue(c), c.Verdict, c.Why, some(c.Listed),
				c.FalseAlarms})
		switch c.Verdict {
		case versus.NotMet:
			not++
		case versus.NotEnough:
			unsure++
		}
		cases = append(cases, gateCase(c))
	}
	name := r.Translator
	if r.ID > 0 {
		name = fmt.Sprintf("Run %d, %s", r.ID, r.Translator)
	}
	line := Text{Tone: Right, Text: fmt.Sprintf("%s passes the gate: %s met.", name,
		plural(len(conditions)-unsure, "condition", "conditions"))}
	if !passed {
		line = Text{Tone: Wrong, Text: fmt.Sprintf("%s does not pass the gate: %d of %s not met", name, not,
			plural(len(conditions), "condition", "conditions"))}
		if unsure > 0 {
			line.Text += fmt.Sprintf(", %d without enough evidence", unsure)
		}
		line.Text += "."
	}
	screen := Screen{Headline: []Text{line}, Data: form, Cases: cases, Parts: []Part{{Title: "The gate", Grid: g, Figures: true}}}
	for _, c := range conditions {
		if c.Verdict != versus.Met && len(c.Listed) > 0 {
			var lines []Text
			for _, l := range c.Listed {
				lines = append(lines, Text{Text: "  " + l})
			}
			screen.Parts = append(screen.Parts, Part{Title: "Not met by " + conditionName(c), Lines: lines})
		}
	}
	screen.Next = gateNext(r, against, conditions)
	return screen
}

// gateCase is a condition as a case: one without enough evidence is skipped.
func gateCase(c versus.Judged) Case {
	out := Case{Suite: "gate", Name: conditionName(c), Outcome: CasePassed, Kind: string(c.Verdict)}
	if c.Verdict == versus.Met {
		return out
	}
	out.Outcome = CaseFailed
	if c.Verdict == versus.NotEnough {
		out.Outcome = CaseSkipped
	}
	out.Message = fmt.Sprintf("%s: the limit is %s, the value %s", c.Verdict, shownLimit(c), shownValue(c))
	out.Detail = strings.Join(append([]string{c.Why}, c.Listed...), "\n")
	return out
}

func gateNext(r record.Run, against string, conditions []versus.Judged) []string {
	if r.ID == 0 {
		return nil
	}
	for _, c := range conditions {
		if c.Verdict == versus.NotMet && (c.Name == versus.GateRegressions || c.Name == versus.GateDrop || c.Name == versus.GateUnstable) {
			return []string{fmt.Sprintf("See what changed with `tovrel compare %s %d`.", against, r.ID)}
		}
	}
	return []string{fmt.Sprintf("See the run with `tovrel show %d`.", r.ID)}
}

func conditionName(c versus.Judged) string {
	if c.Name == versus.GateTags {
		return "tags: " + c.Names[0] + ": accuracy"
	}
	return c.Name
}

func conditionWhy(c versus.Judged) string {
	if len(c.Listed) > 0 && c.Name != versus.GateFaults {
		return strings.TrimPrefix(c.Why+": "+someOf(c.Listed), ": ")
	}
	if len(c.Listed) > 0 {
		return someOf(c.Listed)
	}
	return c.Why
}

// isCount tells conditions whose value is a number of things.
func isCount(c versus.Judged) bool {
	switch c.Name {
	case versus.GateRegressions, versus.GateUnstable, versus.GateMustPass, versus.GateFaults:
		return true
	case versus.GateUnscored:
		return c.Limit == 0 || c.Limit >= 1
	}
	return false
}

func jsonLimit(c versus.Judged) any {
	if c.Name == versus.GateMustPass || c.Name == versus.GateFaults {
		return c.Names
	}
	return c.Limit
}

func jsonValue(c versus.Judged) any {
	if c.Value == nil {
		return nil
	}
	return *c.Value
}

func shownLimit(c versus.Judged) string {
	if c.Name == versus.GateMustPass || c.Name == versus.GateFaults {
		return strings.Join(c.Names, ", ")
	}
	sign := "≤ "
	if c.Least {
		sign = "≥ "
	}
	return sign + shownNumber(c, c.Limit)
}

// exactLimit is a limit for machines: the number alone, of shares from 0 to 1, of times in milliseconds.
func exactLimit(c versus.Judged) string {
	if names, ok := jsonLimit(c).([]string); ok {
		return strings.Join(names, ", ")
	}
	return strconv.FormatFloat(c.Limit, 'f', -1, 64)
}

func exactValue(c versus.Judged) string {
	if c.Value == nil {
		return ""
	}
	return strconv.FormatFloat(*c.Value, 'f', -1, 64)
}

func shownValue(c versus.Judged) string {
	if c.Value == nil {
		return "–"
	}
	return shownNumber(c, *c.Value)
}

func shownNumber(c versus.Judged, v float64) string {
	switch {
	case c.Name == versus.GateLatency:
		return time.Duration(v * float64(time.Millisecond)).Round(time.Millisecond).String()
	case c.Name == versus.GateCostPerRight:
		return strconv.FormatFloat(v, 'f', 4, 64)
	case isCount(c):
		return strconv.FormatFloat(v, 'f', -1, 64)
	}
	return strconv.FormatFloat(100*v, 'f', 1, 64) + " %"
}
