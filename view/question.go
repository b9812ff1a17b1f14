package view

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/sql"
	"tovrel/core/table"
)

// Tables are an attempt's stored tables; nil where there is none. Rows are those of the whole tables.
type Tables struct {
	Expected, Answer         *table.Table
	ExpectedRows, AnswerRows int
}

// questionForm is the JSON form of one question of a run.
type questionForm struct {
	Attempt
	Run        int          `json:"run"`
	Translator string       `json:"translator"`
	Why        string       `json:"why"`
	Reference  *string      `json:"reference"`
	Expected   *table.Table `json:"expected"`
	Answer     *table.Table `json:"answer"`
	Match      *MatchForm   `json:"match"`
	Clauses    []sql.Clause `json:"clauses"` // of the queries, that differ
}

// Question shows one attempt: what it is worth, why, both tables beside each other, and both queries. Others are the
// question's other attempts in the run.
func Question(r record.Run, a record.Attempt, tables Tables, others []record.Attempt) Screen {
	form := questionFormOf(r, a, tables)
	screen := Screen{Headline: []Text{questionHeadline(a)}}
	screen.Parts = append(screen.Parts, Part{Lines: questionLines(r, a)})
	if len(a.Faults) > 0 {
		screen.Parts = append(screen.Parts, Part{Title: "Faults", Grid: faultGrid(a)})
		if rows := a.Faults[0].Rows; rows != nil {
			screen.Parts = append(screen.Parts, rowsPart(rows))
		}
	}
	screen.Parts = append(screen.Parts, replyParts(a, tables)...)
	if c, ok := comparison(a, tables.Expected, tables.Answer); ok {
		title := "Expected and answer"
		if a.Verdict == score.Lucky {
			title += ", " + onWhat(a)
		}
		screen.Parts = append(screen.Parts, Part{Title: title, Grid: c.grid()})
		if lines := keptLines(tables); len(lines) > 0 {
			screen.Parts = append(screen.Parts, Part{Lines: lines})
		}
	}
	if a.Shown != nil && len(a.Shown.Clauses) > 0 {
		screen.Parts = append(screen.Parts, Part{Title: "The queries, by clause", Grid: clauseGrid(a.Shown.Clauses)})
	}
	if a.Query != "" {
		screen.Parts = append(screen.Parts, Part{Title: "The answer's query", Code: &Code{"sql", answerText(a)}})
	}
	if a.Instead != "" {
		screen.Parts = append(screen.Parts, Part{Title: "The query that ran, with the dataset's today", Code: &Code{"sql", a.Instead}})
	}
	if a.Reference != "" {
		screen.Parts = append(screen.Parts, Part{Title: "The reference query", Code: &Code{"sql", referenceText(a)}})
	}
	if a.Raw != nil && a.Query == "" && a.Look == nil {
		screen.Parts = append(screen.Parts, Part{Title: "The reply", Code: &Code{"json", string(a.Raw)}})
	}
	if len(others) > 0 {
		screen.Parts = append(screen.Parts, Part{Title: "Other attempts at this question", Grid: otherGrid(others)})
	}
	screen.Data = form
	screen.Next = questionNext(r, a)
	return screen
}

func questionFormOf(r record.Run, a record.Attempt, tables Tables) questionForm {
	form := questionForm{Attempt: attemptOf(a), Run: r.ID, Translator: r.Translator, Why: a.Why, Expected: tables.Expected,
		Answer: tables.Answer}
	if a.Reference != "" {
		form.Reference = &a.Reference
	}
	form.Clauses = []sql.Clause{}
	if a.Shown != nil {
		form.Clauses = append(form.Clauses, a.Shown.Clauses...)
	}
	if c, ok := comparison(a, tables.Expected, tables.Answer); ok {
		m := c.form()
		m.Matched, m.Closeness = a.Verdict == score.Right, a.Closeness
		m.Remarks, m.Faults = form.Remarks, form.Faults
		m.Notes = append(m.Notes, a.Notes...)
		form.Match = &m
	}
	return form
}

// answerText and referenceText are queries as people write them; as they came, with marks, where they have no syntax trees.
func answerText(a record.Attempt) string {
	if a.Shown != nil {
		return a.Shown.Query
	}
	return marked(a, a.Query, a.Reference)
}

func referenceText(a record.Attempt) string {
	if a.Shown != nil {
		return a.Shown.Reference
	}
	return marked(a, a.Reference, a.Query)
}

// clauseGrid shows what only one of two queries has, clause by clause.
func clauseGrid(clauses []sql.Clause) *Grid {
	side := func(parts []string) Cell {
		if len(parts) == 0 {
			return Cell{Text: "—", Tone: Faint}
		}
		return text(strings.Join(parts, "; "))
	}
	return gridOf(clauses,
		declare(Column{Name: "clause", Keep: true}, func(c sql.Clause) Cell { return text(c.Name) }),
		declare(Column{Name: "expected", Wrap: true}, func(c sql.Clause) Cell { return side(c.Expected) }),
		declare(Column{Name: "answer", Wrap: true}, func(c sql.Clause) Cell { return side(c.Answer) }),
	)
}

// marked is a query with marks around what the other one has not; only where the answer is wrong.
func marked(a record.Attempt, text, other string) string {
	if a.Verdict != score.Wrong || other == "" {
		return text
	}
	differing, _ := sql.Differing(text, other)
	var b strings.Builder
	done := 0
	for _, r := range differing {
		b.WriteString(text[done:r.From] + "‹" + text[r.From:r.To] + "›")
		done = r.To
	}
	return b.String() + text[done:]
}

func keptLines(tables Tables) []Text {
	var lines []Text
	for _, note := range []string{keptNote("expected table", tables.Expected, tables.ExpectedRows),
		keptNote("answer", tables.Answer, tables.AnswerRows)} {
		if note != "" {
			lines = append(lines, Text{Tone: Faint, Text: note})
		}
	}
	return lines
}

// onWhat are the data on which a lucky answer was not right.
func onWhat(a record.Attempt) string {
	if slices.Contains(a.MissedOn, record.MadeRows) {
		return "on the sample with what is said above"
	}
	return "on the twin"
}

func questionHeadline(a record.Attempt) Text {
	line := fmt.Sprintf("%s is %s", a.Question, a.Verdict)
	if a.Why != "" {
		line += ": " + a.Why
	}
	if a.Closeness != nil && a.Verdict == score.Wrong {
		line += fmt.Sprintf(" (closeness %.2f)", *a.Closeness)
	}
	return Text{toneOf(a.Verdict), line + ".", a.Verdict}
}

func questionLines(r record.Run, a record.Attempt) []Text {
	lines := []Text{{Text: "Asked: " + a.Wording}}
	for i, e := range a.Earlier {
		if i > 0 {
			lines = append(lines, Text{Text: "Told then: " + e.Question})
		}
		lines = append(lines, Text{Text: "It asked back: " + string(e.Reply)})
	}
	if a.Reading != "" {
		lines = append(lines, Text{Text: "It matches the reading: " + a.Reading})
	}
	for _, remark := range a.Remarks {
		lines = append(lines, Text{Text: "Remark: " + remarkWords[remark]})
	}
	for _, n := range a.Notes {
		lines = append(lines, Text{Tone: Unscored, Text: "Note: " + n})
	}
	lines = append(lines, saidBeside(a)...)
	took := fmt.Sprintf("Run %d, %s: asking took %s", r.ID, r.Translator, Milliseconds(float64(a.Latency.Microseconds())/1000))
	if a.Ran > 0 {
		took += ", executing " + Milliseconds(float64(a.Ran.Microseconds())/1000)
	}
	if level := r.Options.Brief; level != "" {
		took += "; briefing: " + level
	}
	return append(lines, Text{Tone: Faint, Text: took + "."})
}

func faultGrid(a record.Attempt) *Grid {
	g := gridOf(a.Faults,
		declare(Column{Name: "fault", Keep: true},
			func(f fault.Fault) Cell { return Cell{Text: string(f.Code), Tone: Strong} }),
		declare(Column{Name: "certainty", Keep: true}, func(f fault.Fault) Cell { return text(string(f.Certainty)) }),
		declare(Column{Name: "evidence", Wrap: true}, func(f fault.Fault) Cell { return text(f.Evidence) }),
	)
	return g
}

func otherGrid(others []record.Attempt) *Grid {
	g := gridOf(others,
		declare(Column{Name: "verdict", Keep: true}, func(a record.Attempt) Cell { return verdictCell(a.Verdict) }),
		declare(Column{Name: "wording", Wrap: true}, func(a record.Attempt) Cell { return text(a.Wording) }),
		declare(Column{Name: "why", Wrap: true}, func(a record.Attempt) Cell { return text(whyOf(a)) }),
	)
	return g
}

func questionNext(r record.Run, a record.Attempt) []string {
	next := []string{fmt.Sprintf("All questions of this run: `tovrel show %d`.", r.ID)}
	if dataset := datasetOf(r, a.Question); a.Query != "" && dataset != "" {
		next = append(next, fmt.Sprintf("Try a query of your own with `tovrel data query %s \"SELECT …\"`.", dataset))
	}
	return next
}

// datasetOf is the dataset of a question, "" where the run does not tell.
func datasetOf(r record.Run, question string) string {
	if about, known := r.About[question]; known {
		return about.Dataset
	}
	if len(r.Datasets) == 1 {
		for name := range r.Datasets {
			return name
		}
	}
	return ""
}
