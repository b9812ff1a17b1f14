package claim

import (
	"slices"
	"strings"

	"tovrel/core/wording"
)

// sameWord are words that are written in two ways, or shortened.
var sameWord = map[string]string{"liter": "litre", "l": "litre", "meter": "metre", "kilometer": "kilometre", "km": "kilometre",
	"kg":   "kilogram",
	"kilo": "kilogram", "eur": "euro", "€": "euro", "usd": "dollar", "$": "dollar", "gbp": "pound", "£": "pound", "hr": "hour",
	"h":   "hour",
	"min": "minute", "sec": "second", "pct": "percent", "%": "percent", "percentage": "percent", "no": "number", "num": "number",
	"nr": "number", "qty": "quantity", "amt": "amount", "avg": "average", "max": "maximum", "mean": "average", "people": "person",
	"children": "child",
	"men":      "man", "women": "woman", "centre": "center", "colour": "color", "minus": "less", "without": "less",
	"took": "take", "taken": "take", "fell": "fall", "fallen": "fall", "rose": "rise", "risen": "rise", "grew": "grow", "grown": "grow",
	"sold": "sell", "paid": "pay", "bought": "buy", "gave": "give", "given": "give", "went": "go", "gone": "go", "came": "come",
	"made": "make",
	"left": "leave", "kept": "keep", "held": "hold", "lost": "lose", "began": "begin", "begun": "begin", "brought": "bring",
	"sent":  "send",
	"spent": "spend", "met": "meet", "ran": "run", "saw": "see", "seen": "see", "got": "get", "lent": "lend", "borne": "bear"}

// Stem folds a word's inflection: plural, past and -ing forms stand as one, and so do some short forms. It takes a folded word.
func Stem(word string) string {
	if same := sameWord[word]; same != "" {
		word = same
	}
	s := strings.TrimSuffix(past(singular(word)), "e")
	if same := sameWord[s]; same != "" {
		return same
	}
	if same := sameWord[s+"e"]; same != "" {
		return same
	}
	return s
}

// singular takes a plural's ending off.
func singular(s string) string {
	ends := func(all ...string) bool {
		return slices.ContainsFunc(all, func(e string) bool { return strings.HasSuffix(s, e) })
	}
	switch {
	case len(s) > 4 && ends("ies"):
		return s[:len(s)-3] + "y"
	case len(s) > 4 && ends("sses", "xes", "ches", "shes"):
		return s[:len(s)-2]
	case len(s) > 3 && ends("s") && !ends("ss", "us", "is"):
		return s[:len(s)-1]
	}
	return s
}

// past takes the endings of the past and of -ing forms off.
func past(s string) string {
	switch {
	case len(s) > 5 && strings.HasSuffix(s, "ied"):
		return s[:len(s)-3] + "y"
	case len(s) > 5 && strings.HasSuffix(s, "ing"):
		return undouble(s[:len(s)-3])
	case len(s) > 4 && strings.HasSuffix(s, "ed") && !strings.HasSuffix(s, "eed"):
		return undouble(s[:len(s)-2])
	}
	return s
}

// undouble turns stopp into stop, but leaves fill and pass.
func undouble(s string) string {
	n := len(s)
	if n > 3 && s[n-1] == s[n-2] && !strings.ContainsRune("lsz", rune(s[n-1])) {
		return s[:n-1]
	}
	return s
}

// stems are the stems of a text's words.
func stems(text string) []string {
	var out []string
	for word := range strings.FieldsSeq(wording.Fold(strings.ReplaceAll(text, "_", " "))) {
		out = append(out, Stem(word))
	}
	return out
}
