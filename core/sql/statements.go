package sql

import "strings"

// Statements splits a text at the semicolons between statements; empty ones are left out. A text of one statement is given as it is.
func Statements(text string) []string {
	var out []string
	from := 0
	for _, t := range Tokens(text) {
		if t.Kind == OtherToken && t.Text == ";" {
			out = append(out, text[from:t.Start])
			from = t.Start + 1
		}
	}
	out = append(out, text[from:])
	var kept []string
	for _, s := range out {
		if len(Tokens(s)) > 0 {
			kept = append(kept, strings.TrimSpace(s))
		}
	}
	if len(kept) < 2 {
		return []string{text}
	}
	return kept
}
