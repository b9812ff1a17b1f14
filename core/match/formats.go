package match

import (
	"regexp"
	"strconv"
	"strings"

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
	pe, ge := periods(e)
	pa, ga := periods(a)
	switch {
	case pe == nil || pa == nil || ge == "" && ga == "":
	case ge != "" && ga != "" && ge != ga:
	default:
		out = append(out, [2]*table.Column{pe, pa})
	}
	return out
}

var (
	currency  = regexp.MustCompile(`^(?:[$€£¥]|[A-Z]{3} )\s*|\s*(?:[$€£¥]| [A-Z]{3})$`)
	grouped   = regexp.MustCompile(`^\d{1,3}(?:[,' \x{2009}\x{00a0}\x{202f}]\d{3})+(?:\.\d+)?$`)
	groupedEU = regexp.MustCompile(`^\d{1,3}(?:\.\d{3})*,\d+$`)
	plainForm = regexp.MustCompile(`^\d+(?:\.\d+)?$`)
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
		number, isPercent, ok := ReadNumber(cellText(c, i))
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

// ReadNumber reads a formatted number ("1,234.50", "€ 12", "15.3%", "(7)", "1.234,50") as plain text, and tells whether it is a
// percentage.
func ReadNumber(text string) (number string, percent, ok bool) {
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

var (
	yearForm    = regexp.MustCompile(`^(\d{4})$`)
	monthForm   = regexp.MustCompile(`^(\d{4})-(\d{2})$`)
	quarterForm = regexp.MustCompile(`^(?i:(\d{4})[- ]?Q([1-4])|Q([1-4])[- ]?(\d{4}))$`)
	namedForm   = regexp.MustCompile(`^([A-Za-z]+)\.? (\d{4})$`)
)

// periods reads a column as the first days of periods, with their length ("year", "quarter", "month"); a column of dates or
// timestamps has the length "" and is given as it is. Nil where a cell is no period, or lengths are mixed.
func periods(c *table.Column) (*table.Column, string) {
	if instant(c.Type.Kind) {
		return c, ""
	}
	if c.Type.Kind != value.Text && c.Type.Kind != value.Int || c.Len() == 0 {
		return nil, ""
	}
	out := table.NewColumn(c.Name, value.Type{Kind: value.Date}, c.Len())
	length := ""
	for i := range c.Len() {
		if c.IsNull(i) {
			out.AppendNull()
			continue
		}
		start, l := ReadPeriod(cellText(c, i))
		if l == "" || length != "" && l != length {
			return nil, ""
		}
		length = l
		out.Append(start)
	}
	if length == "" {
		return nil, ""
	}
	return out, length
}

// ReadPeriod reads a period's text ("2031", "2031-Q2", "2031-05", "May 2031") as its first day and its length; "" for none.
func ReadPeriod(text string) (start value.Value, length string) {
	year, month := "", 0
	if m := yearForm.FindStringSubmatch(text); m != nil {
		year, month, length = m[1], 1, "year"
	} else if m := monthForm.FindStringSubmatch(text); m != nil {
		year, length = m[1], "month"
		month, _ = strconv.Atoi(m[2]) // two digits
	} else if m := quarterForm.FindStringSubmatch(text); m != nil {
		year, length = m[1]+m[4], "quarter"
		quarter, _ := strconv.Atoi(m[2] + m[3]) // one digit
		month = 3*quarter - 2
	} else if m := namedForm.FindStringSubmatch(text); m != nil {
		year, month, length = m[2], MonthNamed(m[1]), "month"
	}
	if length == "" || month < 1 || month > 12 {
		return value.Value{}, ""
	}
	start, err := value.Parse(year+"-"+twoDigits(month)+"-01", value.Type{Kind: value.Date})
	if err != nil {
		return value.Value{}, ""
	}
	return start, length
}

func twoDigits(n int) string {
	if n < 10 {
		return "0" + strconv.Itoa(n)
	}
	return strconv.Itoa(n)
}

var monthNames = []string{"january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november", "december"}

// MonthNamed is the number of a month by its English name or its first three letters; 0 for none.
func MonthNamed(name string) int {
	lower := strings.ToLower(name)
	for i, full := range monthNames {
		if lower == full || lower == full[:3] || lower == "sept" && i == 8 {
			return i + 1
		}
	}
	return 0
}
