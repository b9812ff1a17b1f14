package view

import (
	"fmt"

	"tovrel/core/run"
)

// Listed is a run with its summary and its marks.
type Listed struct {
	Run     run.Run
	Summary run.Summary
	Marks   []string
}

type historyForm struct {
	Runs []historyRun `json:"runs"`
}

type historyRun struct {
	run.Summary
	Started string `json:"started"`
	Tool    string `json:"tool"`
}

// History lists runs over time.
func History(runs []Listed) Screen {
	g := &Grid{Main: true, Columns: []Column{{Name: "run", Right: true, Keep: true}, {Name: "started", Keep: true}, {Name: "translator", Keep: true}, {Name: "state"}, {Name: "asks", Right: true},
		{Name: "accuracy", Right: true}, {Name: "interval"}, {Name: "cost", Right: true}, {Name: "took", Right: true}}}
	form := historyForm{[]historyRun{}}
	for _, l := range runs {
		r, s := l.Run, l.Summary
		accuracy, interval := Cell{Text: "", Shown: "–", Tone: Faint}, Cell{Text: "", Shown: "–", Tone: Faint}
		if s.Accuracy != nil {
			accuracy = Cell{Text: fmt.Sprintf("%.4f", *s.Accuracy), Shown: Percent(*s.Accuracy)}
			interval = Cell{Text: fmt.Sprintf("%.4f to %.4f", s.Interval[0], s.Interval[1]), Shown: Percent(s.Interval[0]) + " to " + Percent(s.Interval[1])}
		}
		started := r.Started.Format("2006-01-02 15:04:05")
		form.Runs = append(form.Runs, historyRun{s, started, r.Tool})
		g.Rows = append(g.Rows, []Cell{count(r.ID), text(started), text(r.Translator), text(string(s.State)), count(s.AttemptsTotal), accuracy, interval, text(fmt.Sprintf("%.4f", s.Cost)),
			{Text: fmt.Sprint(s.DurationMS), Shown: Milliseconds(float64(s.DurationMS))}})
	}
	screen := Screen{Data: form, Parts: []Part{{Grid: g}}, Headline: []Text{{Tone: Strong, Text: Plural(len(runs), "run", "runs") + "."}}}
	if len(runs) > 0 {
		screen.Next = []string{fmt.Sprintf("Look at the newest with `tovrel show %d`.", runs[len(runs)-1].Run.ID)}
	}
	return screen
}
