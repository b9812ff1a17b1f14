package view

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/versus"
)

// compareForm is the JSON form of a comparison of two runs.
type compareForm struct {
	Runs               []record.Summary     `json:"runs"`
	LikeForLike        int                  `json:"like_for_like"`
	Improved           []string             `json:"improved"`
	Regressed          []string             `json:"regressed"`
	Unstable           []string             `json:"unstable"`
	MovedGround        []versus.Moved       `json:"moved_ground"`
	Accuracies         [2]float64           `json:"accuracies"` // like for like
	Difference         float64              `json:"difference"`
	Interval           [2]float64           `json:"interval"`
	PlainDifference    *float64             `json:"plain_difference"` // of the runs' own accuracies
	PValue             float64              `json:"p_value"`
	Test               string               `json:"test"`
	Outcome            versus.Outcome       `json:"outcome"`
	SmallestDetectable float64              `json:"smallest_detectable"`
	Seed               uint64               `json:"seed"`
	Flips              []flipForm           `json:"flips"`
	Faults             []versus.FaultChange `json:"faults"`
	Groups             []versus.Group       `json:"groups"`
	OnlyBefore         []string             `json:"only_before"`
	OnlyAfter          []string             `json:"only_after"`
	KnownWrong         []string             `json:"known_wrong"`
	KnownWrongSolid    []string             `json:"known_wrong_solid"`
	Warnings           []string             `json:"warnings"`
	Planning           *Planning            `json:"planning,omitempty"`
	Varied             []versus.Varied      `json:"varied"`
	ChangedAnswers     []string             `json:"changed_answers"`
	Answers            driftForm            `json:"answers"`
}

// flipForm is a question that changed, with the attempts that show it.
type flipForm struct {
	Question string          `json:"question"`
	Kind     versus.FlipKind `json:"kind"`
	Was      score.Standing  `json:"was"`
	Is       score.Standing  `json:"is"`
	Reason   string          `json:"reason"`
	Before   Attempt         `json:"before"`
	After    Attempt         `json:"after"`
}

// Planning says how much a wanted change needs.
type Planning struct {
	Difference float64 `json:"difference"`
	Questions  int     `json:"questions"` // 0 where a million are too few
	Repeats    int     `json:"repeats"`   // of the present questions; 0 where no number does
	Have       int     `json:"have"`      // questions that are like for like
}

// CompareOptions say how a comparison is shown.
type CompareOptions struct {
	Seed     uint64
	Queries  bool // both queries of each question that changed
	Parts    bool // every tag and feature, not only what got worse
	All      bool // of more than two runs every question, not only where they differ
	Planning *Planning
}

// Compare shows two runs against each other.
func Compare(c versus.Comparison, o CompareOptions) Screen {
	screen := Screen{Headline: compareHeadline(c), Data: compareFormOf(c, o), Cases: compareCases(c)}
	if c.Itself {
		screen.Parts = []Part{{Grid: flipMachineGrid(c)}}
		return screen
	}
	screen.Parts = append(append(screen.Parts, variedPart(c)), sideParts(c)...)
	for _, kind := range []versus.FlipKind{versus.Regressed, versus.Improved, versus.Unstable} {
		screen.Parts = append(screen.Parts, flipParts(c, kind, o.Queries)...)
	}
	if len(c.Moved) > 0 {
		g := gridOf(c.Moved,
			declare(Column{Name: "question", Keep: true}, func(m versus.Moved) Cell { return text(m.Question) }),
			declare(Column{Name: "what moved"}, func(m versus.Moved) Cell { return text(strings.Join(m.Changed, ", ")) }),
		)
		screen.Parts = append(screen.Parts, Part{Title: "Moved ground: not counted above", Grid: g})
	}
	screen.Parts = append(screen.Parts, faultChangeParts(c.Faults)...)
	if g := groupGrid(c.Groups, o.Parts); len(g.Rows) > 0 {
		title := "Parts of the questions, like for like"
		if !o.Parts {
			title += ": datasets, sets, wordings, and what got worse (all with --parts)"
		}
		screen.Parts = append(screen.Parts, Part{Title: title, Grid: g, Figures: true})
	}
	if lines := compareNotes(c, o); len(lines) > 0 {
		screen.Parts = append(screen.Parts, Part{Lines: lines})
	}
	screen.Parts = append(screen.Parts, Part{Grid: flipMachineGrid(c)})
	screen.Next = compareNext(c)
	return screen
}

// sideParts are the runs' figures beside each other: over what is like for like, as the headline is, and then those of the whole runs
// where they are others. Nothing is drawn where nothing can be compared.
func sideParts(c versus.Comparison) []Part {
	whole := []record.Summary{c.Before, c.After}
	if c.LikeForLike == 0 {
		return nil
	}
	parts := []Part{{Gauges: []Gauge{gaugeOf(c.Like[0]), gaugeOf(c.Like[1])}, Figures: true},
		{Title: fmt.Sprintf("Side by side, like for like (%s)", plural(c.LikeForLike, "question", "questions")), Grid: sideGrid(c.Like[:]),
			Figures: true}}
	if attempts(c.Like[0]) != attempts(c.Before) || attempts(c.Like[1]) != attempts(c.After) {
		g := sideGrid(whole)
		g.Rows = g.Rows[:wholeRows]
		parts = append(parts, Part{Title: "The whole runs, with what is not like for like", Grid: g, Figures: true})
	}
	return parts
}

// wholeRows is how many rows of the figures are shown of the whole runs: accuracy, interval and verdicts.
const wholeRows = 4

func attempts(s record.Summary) int { return s.Right + s.Lucky + s.Wrong + s.Failed + s.Unscored }

func nameOf(s record.Summary) string {
	if s.Run == 0 {
		return s.Translator + " (exported)"
	}
	return fmt.Sprintf("%s (run %d)", s.Translator, s.Run)
}

func points(difference float64) string {
	return fmt.Sprintf("%+.1f", 100*difference)
}

func gaugeOf(s record.Summary) Gauge {
	g := Gauge{Name: s.Translator, Note: "nothing scored"}
	if s.Accuracy != nil {
		g.Value, g.Low, g.High, g.Note = *s.Accuracy, s.Interval[0], s.Interval[1], Percent(*s.Accuracy)
	}
	return g
}

// sideGrid shows the figures of runs side by side, a run each column.
func sideGrid(all []record.Summary) *Grid {
	g := &Grid{Columns: []Column{{Name: "", Keep: true}}, Exact: func() *Grid { return exactSides(all) }}
	for _, s := range all {
		g.Columns = append(g.Columns, Column{Name: nameOf(s), Right: true, Keep: true})
	}
	row := func(name string, of func(s record.Summary) string) {
		cells := []Cell{text(name)}
		for _, s := range all {
			cells = append(cells, text(of(s)))
		}
		g.Rows = append(g.Rows, cells)
	}
	share := func(p *float64) string {
		if p == nil {
			return "–"
		}
		return Percent(*p)
	}
	row("accuracy", func(s record.Summary) string { return share(s.Accuracy) })
	row("interval", func(s record.Summary) string {
		if s.Interval == nil {
			return "–"
		}
		return Percent(s.Interval[0]) + " to " + Percent(s.Interval[1])
	})
	row("right / wrong / failed", func(s record.Summary) string { return fmt.Sprintf("%d / %d / %d", s.Right, s.Wrong, s.Failed) })
	row("lucky / unscored", func(s record.Summary) string { return fmt.Sprintf("%d / %d", s.Lucky, s.Unscored) })
	row("solid / flaky / broken", func(s record.Summary) string {
		return fmt.Sprintf("%d / %d / %d", s.Standing[score.Solid], s.Standing[score.Flaky], s.Standing[score.Broken])
	})
	row("wrong of the answered", func(s record.Summary) string { return share(s.WrongOfAnswered) })
	row("agreement of repeats", func(s record.Summary) string { return share(s.AgreeRepeats) })
	row("agreement of wordings", func(s record.Summary) string { return share(s.AgreeWordings) })
	row("cost", func(s record.Summary) string { return fmt.Sprintf("%.4f", s.Cost) })
	row("cost per right", func(s record.Summary) string {
		if s.Right == 0 {
			return "–"
		}
		return fmt.Sprintf("%.4f", s.Cost/float64(s.Right))
	})
	if slices.ContainsFunc(all, func(s record.Summary) bool { return s.Level != all[0].Level }) {
		row("level of the briefing", func(s record.Summary) string { return cmp.Or(s.Level, "–") })
	}
	if slices.ContainsFunc(all, func(s record.Summary) bool { return len(s.Models) > 0 }) {
		row("models", func(s record.Summary) string { return cmp.Or(strings.Join(s.Models, ", "), "–") })
		row("tokens in / out", func(s record.Summary) string { return fmt.Sprintf("%d / %d", s.InputTokens, s.OutputTokens) })
	}
	row("median / 95th percentile of asking", func(s record.Summary) string {
		return Milliseconds(s.LatencyMS.P50) + " / " + Milliseconds(s.LatencyMS.P95)
	})
	return g
}

// exactSides are the figures of runs for sheets: one in each cell, as a number.
func exactSides(all []record.Summary) *Grid {
	number := func(n float64) Cell { return text(strconv.FormatFloat(n, 'f', -1, 64)) }
	whole := func(n int) Cell { return text(strconv.Itoa(n)) }
	share := func(p *float64) Cell {
		if p == nil {
			return Cell{}
		}
		return number(*p)
	}
	end := func(i *[2]float64, which int) Cell {
		if i == nil {
			return Cell{}
		}
		return number(i[which])
	}
	g := &Grid{Columns: []Column{{Name: "figure"}}}
	for _, s := range all {
		g.Columns = append(g.Columns, Column{Name: nameOf(s), Right: true})
	}
	for _, row := range []struct {
		name string
		of   func(s record.Summary) Cell
	}{
		{"accuracy", func(s record.Summary) Cell { return share(s.Accuracy) }},
		{"interval, from", func(s record.Summary) Cell { return end(s.Interval, 0) }},
		{"interval, to", func(s record.Summary) Cell { return end(s.Interval, 1) }},
		{"right", func(s record.Summary) Cell { return whole(s.Right) }},
		{"wrong", func(s record.Summary) Cell { return whole(s.Wrong) }},
		{"failed", func(s record.Summary) Cell { return whole(s.Failed) }},
		{"lucky", func(s record.Summary) Cell { return whole(s.Lucky) }},
		{"unscored", func(s record.Summary) Cell { return whole(s.Unscored) }},
		{"solid", func(s record.Summary) Cell { return whole(s.Standing[score.Solid]) }},
		{"flaky", func(s record.Summary) Cell { return whole(s.Standing[score.Flaky]) }},
		{"broken", func(s record.Summary) Cell { return whole(s.Standing[score.Broken]) }},
		{"wrong of the answered", func(s record.Summary) Cell { return share(s.WrongOfAnswered) }},
		{"agreement of repeats", func(s record.Summary) Cell { return share(s.AgreeRepeats) }},
		{"agreement of wordings", func(s record.Summary) Cell { return share(s.AgreeWordings) }},
		{"cost", func(s record.Summary) Cell { return number(s.Cost) }},
		{"tokens in", func(s record.Summary) Cell { return whole(int(s.InputTokens)) }},
		{"tokens out", func(s record.Summary) Cell { return whole(int(s.OutputTokens)) }},
		{"median of asking, ms", func(s record.Summary) Cell { return number(s.LatencyMS.P50) }},
		{"95th percentile of asking, ms", func(s record.Summary) Cell { return number(s.LatencyMS.P95) }},
		{"models", func(s record.Summary) Cell { return text(strings.Join(s.Models, ", ")) }},
		{"level of the briefing", func(s record.Summary) Cell { return text(s.Level) }},
	} {
		cells := []Cell{text(row.name)}
		for _, s := range all {
			cells = append(cells, row.of(s))
		}
		g.Rows = append(g.Rows, cells)
	}
	return g
}

// reasonOf says in a few words why a question changed: what was or is wrong.
func reasonOf(f versus.Flip) string {
	switch f.Kind {
	case versus.Improved:
		return "was " + whyOf(f.Before)
	case versus.Regressed:
		return whyOf(f.After)
	}
	if f.Is == score.Solid {
		return "was " + whyOf(f.Before)
	}
	return whyOf(f.After)
}

var flipTitles = map[versus.FlipKind]string{versus.Regressed: "Regressed: solid, now broken",
	versus.Improved: "Improved: broken, now solid", versus.Unstable: "Unstable: changed through flaky"}

// rivalTitles are those of two translators, of which none was there before the other.
var rivalTitles = map[versus.FlipKind]string{versus.Regressed: "Lost: solid for the first alone", versus.Improved: "Won: solid for the " +
	"second alone", versus.Unstable: "Undecided: flaky for one of them"}

func flipParts(c versus.Comparison, kind versus.FlipKind, queries bool) []Part {
	flips := slices.DeleteFunc(slices.Clone(c.Flips), func(f versus.Flip) bool { return f.Kind != kind })
	var parts []Part
	for _, f := range flips {
		if queries {
			parts = append(parts, Part{Title: f.Question + ", before", Code: &Code{"sql", queryOf(f.Before)}, EachQuestion: true},
				Part{Title: f.Question + ", after", Code: &Code{"sql", queryOf(f.After)}, EachQuestion: true})
		}
	}
	g := gridOf(flips,
		declare(Column{Name: "question", Keep: true}, func(f versus.Flip) Cell { return text(f.Question) }),
		declare(Column{Name: "was"}, func(f versus.Flip) Cell { return text(string(f.Was)) }),
		declare(Column{Name: "is"}, func(f versus.Flip) Cell { return text(string(f.Is)) }),
		declare(Column{Name: "why", Head: true, Room: 24}, func(f versus.Flip) Cell { return text(reasonOf(f)) }),
	)
	if len(g.Rows) == 0 {
		return nil
	}
	if kind != versus.Unstable { // the title says it
		for _, name := range []string{"was", "is"} {
			*g = g.withoutColumn(name)
		}
	}
	titles := flipTitles
	if isRivalry(c) {
		titles = rivalTitles
	}
	return append([]Part{{Title: titles[kind], Grid: g}}, parts...)
}

func queryOf(a record.Attempt) string {
	if a.Query == "" {
		return "(no query: " + string(a.Verdict) + ")"
	}
	return a.Query
}

// mostMoved is how many faults are shown of those that moved.
const mostMoved = 5

// faultChangeParts show the faults that moved most.
func faultChangeParts(faults []versus.FaultChange) []Part {
	moved := slices.DeleteFunc(slices.Clone(faults), func(f versus.FaultChange) bool { return f.Before == f.After })
	slices.SortStableFunc(moved, func(x, y versus.FaultChange) int { return cmp.Compare(abs(y.After-y.Before), abs(x.After-x.Before)) })
	if len(moved) == 0 {
		return nil
	}
	g := gridOf(moved[:min(mostMoved, len(moved))],
		declare(Column{Name: "fault", Keep: true}, func(f versus.FaultChange) Cell { return text(string(f.Code)) }),
		declare(Column{Name: "before", Right: true}, func(f versus.FaultChange) Cell { return count(f.Before) }),
		declare(Column{Name: "after", Right: true}, func(f versus.FaultChange) Cell { return count(f.After) }),
		declare(Column{Name: "change", Right: true}, func(f versus.FaultChange) Cell {
			return Cell{Text: fmt.Sprintf("%+d", f.After-f.Before), Tone: map[bool]Tone{true: Wrong, false: Right}[f.After > f.Before]}
		}),
	)
	parts := []Part{{Title: "Main faults that moved most, like for like", Grid: g, Figures: true}}
	if more := len(moved) - len(g.Rows); more > 0 {
		parts = append(parts, Part{Lines: []Text{{Tone: Faint,
			Text: fmt.Sprintf("And %s; all with `--output json`.", plural(more, "more fault", "more faults"))}}, Figures: true})
	}
	return parts
}

func abs(n int) int { return max(n, -n) }

// fewest is how many questions a part must have to be shown to people.
const fewest = 2

func groupGrid(groups []versus.Group, all bool) *Grid {
	shown := slices.DeleteFunc(slices.Clone(groups), func(part versus.Group) bool {
		coarse := part.Kind == "dataset" || part.Kind == "set" || part.Kind == "wording"
		return part.Questions < fewest || !all && !coarse && part.After >= part.Before // one question is in the lists above
	})
	return gridOf(shown,
		declare(Column{Name: "part", Keep: true}, func(g versus.Group) Cell { return text(g.Kind) }),
		declare(Column{Name: "", Keep: true}, func(g versus.Group) Cell { return text(g.Name) }),
		declare(Column{Name: "questions", Right: true}, func(g versus.Group) Cell { return count(g.Questions) }),
		declare(Column{Name: "before", Right: true}, func(g versus.Group) Cell { return text(Percent(g.Before)) }),
		declare(Column{Name: "after", Right: true}, func(g versus.Group) Cell { return text(Percent(g.After)) }),
		declare(Column{Name: "points", Right: true}, func(g versus.Group) Cell { return text(points(g.After - g.Before)) }),
	)
}

// flipMachineGrid is what CSV is made of: a line for each question that changed or moved.
func flipMachineGrid(c versus.Comparison) *Grid {
	g := gridOf(c.Flips,
		declare(Column{Name: "question"}, func(f versus.Flip) Cell { return text(f.Question) }),
		declare(Column{Name: "change"}, func(f versus.Flip) Cell { return text(string(f.Kind)) }),
		declare(Column{Name: "was"}, func(f versus.Flip) Cell { return text(string(f.Was)) }),
		declare(Column{Name: "is"}, func(f versus.Flip) Cell { return text(string(f.Is)) }),
		declare(Column{Name: "why"}, func(f versus.Flip) Cell { return text(reasonOf(f)) }),
		declare(Column{Name: "query_before"}, func(f versus.Flip) Cell { return text(f.Before.Query) }),
		declare(Column{Name: "query_after"}, func(f versus.Flip) Cell { return text(f.After.Query) }),
	)
	g.Main = true
	g.Machine = true
	for _, name := range c.Drift.Changed {
		if !slices.ContainsFunc(c.Flips, func(f versus.Flip) bool { return f.Question == name }) {
			g.Rows = append(g.Rows, []Cell{text(name), text("another answer"), text(""), text(""), text(""), text(""), text("")})
		}
	}
	for _, m := range c.Moved {
		g.Rows = append(g.Rows, []Cell{text(m.Question), text("moved ground"), text(""), text(""),
			text(strings.Join(m.Changed, ", ")), text(""), text("")})
	}
	return g
}

// compareCases are the questions that changed or moved: a regression fails, what is unstable or moved is skipped.
func compareCases(c versus.Comparison) []Case {
	var out []Case
	for _, f := range c.Flips {
		one := Case{Suite: setOf(f.Question), Name: f.Question, Kind: string(f.Kind), Outcome: CasePassed}
		if f.Kind != versus.Improved {
			one.Outcome = map[bool]CaseOutcome{true: CaseFailed, false: CaseSkipped}[f.Kind == versus.Regressed]
			one.Message = fmt.Sprintf("%s: was %s, is %s: %s", f.Kind, f.Was, f.Is, reasonOf(f))
			one.Detail = "before:\n" + queryOf(f.Before) + "\n\nafter:\n" + queryOf(f.After)
		}
		out = append(out, one)
	}
	for _, m := range c.Moved {
		out = append(out, Case{Suite: setOf(m.Question), Name: m.Question, Outcome: CaseSkipped, Kind: "moved-ground",
			Message: "moved ground: " + strings.Join(m.Changed, ", ")})
	}
	return out
}

// setOf is the golden set of a question.
func setOf(question string) string {
	set, _, _ := strings.Cut(question, "/")
	return set
}

func compareFormOf(c versus.Comparison, o CompareOptions) compareForm {
	f := compareForm{Runs: []record.Summary{c.Before, c.After}, LikeForLike: c.LikeForLike, Improved: c.Of(versus.Improved),
		Regressed: c.Of(versus.Regressed), Unstable: c.Of(versus.Unstable),
		MovedGround: c.Moved, Accuracies: c.Accuracy, Difference: c.Difference, Interval: c.Interval, PlainDifference: c.Plain,
		PValue: c.PValue, Test: c.Test, Outcome: c.Outcome,
		SmallestDetectable: c.Smallest, Seed: o.Seed, Flips: []flipForm{}, Faults: c.Faults, Groups: c.Groups,
		OnlyBefore: some(c.OnlyBefore), OnlyAfter: some(c.OnlyAfter),
		KnownWrong: some(c.Known), KnownWrongSolid: some(c.KnownSolid), Warnings: some(c.Warnings), Planning: o.Planning}
	f.Varied, f.ChangedAnswers, f.Answers = c.Varied, some(c.Drift.Changed), driftFormOf(c.Drift)
	if f.Varied == nil {
		f.Varied = []versus.Varied{}
	}
	if f.MovedGround == nil {
		f.MovedGround = []versus.Moved{}
	}
	for _, flip := range c.Flips {
		f.Flips = append(f.Flips, flipForm{flip.Question, flip.Kind, flip.Was, flip.Is, reasonOf(flip), attemptOf(flip.Before),
			attemptOf(flip.After)})
	}
	return f
}

// some is a list that is never null in JSON.
func some(names []string) []string {
	if names == nil {
		return []string{}
	}
	return names
}
