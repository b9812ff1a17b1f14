package view

import (
	"fmt"
	"math"
	"strings"
	"time"

	"tovrel/core/record"
	"tovrel/core/versus"
)

// DriftPoint is a run with how far its answers are those of the run before; nil for the first.
type DriftPoint struct {
	Run    record.Run
	Before record.Run
	Drift  *versus.Drift
}

type driftsForm struct {
	Translator string           `json:"translator"`
	Runs       []driftPointForm `json:"runs"`
}

type driftPointForm struct {
	Run          int        `json:"run"`
	Translator   string     `json:"translator"`
	Started      string     `json:"started"`
	Models       []string   `json:"models"`
	ModelChanged bool       `json:"model_changed"` // since the run before
	Agreement    *float64   `json:"agreement"`     // share of the questions whose answer is that of the run before; null for the first
	Answers      *driftForm `json:"answers"`
	Changed      []string   `json:"changed_answers"`
}

// Drift shows how far a translator's answers stay the same from run to run.
func Drift(name string, points []DriftPoint) Screen {
	form := driftsForm{Translator: name, Runs: []driftPointForm{}}
	trend := &Trend{Name: "agreement with the run before"}
	changes := 0
	for _, p := range points {
		one := driftPointForm{Run: p.Run.ID, Translator: p.Run.Translator, Started: p.Run.Started.Format(time.DateTime),
			Models: some(p.Run.Models), ModelChanged: p.otherModel(), Agreement: p.agreement(), Changed: []string{}}
		if p.Drift != nil {
			answers := driftFormOf(*p.Drift)
			one.Answers, one.Changed = &answers, some(p.Drift.Changed)
			value := math.NaN()
			if one.Agreement != nil {
				value = *one.Agreement
			}
			trend.Values = append(trend.Values, value)
			changes += len(p.Drift.Changed)
		}
		form.Runs = append(form.Runs, one)
	}
	g := gridOf(points,
		declare(Column{Name: "run", Right: true, Keep: true}, func(p DriftPoint) Cell { return count(p.Run.ID) }),
		declare(Column{Name: "started", Keep: true}, func(p DriftPoint) Cell { return text(p.Run.Started.Format(time.DateTime)) }),
		declare(Column{Name: "translator", Keep: true}, func(p DriftPoint) Cell { return text(p.Run.Translator) }),
		declare(Column{Name: "model", Keep: true}, func(p DriftPoint) Cell {
			cell := text(strings.Join(p.Run.Models, ", "))
			if p.otherModel() {
				cell.Shown, cell.Tone = "→ "+cell.Text, Wrong
			}
			return cell
		}),
		declare(Column{Name: "agreement", Right: true, Keep: true}, func(p DriftPoint) Cell { return share(p.agreement()) }),
		declare(Column{Name: "changed", Right: true}, func(p DriftPoint) Cell {
			if p.Drift == nil {
				return Cell{Shown: "–", Tone: Faint}
			}
			return count(len(p.Drift.Changed))
		}),
		declare(Column{Name: "of", Right: true}, func(p DriftPoint) Cell {
			if p.Drift == nil {
				return Cell{Shown: "–", Tone: Faint}
			}
			return count(p.Drift.Questions)
		}),
	)
	g.Main = true
	last := points[len(points)-1]
	screen := Screen{Data: form, Headline: []Text{{Tone: Strong, Text: fmt.Sprintf("%s over %s: %s changed.", name,
		plural(len(points), "run", "runs"), plural(changes, "answer", "answers"))}, driftLine(*last.Drift)}}
	if len(trend.Values) > 1 {
		screen.Parts = append(screen.Parts, Part{Trend: trend})
	}
	screen.Parts = append(screen.Parts, Part{Grid: g})
	screen.Next = []string{fmt.Sprintf("See what changed with `tovrel compare %d %d`.", last.Before.ID, last.Run.ID)}
	return screen
}

// otherModel tells whether the replies of a run name other models than those of the run before.
func (p DriftPoint) otherModel() bool {
	return p.Drift != nil && strings.Join(p.Run.Models, "\n") != strings.Join(p.Before.Models, "\n")
}

func (p DriftPoint) agreement() *float64 {
	if p.Drift == nil || p.Drift.Share() == nil {
		return nil
	}
	agreement := 1 - *p.Drift.Share()
	return &agreement
}
