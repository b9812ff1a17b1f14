package view

import (
	"fmt"
	"strings"

	"tovrel/core/record"
	"tovrel/core/versus"
)

// severalForm is the JSON form of a comparison of more than two runs.
type severalForm struct {
	Runs    []record.Summary `json:"runs"`
	Pairs   []compareForm    `json:"pairs"`
	Ranking []rankedForm     `json:"ranking"`
	Matrix  []matrixForm     `json:"matrix"` // the questions where the runs differ, or all of them
}

type rankedForm struct {
	Run         int            `json:"run"`
	Translator  string         `json:"translator"`
	Accuracy    *float64       `json:"accuracy"`
	Interval    *[2]float64    `json:"interval"`
	Cost        float64        `json:"cost"`
	LatencyMS   record.Latency `json:"latency_ms"`
	Undominated bool           `json:"undominated"`
}

// CompareSeveral shows more than two runs against each other.
func CompareSeveral(s versus.Several, o CompareOptions) Screen {
	form := severalForm{Runs: []record.Summary{}, Pairs: []compareForm{}, Ranking: []rankedForm{},
		Matrix: matrixFormOf(s, o.All)}
	for _, p := range s.Pairs {
		form.Pairs = append(form.Pairs, compareFormOf(p.Comparison, o))
	}
	var gauges []Gauge
	for _, r := range s.Ranking {
		sum := r.Summary
		form.Runs = append(form.Runs, sum)
		form.Ranking = append(form.Ranking, rankedForm{sum.Run, sum.Translator, sum.Accuracy, sum.Interval, sum.Cost,
			sum.LatencyMS, r.Undominated})
		gauges = append(gauges, gaugeOf(sum))
	}
	ranks := rankGrid(s.Ranking)
	ranks.Main = !o.All // CSV has one table: the ranking, or every question
	differ := 0
	for _, p := range s.Pairs {
		if p.Outcome != versus.NoChange {
			differ++
		}
	}
	pairs := pairGrid(s.Pairs)
	first := s.Ranking[0].Summary
	return Screen{Data: form, Headline: []Text{{Tone: Strong,
		Text: fmt.Sprintf("%s is the most accurate of %d; of %s, %d really differ (Holm's correction).", nameOf(first),
			len(s.Ranking), plural(len(s.Pairs), "pair", "pairs"), differ)}},
		Parts: append([]Part{{Gauges: gauges, Figures: true}, {Title: "Ranking; undominated: none is as good, as cheap and as fast, " +
			"and better in one of these", Grid: ranks, Figures: true}, {Title: "Pairs, like for like", Grid: pairs, Figures: true}},
			append(matrixParts(s, o.All),
				Part{Lines: []Text{{Tone: Faint, Text: fmt.Sprintf("Random draws start from the seed %d.", o.Seed)}}})...),
		Next: []string{fmt.Sprintf("See what changed between two of them with `tovrel compare %s %s`.",
			s.Pairs[0].Before.Translator, s.Pairs[0].After.Translator)}}
}

// placed is a run with its place in a ranking, from 1.
type placed struct {
	place int
	versus.Ranked
}

func rankGrid(ranking []versus.Ranked) *Grid {
	of := func(c Column, cell func(s record.Summary) Cell) column[placed] {
		return declare(c, func(r placed) Cell { return cell(r.Summary) })
	}
	var rows []placed
	for i, r := range ranking {
		rows = append(rows, placed{i + 1, r})
	}
	g := gridOf(rows,
		declare(Column{Name: "rank", Right: true, Keep: true}, func(r placed) Cell { return count(r.place) }),
		of(Column{Name: "translator", Keep: true}, func(s record.Summary) Cell { return text(s.Translator) }),
		of(Column{Name: "run", Right: true}, func(s record.Summary) Cell { return count(s.Run) }),
		of(Column{Name: "accuracy", Right: true, Keep: true}, func(s record.Summary) Cell { return share(s.Accuracy) }),
		of(Column{Name: "interval"}, func(s record.Summary) Cell { return shareInterval(s.Interval) }),
		of(Column{Name: "cost", Right: true}, func(s record.Summary) Cell { return text(fmt.Sprintf("%.4f", s.Cost)) }),
		of(Column{Name: "median ask", Right: true}, func(s record.Summary) Cell {
			return Cell{Text: fmt.Sprintf("%.0f", s.LatencyMS.P50), Shown: Milliseconds(s.LatencyMS.P50)}
		}),
		declare(Column{Name: "undominated"}, func(r placed) Cell {
			return map[bool]Cell{false: {Text: "no", Tone: Faint}, true: {Text: "yes", Tone: Right}}[r.Undominated]
		}),
	)
	g.Main = true
	return g
}

func pairGrid(pairs []versus.Pair) *Grid {
	return gridOf(pairs,
		declare(Column{Name: "pair", Keep: true},
			func(p versus.Pair) Cell { return text(p.Before.Translator + " → " + p.After.Translator) }),
		declare(Column{Name: "outcome", Wrap: true}, func(p versus.Pair) Cell {
			if p.Outcome == versus.NoChange {
				return text(string(p.Outcome))
			}
			return text(p.After.Translator + " is " + strings.ToLower(outcomeWords(p.Comparison)))
		}),
		declare(Column{Name: "points", Right: true, Keep: true}, func(p versus.Pair) Cell { return text(points(p.Difference)) }),
		declare(Column{Name: "interval", Keep: true}, func(p versus.Pair) Cell {
			return text(points(p.Interval[0]) + " to " + points(p.Interval[1]))
		}),
		declare(Column{Name: "p, corrected", Right: true, Keep: true, Spare: true},
			func(p versus.Pair) Cell { return text(pValue(p.PValue)) }),
		declare(Column{Name: "like for like", Right: true, Keep: true, Spare: true},
			func(p versus.Pair) Cell { return count(p.LikeForLike) }),
	)
}
