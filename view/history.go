package view

import (
	"fmt"
	"math"
	"strings"
	"time"

	"tovrel/core/record"
	"tovrel/core/versus"
)

// Listed is a run with its summary, its marks, and how many questions regressed since the run before (−1 where there is none).
type Listed struct {
	Run         record.Run
	Summary     record.Summary
	Marks       []string
	Regressions int
}

type historyForm struct {
	Runs []historyRun `json:"runs"`
}

type historyRun struct {
	record.Summary
	Started     string   `json:"started"`
	Tool        string   `json:"tool"`
	Marks       []string `json:"marks"`
	Regressions *int     `json:"regressions"` // since the complete run of the same translator before; null where there is none
}

// History lists runs over time; limit is the accuracy that the gate asks for, nil for none.
func History(runs []Listed, limit *float64) Screen {
	g := &Grid{Main: true, Columns: []Column{{Name: "run", Right: true, Keep: true}, {Name: "started", Keep: true},
		{Name: "translator", Keep: true}, {Name: "marks", Keep: true}, {Name: "state", Keep: true},
		{Name: "asks", Right: true, Spare: true},
		{Name: "accuracy", Right: true, Keep: true}, {Name: "interval", Spare: true}, {Name: "regressed", Right: true},
		{Name: "cost", Right: true, Spare: true}, {Name: "took", Right: true, Spare: true}}}
	form := historyForm{[]historyRun{}}
	for _, l := range runs {
		r, s := l.Run, l.Summary
		accuracy, interval := Cell{Text: "", Shown: "–", Tone: Faint}, Cell{Text: "", Shown: "–", Tone: Faint}
		if s.Accuracy != nil {
			accuracy = Cell{Text: fmt.Sprintf("%.4f", *s.Accuracy), Shown: Percent(*s.Accuracy)}
			interval = Cell{Text: fmt.Sprintf("%.4f to %.4f", s.Interval[0], s.Interval[1]), Shown: Percent(s.Interval[0]) +
				" to " + Percent(s.Interval[1])}
		}
		line := historyRun{Summary: s, Started: r.Started.Format(time.DateTime), Tool: r.Tool, Marks: some(l.Marks)}
		regressed := Cell{Text: "", Shown: "–", Tone: Faint}
		if n := l.Regressions; n >= 0 {
			line.Regressions, regressed = &n, count(n)
			if n > 0 {
				regressed.Tone = Wrong
			}
		}
		form.Runs = append(form.Runs, line)
		g.Rows = append(g.Rows, []Cell{count(r.ID), text(line.Started), text(r.Translator), text(strings.Join(l.Marks, " ")),
			text(string(s.State)), count(s.AttemptsTotal), accuracy, interval, regressed, text(fmt.Sprintf("%.4f", s.Cost)),
			{Text: fmt.Sprint(s.DurationMS), Shown: Milliseconds(float64(s.DurationMS))}})
	}
	screen := Screen{Data: form, Headline: []Text{{Tone: Strong, Text: plural(len(runs), "run", "runs") + "."}}}
	for _, line := range lines(runs) {
		if len(line.Values) > 1 {
			screen.Parts = append(screen.Parts, Part{Trend: &Trend{Name: line.Name, Values: line.Values, Limit: limit}})
		}
	}
	screen.Parts = append(screen.Parts, Part{Grid: g})
	if len(runs) > 0 {
		screen.Next = []string{fmt.Sprintf("Look at the newest with `tovrel show %d`.", runs[len(runs)-1].Run.ID)}
	}
	return screen
}

// Line is the accuracy of a translator over its complete runs, all versions together, the oldest first.
type Line struct {
	Name      string
	Runs      []int
	Labels    []string // the translator with its version
	Started   []time.Time
	Values    []float64
	Low, High []float64
}

// lines are the trends of a history, in the order in which translators first occur.
func lines(runs []Listed) []Line {
	index := map[string]int{}
	var out []Line
	for _, l := range runs {
		if l.Run.State != record.Complete || l.Summary.Accuracy == nil {
			continue
		}
		base := versus.BaseName(l.Run.Translator)
		i, known := index[base]
		if !known {
			i = len(out)
			index[base] = i
			out = append(out, Line{Name: base})
		}
		line := &out[i]
		line.Runs, line.Labels, line.Started = append(line.Runs, l.Run.ID), append(line.Labels, l.Run.Translator),
			append(line.Started, l.Run.Started)
		line.Values, line.Low, line.High = append(line.Values, *l.Summary.Accuracy), append(line.Low, l.Summary.Interval[0]),
			append(line.High, l.Summary.Interval[1])
	}
	return out
}

// Chart is a history as a chart.
type Chart struct {
	Title string
	Lines []Line
	Limit *float64 // the gate's
	Words string   // the same thing as a text
}

// HistoryChart makes the chart of a history.
func HistoryChart(runs []Listed, limit *float64) Chart {
	c := Chart{Title: "Accuracy over runs", Lines: lines(runs), Limit: limit}
	var words []string
	for _, line := range c.Lines {
		var values []string
		for i, v := range line.Values {
			if !math.IsNaN(v) {
				values = append(values, fmt.Sprintf("run %d (%s) %s, interval %s to %s", line.Runs[i], line.Labels[i],
					Percent(v), Percent(line.Low[i]), Percent(line.High[i])))
			}
		}
		words = append(words, line.Name+": "+strings.Join(values, "; "))
	}
	if limit != nil {
		words = append(words, "The gate asks for "+Percent(*limit))
	}
	c.Words = strings.Join(words, ". ") + "."
	return c
}

// removedForm is the JSON form of what tidying removes.
type removedForm struct {
	Removed []int `json:"removed"`
	Kept    int   `json:"kept"`
	DryRun  bool  `json:"dry_run"`
}

// RunsTidied shows which runs are removed.
func RunsTidied(removed []Listed, kept int, dryRun bool) Screen {
	form := removedForm{Removed: []int{}, Kept: kept, DryRun: dryRun}
	g := &Grid{Main: true, Columns: []Column{{Name: "run", Right: true, Keep: true}, {Name: "started", Keep: true},
		{Name: "translator", Keep: true}, {Name: "state"}, {Name: "asks", Right: true}}}
	for _, l := range removed {
		form.Removed = append(form.Removed, l.Run.ID)
		g.Rows = append(g.Rows, []Cell{count(l.Run.ID), text(l.Run.Started.Format(time.DateTime)), text(l.Run.Translator),
			text(string(l.Run.State)), count(l.Summary.AttemptsTotal)})
	}
	words := "removed"
	if dryRun {
		words = "would be removed"
	}
	screen := Screen{Data: form, Headline: []Text{{Tone: Strong,
		Text: fmt.Sprintf("%s %s, %d stay.", plural(len(removed), "run", "runs"), words, kept)}}}
	if len(g.Rows) > 0 {
		screen.Parts = []Part{{Grid: g}}
	}
	return screen
}
