package match

import (
	"strings"

	"tovrel/core/pattern"
	"tovrel/core/table"
	"tovrel/core/value"
)

// reformatted are the ways to read a pair of columns in which one side, as a whole, writes what the other holds: formatted
// numbers for numbers, period texts for the periods' first days.
func reformatted(e, a *table.Column) [][2]*table.Column {
	var out [][2]*table.Column
	if a.Type.Kind == value.Text && e.Type.Kind.Number() {
		for _, read := range writtenNumbers(a) {
			out = append(out, [2]*table.Column{e, read})
		}
	}
	if e.Type.Kind == value.Text && a.Type.Kind.Number() {
		for _, read := range writtenNumbers(e) {
			out = append(out, [2]*table.Column{read, a})
		}
	}
	return append(out, periodPairs(e, a)...)
}

var (
	currency  = pattern.Of(`^(?:[$€£¥]|[A-Z]{3} )\s*|\s*(?:[$€£¥]| [A-Z]{3})$`)
	grouped   = pattern.Of(`^\d{1,3}(?:[,' \x{2009}\x{00a0}\x{202f}]\d{3})+(?:\.\d+)?$`)
	groupedEU = pattern.Of(`^\d{1,3}(?:\.\d{3})*,\d+$`)
	plainForm = pattern.Of(`^\d+(?:\.\d+)?$`)
)

// writtenNumbers reads a text column of formatted numbers; a column of percentages in two ways, as the number before the
// sign and as its hundredth. Nil where a cell is no number, or none is formatted.
func writtenNumbers(c *table.Column) []*table.Column {
	cells := make([]table.Cell, c.Len())
	percent, formatted := 0, 0
	for i := range c.Len() {
		if c.IsNull(i) {
			cells[i].Null = true
			continue
		}
		number, isPercent, ok := readNumber(cellText(c, i))
		if !ok {
			return nil
		}
		if isPercent {
			percent++
		}
		if number != cellText(c, i) {
			formatted++
		}
		cells[i].Text = number
	}
	if formatted == 0 || percent > 0 && percent < c.Len()-nullCount(cells) {
		return nil
	}
	read := table.FromCells(c.Name, cells)
	if percent == 0 {
		return []*table.Column{read}
	}
	return []*table.Column{read, rescale(read, 2)}
}

func nullCount(cells []table.Cell) int {
	n := 0
	for _, c := range cells {
		if c.Null {
			n++
		}
	}
	return n
}

// readNumber reads a formatted number ("1,234.50", "€ 12", "15.3%", "(7)", "1.234,50") as plain text, and tells whether it is a
// percentage.
func readNumber(text string) (number string, percent, ok bool) {
	s := strings.TrimSpace(text)
	if trimmed, has := strings.CutSuffix(s, "%"); has {
		s, percent = strings.TrimSpace(trimmed), true
	}
	sign := ""
	if strings.HasPrefix(s, "(") && strings.HasSuffix(s, ")") {
		s, sign = s[1:len(s)-1], "-"
	}
	s = currency.ReplaceAllString(s, "")
	for _, minus := range []string{"-", "−"} {
		if trimmed, has := strings.CutPrefix(s, minus); has {
			s, sign = strings.TrimSpace(trimmed), "-"
		}
	}
	s = strings.TrimPrefix(s, "+")
	s = currency.ReplaceAllString(s, "")
	switch {
	case plainForm.MatchString(s):
	case grouped.MatchString(s):
		s = strings.NewReplacer(",", "", "'", "", " ", "", "\u2009", "", "\u00a0", "", "\u202f", "").Replace(s)
	case groupedEU.MatchString(s):
		s = strings.Replace(strings.ReplaceAll(s, ".", ""), ",", ".", 1)
	default:
		return "", false, false
	}
	if _, plain := value.PlainNumber(s); !plain { // leading zeros
		return "", false, false
	}
	return sign + s, percent, true
}
