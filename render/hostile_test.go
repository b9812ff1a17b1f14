package render_test

import (
	"bytes"
	"encoding/json"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/renderer/html"

	"tovrel/render"
	"tovrel/view"
)

// pieces are what hostile data is made of.
var pieces = []string{"<script>alert(1)</script>", "<img src=x onerror=alert(1)>", "[x](javascript:alert(1))",
	"![x](http://evil/x.png)", "<javascript:alert(1)>", "[x]: javascript:alert(1)", "[x]", "`", "``", "```", "````\n", "~~~",
	"\x1b[31m", "\x1b]0;title\a", "\u009b31m", "\u202e", "|", "\\", "\\`", "*", "**", "_", "__", "~~", "# ", "> ", "- ", "1. ",
	"\n", "\r\n", "\t", " ", "&lt;", "&#60;script&#62;", "</table>", "<!--", "word", "=1+1", "<details open ontoggle=alert(1)>",
	"<a href='javascript:x'>"}

func hostile(r *rand.Rand) string {
	var b strings.Builder
	for range 1 + r.IntN(7) {
		b.WriteString(pieces[r.IntN(len(pieces))])
	}
	return b.String()
}

// hostileScreen has hostile data in every place.
func hostileScreen(r *rand.Rand) view.Screen {
	h := func() string { return hostile(r) }
	grid := &view.Grid{Main: true, Columns: []view.Column{{Name: h()}, {Name: h(), Right: true}},
		Rows: [][]view.Cell{{{Text: h()}, {Text: h(), Differs: true}}, {{Text: h(), Shown: h()}, {Text: "12"}}}}
	return view.Screen{Headline: []view.Text{{Text: h()}}, Next: []string{h()}, Data: map[string]string{"text": h()}, Parts: []view.Part{
		{Title: h(), Grid: grid}, {Title: "code", Code: &view.Code{Language: "sql", Text: h() + "\n" + h()}},
		{Lines: []view.Text{{Text: h()}, {Text: h()}}},
		{Bars: []view.Bar{{Name: h(), Value: 3, Note: h()}, {Name: "  " + h(), Value: 2}}},
		{Gauge: &view.Gauge{Name: h(), Note: h(), Value: 0.5, Low: 0.4, High: 0.6}},
		{Gauges: []view.Gauge{{Name: h(), Note: h(), Value: 0.5, Low: 0.4, High: 0.6}}},
		{Trend: &view.Trend{Name: h(), Values: []float64{0.1, 0.2}}},
	}}
}

var (
	control = regexp.MustCompile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\u0080-\u009f\u202a-\u202e\u2066-\u2069]")
	element = regexp.MustCompile(`<(/?[a-zA-Z][a-zA-Z0-9]*)`)
)

// TestNothingSpeaksThrough: whatever stands in data, a report in Markdown has no element and no link that the program did not write, and
// no output has a character that steers a terminal.
func TestNothingSpeaksThrough(t *testing.T) {
	plain := goldmark.New(goldmark.WithExtensions(extension.GFM), goldmark.WithRendererOptions(html.WithUnsafe()))
	own := map[string]bool{}
	for _, name := range []string{"p", "strong", "h3", "table", "thead", "tbody", "tr", "th", "td", "pre", "code", "ul", "li", "br", "a"} {
		own[name], own["/"+name] = true, true
	}
	for seed := range uint64(3000) {
		s := hostileScreen(rand.New(rand.NewPCG(seed, 1)))
		for _, format := range render.Formats() {
			for _, o := range []render.Options{{}, {Width: 40, Unicode: true}, {ForSpreadsheet: true}} {
				var b bytes.Buffer
				require.NoError(t, render.Screen(&b, s, render.Format(format), o))
				require.False(t, control.MatchString(b.String()), "%s, seed %d: %q", format, seed, b.String())
				if format == string(render.JSON) {
					var back map[string]string
					require.NoError(t, json.Unmarshal(b.Bytes(), &back))
					require.Equal(t, s.Data, back, "JSON is exact")
				}
			}
		}
		var b, page bytes.Buffer
		require.NoError(t, render.Screen(&b, s, render.Markdown, render.Options{}))
		require.NoError(t, plain.Convert(b.Bytes(), &page))
		for _, m := range element.FindAllStringSubmatch(page.String(), -1) {
			require.True(t, own[strings.ToLower(m[1])], "seed %d: <%s> in\n%s\n%s", seed, m[1], b.String(), page.String())
		}
		require.NotRegexp(t, `(?i)(href|src)="?\s*javascript`, page.String(), "seed %d: %s", seed, b.String())
		require.NotContains(t, page.String(), "href=\"http", "seed %d: %s", seed, b.String())
		require.Equal(t, 1, strings.Count(page.String(), "<pre>"), "seed %d: the code is one block\n%s", seed, b.String())
		require.Equal(t, 3, strings.Count(page.String(), "<tr>"), "seed %d: the table has its rows\n%s\n%s", seed, b.String(),
			page.String())
	}
}
