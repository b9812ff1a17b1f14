package sql

import "strings"

// Masked is a query without the values that it names: texts and numbers are `…`, and comments are gone. Names and clauses stay.
func Masked(query string) string {
	var b strings.Builder
	at := 0
	for _, t := range Tokens(query) {
		for _, r := range query[at:t.Start] { // comments stand between tokens
			if r == ' ' || r == '\n' || r == '\t' {
				b.WriteRune(r)
			}
		}
		switch t.Kind {
		case StringToken:
			b.WriteString("'…'")
		case NumberToken:
			b.WriteString("…")
		default:
			b.WriteString(t.Text)
		}
		at = t.Start + len(t.Text)
	}
	return b.String()
}
