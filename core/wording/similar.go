package wording

import (
	"strings"
	"unicode"
)

// little are words that hardly tell one question from another.
var little = map[string]bool{"a": true, "an": true, "the": true, "of": true, "in": true, "on": true, "for": true, "to": true,
	"and": true, "by": true, "at": true, "with": true, "our": true, "we": true, "us": true, "me": true, "please": true,
	"is": true, "are": true, "was": true, "were": true, "did": true, "do": true, "does": true, "have": true, "has": true,
	"had": true, "there": true, "what": true, "which": true, "show": true, "give": true, "tell": true, "list": true,
	"how": true, "each": true, "per": true, "every": true, "it": true, "its": true, "that": true, "this": true}

// telling are words that turn a question into another one, however few they are.
var telling = map[string]bool{"not": true, "no": true, "never": true, "without": true, "least": true, "most": true,
	"fewest": true, "lowest": true, "highest": true, "first": true, "last": true, "average": true, "total": true, "sum": true,
	"median": true, "share": true, "percent": true, "before": true, "after": true, "above": true, "below": true, "over": true,
	"under": true, "gross": true, "net": true, "min": true, "max": true, "minimum": true, "maximum": true, counted: true}

// counted stands for the words by which people ask how many there are.
const counted = "count"

var countingWords = map[string]bool{"many": true, "number": true, "count": true}

// almost is from which share of common words on two questions are near-duplicates.
const almost = 0.85

// Weighed is a wording by its words of weight, to be held against many others.
type Weighed struct {
	words, names map[string]bool
}

// Weigh takes a wording apart.
func Weigh(text string) Weighed { return Weighed{wordsOf(text), namesIn(text)} }

// Similar tells whether two wordings ask nearly the same: the same numbers, names and telling words, and hardly another word of weight.
// It knows no meaning: synonyms are different words.
func Similar(a, b string) bool { return Weigh(a).Similar(Weigh(b)) }

// Similar is as the function of this name.
func (w Weighed) Similar(v Weighed) bool {
	common := 0
	for word := range w.words {
		switch {
		case v.words[word]:
			common++
		case decides(word) || w.names[word]:
			return false
		}
	}
	if common == 0 || 2*float64(common) < almost*float64(len(w.words)+len(v.words)) {
		return false
	}
	for word := range v.words {
		if !w.words[word] && (decides(word) || v.names[word]) {
			return false
		}
	}
	return true
}

// namesIn are the words that are written with a capital letter though they do not begin the wording: names of things.
func namesIn(text string) map[string]bool {
	out := map[string]bool{}
	for i, word := range strings.Fields(text) {
		if i > 0 && unicode.IsUpper([]rune(word)[0]) {
			out[strings.TrimSuffix(Fold(word), "s")] = true
		}
	}
	return out
}

// decides tells a word without which a question is another one: a number, or a telling word.
func decides(word string) bool {
	return telling[word] || strings.ContainsFunc(word, unicode.IsDigit)
}

// wordsOf are a wording's words of weight, without plural endings.
func wordsOf(text string) map[string]bool {
	out := map[string]bool{}
	for word := range strings.FieldsSeq(Fold(text)) {
		if countingWords[word] {
			word = counted
		}
		if !little[word] {
			out[strings.TrimSuffix(word, "s")] = true
		}
	}
	return out
}
