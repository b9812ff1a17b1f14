package match

import (
	"slices"
	"strings"

	"tovrel/core/table"
	"tovrel/core/value"
)

// plausible tells whether an answer column may stand for an expected one by its content alone. If the answer has extra
// columns, too little evidence proves nothing: the match must rest on three distinct rows, on being the answer's only
// column of its kind, on a shared word in the names, or on a value of four significant digits.
func (s *contentSearch) plausible(i, j int) bool {
	e, a := s.m.expected.Columns[i], s.m.answer.Columns[j]
	if kindOf(e) != kindOf(a) && !(kindOf(e) == text || kindOf(a) == text) {
		return false
	}
	if len(s.m.answer.Columns) <= len(s.m.expected.Columns) {
		return true
	}
	return shareWord(e.Name, a.Name) || s.onlyOfKind(j) || distinctAtLeast(e, 3) || telling(e)
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
	return strings.FieldsFunc(strings.ToLower(name), func(r rune) bool { return r == ' ' || r == '_' || r == '(' || r == ')' || r == '-' })
}

func distinctAtLeast(c *table.Column, n int) bool {
	seen := map[string]bool{}
	for i := range c.Len() {
		seen[c.Value(i).String()] = true
		if len(seen) >= n {
			return true
		}
	}
	return false
}

// telling tells whether a number column holds a value of four significant digits or more.
func telling(c *table.Column) bool {
	if !c.Type.Kind.Number() {
		return false
	}
	for i := range c.Len() {
		digits := strings.Map(func(r rune) rune {
			if r < '0' || r > '9' {
				return -1
			}
			return r
		}, c.Value(i).String())
		if len(strings.Trim(digits, "0")) >= 4 {
			return true
		}
	}
	return false
}
