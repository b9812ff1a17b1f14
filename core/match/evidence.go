package match

import (
	"math"
	"slices"
	"strings"

	"tovrel/core/table"
	"tovrel/core/value"
)

// enoughBits is how much evidence a column takes that is found by its content alone, where the answer has columns that were not asked.
const enoughBits = 8

// plausible tells whether an answer column may stand for an expected one by its content alone. If the answer has extra columns, too
// little evidence proves nothing: among ten measures a lone 3 is soon found.
func (s *contentSearch) plausible(i, j int) bool {
	e, a := s.m.expected.Columns[i], s.m.answer.Columns[j]
	if kindOf(e) != kindOf(a) && !(kindOf(e) == text || kindOf(a) == text) {
		return false
	}
	if s.m.lenient || len(s.m.answer.Columns) <= len(s.m.expected.Columns) || s.bits(i, j) >= enoughBits {
		return true
	}
	s.m.slighted = true
	return false
}

// bits is the evidence for a pair of columns: of each distinct value log2(1 + its digits read as a whole number), at most 10, or 8 of a
// text or a date; of the ways in which the values can be dealt out over the rows the logarithm; and 4 where the names or the places speak
// for it.
func (s *contentSearch) bits(i, j int) float64 {
	sum := s.m.telling(i)
	if shareWord(s.m.expected.Columns[i].Name, s.m.answer.Columns[j].Name) || s.onlyOfKind(j) || s.firstOfKind(i, j) {
		sum += 4
	}
	return sum
}

// telling are the bits of an expected column's values.
func (m *matcher) telling(i int) float64 {
	if bits, known := m.told[i]; known {
		return bits
	}
	e := m.expected.Columns[i]
	times := map[string]int{}
	sum, dealt := 0.0, logFactorial(e.Len())
	for row := range e.Len() {
		times[e.Value(row).String()]++
	}
	for value, n := range times {
		dealt -= logFactorial(n)
		if kindOf(e) != number {
			sum += 8
			continue
		}
		sum += min(10, digitBits(value))
	}
	if m.told == nil {
		m.told = map[int]float64{}
	}
	m.told[i] = sum + dealt
	return m.told[i]
}

// logFactorial is log2(n!).
func logFactorial(n int) float64 {
	x, _ := math.Lgamma(float64(n) + 1)
	return x / math.Ln2
}

// digitBits is log2(1 + the digits of a number, read as a whole number).
func digitBits(text string) float64 {
	whole := 0.0
	for _, r := range text {
		if r >= '0' && r <= '9' {
			whole = whole*10 + float64(r-'0')
		}
	}
	return math.Log2(1 + whole)
}

// firstOfKind tells whether two columns stand first among those of their kind, in their tables.
func (s *contentSearch) firstOfKind(i, j int) bool {
	first := func(columns []*table.Column, at int) bool {
		return !slices.ContainsFunc(columns[:at], func(c *table.Column) bool { return kindOf(c) == kindOf(columns[at]) })
	}
	return first(s.m.expected.Columns, i) && first(s.m.answer.Columns, j)
}

type kind uint8

const (
	number kind = iota
	text
	moment
)

func kindOf(c *table.Column) kind {
	switch c.Type.Kind {
	case value.Int, value.Decimal, value.Float, value.Bool:
		return number
	case value.Date, value.Time, value.Timestamp, value.TimestampTZ, value.Interval:
		return moment
	}
	return text
}

func (s *contentSearch) onlyOfKind(j int) bool {
	for other, c := range s.m.answer.Columns {
		if other != j && kindOf(c) == kindOf(s.m.answer.Columns[j]) {
			return false
		}
	}
	return true
}

func shareWord(a, b string) bool {
	for _, x := range words(a) {
		if slices.Contains(words(b), x) {
			return true
		}
	}
	return false
}

func words(name string) []string {
	return strings.FieldsFunc(strings.ToLower(name), func(r rune) bool {
		return r == ' ' || r == '_' || r == '(' || r == ')' ||
			r == '-'
	})
}
