package pocket

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"

	"tovrel/core/pattern"
	"tovrel/translator"
)

// words are a text's words in lower case, plurals as singulars; numbers lose their separators.
func words(text string) []string {
	text = digitGroups.ReplaceAllString(text, "$1$2")
	fields := strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) })
	for i, f := range fields {
		switch {
		case len(f) < 4 || strings.HasSuffix(f, "ss"):
		case strings.HasSuffix(f, "ies"):
			fields[i] = f[:len(f)-3] + "y"
		default:
			fields[i] = strings.TrimSuffix(f, "s")
		}
	}
	return fields
}

var digitGroups = pattern.Of(`(\d),(\d{3})`)

var numerals = []string{"", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"}

// numeral is a whole number in digits or words; 0 for no number.
func numeral(word string) int {
	n, err := strconv.Atoi(word)
	if err != nil {
		n = max(0, slices.Index(numerals, word))
	}
	return n
}

var (
	ordinals = []string{"first", "second", "third", "fourth"}
	period   = pattern.Of(`(?:(first|second|third|fourth|last) (quarter|half) (?:of )?|` +
		`(january|february|march|april|may|june|july|august|september|october|november|december) (?:of )?)?\b((?:19|20)\d\d)\b`)
	lastDays = pattern.Of(`(?:last|past) (\w+) day\b`)
)

// span is a period of time: from its first day to before the day after it. Days are SQL expressions; "" is an open end.
type span struct{ from, until string }

// readSpan takes the period out of a text of words. What was read leaves a stop behind, which no phrase reaches across.
func readSpan(text string) (span, string) {
	if m := lastDays.FindStringSubmatch(text); m != nil && numeral(m[1]) > 0 {
		return span{from: fmt.Sprintf("current_date - %d", numeral(m[1])-1)}, strings.Replace(text, m[0], ".", 1)
	}
	m := period.FindStringSubmatch(text)
	if m == nil {
		return span{}, text
	}
	year, _ := strconv.Atoi(m[4])
	from, months := time.Date(year, 1, 1, 0, 0, 0, 0, time.UTC), 12
	switch {
	case m[2] != "":
		months = map[string]int{"quarter": 3, "half": 6}[m[2]]
		nth := slices.Index(ordinals, m[1])
		if last := 12/months - 1; nth < 0 || nth > last {
			nth = last
		}
		from = from.AddDate(0, nth*months, 0)
	case m[3] != "":
		month, _ := time.Parse("January", m[3])
		from, months = time.Date(year, month.Month(), 1, 0, 0, 0, 0, time.UTC), 1
	}
	return span{from: day(from), until: day(from.AddDate(0, months, 0))}, strings.Replace(text, m[0], ".", 1)
}

func day(t time.Time) string { return "DATE '" + t.Format(time.DateOnly) + "'" }

var (
	yearBefore = pattern.Of(`(?i)\b(a|the) year (before|earlier)\b|\b(previous|prior) year\b`)
	yearNamed  = pattern.Of(`\b(19|20)\d\d\b`)
)

// inContext reads a follow-up in its conversation: an earlier question again, for another year or with something added.
func inContext(thread []translator.Turn, question string) string {
	if len(words(question)) >= 6 {
		return question
	}
	before := thread[len(thread)-1].Question
	for i := len(thread) - 1; i >= 0 && len(words(before)) < 5; i-- { // a short one follows up itself
		before = thread[i].Question
	}
	if yearBefore.MatchString(question) {
		return yearNamed.ReplaceAllStringFunc(before, func(y string) string {
			n, _ := strconv.Atoi(y)
			return strconv.Itoa(n - 1)
		})
	}
	if y := yearNamed.FindString(question); y != "" {
		return yearNamed.ReplaceAllString(before, y)
	}
	return before + " " + question
}
