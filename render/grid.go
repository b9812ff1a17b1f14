package render

import (
	"slices"
	"strings"

	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/jedib0t/go-pretty/v6/text"

	"tovrel/view"
)

// narrowest is how far a column is cut at most.
const narrowest = 6

// narrowSentence is how far a column of sentences is narrowed at most.
const narrowSentence = 24

// gap is the space between two columns.
const gap = 2

// grid writes a table with a rule under its header and no other lines.
func (p *printer) grid(g view.Grid) {
	g = p.without(g)
	shown := make([][]string, len(g.Rows))
	for r, row := range g.Rows {
		shown[r] = make([]string, len(row))
		for i, cell := range row {
			shown[r][i] = p.cell(cell)
		}
	}
	alignMarks(g, shown)
	widths := p.widths(g, shown)
	if p.Width > 0 && total(widths) > p.Width {
		p.records(g, shown)
		return
	}
	t := table.NewWriter()
	t.SetStyle(ruled)
	var configs []table.ColumnConfig
	header := table.Row{}
	for i, c := range g.Columns {
		align := text.AlignLeft
		if c.Right {
			align = text.AlignRight
		}
		configs = append(configs, table.ColumnConfig{Number: i + 1, Align: align, AlignHeader: align, WidthMin: widths[i]})
		header = append(header, printable(c.Name))
	}
	t.SetColumnConfigs(configs)
	t.AppendHeader(header)
	for r, row := range g.Rows {
		out := table.Row{}
		for i := range row {
			fitted := p.fit(shown[r][i], widths[i])
			switch {
			case g.Columns[i].Wrap:
				fitted = strings.Join(wrapped(shown[r][i], widths[i], ""), "\n")
			case g.Columns[i].Head:
				fitted = cutEnd(shown[r][i], widths[i])
			}
			out = append(out, p.paint(row[i].Tone, fitted))
		}
		t.AppendRow(out)
	}
	p.groups(g, widths)
	for i, l := range strings.Split(t.Render(), "\n") {
		if i == 1 { // the rule ends where the last column does
			l = strings.TrimSuffix(l, strings.Repeat("─", gap))
		}
		p.b.WriteString(strings.TrimRight(l, " ") + "\n")
	}
}

// records writes each row as lines of a name and its value, where the columns have no room beside each other.
func (p *printer) records(g view.Grid, shown [][]string) {
	names := groupedNames(g)
	room := 0
	for i, name := range names {
		names[i] = printable(name)
		room = max(room, text.StringWidth(names[i])+gap)
	}
	for r, row := range g.Rows {
		if r > 0 {
			p.b.WriteByte('\n')
		}
		if at := slices.IndexFunc(row, func(c view.Cell) bool { return c.Span }); at >= 0 {
			p.b.WriteString(p.paint(row[at].Tone, "… "+strings.TrimSpace(shown[r][at])) + "\n")
			continue
		}
		for i, cell := range row {
			if g.Columns[i].Rule || shown[r][i] == "" {
				continue
			}
			for n, l := range wrapped(strings.TrimSpace(shown[r][i]), max(narrowest, p.Width-room), "") {
				name := names[i]
				if n > 0 {
					name = ""
				}
				p.b.WriteString(p.paint(view.Faint, name) + strings.Repeat(" ", room-text.StringWidth(name)) + p.paint(cell.Tone, l) + "\n")
			}
		}
	}
}

// without leaves out columns that can be spared, the last first, while the terminal is too narrow however the others are cut.
func (p *printer) without(g view.Grid) view.Grid {
	for p.Width > 0 {
		wide, spare := -gap, -1
		for i, c := range g.Columns {
			widest := text.StringWidth(printable(c.Name))
			for _, row := range g.Rows {
				widest = max(widest, text.StringWidth(p.cell(row[i])))
			}
			if !c.Keep {
				widest = min(widest, least(c))
			}
			wide += widest + gap
			if c.Spare {
				spare = i
			}
		}
		if wide <= p.Width || spare < 0 {
			break
		}
		out := view.Grid{Groups: narrowed(g.Groups, spare), Columns: slices.Delete(slices.Clone(g.Columns), spare, spare+1)}
		for _, row := range g.Rows {
			out.Rows = append(out.Rows, slices.Delete(slices.Clone(row), spare, spare+1))
		}
		g = out
	}
	return g
}

// narrowed are groups without one column.
func narrowed(groups []view.Group, column int) []view.Group {
	out := slices.Clone(groups)
	for i := range out {
		if column < out[i].Width {
			out[i].Width--
			break
		}
		column -= out[i].Width
	}
	return out
}

// alignMarks gives the other cells of a number column room for the mark behind a difference, so that digits stand in line.
func alignMarks(g view.Grid, shown [][]string) {
	for i, c := range g.Columns {
		marked := false
		for _, row := range g.Rows {
			marked = marked || c.Right && i < len(row) && row[i].Differs
		}
		for r, row := range g.Rows {
			if marked && i < len(row) && !row[i].Differs {
				shown[r][i] += " "
			}
		}
	}
}

// ruled is the one table style.
var ruled = func() table.Style {
	s := table.StyleDefault
	s.Name = "ruled"
	s.Box.PaddingLeft, s.Box.PaddingRight = "", "  "
	s.Box.MiddleHorizontal, s.Box.MiddleSeparator, s.Box.MiddleVertical = "─", "─", ""
	s.Options = table.Options{SeparateHeader: true}
	s.Format = table.FormatOptions{Header: text.FormatDefault, Row: text.FormatDefault, Footer: text.FormatDefault}
	return s
}()

// groups writes the headings that stand over neighbouring columns.
func (p *printer) groups(g view.Grid, widths []int) {
	if len(g.Groups) == 0 {
		return
	}
	var b strings.Builder
	at := 0
	for _, group := range g.Groups {
		room := 0
		for _, w := range widths[at:min(at+group.Width, len(widths))] {
			room += w + gap
		}
		at += group.Width
		name := p.fit(group.Name, max(1, room-gap))
		b.WriteString(name + strings.Repeat(" ", max(0, room-text.StringWidth(name))))
	}
	p.b.WriteString(p.paint(view.Strong, strings.TrimRight(b.String(), " ")) + "\n")
}

// cell is a cell with its marks.
func (p *printer) cell(c view.Cell) string {
	s := p.marked(c.Verdict, printable(c.Show()))
	if c.Differs {
		s = "‹" + s + "›"
	}
	return s
}

// widths gives each column its room: what it needs, or, where the terminal is too narrow, the widest columns give way first.
func (p *printer) widths(g view.Grid, shown [][]string) []int {
	widths := make([]int, len(g.Columns))
	for i, c := range g.Columns {
		widths[i] = text.StringWidth(printable(c.Name))
		for _, row := range shown {
			if i < len(row) {
				widths[i] = max(widths[i], text.StringWidth(row[i]))
			}
		}
	}
	roomForGroups(g, widths)
	if p.Width <= 0 {
		return widths
	}
	narrow(p.Width, g, widths, func(c view.Column) bool { return c.Spare }) // what can be left out gives way first
	narrow(p.Width, g, widths, func(view.Column) bool { return true })
	return widths
}

// narrow takes room from the widest of some columns until the grid fits, or they have as little as they can do with.
func narrow(width int, g view.Grid, widths []int, may func(view.Column) bool) {
	for total(widths) > width {
		widest := -1
		for i, c := range g.Columns {
			if !c.Keep && may(c) && widths[i] > least(c) && (widest < 0 || widths[i] > widths[widest]) {
				widest = i
			}
		}
		if widest < 0 {
			return
		}
		widths[widest]--
	}
}

// roomForGroups widens the last column under a heading that is wider than its columns.
func roomForGroups(g view.Grid, widths []int) {
	at := 0
	for _, group := range g.Groups {
		end := min(at+group.Width, len(widths))
		if at == end {
			continue
		}
		widths[end-1] += max(0, text.StringWidth(group.Name)-total(widths[at:end]))
		at = end
	}
}

// least is how narrow a column may be: its heading is never cut.
func least(c view.Column) int {
	room := max(narrowest, c.Room)
	if c.Wrap {
		room = max(narrowSentence, c.Room)
	}
	return max(room, text.StringWidth(printable(c.Name)))
}

func total(widths []int) int {
	sum := -gap
	for _, w := range widths {
		sum += w + gap
	}
	return sum
}

// cutEnd keeps the beginning of a text, where that says most.
func cutEnd(s string, width int) string {
	if text.StringWidth(s) <= width {
		return s
	}
	return text.Trim(s, max(0, width-1)) + "…"
}

// fit cuts a cell to its column; marks of a difference stay on both sides.
func (p *printer) fit(s string, width int) string {
	if text.StringWidth(s) <= width {
		return s
	}
	if strings.HasPrefix(s, "‹") && strings.HasSuffix(s, "›") && width > 3 {
		return "‹" + cutMiddle(strings.TrimSuffix(strings.TrimPrefix(s, "‹"), "›"), width-2) + "›"
	}
	return cutMiddle(s, width)
}
