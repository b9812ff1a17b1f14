package render

import (
	"image/color"

	"gonum.org/v1/plot"
	"gonum.org/v1/plot/plotter"
	"gonum.org/v1/plot/vg"
	"gonum.org/v1/plot/vg/draw"

	"tovrel/view"
)

// upward are rows from the top down: the first has the highest place.
func upward(n int, name func(i int) string) []string {
	out := make([]string, n)
	for i := range out {
		out[n-1-i] = printable(name(i))
	}
	return out
}

// addBars draws counts as bars that lie, the first thing on top, a bar for each series.
func addBars(p *plot.Plot, b view.Bars) error {
	p.X.Label.Text = b.Of
	p.X.Min = 0
	p.X.Tick.Marker = wholeTicks{}
	p.Legend.Padding, p.Legend.XOffs, p.Legend.YOffs = vg.Points(3), -vg.Points(10), vg.Points(6)
	p.Add(gridLines(true))
	const room = 0.5 * vg.Centimeter // of a bar
	for i, s := range b.Series {
		values := make(plotter.Values, len(s.Counts))
		for j, n := range s.Counts {
			values[len(s.Counts)-1-j] = float64(n)
		}
		chart, err := plotter.NewBarChart(values, room)
		if err != nil {
			return err
		}
		chart.Horizontal, chart.LineStyle.Width = true, 0
		chart.Color = chartColours[i%len(chartColours)]
		chart.Offset = room * vg.Length(float64(len(b.Series)-1)/2-float64(i))
		p.Add(chart)
		if len(b.Series) > 1 {
			p.Legend.Add(printable(s.Name), chart)
		}
	}
	p.NominalY(upward(len(b.Things), func(i int) string { return b.Things[i] })...)
	p.Y.Min, p.Y.Max = -0.7, float64(len(b.Things))-0.3
	return nil
}

// addRanges draws shares with their intervals, one below the other on a scale of 0 to 100 %.
func addRanges(p *plot.Plot, ranges []view.Range) error {
	p.X.Label.Text, p.X.Min, p.X.Max = "accuracy, % (lines: 95 % interval)", 0, 100
	p.X.Tick.Marker = percentTicks{}
	p.Add(gridLines(true))
	for i, r := range ranges {
		at := float64(len(ranges) - 1 - i)
		line, err := plotter.NewLine(plotter.XYs{{X: 100 * r.Low, Y: at}, {X: 100 * r.High, Y: at}})
		if err != nil {
			return err
		}
		point, err := plotter.NewScatter(plotter.XYs{{X: 100 * r.Value, Y: at}})
		if err != nil {
			return err
		}
		label, err := plotter.NewLabels(plotter.XYLabels{XYs: plotter.XYs{{X: 100 * r.Value, Y: at}},
			Labels: []string{view.Percent(r.Value)}})
		if err != nil {
			return err
		}
		label.Offset = vg.Point{X: -vg.Points(10), Y: vg.Points(6)}
		line.Color, line.Width = chartColours[i%len(chartColours)], vg.Points(2)
		point.Color, point.Shape, point.Radius = chartColours[i%len(chartColours)], draw.CircleGlyph{}, vg.Points(5)
		p.Add(line, point, label)
	}
	p.NominalY(upward(len(ranges), func(i int) string { return ranges[i].Name })...)
	p.Y.Min, p.Y.Max = -0.6, float64(len(ranges))-0.4
	return nil
}

// addPriced draws shares at what they cost, each with its name.
func addPriced(p *plot.Plot, all []view.Priced) error {
	p.X.Label.Text, p.Y.Label.Text = "cost of the run", "accuracy, %"
	p.Y.Min, p.Y.Max = 0, 100
	p.Y.Tick.Marker = percentTicks{}
	p.Add(gridLines(false))
	top := 0.0
	for i, one := range all {
		at := plotter.XYs{{X: one.Cost, Y: 100 * one.Value}}
		point, err := plotter.NewScatter(at)
		if err != nil {
			return err
		}
		name, err := plotter.NewLabels(plotter.XYLabels{XYs: at, Labels: []string{printable(one.Name)}})
		if err != nil {
			return err
		}
		name.Offset = vg.Point{X: vg.Points(9), Y: -vg.Points(3)}
		point.Color, point.Shape, point.Radius = chartColours[i%len(chartColours)], chartGlyphs[i%len(chartGlyphs)], vg.Points(5)
		p.Add(point, name)
		top = max(top, one.Cost)
	}
	p.X.Min, p.X.Max = 0, top*1.4
	return nil
}

// plainPlot takes the page's own colours: no background, and lines and words in the colour of its text.
func plainPlot(p *plot.Plot) { p.BackgroundColor = color.Transparent }
