package view

import (
	"fmt"
	"slices"
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
	By          string   `json:"by,omitempty"` // who made it, where the history is shared
	Marks       []string `json:"marks"`
	Regressions *int     `json:"regressions"` // since the complete run of the same translator before; null where there is none
}

// History lists runs over time; limit is the accuracy that the gate asks for, nil for none.
func History(runs []Listed, limit *float64) Screen {
	columns := runColumns()
	if slices.ContainsFunc(runs, func(l Listed) bool { return l.Run.By != "" }) {
		columns = append(columns, declare(Column{Name: "by", Spare: true}, func(l Listed) Cell { return text(l.Run.By) }))
	}
	g := gridOf(runs, columns...)
	g.Main = true
	form := historyForm{make([]historyRun, 0, len(runs))}
	for _, l := range runs {
		line := historyRun{Summary: l.Summary, Started: l.Run.Started.Format(time.DateTime), Tool: l.Run.Tool, By: l.Run.By,
			Marks: some(l.Marks)}
		if n := l.Regressions; n >= 0 {
			line.Regressions = &n
		}
		form.Runs = append(form.Runs, line)
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

// lines are the trends of a history, in the order in which translators first occur: one for each level of the briefing, for what was told
// is no version.
func lines(runs []Listed) []Line {
	index := map[string]int{}
	levels := map[string]map[string]bool{} // by base name
	for _, l := range runs {
		base := versus.BaseName(l.Run.Translator)
		if levels[base] == nil {
			levels[base] = map[string]bool{}
		}
		if l.Run.State == record.Complete {
			levels[base][l.Run.Options.Brief] = true
		}
	}
	var out []Line
	for _, l := range runs {
		if l.Run.State != record.Complete || l.Summary.Accuracy == nil {
			continue
		}
		base := versus.BaseName(l.Run.Translator)
		if level := l.Run.Options.Brief; len(levels[base]) > 1 && level != "" {
			base += ", told " + level
		}
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

// removedForm is the JSON form of what tidying removes.
type removedForm struct {
	Removed []int `json:"removed"`
	Purged  []int `json:"purged"` // whose verdicts stay
	Kept    int   `json:"kept"`
	DryRun  bool  `json:"dry_run"`
}

// runColumns are what is shown of a run in a list.
func runColumns() []column[Listed] {
	return []column[Listed]{
		declare(Column{Name: "run", Right: true, Keep: true}, func(l Listed) Cell { return count(l.Run.ID) }),
		declare(Column{Name: "started", Keep: true}, func(l Listed) Cell { return text(l.Run.Started.Format(time.DateTime)) }),
		declare(Column{Name: "translator", Keep: true}, func(l Listed) Cell { return text(l.Run.Translator) }),
		declare(Column{Name: "marks", Keep: true}, func(l Listed) Cell { return text(strings.Join(l.Marks, " ")) }),
		declare(Column{Name: "state", Keep: true}, Listed.state),
		declare(Column{Name: "asks", Right: true, Spare: true}, func(l Listed) Cell { return count(l.Summary.AttemptsTotal) }),
		declare(Column{Name: "accuracy", Right: true, Keep: true}, func(l Listed) Cell { return share(l.Summary.Accuracy) }),
		declare(Column{Name: "interval", Spare: true}, func(l Listed) Cell { return shareInterval(l.Summary.Interval) }),
		declare(Column{Name: "regressed", Right: true}, Listed.regressed),
		declare(Column{Name: "cost", Right: true, Spare: true}, func(l Listed) Cell { return text(fmt.Sprintf("%.4f", l.Summary.Cost)) }),
		declare(Column{Name: "took", Right: true, Spare: true}, func(l Listed) Cell { return duration(l.Summary.DurationMS) }),
	}
}

// state is that of a run; one that tried a change is named so.
func (l Listed) state() Cell {
	cell := text(string(l.Summary.State))
	if l.Run.Options.Trial != "" {
		cell.Shown = "trial"
	}
	return cell
}

// regressed counts the regressions since the run before; none where there is none.
func (l Listed) regressed() Cell {
	if l.Regressions < 0 {
		return Cell{Text: "", Shown: "–", Tone: Faint}
	}
	cell := count(l.Regressions)
	if l.Regressions > 0 {
		cell.Tone = Wrong
	}
	return cell
}

// RunsTidied shows which runs are removed.
func RunsTidied(removed []Listed, kept int, dryRun bool) Screen {
	return tidied(removed, "removed", removedForm{Removed: numbersOf(removed), Purged: []int{}, Kept: kept, DryRun: dryRun})
}

// RunsPurged shows of which runs the replies and values are purged; kept is how many are left as they are.
func RunsPurged(purged []Listed, kept int, dryRun bool) Screen {
	return tidied(purged, "purged", removedForm{Removed: []int{}, Purged: numbersOf(purged), Kept: kept, DryRun: dryRun})
}

func numbersOf(runs []Listed) []int {
	out := make([]int, len(runs))
	for i, l := range runs {
		out[i] = l.Run.ID
	}
	return out
}

func tidied(runs []Listed, words string, form removedForm) Screen {
	g := gridOf(runs, append(runColumns()[:3], declare(Column{Name: "state"}, func(l Listed) Cell { return text(string(l.Run.State)) }),
		declare(Column{Name: "asks", Right: true}, func(l Listed) Cell { return count(l.Summary.AttemptsTotal) }))...)
	g.Main = true
	if form.DryRun {
		words = "would be " + words
	}
	screen := Screen{Data: form, Headline: []Text{{Tone: Strong,
		Text: fmt.Sprintf("%s %s, %d stay.", plural(len(runs), "run", "runs"), words, form.Kept)}}}
	if len(g.Rows) > 0 {
		screen.Parts = []Part{{Grid: g}}
	}
	return screen
}
