package render

import (
	"fmt"
	"html/template"
	"strings"

	"tovrel/view"
)

// escaped is a text that cannot steer a page.
func escaped(text string) string { return template.HTMLEscapeString(printable(text)) }

// gridHTML is a table of the page; a cell that is the name of a question that the page has a place for leads there. It is written by hand:
// a page has hundreds of thousands of cells.
func gridHTML(g *view.Grid, known map[string]bool) template.HTML {
	var b strings.Builder
	b.WriteString(`<div class="wide" tabindex="0" role="region" aria-label="table"><table><thead>`)
	if len(g.Groups) > 0 {
		b.WriteString("<tr>")
		for _, group := range g.Groups {
			fmt.Fprintf(&b, `<th colspan="%d" class="group">%s</th>`, group.Width, escaped(strings.Trim(group.Name, "│")))
		}
		b.WriteString("</tr>")
	}
	b.WriteString("<tr>")
	for _, c := range g.Columns {
		class := ""
		if c.Right {
			class = ` class="right"`
		}
		name := c.Name
		if c.Rule {
			name = ""
		}
		fmt.Fprintf(&b, `<th scope="col"%s dir="auto">%s</th>`, class, escaped(name))
	}
	b.WriteString("</tr></thead><tbody>\n")
	for _, row := range g.Rows {
		b.WriteString("<tr>")
		for i, c := range row {
			writeCell(&b, g, i, c, known)
		}
		b.WriteString("</tr>\n")
	}
	b.WriteString("</tbody></table></div>")
	return template.HTML(b.String()) //nolint:gosec // every text is escaped
}

func writeCell(b *strings.Builder, g *view.Grid, i int, c view.Cell, known map[string]bool) {
	rule := i < len(g.Columns) && g.Columns[i].Rule
	b.WriteString(`<td dir="auto"`)
	if i < len(g.Columns) && g.Columns[i].Right && !c.Span {
		b.WriteString(` class="right"`)
	}
	b.WriteByte('>')
	switch {
	case rule:
	case c.Differs:
		b.WriteString("<mark>" + escaped(within(c.Show(), mostOfText)) + "</mark>")
	case known[c.Text]:
		b.WriteString(`<a href="#` + escaped(c.Text) + `">` + escaped(c.Text) + "</a>")
	case c.Verdict != "" || c.Tone != "":
		tone := string(c.Tone)
		if c.Verdict != "" {
			tone = string(c.Verdict)
			b.WriteString(`<span class="mark ` + escaped(tone) + `">` + marks[c.Verdict] + "</span> ")
		}
		b.WriteString(`<span class="` + escaped(tone) + `">` + string(proseHTML(c.Show())) + "</span>")
	default:
		b.WriteString(string(proseHTML(c.Show())))
	}
	b.WriteString("</td>")
}
