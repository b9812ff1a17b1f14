package render

import (
	"strings"

	"github.com/jedib0t/go-pretty/v6/text"
)

// clauseStarts are the words that begin a clause of a query, outside brackets.
var clauseStarts = map[string]bool{"from": true, "where": true, "group": true, "having": true, "order": true, "limit": true,
	"union": true, "except": true,
	"intersect": true, "qualify": true, "join": true, "left": true, "right": true, "full": true, "inner": true, "cross": true,
	"window": true}

// joinWords go on with a clause that one of them began: LEFT OUTER JOIN is one.
var joinWords = map[string]bool{"left": true, "right": true, "full": true, "inner": true, "cross": true, "outer": true,
	"natural": true, "asof": true}

// clauses breaks one line of a query that is wider than there is room: at the clauses, and within a clause at commas, AND and OR or else at
// any space. Only white space is changed, and none inside quotes.
func clauses(line string, width int) []string {
	if text.StringWidth(line) <= width {
		return []string{line}
	}
	margin := line[:len(line)-len(strings.TrimLeft(line, " "))]
	var lines []string
	for _, clause := range splitClauses(words(line)) {
		lines = append(lines, brokenClause(clause, margin, width)...)
	}
	return lines
}

// word is a piece of a query up to a space outside quotes, and how deep in brackets it begins.
type word struct {
	text  string
	depth int
}

func words(line string) []word {
	var out []word
	depth, began, start, quote := 0, 0, -1, byte(0)
	for i := 0; i < len(line); i++ {
		c := line[i]
		if c == ' ' && quote == 0 {
			if start >= 0 {
				out = append(out, word{line[start:i], began})
			}
			start = -1
			continue
		}
		if start < 0 {
			start, began = i, depth
		}
		switch {
		case quote != 0:
			if c == quote {
				quote = 0
			}
		case c == '\'' || c == '"':
			quote = c
		case c == '(':
			depth++
		case c == ')':
			depth--
		}
	}
	if start >= 0 {
		out = append(out, word{line[start:], began})
	}
	return out
}

// splitClauses begins a new line of words at each clause of the least depth that has any.
func splitClauses(all []word) [][]word {
	var lines [][]word
	from := 0
	for i := 1; i < len(all); i++ {
		if all[i].depth == all[0].depth && clauseStarts[bare(all[i])] && !joinWords[bare(all[i-1])] {
			lines = append(lines, all[from:i])
			from = i
		}
	}
	return append(lines, all[from:])
}

// bare is a word without the marks of a difference.
func bare(w word) string { return strings.ToLower(strings.Trim(w.text, "‹›[]")) }

// brokenClause writes a clause on as many lines as it needs, the further ones indented.
func brokenClause(clause []word, margin string, width int) []string {
	var lines []string
	current := margin + clause[0].text
	for _, w := range clause[1:] {
		if text.StringWidth(current+" "+w.text) > width {
			lines = append(lines, current)
			current = margin + "    " + w.text
			continue
		}
		current += " " + w.text
	}
	return append(lines, current)
}
