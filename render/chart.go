package render

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"image/color"
	"io"
	"math"

	"gonum.org/v1/plot"
	"gonum.org/v1/plot/font"
	"gonum.org/v1/plot/plotter"
	"gonum.org/v1/plot/vg"
	"gonum.org/v1/plot/vg/draw"
	"gonum.org/v1/plot/vg/vgimg"
	"gonum.org/v1/plot/vg/vgsvg"

	"tovrel/view"
)

// chartColours are of the Okabe-Ito palette; lines are told apart by their marks as well.
var chartColours = []color.RGBA{{0, 114, 178, 255}, {213, 94, 0, 255}, {0, 158, 115, 255}, {204, 121, 167, 255},
	{230, 159, 0, 255}, {86, 180, 233, 255}}

var chartGlyphs = []draw.GlyphDrawer{draw.CircleGlyph{}, draw.SquareGlyph{}, draw.TriangleGlyph{}, draw.PyramidGlyph{},
	draw.RingGlyph{}, draw.CrossGlyph{}}

// Charts have letters without serifs, as the page has.
func init() {
	sans := font.Font{Typeface: "Liberation", Variant: "Sans"}
	plot.DefaultFont, plotter.DefaultFont = sans, sans
}

const chartWidth, chartHeight = 24 * vg.Centimeter, 12 * vg.Centimeter

// ChartSVG draws a chart as SVG, with its text alternative inside. It errs where the chart cannot be drawn or the writer fails.
func ChartSVG(w io.Writer, c view.Chart) error {
	p, size, err := drawn(c)
	if err != nil {
		return err
	}
	body, err := svgOf(p, size, c)
	if err != nil {
		return err
	}
	_, err = w.Write(append([]byte(xml.Header), body...))
	return err
}

// measured is a canvas that knows how wide each of its texts was laid out, in order.
type measured struct {
	*vgsvg.Canvas
	widths []vg.Length
}

// FillString draws a text.
func (m *measured) FillString(f font.Face, at vg.Point, text string) {
	if text != "" {
		m.widths = append(m.widths, f.Width(text))
	}
	m.Canvas.FillString(f, at, text)
}

// fitted has every text take the room that it was laid out in: what shows the chart may have wider letters.
func (m *measured) fitted(svg []byte) []byte {
	parts := bytes.Split(svg, []byte("<text "))
	for i := range parts[1:] {
		if i < len(m.widths) {
			fit := fmt.Appendf(nil, `<text textLength="%.2f" lengthAdjust="spacingAndGlyphs" `, m.widths[i].Points())
			parts[i+1] = append(fit, parts[i+1]...)
		}
	}
	return bytes.Join(parts, nil)
}

// svgOf is a plot as an svg element, with its title and its words inside.
func svgOf(p *plot.Plot, size vg.Point, c view.Chart) ([]byte, error) {
	canvas := &measured{Canvas: vgsvg.New(size.X, size.Y)}
	p.Draw(inside(draw.New(canvas)))
	var b bytes.Buffer
	if _, err := canvas.WriteTo(&b); err != nil {
		return nil, err
	}
	body := canvas.fitted(b.Bytes())
	var title, words bytes.Buffer
	if err := xml.EscapeText(&title, []byte(printable(c.Title))); err != nil {
		return nil, err
	}
	if err := xml.EscapeText(&words, []byte(printable(c.Words))); err != nil {
		return nil, err
	}
	head := bytes.Index(body, []byte("<svg"))
	end := head + bytes.IndexByte(body[max(head, 0):], '>') + 1
	if head < 0 || end <= head {
		return nil, fmt.Errorf("the chart cannot be written as SVG")
	}
	return bytes.Join([][]byte{body[head:end], []byte("\n<title>"), title.Bytes(), []byte("</title>\n<desc>"), words.Bytes(),
		[]byte("</desc>\n"), body[end:]}, nil), nil
}

// ChartPNG draws a chart as PNG. It errs where the chart cannot be drawn or the writer fails.
func ChartPNG(w io.Writer, c view.Chart) error {
	p, size, err := drawn(c)
	if err != nil {
		return err
	}
	canvas := vgimg.PngCanvas{Canvas: vgimg.NewWith(vgimg.UseWH(size.X, size.Y), vgimg.UseDPI(110))}
	p.Draw(inside(draw.New(canvas)))
	_, err = canvas.WriteTo(w)
	return err
}

// inside leaves a margin around a chart.
func inside(c draw.Canvas) draw.Canvas {
	const margin = 10
	return draw.Crop(c, vg.Points(margin), -vg.Points(margin), vg.Points(margin), -vg.Points(margin))
}

// drawn is a chart as a plot, and how large it is.
func drawn(c view.Chart) (*plot.Plot, vg.Point, error) {
	p := plot.New()
	p.Title.Text, p.Title.Padding = printable(c.Title), vg.Points(8)
	size := vg.Point{X: chartWidth, Y: chartHeight}
	var err error
	switch {
	case c.Bars != nil:
		size.Y = rowsHeight(len(c.Bars.Things) * (1 + len(c.Bars.Series)))
		err = addBars(p, *c.Bars)
	case c.Ranges != nil:
		size.Y = rowsHeight(2 * len(c.Ranges))
		err = addRanges(p, c.Ranges)
	case c.Priced != nil:
		err = addPriced(p, c.Priced)
	default:
		err = addLines(p, c)
	}
	return p, size, err
}

// rowsHeight is the height of a chart with so many rows.
func rowsHeight(rows int) vg.Length { return vg.Length(rows)*0.55*vg.Centimeter + 3*vg.Centimeter }

// addLines draws accuracy over runs.
func addLines(p *plot.Plot, c view.Chart) error {
	p.X.Label.Text, p.Y.Label.Text = "run number", "accuracy, % (bars: 95 % interval)"
	p.Y.Min, p.Y.Max = 0, 100
	p.X.Tick.Marker = wholeTicks{}
	p.Y.Tick.Marker = percentTicks{}
	p.Legend.Top, p.Legend.Left = false, false
	p.Legend.Padding, p.Legend.XOffs, p.Legend.YOffs = vg.Points(3), -vg.Points(10), vg.Points(6)
	p.Add(gridLines(false))
	least, most := math.Inf(1), math.Inf(-1)
	for i, line := range c.Lines {
		if err := addLine(p, i, line); err != nil {
			return err
		}
		for _, run := range line.Runs {
			least, most = math.Min(least, float64(run)), math.Max(most, float64(run))
		}
	}
	if c.Limit != nil && !math.IsInf(least, 0) {
		if err := addLimit(p, *c.Limit, least, most); err != nil {
			return err
		}
	}
	if !math.IsInf(least, 0) {
		p.X.Min, p.X.Max = least-0.5, most+0.5
	}
	return nil
}

// gridLines are faint lines across the values.
func gridLines(upright bool) *plotter.Grid {
	grid := plotter.NewGrid()
	grid.Horizontal.Color, grid.Vertical.Color = color.Gray{200}, color.Gray{200}
	if upright {
		grid.Horizontal.Width = 0
	} else {
		grid.Vertical.Width = 0
	}
	return grid
}

// points are a line's values with their intervals, in percent.
type points struct{ line view.Line }

func (p points) Len() int                    { return len(p.line.Values) }
func (p points) XY(i int) (float64, float64) { return float64(p.line.Runs[i]), 100 * p.line.Values[i] }
func (p points) YError(i int) (float64, float64) {
	return 100 * (p.line.Values[i] - p.line.Low[i]), 100 * (p.line.High[i] - p.line.Values[i])
}

func addLine(p *plot.Plot, i int, line view.Line) error {
	colour := chartColours[i%len(chartColours)]
	l, s, err := plotter.NewLinePoints(points{line})
	if err != nil {
		return err
	}
	bars, err := plotter.NewYErrorBars(points{line})
	if err != nil {
		return err
	}
	l.Color, l.Width = colour, vg.Points(1.5)
	s.Color, s.Shape, s.Radius = colour, chartGlyphs[i%len(chartGlyphs)], vg.Points(3.5)
	bars.Color, bars.CapWidth = colour, vg.Points(6)
	names, err := plotter.NewLabels(plotter.XYLabels{XYs: above(line), Labels: line.Labels})
	if err != nil {
		return err
	}
	names.Offset = vg.Point{X: vg.Points(6), Y: vg.Points(4)}
	p.Add(bars, l, s, names)
	p.Legend.Add(printable(line.Name), l, s)
	return nil
}

func above(line view.Line) plotter.XYs {
	out := make(plotter.XYs, len(line.Values))
	for i := range out {
		out[i].X, out[i].Y = points{line}.XY(i)
	}
	return out
}

func addLimit(p *plot.Plot, limit, from, to float64) error {
	l, err := plotter.NewLine(plotter.XYs{{X: from - 0.5, Y: 100 * limit}, {X: to + 0.5, Y: 100 * limit}})
	if err != nil {
		return err
	}
	l.Dashes = []vg.Length{vg.Points(5), vg.Points(3)}
	l.Color = color.Gray{90}
	p.Add(l)
	p.Legend.Add("the gate's limit", l)
	return nil
}

// wholeTicks are at whole numbers: there is no run between two.
type wholeTicks struct{}

// Ticks places the ticks.
func (wholeTicks) Ticks(low, high float64) []plot.Tick {
	step := math.Max(1, math.Ceil((high-low)/12))
	var out []plot.Tick
	for x := math.Ceil(low); x <= high; x += step {
		out = append(out, plot.Tick{Value: x, Label: fmt.Sprintf("%.0f", x)})
	}
	return out
}

// percentTicks are every twenty percent.
type percentTicks struct{}

// Ticks places the ticks.
func (percentTicks) Ticks(_, _ float64) []plot.Tick {
	var out []plot.Tick
	for y := 0.0; y <= 100; y += 20 {
		out = append(out, plot.Tick{Value: y, Label: fmt.Sprintf("%.0f", y)})
	}
	return out
}
