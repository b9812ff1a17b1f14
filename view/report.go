package view

import (
	"fmt"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
)

// Report is a run for colleagues and build servers: the scoreboard, every question that is not right with its cause and both queries,
// and every attempt in full for spreadsheets. It errs as tables does.
func Report(r record.Run, attempts []record.Attempt, tables func(record.Attempt) (Tables, error)) (Screen, error) {
	screen := Scoreboard(r, attempts)
	for i := range screen.Parts {
		if g := screen.Parts[i].Grid; g != nil {
			g.Main = false
		}
	}
	for _, a := range attempts {
		if a.Verdict != score.Right {
			kept, err := tables(a)
			if err != nil {
				return screen, err
			}
			screen.Parts = append(screen.Parts, problemParts(a, kept)...)
		}
		screen.Cases = append(screen.Cases, attemptCase(a))
	}
	screen.Parts = append(screen.Parts, Part{Grid: attemptsGrid(attempts)})
	screen.Next = nil
	return screen, nil
}

// problemParts show an attempt that is not right.
func problemParts(a record.Attempt, tables Tables) []Part {
	lines := []Text{{Tone: toneOf(a.Verdict), Verdict: a.Verdict, Text: string(a.Verdict) + ": " + a.Why}, {Text: "Asked: " + a.Wording}}
	for _, f := range a.Faults {
		lines = append(lines, Text{Text: fmt.Sprintf("%s (%s): %s", f.Code, f.Certainty, f.Evidence)})
	}
	parts := []Part{{Title: a.Question, Lines: lines, EachQuestion: true}}
	if c, ok := comparison(a, tables.Expected, tables.Answer); ok {
		g := c.grid()
		g.Main = false
		parts = append(parts, Part{Lines: []Text{{Text: "Expected and answer:"}}, EachQuestion: true}, Part{Grid: g, EachQuestion: true})
	}
	if a.Query != "" {
		parts = append(parts, Part{Code: &Code{"sql", answerText(a)}, EachQuestion: true})
	}
	if a.Reference != "" {
		parts = append(parts, Part{Lines: []Text{{Text: "The reference query:"}}, EachQuestion: true},
			Part{Code: &Code{"sql", referenceText(a)}, EachQuestion: true})
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
	of := func(name string, cell func(a record.Attempt) string) column[record.Attempt] {
		return declare(Column{Name: name}, func(a record.Attempt) Cell { return text(cell(a)) })
	}
	number := func(name string, cell func(a record.Attempt) any) column[record.Attempt] {
		return declare(Column{Name: name, Right: true}, func(a record.Attempt) Cell { return text(fmt.Sprint(cell(a))) })
	}
	g := gridOf(attempts,
		of("question", func(a record.Attempt) string { return a.Question }),
		of("wording", func(a record.Attempt) string { return a.Wording }),
		number("repeat", func(a record.Attempt) any { return a.Repeat }),
		number("turn", func(a record.Attempt) any { return a.Turn }),
		of("verdict", func(a record.Attempt) string { return string(a.Verdict) }),
		number("closeness", func(a record.Attempt) any {
			if a.Closeness == nil {
				return ""
			}
			return *a.Closeness
		}),
		of("fault", func(a record.Attempt) string { return string(mainFault(a).Code) }),
		of("certainty", func(a record.Attempt) string { return string(mainFault(a).Certainty) }),
		of("evidence", func(a record.Attempt) string { return mainFault(a).Evidence }),
		of("further_faults", furtherFaults),
		of("remarks", func(a record.Attempt) string { return joined(a.Remarks) }),
		of("reason", func(a record.Attempt) string { return string(a.Reason) }),
		of("query", func(a record.Attempt) string { return a.Query }),
		of("reading", func(a record.Attempt) string { return a.Reading }),
		number("latency_ms", func(a record.Attempt) any { return attemptOf(a).LatencyMS }),
		number("query_ms", func(a record.Attempt) any { return attemptOf(a).QueryMS }),
		number("cost", func(a record.Attempt) any { return a.Cost }),
	)
	g.Main = true
	g.Machine = true
	return g
}

// mainFault is an attempt's first fault; none for a right one.
func mainFault(a record.Attempt) fault.Fault {
	if len(a.Faults) == 0 {
		return fault.Fault{}
	}
	return a.Faults[0]
}

// furtherFaults are the codes of the faults behind the main one.
func furtherFaults(a record.Attempt) string {
	var codes []fault.Code
	for i, f := range a.Faults {
		if i > 0 {
			codes = append(codes, f.Code)
		}
	}
	return joined(codes)
}

// joined are words with a space between.
func joined[T ~string](words []T) string {
	parts := make([]string, len(words))
	for i, w := range words {
		parts[i] = string(w)
	}
	return strings.Join(parts, " ")
}
