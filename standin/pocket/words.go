package pocket

import (
	"regexp"
	"strconv"
	"strings"
	"unicode"

	"tovrel/translator"
)

// words are a text's words in lower case, plurals as singulars; numbers lose their separators.
func words(text string) []string {
	text = digitGroups.ReplaceAllString(text, "$1$2")
	fields := strings.FieldsFunc(strings.ToLower(text),
		func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '%' })
	for i, f := range fields {
		fields[i] = singular(f)
	}
	return fields
}

var digitGroups = regexp.MustCompile(`(\d),(\d{3})`)

func singular(word string) string {
	switch {
	case len(word) < 4 || strings.HasSuffix(word, "ss"):
		return word
	case strings.HasSuffix(word, "ies"):
		return word[:len(word)-3] + "y"
	case strings.HasSuffix(word, "s"):
		return word[:len(word)-1]
	}
	return word
}

var months = map[string]int{"january": 1, "february": 2, "march": 3, "april": 4, "may": 5, "june": 6, "july": 7, "august": 8,
	"september": 9, "october": 10, "november": 11, "december": 12}

var ordinals = map[string]int{"first": 1, "second": 2, "third": 3, "fourth": 4, "last": 4}

var numerals = map[string]int{"one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8, "nine": 9, "ten": 10}

func numeral(word string) (int, bool) {
	if n, ok := numerals[word]; ok {
		return n, true
	}
	n, err := strconv.Atoi(word)
	return n, err == nil && n > 0 && n <= 1000
}

var yearBefore = regexp.MustCompile(`(?i)\b(a|the) year (before|earlier)\b|\b(previous|prior) year\b`)

var yearNamed = regexp.MustCompile(`\b(19|20)\d\d\b`)

// inContext reads a follow-up in its conversation: an earlier question asked again for another period.
func inContext(thread []translator.Turn, question string) string {
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
	if y := yearNamed.FindString(question); y != "" && len(words(question)) < 6 {
		return yearNamed.ReplaceAllString(before, y)
	}
	if len(words(question)) >= 6 {
		return question
	}
	return before + " " + question
}
