package view

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/sql"
	"tovrel/core/versus"
)

// Page is a report for people without a terminal: what to decide on, charts, and every question with its details.
type Page struct {
	Title     string
	Top       Screen
	Charts    []Chart
	Runs      []string // a heading each
	Questions []PageQuestion
	Bare      bool // no value of the data, and no words that may hold one
}

// PageQuestion is a question over the runs of a page.
type PageQuestion struct {
	Name, Text   string
	Set, Dataset string
	Thread       string // the question that it follows, or whose thread it is in; "" for none
	Tags         []string
	Verdicts     []Verdict // a run each: of the attempt that shows most; "" where the run did not ask
	Faults       []string  // the main ones, of any run
	Change       string    // regressed, improved or unstable between the first run and the last; "" for neither
	Details      []Detail
}

// Detail is what one run did with a question.
type Detail struct {
	Heading Text
	Parts   []Part
}

// PageRun is a run with its attempts, and where their tables are.
type PageRun struct {
	Run      record.Run
	Attempts []record.Attempt
	Tables   func(record.Attempt) (Tables, error)
}

// NewPage makes a page of runs, the earlier ones first. Top is the screen that says what to decide on. It errs as Tables does.
func NewPage(runs []PageRun, top Screen, changes map[string]versus.FlipKind, bare bool) (Page, error) {
	p := Page{Title: pageTitle(runs), Top: topOf(top, bare), Charts: top.Charts, Bare: bare}
	names := map[string]bool{}
	byRun := make([]map[string][]record.Attempt, len(runs))
	for i, r := range runs {
		p.Runs = append(p.Runs, RunName(r.Run))
		byRun[i] = map[string][]record.Attempt{}
		for _, a := range r.Attempts {
			byRun[i][a.Question] = append(byRun[i][a.Question], a)
			names[a.Question] = true
		}
	}
	for name := range names {
		q := PageQuestion{Name: name, Set: setOf(name), Change: string(changes[name])}
		for i, r := range runs {
			if err := q.add(r, byRun[i][name], bare); err != nil {
				return p, err
			}
		}
		p.Questions = append(p.Questions, q)
	}
	slices.SortFunc(p.Questions, func(a, b PageQuestion) int {
		return cmp.Or(cmp.Compare(a.urgency(), b.urgency()), strings.Compare(a.Name, b.Name))
	})
	return p, nil
}

// add adds what a run did with the question.
func (q *PageQuestion) add(r PageRun, attempts []record.Attempt, bare bool) error {
	about := r.Run.About[q.Name]
	if about.Thread != "" && about.Thread != q.Name {
		q.Thread = about.Thread
	}
	q.Dataset, q.Tags = cmp.Or(about.Dataset, q.Dataset), append(q.Tags, about.Tags...)
	slices.Sort(q.Tags)
	q.Tags = slices.Compact(q.Tags)
	if len(attempts) == 0 {
		q.Verdicts = append(q.Verdicts, "")
		return nil
	}
	at := tellingOf(attempts)
	a := attempts[at]
	q.Text = cmp.Or(q.Text, attempts[0].Wording)
	q.Verdicts = append(q.Verdicts, a.Verdict)
	if code := string(mainFault(a).Code); code != "" && !slices.Contains(q.Faults, code) {
		q.Faults = append(q.Faults, code)
	}
	detail := Detail{Heading: Text{toneOf(a.Verdict), RunName(r.Run) + ": " + string(a.Verdict), a.Verdict}}
	if bare {
		detail.Parts = bareParts(a)
	} else {
		tables, err := r.Tables(a)
		if err != nil {
			return err
		}
		others := slices.Delete(slices.Clone(attempts), at, at+1)
		screen := Question(r.Run, a, tables, others)
		if a.Why != "" {
			detail.Heading.Text += ", " + a.Why
		}
		detail.Parts = screen.Parts
	}
	q.Details = append(q.Details, detail)
	return nil
}

// urgency orders questions: what regressed first, then what is not right in the last run that asked, then the rest.
func (q PageQuestion) urgency() int {
	switch versus.FlipKind(q.Change) {
	case versus.Regressed:
		return 0
	case versus.Unstable:
		return 1
	}
	order := []score.Verdict{score.Wrong, score.Failed, score.Lucky, score.Unscored, score.Right}
	return 2 + slices.Index(order, q.Last())
}

// ChangeTone is what a change means.
func (q PageQuestion) ChangeTone() Tone {
	return map[string]Tone{string(versus.Regressed): Wrong, string(versus.Improved): Good}[q.Change]
}

// Last is the verdict in the last run that asked the question.
func (q PageQuestion) Last() Verdict {
	for _, v := range slices.Backward(q.Verdicts) {
		if v != "" {
			return v
		}
	}
	return ""
}

// Latest is what the last run that asked the question did with it.
func (q PageQuestion) Latest() Detail { return q.Details[len(q.Details)-1] }

// Urgent tells whether a question is spelt out where it cannot be unfolded.
func (q PageQuestion) Urgent() bool {
	return versus.FlipKind(q.Change) == versus.Regressed || q.Last() == score.Wrong
}

// List is the list of questions as a part of its own, for sheets.
func (p Page) List() Part {
	columns := []column[PageQuestion]{
		declare(Column{Name: "question"}, func(q PageQuestion) Cell { return text(q.Name) }),
		declare(Column{Name: "asked"}, func(q PageQuestion) Cell { return text(q.Text) }),
	}
	for i, run := range p.Runs {
		columns = append(columns, declare(Column{Name: run}, func(q PageQuestion) Cell { return verdictCell(q.Verdicts[i]) }))
	}
	return Part{Title: "Every question", Grid: gridOf(p.Questions, append(columns,
		declare(Column{Name: "change"}, func(q PageQuestion) Cell { return text(q.Change) }),
		declare(Column{Name: "faults"}, func(q PageQuestion) Cell { return text(strings.Join(q.Faults, " ")) }),
		declare(Column{Name: "set"}, func(q PageQuestion) Cell { return text(q.Set) }),
		declare(Column{Name: "dataset"}, func(q PageQuestion) Cell { return text(q.Dataset) }),
		declare(Column{Name: "tags"}, func(q PageQuestion) Cell { return text(strings.Join(q.Tags, " ")) }))...)}
}

// mostSpelt is how many questions are spelt out for those who cannot unfold them.
const mostSpelt = 50

// Spelt are the questions that are spelt out where none can be unfolded, and whether they are all that are urgent.
func (p Page) Spelt() (urgent []PageQuestion, all bool) {
	for _, q := range p.Questions {
		if !q.Urgent() {
			continue
		}
		if len(urgent) == mostSpelt {
			return urgent, false
		}
		urgent = append(urgent, q)
	}
	return urgent, true
}

// SpeltParts are the same questions as parts of a screen, each with what the last run did.
func (p Page) SpeltParts() []Part {
	urgent, all := p.Spelt()
	var parts []Part
	for _, q := range urgent {
		latest := q.Latest()
		parts = append(parts, Part{Title: q.Name, Lines: []Text{latest.Heading}})
		for _, part := range latest.Parts {
			if part.Grid != nil {
				g := *part.Grid
				g.Main = false
				part.Grid = &g
			}
			parts = append(parts, part)
		}
	}
	if !all {
		parts = append(parts, Part{Lines: []Text{{Text: fmt.Sprintf("These are the first %d of what regressed or is wrong.", mostSpelt)}}})
	}
	return parts
}

// tellingOf is which attempt shows most: the first that is not right.
func tellingOf(attempts []record.Attempt) int {
	return max(0, slices.IndexFunc(attempts, func(a record.Attempt) bool { return a.Verdict != score.Right }))
}

func pageTitle(runs []PageRun) string {
	var names []string
	for _, r := range runs {
		names = append(names, r.Run.Translator)
	}
	return strings.Join(names, " and ")
}

// RunName is a run as people are told of it: its translator, and its number where it has one.
func RunName(r record.Run) string {
	if r.ID == 0 {
		return r.Translator
	}
	return fmt.Sprintf("%s (run %d)", r.Translator, r.ID)
}

// mostInTop is how many rows a table at the head of a page shows before it is folded.
const mostInTop = 16

// topOf is the head of a page: what is drawn first, then what changed, then the figures. Every question has its own place below, and
// commands are of no use there.
func topOf(s Screen, bare bool) Screen {
	out := Screen{Headline: s.Headline}
	for _, p := range s.Parts {
		if g := p.Grid; g != nil && (g.Machine || len(g.Rows) == 0) || p.EachQuestion || bare && !p.Figures {
			continue
		}
		p.Folded = p.Grid != nil && len(p.Grid.Rows) > mostInTop
		out.Parts = append(out.Parts, p)
	}
	place := func(p Part) int {
		switch {
		case p.Gauge != nil || p.Gauges != nil:
			return 0
		case !p.Figures:
			return 1
		}
		return 2
	}
	slices.SortStableFunc(out.Parts, func(a, b Part) int { return cmp.Compare(place(a), place(b)) })
	return out
}

// bareParts say what is wrong with an answer without a value of the data: its faults by their codes, and the queries with their values
// masked. What explains a fault names values, as do replies in words and messages of the engine.
func bareParts(a record.Attempt) []Part {
	parts := []Part{{Lines: []Text{{Text: "Asked: " + a.Wording}}}}
	for _, remark := range a.Remarks {
		parts[0].Lines = append(parts[0].Lines, Text{Text: "Remark: " + remarkWords[remark]})
	}
	for _, f := range a.Faults {
		parts[0].Lines = append(parts[0].Lines, Text{Tone: Strong, Text: fmt.Sprintf("%s (%s)", f.Code, f.Certainty)})
	}
	if a.Query != "" {
		parts = append(parts, Part{Title: "The answer's query, without its values", Code: &Code{"sql", sql.Masked(shownQuery(a))}})
	}
	if a.Reference != "" {
		parts = append(parts, Part{Title: "The reference query, without its values", Code: &Code{"sql", sql.Masked(shownReference(a))}})
	}
	return parts
}

// shownQuery and shownReference are queries as people write them, without marks.
func shownQuery(a record.Attempt) string {
	if a.Shown != nil {
		return a.Shown.Query
	}
	return a.Query
}

func shownReference(a record.Attempt) string {
	if a.Shown != nil {
		return a.Shown.Reference
	}
	return a.Reference
}
