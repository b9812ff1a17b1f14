package translator

import (
	"slices"
	"strconv"
	"strings"
	"unicode/utf16"
)

// character is one of a secret, with the ways in which texts may write it.
type character struct {
	plain  string   // as it is
	units  []uint16 // as \uXXXX
	letter byte     // of its short escape in JSON; 0 for none
	number int      // as &#NN;
	name   string   // as &name;; "" for none
	space  bool     // "+" in an address
}

// shortEscapes are the control characters that JSON has a letter for.
var shortEscapes = map[rune]byte{'\n': 'n', '\r': 'r', '\t': 't', '\b': 'b', '\f': 'f'}

// references are the names of characters in HTML.
var references = map[rune]string{'&': "amp", '<': "lt", '>': "gt", '"': "quot", '\'': "apos", '/': "sol", '+': "plus", '=': "equals"}

func charactersOf(text string) []character {
	var out []character
	for _, r := range text {
		out = append(out, character{plain: string(r), units: utf16.Encode([]rune{r}), letter: shortEscapes[r], number: int(r),
			name: references[r], space: r == ' '})
	}
	return out
}

// mostBackslashes and mostPercents bound what is read as an escape of an escape.
const mostBackslashes, mostPercents = 16, 4

// ends are the places behind a character that is written at a place, one for each way in which it may be read; none for another.
func (c character) ends(text string, at int, anyCase bool) []int {
	var all []int
	add := func(end int) {
		if end >= 0 {
			all = append(all, end)
		}
	}
	add(c.literal(text, at, anyCase))
	if at >= len(text) {
		return all
	}
	switch text[at] {
	case '\\':
		for slashes := at + 1; slashes <= len(text) && slashes-at <= mostBackslashes && text[slashes-1] == '\\'; slashes++ {
			add(c.literal(text, slashes, anyCase))
			add(c.escaped(text, slashes))
			if c.letter != 0 && slashes < len(text) && text[slashes] == c.letter {
				add(slashes + 1)
			}
		}
	case '%':
		all = append(all, percents(text, at, c.plain)...)
		if c.space {
			all = append(all, percents(text, at, "+")...)
		}
	case '&':
		add(c.reference(text, at))
	case '+':
		if c.space {
			add(at + 1)
		}
	}
	return all
}

func (c character) literal(text string, at int, anyCase bool) int {
	end := at + len(c.plain)
	if end <= len(text) && (text[at:end] == c.plain || anyCase && strings.EqualFold(text[at:end], c.plain)) {
		return end
	}
	return -1
}

// escaped reads uXXXX, and the second half of a pair with its own backslashes.
func (c character) escaped(text string, at int) int {
	for i, unit := range c.units {
		if i > 0 {
			start := at
			for at < len(text) && text[at] == '\\' && at-start < mostBackslashes {
				at++
			}
		}
		if at+5 > len(text) || text[at] != 'u' {
			return -1
		}
		n, err := strconv.ParseUint(text[at+1:at+5], 16, 16)
		if err != nil || uint16(n) != unit {
			return -1
		}
		at += 5
	}
	return at
}

// percents reads bytes as %XX, and as %25XX where they were encoded more than once: the ends of all ways to read them, since the "25" of a
// text may as well be its own.
func percents(text string, at int, want string) []int {
	ends := []int{at}
	for _, b := range []byte(want) {
		var next []int
		for _, end := range ends {
			next = append(next, percent(text, end, b)...)
		}
		ends = next
	}
	return ends
}

// percent gives the ends of one byte that is written as %XX, %25XX and so on.
func percent(text string, at int, want byte) []int {
	if at >= len(text) || text[at] != '%' {
		return nil
	}
	at++
	var ends []int
	for range mostPercents {
		if at+2 > len(text) {
			break
		}
		if n, err := strconv.ParseUint(text[at:at+2], 16, 8); err == nil && byte(n) == want {
			ends = append(ends, at+2)
		}
		if text[at:at+2] != "25" {
			break
		}
		at += 2
	}
	slices.Reverse(ends) // the most often encoded one first
	return ends
}

// reference reads &name;, &#NN; and &#xHH;, also with their own & as &amp;.
func (c character) reference(text string, at int) int {
	at++
	for range mostPercents {
		rest, again := strings.CutPrefix(text[at:], "amp;")
		if again && (strings.HasPrefix(rest, "#") || c.name != "" && strings.HasPrefix(rest, c.name+";")) {
			at += len("amp;")
		}
	}
	if c.name != "" && strings.HasPrefix(text[at:], c.name+";") {
		return at + len(c.name) + 1
	}
	const longest = 12
	end := strings.IndexByte(text[at:min(len(text), at+longest)], ';')
	if end < 1 || text[at] != '#' {
		return -1
	}
	digits, base := text[at+1:at+end], 10
	if hexadecimal := strings.TrimLeft(digits, "xX"); hexadecimal != digits {
		digits, base = hexadecimal, 16
	}
	if n, err := strconv.ParseInt(digits, base, 32); err != nil || int(n) != c.number {
		return -1
	}
	return at + end + 1
}
