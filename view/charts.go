package view

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/record"
)

// Chart is something drawn, with the same thing as a text and as a table: exactly one of its forms is set.
type Chart struct {
	Name    string // of its file
	Title   string
	Words   string
	Figures *Grid

	Lines  []Line   // accuracy over runs
	Limit  *float64 // the gate's
	Bars   *Bars    // counts side by side
	Ranges []Range  // shares with their intervals
	Priced []Priced // shares at what they cost
}

// Bars are counts of the same things in several series.
type Bars struct {
	Of     string // what is counted
	Things []string
	Series []Series
}

// Series is one series of counts.
type Series struct {
	Name   string
	Counts []int
}

// Range is a share with its interval.
type Range struct {
	Name             string
	Value, Low, High float64
}

// Priced is a share at a cost.
type Priced struct {
	Name            string
	Cost, Value     float64
	CostDescription string
}

// HistoryChart makes the chart of a history; limit is what the gate asks for, nil for none.
func HistoryChart(runs []Listed, limit *float64) Chart {
	c := Chart{Name: "accuracy-over-runs", Title: "Accuracy over runs", Lines: lines(runs), Limit: limit}
	var words []string
	type point struct {
		line Line
		at   int
	}
	var points []point
	for _, line := range c.Lines {
		var values []string
		for i, v := range line.Values {
			if !math.IsNaN(v) {
				values = append(values, fmt.Sprintf("run %d (%s) %s, interval %s to %s", line.Runs[i], line.Labels[i],
					Percent(v), Percent(line.Low[i]), Percent(line.High[i])))
				points = append(points, point{line, i})
			}
		}
		words = append(words, line.Name+": "+strings.Join(values, "; "))
	}
	if limit != nil {
		words = append(words, "The gate asks for "+Percent(*limit))
	}
	c.Words = strings.Join(words, ". ") + "."
	c.Figures = gridOf(points,
		declare(Column{Name: "run", Right: true}, func(p point) Cell { return count(p.line.Runs[p.at]) }),
		declare(Column{Name: "translator"}, func(p point) Cell { return text(p.line.Labels[p.at]) }),
		declare(Column{Name: "accuracy", Right: true}, func(p point) Cell { return share(&p.line.Values[p.at]) }),
		declare(Column{Name: "interval"}, func(p point) Cell {
			return shareInterval(&[2]float64{p.line.Low[p.at], p.line.High[p.at]})
		}),
	)
	return c
}

// Charts are what can be drawn of some runs: the faults of each, and where there are several, their accuracies and what they cost.
func Charts(runs []record.Summary) []Chart {
	var out []Chart
	if c, has := faultChart(runs); has {
		out = append(out, c)
	}
	if len(runs) < 2 {
		return out
	}
	if c, has := rangeChart(runs); has {
		out = append(out, c)
	}
	if c, has := priceChart(runs); has {
		out = append(out, c)
	}
	return out
}

func faultChart(runs []record.Summary) (Chart, bool) {
	b := Bars{Of: "attempts whose main fault it is"}
	var families []fault.Family
	for _, family := range fault.Families() {
		if slices.ContainsFunc(runs, func(s record.Summary) bool { return s.Families[family] > 0 }) {
			families, b.Things = append(families, family), append(b.Things, string(family))
		}
	}
	var words []string
	for _, s := range runs {
		series := Series{Name: nameOf(s)}
		var counts []string
		for _, family := range families {
			series.Counts = append(series.Counts, s.Families[family])
			counts = append(counts, fmt.Sprintf("%s %d", family, s.Families[family]))
		}
		b.Series = append(b.Series, series)
		words = append(words, series.Name+": "+strings.Join(counts, ", ")+".")
	}
	figures := &Grid{Columns: []Column{{Name: "family"}}}
	for _, s := range b.Series {
		figures.Columns = append(figures.Columns, Column{Name: s.Name, Right: true})
	}
	for i, thing := range b.Things {
		row := []Cell{text(thing)}
		for _, s := range b.Series {
			row = append(row, count(s.Counts[i]))
		}
		figures.Rows = append(figures.Rows, row)
	}
	return Chart{Name: "faults", Title: "Faults by family", Words: strings.Join(words, " "), Bars: &b, Figures: figures}, len(families) > 0
}

func rangeChart(runs []record.Summary) (Chart, bool) {
	c := Chart{Name: "accuracy", Title: "Accuracy with its 95 % interval"}
	var words []string
	for _, s := range runs {
		if s.Accuracy != nil {
			c.Ranges = append(c.Ranges, Range{nameOf(s), *s.Accuracy, s.Interval[0], s.Interval[1]})
			words = append(words, fmt.Sprintf("%s: %s, interval %s to %s.", nameOf(s), Percent(*s.Accuracy), Percent(s.Interval[0]),
				Percent(s.Interval[1])))
		}
	}
	c.Words = strings.Join(words, " ")
	c.Figures = gridOf(c.Ranges,
		declare(Column{Name: "run"}, func(r Range) Cell { return text(r.Name) }),
		declare(Column{Name: "accuracy", Right: true}, func(r Range) Cell { return share(&r.Value) }),
		declare(Column{Name: "interval"}, func(r Range) Cell { return shareInterval(&[2]float64{r.Low, r.High}) }),
	)
	return c, len(c.Ranges) > 0
}

func priceChart(runs []record.Summary) (Chart, bool) {
	c := Chart{Name: "cost", Title: "Accuracy and what it costs"}
	var words []string
	costs := false
	for _, s := range runs {
		if s.Accuracy != nil {
			p := Priced{Name: nameOf(s), Cost: s.Cost, Value: *s.Accuracy, CostDescription: fmt.Sprintf("%.4f", s.Cost)}
			c.Priced = append(c.Priced, p)
			words = append(words, fmt.Sprintf("%s: %s at a cost of %s.", p.Name, Percent(p.Value), p.CostDescription))
			costs = costs || s.Cost > 0
		}
	}
	c.Words = strings.Join(words, " ")
	c.Figures = gridOf(c.Priced,
		declare(Column{Name: "run"}, func(p Priced) Cell { return text(p.Name) }),
		declare(Column{Name: "cost", Right: true}, func(p Priced) Cell { return text(p.CostDescription) }),
		declare(Column{Name: "accuracy", Right: true}, func(p Priced) Cell { return share(&p.Value) }),
	)
	return c, costs && len(c.Priced) > 1
}
