package claim

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// tokenKind says what a token of a sentence is.
type tokenKind int

const (
	word tokenKind = iota
	mark
	amount // a number
	dated  // a date or period
	named  // a name of an expected column
	proper // a word with a capital letter that is no known name
)

// token is a word, a mark, a number, a period or a name of a sentence.
type token struct {
	kind   tokenKind
	text   string // folded; as written for marks
	number number
	period period
	names  []name
	rank   bool // a number that is a place, or of a list
}

// field is a run of letters and digits.
type field struct {
	folded   string
	from, to int // bytes
}

// fieldsOf splits a text as wording.Fold does, and remembers where the words stand.
func fieldsOf(text string) []field {
	var out []field
	from := -1
	end := func(to int) {
		if from >= 0 {
			out = append(out, field{strings.ToLower(norm.NFC.String(text[from:to])), from, to})
			from = -1
		}
	}
	for i, r := range text {
		if inWord := unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.IsSymbol(r) && !strings.ContainsRune("|~=<>→⇒★", r); !inWord {
			end(i)
		} else if from < 0 {
			from = i
		}
	}
	end(len(text))
	return out
}

// tokensOf reads a sentence: names first, then periods, then numbers, then words and marks.
func tokensOf(text string, names nameIndex, s style) []token {
	fields := fieldsOf(text)
	var out []token
	next := 0 // the first field that is not behind
	for at := 0; at < len(text); {
		for next < len(fields) && fields[next].from < at {
			next++
		}
		here := next < len(fields) && fields[next].from == at
		if here {
			if found, taken := names.at(fields, next, text); taken > 0 {
				at = fields[next+taken-1].to
				out = append(out, token{kind: named, text: wordsOf(fields[next : next+taken]), names: found})
				continue
			}
			if p, length := periodAt(text[at:]); length > 0 {
				out = append(out, token{kind: dated, text: strings.ToLower(p.text), period: p})
				at += length
				continue
			}
		}
		if t, length := numberToken(text[at:], s, here, out); length > 0 {
			out = append(out, t)
			at += length
			continue
		}
		if here {
			if t, taken := wordedToken(fields[next:]); taken > 0 {
				at = fields[next+taken-1].to
				out = append(out, t)
				continue
			}
			out = append(out, wordToken(text, fields[next], len(out) == 0))
			at = fields[next].to
			continue
		}
		if glued := gluedUnit(text[at:], out); glued != "" { // 12kg
			out = append(out, token{kind: word, text: strings.ToLower(glued)})
			at += len(glued)
			continue
		}
		r, size := utf8.DecodeRuneInString(text[at:])
		if !unicode.IsSpace(r) && r != '"' && r != '\'' {
			out = append(out, token{kind: mark, text: string(r)})
		}
		at += size
	}
	return out
}

// gluedUnit are letters that follow a number without a space; "" for none.
func gluedUnit(text string, before []token) string {
	if len(before) == 0 || before[len(before)-1].kind != amount {
		return ""
	}
	end := strings.IndexFunc(text, func(r rune) bool { return !unicode.IsLetter(r) })
	if end < 0 {
		end = len(text)
	}
	return text[:end]
}

func wordsOf(fields []field) string {
	words := make([]string, len(fields))
	for i, f := range fields {
		words[i] = f.folded
	}
	return strings.Join(words, " ")
}

// numberToken reads a number; here tells that a word begins there.
func numberToken(text string, s style, here bool, before []token) (token, int) {
	if !here && !strings.ContainsAny(text[:1], "-+$€£¥") || !here && text[0] == '-' && len(before) > 0 &&
		before[len(before)-1].kind == amount {
		return token{}, 0
	}
	n, length := numberAt(text, s)
	if length <= 0 {
		return token{kind: word, text: text[:-length]}, -length
	}
	rest := text[length:]
	t := token{kind: amount, text: n.text, number: n}
	for _, ordinal := range []string{"st", "nd", "rd", "th"} {
		if behind, ok := strings.CutPrefix(rest, ordinal); ok && !startsWithLetter(behind) {
			t.rank = true
			return t, length + len(ordinal)
		}
	}
	return t, length
}

func startsWithLetter(s string) bool {
	r, _ := utf8.DecodeRuneInString(s)
	return unicode.IsLetter(r) || unicode.IsDigit(r)
}

// wordedToken reads a number in words.
func wordedToken(fields []field) (token, int) {
	words := make([]string, 0, 8)
	for i := 0; i < len(fields) && i < cap(words); i++ {
		words = append(words, fields[i].folded)
	}
	n, taken := wordedAt(words)
	if taken == 0 {
		return token{}, 0
	}
	n.text = strings.Join(words[:taken], " ")
	return token{kind: amount, text: n.text, number: n}, taken
}

func wordToken(text string, f field, first bool) token {
	r, _ := utf8.DecodeRuneInString(text[f.from:])
	t := token{kind: word, text: f.folded}
	if unicode.IsUpper(r) && !first && len(f.folded) > 1 {
		t.kind = proper
	}
	return t
}
