package view

import (
	"fmt"
	"strings"

	"tovrel/core/record"
	"tovrel/core/score"
)

// Report is a run for colleagues and build servers: the scoreboard, every question that is not right with its cause and both queries,
// and every attempt in full for spreadsheets.
func Report(r record.Run, attempts []record.Attempt) Screen {
	screen := Scoreboard(r, attempts)
	for i := range screen.Parts {
		if g := screen.Parts[i].Grid; g != nil {
			g.Main = false
		}
	}
	for _, a := range attempts {
		if a.Verdict != score.Right {
			screen.Parts = append(screen.Parts, problemParts(a)...)
		}
		screen.Cases = append(screen.Cases, attemptCase(a))
	}
	screen.Parts = append(screen.Parts, Part{Grid: attemptsGrid(attempts)})
	screen.Next = nil
	return screen
}

// problemParts show an attempt that is not right.
func problemParts(a record.Attempt) []Part {
	lines := []Text{{Tone: toneOf(a.Verdict), Verdict: a.Verdict, Text: string(a.Verdict) + ": " + a.Why}, {Text: "Asked: " + a.Wording}}
	for _, f := range a.Faults {
		lines = append(lines, Text{Text: fmt.Sprintf("%s (%s): %s", f.Code, f.Certainty, f.Evidence)})
	}
	parts := []Part{{Title: a.Question, Lines: lines}}
	if a.Query != "" {
		parts = append(parts, Part{Code: &Code{"sql", answerText(a)}})
	}
	if a.Reference != "" {
		parts = append(parts, Part{Lines: []Text{{Text: "The reference query:"}}}, Part{Code: &Code{"sql", referenceText(a)}})
	}
	return parts
}

// attemptCase is an attempt as a case: an unscored one is an error, a question that waits for nothing is not skipped.
func attemptCase(a record.Attempt) Case {
	name := a.Question + ": " + a.Wording
	if a.Repeat > 0 {
		name += fmt.Sprintf(" (repeat %d)", a.Repeat+1)
	}
	c := Case{Suite: setOf(a.Question), Name: name, Outcome: CasePassed, Seconds: (a.Latency + a.Ran).Seconds()}
	if a.Verdict == score.Right {
		return c
	}
	c.Outcome, c.Kind, c.Message = CaseFailed, string(a.Verdict), whyOf(a)
	if a.Verdict == score.Unscored {
		c.Outcome, c.Kind = CaseError, string(a.Reason)
	} else if len(a.Faults) > 0 {
		c.Kind = string(a.Faults[0].Code)
	}
	detail := []string{a.Why}
	for _, f := range a.Faults {
		detail = append(detail, fmt.Sprintf("%s (%s): %s", f.Code, f.Certainty, f.Evidence))
	}
	if a.Query != "" {
		detail = append(detail, "", "answered:", a.Query)
	}
	if a.Reference != "" {
		detail = append(detail, "", "reference:", a.Reference)
	}
	c.Detail = strings.Join(detail, "\n")
	return c
}

// attemptsGrid lists every attempt in full, for spreadsheets.
func attemptsGrid(attempts []record.Attempt) *Grid {
	g := &Grid{Main: true, Machine: true, Columns: []Column{{Name: "question"}, {Name: "wording"},
		{Name: "repeat", Right: true}, {Name: "turn", Right: true}, {Name: "verdict"}, {Name: "closeness", Right: true},
		{Name: "fault"}, {Name: "certainty"}, {Name: "evidence"}, {Name: "further_faults"}, {Name: "remarks"}, {Name: "reason"},
		{Name: "query"}, {Name: "reading"}, {Name: "latency_ms", Right: true},
		{Name: "query_ms", Right: true}, {Name: "cost", Right: true}}}
	for _, a := range attempts {
		form := attemptOf(a)
		closeness, code, certainty, evidence := "", "", "", ""
		if a.Closeness != nil {
			closeness = fmt.Sprint(*a.Closeness)
		}
		var further, remarks []string
		for i, f := range a.Faults {
			if i == 0 {
				code, certainty, evidence = string(f.Code), string(f.Certainty), f.Evidence
				continue
			}
			further = append(further, string(f.Code))
		}
		for _, r := range a.Remarks {
			remarks = append(remarks, string(r))
		}
		g.Rows = append(g.Rows, []Cell{text(a.Question), text(a.Wording), text(fmt.Sprint(a.Repeat)), text(fmt.Sprint(a.Turn)),
			text(string(a.Verdict)), text(closeness), text(code), text(certainty), text(evidence),
			text(strings.Join(further, " ")), text(strings.Join(remarks, " ")), text(string(a.Reason)), text(a.Query),
			text(a.Reading), text(fmt.Sprint(form.LatencyMS)), text(fmt.Sprint(form.QueryMS)), text(fmt.Sprint(a.Cost))})
	}
	return g
}
