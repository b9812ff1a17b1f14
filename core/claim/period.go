package claim

import (
	"slices"
	"strconv"
	"strings"
	"time"

	"tovrel/core/pattern"
	"tovrel/core/table"
	"tovrel/core/value"
)

// span is a time from a day to the day behind it, counted from 1970-01-01.
type span struct{ from, to int }

// period is a date or period as it was said.
type period struct {
	text   string
	spans  []span // its readings: 5/6/2031 has two
	month  int    // of any year; 0 for none
	part   int    // quarter of any year; 0 for none
	clock  string // hour and minute; "" for none
	single bool   // a day
}

var monthNames = map[string]int{}

func init() {
	for i, names := range []string{"january jan januar janvier janv", "february feb februar février fevrier févr", "march mar märz mars",
		"april apr avril avr", "may mai", "june jun juni juin", "july jul juli juillet juil", "august aug août aout",
		"september sept sep septembre", "october oct oktober okt octobre", "november nov novembre",
		"december dec dezember dez décembre decembre déc"} {
		for name := range strings.FieldsSeq(names) {
			monthNames[name] = i + 1
		}
	}
}

const anyMonth = `(\pL{3,9})\.?`

var (
	isoDay      = pattern.Of(`^(\d{4})-(\d{2})-(\d{2})(?:[T ](\d{2}:\d{2})(?::\d{2}(?:\.\d+)?)?Z?)?`)
	isoMonth    = pattern.Of(`^(\d{4})[-/](\d{2})\b`)
	isoQuarter  = pattern.Of(`^(?i)(\d{4})[- ]?Q([1-4])\b`)
	quarterYear = pattern.Of(`^(?i)Q([1-4])(?:\s+of)?(?:[ /,-]+(\d{4}))?\b`)
	quarterWord = pattern.Of(`^(?i)(first|second|third|fourth|last|1st|2nd|3rd|4th) quarter(?:\s+of)?(?:,?\s+(\d{4}))?\b`)
	dotDay      = pattern.Of(`^(\d{1,2})\.\s?(\d{1,2})\.\s?(\d{4})\b`)
	slashDay    = pattern.Of(`^(\d{1,2})[/-](\d{1,2})[/-](\d{4})\b`)
	dayMonth    = pattern.Of(`^(?i)(\d{1,2})(?:st|nd|rd|th|er|\.)?\s+(?:of\s+|de\s+)?` + anyMonth + `(?:,?\s+(\d{4})\b)?`)
	monthDay    = pattern.Of(`^(?i)` + anyMonth + `\s+(\d{1,2})(?:st|nd|rd|th)?\b(?:,?\s+(\d{4})\b)?`)
	monthYear   = pattern.Of(`^(?i)` + anyMonth + `(?:\s+of)?,?\s+(\d{4})\b`)
	monthAlone  = pattern.Of(`^(January|February|March|April|May|June|July|August|September|October|November|December)\b`)
	clock       = pattern.Of(`^(?:,?\s+(?:at\s+)?|T)(\d{1,2}:\d{2})\b`)
)

// periodAt reads a date or period that begins at a text's beginning; the length is 0 where none does. Years alone are not read.
func periodAt(text string) (p period, length int) {
	found := func(m []string, spans ...span) (period, int) {
		var sound []span
		for _, s := range spans {
			if s.to > s.from {
				sound = append(sound, s)
			}
		}
		if len(sound) == 0 {
			return period{}, 0
		}
		one := period{text: m[0], spans: sound, single: sound[0].to-sound[0].from == 1}
		end := len(m[0])
		if at := clock.FindStringSubmatch(text[end:]); one.single && at != nil {
			one.clock, end = at[1], end+len(at[0])
		}
		return one, end
	}
	if m := isoDay.FindStringSubmatch(text); m != nil {
		p, length := found(m, day(m[1], m[2], m[3]))
		if m[4] != "" {
			p.clock = m[4]
		}
		return p, length
	}
	if m := isoQuarter.FindStringSubmatch(text); m != nil {
		return found(m, quarter(m[1], m[2]))
	}
	if m := isoMonth.FindStringSubmatch(text); m != nil {
		return found(m, month(m[1], m[2]))
	}
	if m := dotDay.FindStringSubmatch(text); m != nil {
		return found(m, day(m[3], m[2], m[1]))
	}
	if m := slashDay.FindStringSubmatch(text); m != nil {
		if m[1] == m[2] {
			return found(m, day(m[3], m[2], m[1]))
		}
		return found(m, day(m[3], m[2], m[1]), day(m[3], m[1], m[2]))
	}
	if m := quarterWord.FindStringSubmatch(text); m != nil {
		which := map[string]string{"first": "1", "1st": "1", "second": "2", "2nd": "2", "third": "3", "3rd": "3", "fourth": "4",
			"4th": "4"}
		n := which[strings.ToLower(m[1])]
		if n == "" {
			return period{}, 0
		}
		return quarterOf(m, n, m[2], found)
	}
	if m := quarterYear.FindStringSubmatch(text); m != nil {
		return quarterOf(m, m[1], m[2], found)
	}
	return wordedPeriod(text, found)
}

func quarterOf(m []string, n, year string, found func([]string, ...span) (period, int)) (period, int) {
	if year != "" {
		return found(m, quarter(year, n))
	}
	part, _ := strconv.Atoi(n) // a digit
	return period{text: m[0], part: part}, len(m[0])
}

// wordedPeriod reads a date whose month is a word.
func wordedPeriod(text string, found func([]string, ...span) (period, int)) (period, int) {
	named := func(word string) string {
		if n := monthNames[strings.ToLower(word)]; n > 0 {
			return strconv.Itoa(n)
		}
		return ""
	}
	ofAnyYear := func(m []string, name string) (period, int) {
		return period{text: m[0], month: monthNames[strings.ToLower(name)]}, len(m[0])
	}
	if m := dayMonth.FindStringSubmatch(text); m != nil && named(m[2]) != "" {
		if m[3] == "" {
			return ofAnyYear(m, m[2])
		}
		return found(m, day(m[3], named(m[2]), m[1]))
	}
	if m := monthYear.FindStringSubmatch(text); m != nil && named(m[1]) != "" {
		return found(m, month(m[2], named(m[1])))
	}
	if m := monthDay.FindStringSubmatch(text); m != nil && named(m[1]) != "" && (m[3] != "" || monthAlone.MatchString(text)) {
		if m[3] == "" {
			return ofAnyYear(m, m[1])
		}
		return found(m, day(m[3], named(m[1]), m[2]))
	}
	if m := monthAlone.FindStringSubmatch(text); m != nil {
		return ofAnyYear(m, m[1])
	}
	return period{}, 0
}

func day(year, month, day string) span {
	y, _ := strconv.Atoi(year) // digits, as the next ones
	m, _ := strconv.Atoi(month)
	d, _ := strconv.Atoi(day)
	from := time.Date(y, time.Month(m), d, 0, 0, 0, 0, time.UTC)
	if int(from.Month()) != m || from.Day() != d {
		return span{}
	}
	return span{daysOf(from), daysOf(from) + 1}
}

func month(year, month string) span {
	y, _ := strconv.Atoi(year)
	m, _ := strconv.Atoi(month)
	if m < 1 || m > 12 {
		return span{}
	}
	return months(y, m, 1)
}

func quarter(year, n string) span {
	y, _ := strconv.Atoi(year)
	q, _ := strconv.Atoi(n)
	return months(y, 3*q-2, 3)
}

func yearSpan(y int) span { return months(y, 1, 12) }

func months(y, m, n int) span {
	return span{daysOf(time.Date(y, time.Month(m), 1, 0, 0, 0, 0, time.UTC)), daysOf(time.Date(y, time.Month(m+n), 1, 0, 0, 0, 0,
		time.UTC))}
}

func daysOf(t time.Time) int { return int(t.Unix() / 86400) }

// year is the year in which a span lies.
func (s span) year() int { return time.Unix(int64(s.from)*86400, 0).UTC().Year() }

// months and quarters of a span that is one.
func (s span) month() int { return int(time.Unix(int64(s.from)*86400, 0).UTC().Month()) }

// periodsOf reads the cells of a column as periods, by row; nil where the column holds none. Days that all begin a year, a quarter
// or a month stand for it too.
func periodsOf(c *table.Column) []period {
	out := make([]period, c.Len())
	lower := strings.ToLower(c.Name)
	some := false
	for row := range c.Len() {
		if c.IsNull(row) {
			continue
		}
		v := c.Value(row)
		switch {
		case v.Kind().Temporal() && v.Kind() != value.Time:
			p, _ := periodAt(v.String())
			out[row] = p
		case v.Kind() == value.Int:
			n, _ := v.Small()
			out[row] = numbered(lower, int(n))
		case v.Kind() == value.Text:
			text := strings.TrimSpace(v.Str())
			if p, length := periodAt(text); length == len(text) {
				out[row] = p
			} else if n := monthNames[strings.ToLower(text)]; n > 0 {
				out[row] = period{text: text, month: n}
			} else if y, err := strconv.Atoi(text); err == nil && len(text) == 4 && y >= 1900 && y <= 2100 {
				out[row] = period{text: text, spans: []span{yearSpan(y)}}
			}
		}
		some = some || out[row].text != ""
	}
	if !some {
		return nil
	}
	return widened(out, lower)
}

// numbered is a whole number in a column named after years, months or quarters.
func numbered(column string, n int) period {
	text := strconv.Itoa(n)
	switch {
	case strings.Contains(column, "year") && n >= 1900 && n <= 2100:
		return period{text: text, spans: []span{yearSpan(n)}}
	case strings.Contains(column, "month") && n >= 1 && n <= 12:
		return period{text: text, month: n}
	case strings.Contains(column, "quarter") && n >= 1 && n <= 4:
		return period{text: text, part: n}
	}
	return period{}
}

// widened lets days that all begin a period stand for it: several days, or one in a column named so.
func widened(all []period, column string) []period {
	for _, unit := range []struct {
		name   string
		months int
	}{{"year", 12}, {"quarter", 3}, {"month", 1}} {
		if (len(all) > 1 || strings.Contains(column, unit.name)) && allBegin(all, unit.months) {
			for i, p := range all {
				if len(p.spans) > 0 {
					all[i].spans = append(all[i].spans, months(p.spans[0].year(), p.spans[0].month(), unit.months))
				}
			}
		}
	}
	return all
}

// allBegin tells whether all are days, and the first of so many months.
func allBegin(all []period, n int) bool {
	for _, p := range all {
		if p.text == "" {
			continue
		}
		if !p.single {
			return false
		}
		y, m := p.spans[0].year(), p.spans[0].month()
		if (m-1)%n != 0 || months(y, m, n).from != p.spans[0].from {
			return false
		}
	}
	return true
}

// same tells whether a said period is a cell's.
func (p period) same(cell period) bool {
	for _, a := range p.spans {
		if slices.Contains(cell.spans, a) {
			return true
		}
	}
	switch {
	case p.month > 0 && cell.month > 0:
		return p.month == cell.month
	case p.part > 0 && cell.part > 0:
		return p.part == cell.part
	case p.month > 0: // "May", where the cells are months of a year
		return slices.ContainsFunc(cell.spans, func(s span) bool { return s.lasts(28, 31) && s.month() == p.month })
	case p.part > 0:
		return slices.ContainsFunc(cell.spans, func(s span) bool { return s.lasts(90, 92) && (s.month()+2)/3 == p.part })
	case cell.month > 0: // "May 2031", where the cells are months of any year
		return len(p.spans) > 0 && p.spans[0].lasts(28, 31) && p.spans[0].month() == cell.month
	}
	return false
}

// lasts tells whether a span has so many days.
func (s span) lasts(least, most int) bool { return s.to-s.from >= least && s.to-s.from <= most }

// within tells whether a period lies in another.
func (p period) within(q period) bool {
	for _, a := range p.spans {
		for _, b := range q.spans {
			if a.from >= b.from && a.to <= b.to {
				return true
			}
		}
	}
	return p.same(q)
}
