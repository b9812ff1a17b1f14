package claim

import (
	"strings"

	"tovrel/core/pattern"
)

// lineKind says what a line of a text is.
type lineKind int

const (
	prose    lineKind = iota
	item              // of a list, or "name: value" on a line of its own
	tableRow          // of a Markdown table
)

// line is a sentence of prose, an item of a list, or a row of a table, without Markdown's marks.
type line struct {
	text string
	kind lineKind
}

var (
	itemMark  = pattern.Of(`^\s*(?:[-*•–·]|\(?#?\d{1,2}[.):])\s+`)
	heading   = pattern.Of(`^\s*#{1,6}\s+`)
	emphasis  = pattern.Of(`(?:^|\s)[*_]\b|\b[*_](?:$|[\s.,:;])`)
	link      = pattern.Of(`\[([^\]]*)\]\([^)]*\)`)
	separator = pattern.Of(`^\s*\|?\s*:?-{2,}:?\s*(?:\|\s*:?-{2,}:?\s*)*\|?\s*$`)
	pair      = pattern.Of(`^[^.!?:]{1,60}(?::|\s[-–—]|\t)\s*\S[^:]{0,60}$`)
	// sentenceEnd is an end of a sentence; a point inside a number, or behind a short word such as "approx.", ends none.
	sentenceEnd = pattern.Of(`[.!?]+["')\]]*\s+|[.!?]+["')\]]*$`)
	shortened   = pattern.Of(`(?i)(?:\b(?:approx|ca|c|no|nr|vs|e\.g|i\.e|incl|excl|resp|avg|max|min|st|dr|mr|mrs|ms|jan|feb` +
		`|mar|apr|` +
		`jun|jul|aug|sep|sept|oct|nov|dec|mio|mrd|tsd)|^\s*\(?\d{1,2})\.\s*$`)
)

// linesOf takes a text apart into sentences, items and rows, in their order.
func linesOf(text string) []line {
	var out []line
	rows := strings.Split(plainMarks(text), "\n")
	for i := 0; i < len(rows); i++ {
		row := rows[i]
		if end := tableEnd(rows, i); end > i {
			for ; i < end; i++ {
				if !separator.MatchString(rows[i]) {
					out = append(out, line{rows[i], tableRow})
				}
			}
			i--
			continue
		}
		row = heading.ReplaceAllString(row, "")
		if mark := itemMark.FindString(row); mark != "" {
			row = row[len(mark):]
			out = append(out, itemLines(row)...)
			continue
		}
		row = strings.TrimSpace(row)
		if pairLine(rows, i) {
			out = append(out, itemLines(row)...)
			continue
		}
		for _, s := range sentences(row) {
			out = append(out, line{s, prose})
		}
	}
	return out
}

// itemLines are an item of a list, and sentences that follow it.
func itemLines(text string) []line {
	var out []line
	for i, s := range sentences(text) {
		kind := item
		if i > 0 {
			kind = prose
		}
		out = append(out, line{s, kind})
	}
	return out
}

// plainMarks takes out what only shows a text's form, and makes one of several marks that mean the same.
func plainMarks(text string) string {
	text = strings.NewReplacer("\r\n", "\n", "−", "-", "’", "'", "‘", "'", "“", "\"", "”", "\"", "\u00a0", " ", "\u202f", " ", "\u2009",
		" ",
		"≈", "about ", "~~", "", "**", "", "__", "", "`", "").Replace(text)
	text = link.ReplaceAllString(text, "$1")
	return emphasis.ReplaceAllStringFunc(text, func(mark string) string { return strings.Trim(mark, "*_") })
}

// tableEnd is the row behind a Markdown table that begins at a row; the row itself where none does.
func tableEnd(rows []string, at int) int {
	if at+1 >= len(rows) || !strings.Contains(rows[at], "|") || !separator.MatchString(rows[at+1]) {
		return at
	}
	end := at + 2
	for end < len(rows) && strings.Contains(rows[end], "|") {
		end++
	}
	return end
}

// pairLine tells a line "name: value" that has others like it beside it.
func pairLine(rows []string, at int) bool {
	if !pair.MatchString(strings.TrimSpace(rows[at])) {
		return false
	}
	for _, beside := range []int{at - 1, at + 1} {
		if beside >= 0 && beside < len(rows) && pair.MatchString(strings.TrimSpace(rows[beside])) {
			return true
		}
	}
	return false
}

var numberLast = pattern.Of(`(?:^|\s)\d{1,2}$`)

// dayBefore tells a day before the name of its month: "14. Mai".
func dayBefore(before, behind string) bool {
	name, _, _ := strings.Cut(behind, " ")
	return numberLast.MatchString(before) && monthNames[strings.ToLower(strings.Trim(name, ".,"))] > 0
}

// sentences splits a line of prose.
func sentences(text string) []string {
	var out []string
	start := 0
	for _, at := range sentenceEnd.FindAllStringIndex(text, -1) {
		if at[1] < len(text) && (shortened.MatchString(text[start:at[0]+1]) || dayBefore(text[start:at[0]], text[at[1]:])) {
			continue
		}
		out = append(out, text[start:at[1]])
		start = at[1]
	}
	if rest := strings.TrimSpace(text[start:]); rest != "" {
		out = append(out, rest)
	}
	return out
}
