package render

import (
	"bytes"
	"compress/flate"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"html/template"
	"io"
	"runtime"
	"slices"
	"strings"

	"golang.org/x/sync/errgroup"

	"tovrel/core/pattern"
	"tovrel/page"
	"tovrel/view"
)

const (
	// inChunk is how many questions are compressed together: more compress better, and take longer to unfold.
	inChunk = 25
	// mostOfText and mostOfQuery are how many characters of a text and of a query a page has: data may be of any size.
	mostOfText, mostOfQuery = 2_000, 50_000
)

// within is a text of at most so many characters, cut in the middle.
func within(text string, most int) string {
	if len(text) <= most {
		return text
	}
	all := []rune(text)
	if len(all) <= most {
		return text
	}
	return string(all[:most/2]) + " … " + string(all[len(all)-most/2:])
}

// filter is a choice that narrows the list of questions.
type filter struct {
	Name, Of string
	Values   []string
}

// filled is what the page's template is filled with.
type filled struct {
	view.Page
	Style, Script         any
	StyleHash, ScriptHash string
	Filters               []filter
	Urgent                []view.PageQuestion // spelt out
	More                  int                 // how many these are, where there are more
	Chunks                []template.HTML     // in base 64
	Changed               bool                // some question changed between the runs
}

// Page writes a report as one page that opens anywhere. It errs where a chart cannot be drawn or the writer fails.
func Page(w io.Writer, p view.Page) error {
	known := map[string]bool{}
	for _, q := range p.Questions {
		known[q.Name] = true
	}
	t, err := template.New("").Funcs(pageFuncs(known)).Parse(page.Markup)
	if err != nil {
		return err
	}
	f := filled{Page: p, Style: template.CSS(page.Style), Script: template.JS(page.Script), //nolint:gosec // our own files
		StyleHash: hashOf(page.Style), ScriptHash: hashOf(page.Script), Filters: filtersOf(p)}
	f.Changed = slices.ContainsFunc(p.Questions, func(q view.PageQuestion) bool { return q.Change != "" })
	all := false
	if f.Urgent, all = p.Spelt(); !all {
		f.More = len(f.Urgent)
	}
	if f.Chunks, err = chunksOf(t, p.Questions); err != nil {
		return err
	}
	return t.ExecuteTemplate(w, "page", f)
}

// hashOf names a part of the page in its policy.
func hashOf(text string) string {
	sum := sha256.Sum256([]byte(text))
	return "sha256-" + base64.StdEncoding.EncodeToString(sum[:])
}

// chunksOf compresses the details of all questions, some of them together, several at once.
func chunksOf(t *template.Template, questions []view.PageQuestion) ([]template.HTML, error) {
	parts := slices.Collect(slices.Chunk(questions, inChunk))
	out := make([]template.HTML, len(parts))
	var g errgroup.Group
	g.SetLimit(runtime.GOMAXPROCS(0))
	for i, part := range parts {
		g.Go(func() (err error) {
			out[i], err = chunkOf(t, part)
			return err
		})
	}
	return out, g.Wait()
}

// chunkOf compresses the details of some questions.
func chunkOf(t *template.Template, questions []view.PageQuestion) (template.HTML, error) {
	details := make([]string, len(questions))
	for i, q := range questions {
		var b strings.Builder
		if err := t.ExecuteTemplate(&b, "details", q); err != nil {
			return "", err
		}
		details[i] = b.String()
	}
	body, err := json.Marshal(details)
	if err != nil {
		return "", err
	}
	var b bytes.Buffer
	z, err := flate.NewWriter(&b, flate.DefaultCompression)
	if err != nil {
		return "", err
	}
	if _, err := z.Write(body); err != nil {
		return "", err
	}
	if err := z.Close(); err != nil {
		return "", err
	}
	return template.HTML(base64.StdEncoding.EncodeToString(b.Bytes())), nil //nolint:gosec // letters and digits
}

// filtersOf are the choices over a page's questions; one with a single value is of no use.
func filtersOf(p view.Page) []filter {
	of := func(name, key string, values func(q view.PageQuestion) []string) filter {
		f := filter{Name: name, Of: key}
		for _, q := range p.Questions {
			for _, v := range values(q) {
				if v != "" && !slices.Contains(f.Values, v) {
					f.Values = append(f.Values, v)
				}
			}
		}
		slices.Sort(f.Values)
		return f
	}
	all := []filter{
		of("verdict", "verdict", func(q view.PageQuestion) []string {
			var out []string
			for _, v := range q.Verdicts {
				out = append(out, string(v))
			}
			return out
		}),
		of("change", "change", func(q view.PageQuestion) []string { return []string{q.Change} }),
		of("fault", "fault", func(q view.PageQuestion) []string { return q.Faults }),
		of("tag", "tag", func(q view.PageQuestion) []string { return q.Tags }),
		of("set", "set", func(q view.PageQuestion) []string { return []string{q.Set} }),
		of("dataset", "dataset", func(q view.PageQuestion) []string { return []string{q.Dataset} }),
	}
	return slices.DeleteFunc(all, func(f filter) bool { return len(f.Values) < 2 && f.Of != "change" || len(f.Values) == 0 })
}

// pageFuncs are what the template calls; known are the questions that the page has a place for.
func pageFuncs(known map[string]bool) template.FuncMap {
	return template.FuncMap{
		"printable": printable,
		"mark":      func(v view.Verdict) string { return marks[v] },
		"anchor":    func(name string) bool { return known[name] },
		"words":     wordsOf,
		"svg":       inlineChart,
		"gauges":    gaugeHTML,
		"bar":       barHTML,
		"marked":    markedHTML,
		"prose":     proseHTML,
		"indented":  func(name string) bool { return strings.HasPrefix(name, " ") },
		"grid":      func(g *view.Grid) template.HTML { return gridHTML(g, known) },
		"mostOf": func(bars []view.Bar) int {
			most := 1
			for _, b := range bars {
				most = max(most, b.Value)
			}
			return most
		},
	}
}

// wordsOf are words with a space between.
func wordsOf(words any) string { return strings.Trim(fmt.Sprint(words), "[]") }

// markedHTML is a query with its marks of a difference as marks of the page.
func markedHTML(text string) template.HTML {
	safe := template.HTMLEscapeString(Plain(within(text, mostOfQuery)))
	return template.HTML(strings.NewReplacer("‹", "<mark>", "›", "</mark>").Replace(balanced(safe))) //nolint:gosec // escaped
}

// proseHTML is a sentence, in which what stands between backquotes is code.
func proseHTML(text string) template.HTML {
	parts := strings.Split(escaped(within(text, mostOfText)), "`")
	var b strings.Builder
	for i, part := range parts {
		switch {
		case i%2 == 0:
			b.WriteString(part)
		case i == len(parts)-1: // it is never closed
			b.WriteString("`" + part)
		default:
			b.WriteString("<code>" + part + "</code>")
		}
	}
	return template.HTML(b.String()) //nolint:gosec // escaped
}

// balanced drops the marks of a text that do not pair up: a query's own characters.
func balanced(text string) string {
	if strings.Count(text, "‹") != strings.Count(text, "›") {
		return strings.NewReplacer("‹", "&lsaquo;", "›", "&rsaquo;").Replace(text)
	}
	return text
}

// gaugeHTML draws a share with its interval on a scale of 0 to 100 %.
func gaugeHTML(g any) template.HTML {
	var one view.Gauge
	switch g := g.(type) {
	case *view.Gauge:
		one = *g
	case view.Gauge:
		one = g
	}
	const wide = 230
	at := func(share float64) float64 { return 5 + share*wide }
	words := fmt.Sprintf("%s (%s to %s)", view.Percent(one.Value), view.Percent(one.Low), view.Percent(one.High))
	if one.High == 0 {
		words = one.Note
	}
	//nolint:gosec // numbers, and escaped words
	return template.HTML(fmt.Sprintf(`<div class="gauge"><span class="name">%s</span><svg width="240" height="18" role="img" `+
		`aria-label="%s"><path d="M5 9H235M5 4V14M235 4V14" stroke="currentColor" stroke-opacity=".35"/>`+
		`<path d="M%.1f 9H%.1f" stroke="currentColor" stroke-width="3"/><circle cx="%.1f" cy="9" r="5" fill="currentColor"/></svg>`+
		`<span>%s</span></div>`, escaped(one.Name), escaped(words), at(one.Low), at(one.High),
		at(one.Value), escaped(words)))
}

// barHTML draws a count beside the largest.
func barHTML(value, most int) template.HTML {
	const wide = 240
	//nolint:gosec // numbers
	return template.HTML(fmt.Sprintf(`<svg width="%d" height="12" aria-hidden="true"><rect width="%d" height="12" fill="currentColor" `+
		`fill-opacity=".55"/></svg>`, wide, max(1, value*wide/most)))
}

// styled finds a style attribute: the page's policy lets none be, so that each of its parts becomes an attribute.
var styled = pattern.Of(`style="([^"]*)"`)

// inlineChart is a chart in the page's own colours.
func inlineChart(c view.Chart) (template.HTML, error) {
	p, size, err := drawn(c)
	if err != nil {
		return "", err
	}
	plainPlot(p)
	body, err := svgOf(p, size, c)
	if err != nil {
		return "", err
	}
	out := styled.ReplaceAllStringFunc(string(body), func(attribute string) string {
		var b strings.Builder
		for part := range strings.SplitSeq(styled.FindStringSubmatch(attribute)[1], ";") {
			if name, value, ok := strings.Cut(part, ":"); ok {
				value = strings.ReplaceAll(strings.TrimSpace(value), "#000000", "currentColor")
				fmt.Fprintf(&b, `%s="%s" `, strings.TrimSpace(name), value)
			}
		}
		return strings.TrimSpace(b.String())
	})
	out = strings.Replace(out, "<svg ", `<svg fill="currentColor" `, 1) // what has no colour of its own is black else
	return template.HTML(`<div role="img">` + out + `</div>`), nil      //nolint:gosec // of numbers and escaped names
}
