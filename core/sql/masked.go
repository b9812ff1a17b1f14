package sql

import "strings"

// Masked is a query without the values that it names: texts and numbers are `…`, and comments are gone. Names and clauses stay.
func Masked(query string) string {
	var b strings.Builder
	at := 0
	for _, t := range Tokens(query) {
		b.WriteString(withoutComments(query[at:t.Start]))
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

// withoutComments is what stands between two tokens without its comments.
func withoutComments(between string) string {
	switch {
	case strings.TrimSpace(between) == "":
		return between
	case strings.Contains(between, "\n"):
		return "\n"
	}
	return " "
}
