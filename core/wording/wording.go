// Package wording tells whether two ways to ask a question are the same but for case, punctuation and spaces. It knows no meaning.
package wording

import (
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// Fold is a wording without case, punctuation and outer spaces, composed.
func Fold(text string) string {
	letters := strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.IsSymbol(r) {
			return unicode.ToLower(r)
		}
		return ' '
	}, norm.NFC.String(text))
	return strings.Join(strings.Fields(letters), " ")
}
