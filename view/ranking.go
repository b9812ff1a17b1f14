package view

import (
	"fmt"

	"tovrel/core/record"
	"tovrel/core/versus"
)

// severalForm is the JSON form of a comparison of more than two runs.
type severalForm struct {
	Runs    []record.Summary `json:"runs"`
	Pairs   []compareForm    `json:"pairs"`
	Ranking []rankedForm     `json:"ranking"`
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
	form := severalForm{Runs: []record.Summary{}, Pairs: []compareForm{}, Ranking: []rankedForm{}}
	for _, p := range s.Pairs {
		form.Pairs = append(form.Pairs, compareFormOf(p.Comparison, o))
	}
	ranks := &Grid{Main: true, Columns: []Column{{Name: "rank", Right: true, Keep: true}, {Name: "translator", Keep: true},
		{Name: "run", Right: true}, {Name: "accuracy", Right: true, Keep: true}, {Name: "interval"},
		{Name: "cost", Right: true}, {Name: "median ask", Right: true}, {Name: "undominated"}}}
	var gauges []Gauge
	for i, r := range s.Ranking {
		sum := r.Summary
		form.Runs = append(form.Runs, sum)
		form.Ranking = append(form.Ranking, rankedForm{sum.Run, sum.Translator, sum.Accuracy, sum.Interval, sum.Cost,
			sum.LatencyMS, r.Undominated})
		g := gaugeOf(sum)
		gauges = append(gauges, g)
		undominated := Cell{Text: "no", Tone: Faint}
		if r.Undominated {
			undominated = Cell{Text: "yes", Tone: Right}
		}
		ranks.Rows = append(ranks.Rows, []Cell{count(i + 1), text(sum.Translator), count(sum.Run), share(sum.Accuracy),
			shareInterval(sum.Interval), text(fmt.Sprintf("%.4f", sum.Cost)),
			{Text: fmt.Sprintf("%.0f", sum.LatencyMS.P50), Shown: Milliseconds(sum.LatencyMS.P50)}, undominated})
	}
	differ := 0
	pairs := &Grid{Columns: []Column{{Name: "pair", Keep: true}, {Name: "outcome", Wrap: true},
		{Name: "points", Right: true, Keep: true}, {Name: "interval", Keep: true},
		{Name: "p, corrected", Right: true, Keep: true, Spare: true}, {Name: "like for like", Right: true, Keep: true, Spare: true}}}
	for _, p := range s.Pairs {
		outcome := string(p.Outcome)
		if p.Outcome != versus.NoChange {
			differ++
			outcome = p.After.Translator + " is " + outcome
		}
		pairs.Rows = append(pairs.Rows, []Cell{text(p.Before.Translator + " → " + p.After.Translator), text(outcome),
			text(points(p.Difference)), text(points(p.Interval[0]) + " to " + points(p.Interval[1])), text(pValue(p.PValue)),
			count(p.LikeForLike)})
	}
	first := s.Ranking[0].Summary
	return Screen{Data: form, Headline: []Text{{Tone: Strong,
		Text: fmt.Sprintf("%s is the most accurate of %d; of %s, %d really differ (Holm's correction).", nameOf(first),
			len(s.Ranking), plural(len(s.Pairs), "pair", "pairs"), differ)}},
		Parts: []Part{{Gauges: gauges}, {Title: "Ranking; undominated: none is as good, as cheap and as fast, and better in " +
			"one of these", Grid: ranks}, {Title: "Pairs, like for like", Grid: pairs},
			{Lines: []Text{{Tone: Faint, Text: fmt.Sprintf("Random draws start from the seed %d.", o.Seed)}}}},
		Next: []string{fmt.Sprintf("See what changed between two of them with `tovrel compare %s %s`.",
			s.Pairs[0].Before.Translator, s.Pairs[0].After.Translator)}}
}
