package view

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/score"
)

// Attempt is the JSON form of an attempt.
type Attempt struct {
	Question  string         `json:"question"`
	Wording   string         `json:"wording"`
	Repeat    int            `json:"repeat"`
	Turn      int            `json:"turn"`
	Verdict   score.Verdict  `json:"verdict"`
	Closeness *float64       `json:"closeness"`
	Remarks   []match.Remark `json:"remarks"`
	Faults    []fault.Fault  `json:"faults"`
	Query     *string        `json:"query"`
	Reading   *string        `json:"reading"`
	Reason    *fault.Reason  `json:"reason"`
	LatencyMS float64        `json:"latency_ms"`
	QueryMS   float64        `json:"query_ms"`
	Cost      float64        `json:"cost"`
	QueryRan  string         `json:"query_ran,omitempty"` // where it is not the query as written, for the dataset's today
	Before    score.Verdict  `json:"before,omitempty"`    // of the turn that a follow-up follows
	Tries     []Try          `json:"tries,omitempty"`     // where there was more than one
	Facts     *record.Facts  `json:"facts,omitempty"`     // of a question that lists facts
	Chart     *record.Chart  `json:"chart,omitempty"`
	Decided   string         `json:"decided,omitempty"` // what a person decided; left out where the rules did

	Explanation  string `json:"explanation,omitempty"`
	Model        string `json:"model,omitempty"`
	InputTokens  int64  `json:"input_tokens,omitempty"`
	OutputTokens int64  `json:"output_tokens,omitempty"`
}

// Try is the JSON form of one try of an ask.
type Try struct {
	Ask       int     `json:"ask"`
	LatencyMS float64 `json:"latency_ms"`
	Problem   string  `json:"problem,omitempty"`
}

// attemptOf makes the JSON form of an attempt.
func attemptOf(a record.Attempt) Attempt {
	out := Attempt{Question: a.Question, Wording: a.Wording, Repeat: a.Repeat, Turn: a.Turn, Verdict: a.Verdict, Closeness: a.Closeness,
		Remarks: a.Remarks, Faults: a.Faults, LatencyMS: float64(a.Latency.Microseconds()) / 1000,
		QueryMS: float64(a.Ran.Microseconds()) / 1000, Cost: a.Cost, QueryRan: a.Instead, Before: a.Before,
		Facts: a.Facts, Chart: a.Chart, Decided: a.Decided, Explanation: a.Explanation, Model: a.Model,
		InputTokens: a.InputTokens, OutputTokens: a.OutputTokens}
	for _, t := range a.Tries {
		out.Tries = append(out.Tries, Try{t.Ask, float64(t.Latency.Microseconds()) / 1000, t.Problem})
	}
	if out.Remarks == nil {
		out.Remarks = []match.Remark{}
	}
	if out.Faults == nil {
		out.Faults = []fault.Fault{}
	}
	if a.Query != "" {
		out.Query = &a.Query
	}
	if a.Reading != "" {
		out.Reading = &a.Reading
	}
	if a.Reason != "" {
		out.Reason = &a.Reason
	}
	return out
}

// withAttempts is a summary with its attempts.
type withAttempts struct {
	record.Summary
	Attempts         []Attempt                `json:"attempts"`
	BreakingWordings []record.BreakingWording `json:"breaking_wordings"`
	KnownWrong       []string                 `json:"known_wrong"`
}

// Scoreboard shows a run: what it is worth, what goes wrong, and every question.
func Scoreboard(r record.Run, attempts []record.Attempt) Screen {
	s := record.Summarise(r, attempts)
	screen := Screen{Headline: headline(s), Data: withAttempts{s, attemptsOf(attempts), record.BreakingWordings(attempts),
		some(knownWrong(r))}}
	if s.Accuracy != nil {
		screen.Parts = append(screen.Parts, Part{Gauge: &Gauge{Name: "accuracy", Value: *s.Accuracy, Low: s.Interval[0],
			High: s.Interval[1],
			Note: "95 % interval"}, Figures: true})
	}
	screen.Parts = append(screen.Parts, Part{Title: "Verdicts", Lines: verdictLines(s), Figures: true})
	if len(s.Faults) > 0 {
		screen.Parts = append(screen.Parts, Part{Title: "Main faults", Bars: faultBars(s), Figures: true})
	}
	screen.Parts = append(screen.Parts, consistencyParts(s, attempts)...)
	screen.Parts = append(screen.Parts, knownParts(r, attempts)...)
	screen.Parts = append(screen.Parts, Part{Title: "Questions", Grid: questionGrid(attempts), EachQuestion: true})
	screen.Next = nextSteps(s, attempts)
	return screen
}

// consistencyParts say how far attempts at a question agree, and which wordings break theirs.
func consistencyParts(s record.Summary, attempts []record.Attempt) []Part {
	var lines []Text
	for _, kind := range []struct {
		share *float64
		words string
	}{{s.AgreeRepeats, "repeats of a wording"}, {s.AgreeWordings, "wordings of a question"}} {
		if kind.share != nil {
			lines = append(lines, Text{Text: fmt.Sprintf("Results of different %s agree in %s of the pairs.", kind.words,
				Percent(*kind.share))})
		}
	}
	for _, w := range record.BreakingWordings(attempts) {
		lines = append(lines, Text{Tone: Wrong, Text: fmt.Sprintf("%s is broken by the wording %q; of the others, %d of %d "+
			"are right.", w.Question, w.Wording, w.OthersRight, w.Others)})
	}
	if len(lines) == 0 {
		return nil
	}
	return []Part{{Title: "Consistency", Lines: lines}}
}

// knownWrong are the questions that are known to be answered wrong, sorted.
func knownWrong(r record.Run) []string {
	var out []string
	for name, about := range r.About {
		if about.KnownWrong != "" {
			out = append(out, name)
		}
	}
	slices.Sort(out)
	return out
}

// knownParts show apart which questions are known to be answered wrong, and which of them are solid now.
func knownParts(r record.Run, attempts []record.Attempt) []Part {
	standings := record.Standings(attempts)
	var lines []Text
	for _, name := range knownWrong(r) {
		line := Text{Text: fmt.Sprintf("%s is %s: %s", name, standings[name], r.About[name].KnownWrong)}
		if standings[name] == score.Solid {
			line = Text{Tone: Right, Text: fmt.Sprintf("%s is solid now: take known-wrong out of the golden set.", name)}
		}
		lines = append(lines, line)
	}
	if len(lines) == 0 {
		return nil
	}
	return []Part{{Title: "Known to be wrong (outside of the gate and of comparisons)", Lines: lines}}
}

func attemptsOf(attempts []record.Attempt) []Attempt {
	out := make([]Attempt, len(attempts))
	for i, a := range attempts {
		out[i] = attemptOf(a)
	}
	return out
}

// headline is what a person decides on.
func headline(s record.Summary) []Text {
	name := fmt.Sprintf("Run %d, %s", s.Run, s.Translator)
	if s.State != record.Complete {
		name += fmt.Sprintf(" (%s)", s.State)
	}
	if s.Accuracy == nil {
		return []Text{{Tone: Strong, Text: name + ": nothing could be scored."}}
	}
	line := fmt.Sprintf("%s: %s of %s right, accuracy %s (interval %s to %s).", name, grouped(fmt.Sprint(s.Right)),
		plural(s.AttemptsTotal-s.Unscored, "scored attempt", "scored attempts"), Percent(*s.Accuracy), Percent(s.Interval[0]),
		Percent(s.Interval[1]))
	return []Text{{Tone: Strong, Text: line}}
}

func verdictLines(s record.Summary) []Text {
	var parts []string
	for _, v := range []struct {
		n    int
		word score.Verdict
	}{{s.Right, score.Right}, {s.Wrong, score.Wrong}, {s.Failed, score.Failed}, {s.Lucky, score.Lucky}, {s.Unscored, score.Unscored}} {
		if v.n > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", v.n, v.word))
		}
	}
	lines := []Text{{Text: strings.Join(parts, ", ") + " over " + plural(s.Questions, "question", "questions") + ": " + standings(s) + "."}}
	if s.WrongOfAnswered != nil {
		lines = append(lines, Text{Text: fmt.Sprintf("Of the %d answers given, %s were wrong without a sign of it.", s.Answered,
			Percent(*s.WrongOfAnswered))})
	}
	for _, reason := range sortedReasons(s.UnscoredReasons) {
		lines = append(lines, Text{Tone: Unscored,
			Text: fmt.Sprintf("%s unscored: %s.", plural(s.UnscoredReasons[reason], "attempt", "attempts"),
				cmp.Or(reasonWords[reason], string(reason)))})
	}
	line := fmt.Sprintf("Asking took %s (median) and %s (95th percentile); the run %s", Milliseconds(s.LatencyMS.P50),
		Milliseconds(s.LatencyMS.P95), Milliseconds(float64(s.DurationMS)))
	if s.Cost > 0 {
		line += fmt.Sprintf(" and cost %.4f", s.Cost)
	}
	lines = append(lines, Text{Tone: Faint, Text: line + "."})
	if under := circumstancesOf(s); under != "" {
		lines = append(lines, Text{Tone: Faint, Text: under + "."})
	}
	return lines
}

var reasonWords = map[fault.Reason]string{
	fault.ReasonTransport:       "the translator could not be reached",
	fault.ReasonOverBudget:      "the budget was spent before they were asked",
	fault.ReasonReferenceFailed: "the reference query does not run",
	fault.ReasonTextTooLong:     "more is said than replies in words are judged with",
	fault.ReasonNeedsALook:      "no rule decides: a person must look (tovrel review)",
	fault.ReasonInternalError:   "a defect of tovrel itself: please report it",
	fault.ReasonNotBuilt:        "this kind of question or reply is not judged yet",
}

func sortedReasons(reasons map[fault.Reason]int) []fault.Reason {
	var out []fault.Reason
	for r := range reasons {
		out = append(out, r)
	}
	slices.Sort(out)
	return out
}

func standings(s record.Summary) string {
	var parts []string
	for _, st := range score.Standings() {
		if n := s.Standing[st]; n > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", n, st))
		}
	}
	return strings.Join(parts, ", ")
}

// familyOrder lists the families that occur, the most frequent first.
func familyOrder(s record.Summary) []fault.Family {
	var out []fault.Family
	for _, f := range fault.Families() {
		if s.Families[f] > 0 {
			out = append(out, f)
		}
	}
	slices.SortStableFunc(out, func(a, b fault.Family) int { return cmp.Compare(s.Families[b], s.Families[a]) })
	return out
}

// codesOf lists the codes of a family that occur, the most frequent first.
func codesOf(s record.Summary, family fault.Family) []fault.Code {
	var out []fault.Code
	for _, code := range fault.Codes() {
		if s.Faults[code] > 0 && fault.FamilyOf(code) == family {
			out = append(out, code)
		}
	}
	slices.SortStableFunc(out, func(a, b fault.Code) int { return cmp.Compare(s.Faults[b], s.Faults[a]) })
	return out
}

// faultBars lists main faults by family and code, each code with a question that shows it.
func faultBars(s record.Summary) []Bar {
	var bars []Bar
	for _, family := range familyOrder(s) {
		bars = append(bars, Bar{Name: string(family), Value: s.Families[family]})
		for _, code := range codesOf(s, family) {
			bars = append(bars, Bar{Name: "  " + string(code), Value: s.Faults[code], Note: s.Examples[code]})
		}
	}
	return bars
}

// faultLines say what goes wrong in a run, a family each.
func faultLines(s record.Summary) []Text {
	var lines []Text
	for _, family := range familyOrder(s) {
		var codes []string
		for _, code := range codesOf(s, family) {
			codes = append(codes, fmt.Sprintf("%s %d (%s)", code, s.Faults[code], s.Examples[code]))
		}
		lines = append(lines, Text{Text: fmt.Sprintf("%s %d: %s", family, s.Families[family], strings.Join(codes, ", "))})
	}
	return lines
}

func questionGrid(attempts []record.Attempt) *Grid {
	verdict := declare(Column{Name: "verdict", Keep: true}, func(a record.Attempt) Cell { return verdictCell(a.Verdict) })
	question := declare(Column{Name: "question", Keep: true}, func(a record.Attempt) Cell { return text(a.Question) })
	closeness := func(a record.Attempt) Cell { return closenessCell(a.Closeness) }
	why := func(a record.Attempt) Cell { return text(whyOf(a)) }
	exact := gridOf(attempts, verdict, question,
		declare(Column{Name: "wording"}, func(a record.Attempt) Cell { return text(a.Wording) }),
		declare(Column{Name: "closeness", Right: true, Keep: true}, closeness),
		declare(Column{Name: "why", Head: true}, why),
	)
	several := severalWordings(attempts)
	folded, more := foldRoles(attempts)
	question = declare(Column{Name: "question", Keep: true}, func(a record.Attempt) Cell {
		cell := text(a.Question)
		if n := more[a.Question]; n > 0 {
			cell.Shown = fmt.Sprintf("%s, and for %d more", a.Question, n)
		}
		return cell
	})
	g := gridOf(folded, verdict, question,
		declare(Column{Name: "closeness", Right: true, Keep: true, Spare: true}, closeness),
		declare(Column{Name: "wording", Spare: true, Room: 30}, func(a record.Attempt) Cell {
			if !several[a.Question] {
				return text("")
			}
			return text(a.Wording)
		}),
		declare(Column{Name: "why", Head: true, Room: 24}, why),
	)
	g.Main = true
	g.Exact = func() *Grid { return exact }
	if len(several) == 0 {
		*g = g.withoutColumn("wording")
	}
	return g
}

// severalWordings are the questions that were asked in more than one wording.
func severalWordings(attempts []record.Attempt) map[string]bool {
	first, several := map[string]string{}, map[string]bool{}
	for _, a := range attempts {
		if wording, asked := first[a.Question]; asked && wording != a.Wording {
			several[a.Question] = true
		}
		first[a.Question] = a.Wording
	}
	return several
}

func closenessCell(c *float64) Cell {
	if c == nil {
		return Cell{Text: "", Shown: "–", Tone: Faint}
	}
	return Cell{Text: fmt.Sprint(*c), Shown: fmt.Sprintf("%.2f", *c)}
}

// whyOf is the cause of a verdict in a few words: the main fault, the remarks, or the reason.
func whyOf(a record.Attempt) string {
	switch {
	case a.Reason != "":
		return fmt.Sprintf("%s: %s", a.Reason, a.Why)
	case len(a.Faults) > 0:
		words := a.Faults[0].Evidence
		if edit := a.Faults[0].Edit; edit != "" { // a line is short: the edit says it, the proof stands in the question's own view
			words = strings.TrimPrefix(edit, "the answer ")
		}
		return fmt.Sprintf("%s: %s", a.Faults[0].Code, words)
	case len(a.Remarks) > 0:
		words := make([]string, len(a.Remarks))
		for i, r := range a.Remarks {
			words[i] = string(r)
		}
		return strings.Join(words, ", ")
	}
	return ""
}

func nextSteps(s record.Summary, attempts []record.Attempt) []string {
	for _, want := range []score.Verdict{score.Wrong, score.Failed} {
		for _, a := range attempts {
			if a.Verdict == want {
				return []string{fmt.Sprintf("Look at the first %s answer with `tovrel show %d %s`.", want, s.Run, a.Question)}
			}
		}
	}
	if s.Unscored > 0 {
		return []string{"Nothing scored was wrong; see above why some attempts could not be scored."}
	}
	return []string{"Every answer is right."}
}

// Runs shows several runs beside each other, as `tovrel run` ends: a line each.
func Runs(summaries []record.Summary) Screen {
	g := gridOf(summaries, summaryColumns()...)
	g.Main = true
	screen := Screen{Data: summaries, Parts: []Part{{Grid: g}}}
	for _, s := range summaries {
		screen.Headline = append(screen.Headline, headline(s)...)
		if len(s.Faults) > 0 {
			screen.Parts = append(screen.Parts, Part{Title: "Main faults of " + s.Translator + ", each with a question",
				Lines: faultLines(s)})
		}
		screen.Next = append(screen.Next, fmt.Sprintf("See the questions of %s with `tovrel show %d`.", s.Translator, s.Run))
	}
	return screen
}

// summaryColumns are what a line says of a run that has just ended.
func summaryColumns() []column[record.Summary] {
	number := func(name string, spare bool, n func(s record.Summary) int) column[record.Summary] {
		return declare(Column{Name: name, Right: true, Spare: spare}, func(s record.Summary) Cell { return count(n(s)) })
	}
	return []column[record.Summary]{
		declare(Column{Name: "run", Right: true, Keep: true}, func(s record.Summary) Cell { return count(s.Run) }),
		declare(Column{Name: "translator", Keep: true}, func(s record.Summary) Cell { return text(s.Translator) }),
		declare(Column{Name: "state"}, func(s record.Summary) Cell { return text(string(s.State)) }),
		declare(Column{Name: "accuracy", Right: true, Keep: true}, exactAccuracy),
		declare(Column{Name: "interval", Keep: true}, exactInterval),
		number("right", false, func(s record.Summary) int { return s.Right }),
		number("lucky", true, func(s record.Summary) int { return s.Lucky }),
		number("wrong", false, func(s record.Summary) int { return s.Wrong }),
		number("failed", false, func(s record.Summary) int { return s.Failed }),
		number("unscored", false, func(s record.Summary) int { return s.Unscored }),
		number("broken", false, func(s record.Summary) int { return s.Standing[score.Broken] }),
		declare(Column{Name: "took", Right: true}, func(s record.Summary) Cell { return duration(s.DurationMS) }),
	}
}

func exactAccuracy(s record.Summary) Cell {
	if s.Accuracy == nil {
		return Cell{Text: "", Shown: "–"}
	}
	return Cell{Text: fmt.Sprint(*s.Accuracy), Shown: Percent(*s.Accuracy)}
}

func exactInterval(s record.Summary) Cell {
	if s.Accuracy == nil {
		return Cell{Text: "", Shown: "–"}
	}
	low, high := s.Interval[0], s.Interval[1]
	return Cell{Text: fmt.Sprintf("%v %v", low, high), Shown: Percent(low) + " to " + Percent(high)}
}

// rawJSON marks bytes that are JSON already.
type rawJSON = json.RawMessage
