package claim

import (
	"math"
	"slices"
)

// units, tens and fractions are numbers in words.
var (
	units = map[string]float64{"zero": 0, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8,
		"nine": 9,
		"ten":  10, "eleven": 11, "twelve": 12, "thirteen": 13, "fourteen": 14, "fifteen": 15, "sixteen": 16, "seventeen": 17,
		"eighteen": 18, "nineteen": 19}
	tens = map[string]float64{"twenty": 20, "thirty": 30, "forty": 40, "fifty": 50, "sixty": 60, "seventy": 70, "eighty": 80,
		"ninety": 90}
	// parts are the denominators of fractions in words.
	parts = map[string]float64{"half": 2, "halves": 2, "third": 3, "thirds": 3, "quarter": 4, "quarters": 4, "fourths": 4, "fifth": 5,
		"fifths": 5, "sixth": 6, "sixths": 6, "eighth": 8, "eighths": 8, "tenth": 10, "tenths": 10}
)

// wordedAt reads a number in words at a place of folded words, with how many words it takes; 0 where none is there.
func wordedAt(words []string) (n number, taken int) {
	if n, taken = fractionAt(words); taken > 0 {
		return n, taken
	}
	sum := spelled{}
	for i := range words {
		if !sum.take(words, i) {
			break
		}
		taken = i + 1
	}
	n = number{value: sum.total + sum.part, worded: true}
	for x := n.value; x >= 10 && math.Mod(x, 10) == 0; x /= 10 {
		n.zeros++
	}
	return n, taken
}

// spelled is a number in words as far as it is read: what is complete, and what a hundred or a thousand may still multiply.
type spelled struct{ total, part float64 }

// take reads the word at a place; false where it belongs to no number.
func (n *spelled) take(words []string, i int) bool {
	w, last := words[i], ""
	if i > 0 {
		last = words[i-1]
	}
	next := ""
	if i+1 < len(words) {
		next = words[i+1]
	}
	joins := i == 0 || oneOf(last, "and", "hundred", "thousand")
	switch {
	case has(units, w) && (joins || tens[last] > 0 && units[w] < 10 && units[w] > 0):
		n.part += units[w]
	case has(tens, w) && joins:
		n.part += tens[w]
	case w == "a" && i == 0 && oneOf(next, "hundred", "thousand", "dozen"):
		n.part = 1
	case w == "and" && oneOf(last, "hundred", "thousand") && (has(units, next) || has(tens, next)):
	default:
		return i > 0 && n.multiply(w)
	}
	return true
}

// multiply reads a word that multiplies what stands before it; false for another.
func (n *spelled) multiply(w string) bool {
	switch {
	case w == "hundred" && n.part > 0 && n.part < 100:
		n.part *= 100
	case w == "thousand" && n.part > 0:
		n.total, n.part = n.total+n.part*1e3, 0
	case w == "million" && n.part > 0:
		n.total, n.part = n.total+n.part*1e6, 0
	case w == "dozen":
		n.part *= 12
	default:
		return false
	}
	return true
}

// fractionAt reads "two thirds", "a quarter of", "half of", "three in ten", "one out of five".
func fractionAt(words []string) (n number, taken int) {
	share := func(top, bottom float64, words int) (number, int) {
		return number{value: top / bottom, fraction: true, worded: true}, words
	}
	if len(words) > 0 && words[0] == "half" {
		return share(1, 2, 1)
	}
	if len(words) < 2 {
		return n, 0
	}
	top := units[words[0]]
	if oneOf(words[0], "a", "an") {
		top = 1
	}
	if top == 0 {
		return n, 0
	}
	if bottom := parts[words[1]]; bottom > top {
		if top == 1 && (len(words) < 3 || words[2] != "of") && bottom != 2 {
			return n, 0 // "a quarter" may be three months
		}
		return share(top, bottom, 2)
	}
	at := 0
	switch {
	case words[1] == "out" && len(words) > 3 && words[2] == "of":
		at = 3
	case words[1] == "in" && len(words) > 2:
		at = 2
	default:
		return n, 0
	}
	if bottom := max(units[words[at]], tens[words[at]]); bottom > top {
		return share(top, bottom, at+1)
	}
	return n, 0
}

// oneOf tells whether a text is one of some.
func oneOf(text string, all ...string) bool { return slices.Contains(all, text) }

func has[V any](m map[string]V, key string) bool {
	_, ok := m[key]
	return ok
}
