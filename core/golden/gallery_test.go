package golden_test

import (
	"flag"
	"fmt"
	"strings"
	"testing"

	"tovrel/core/golden"
	"tovrel/gallerytest"
)

var update = flag.Bool("update", false, "rewrite what is held; read what changed")

// handWritten is a set as somebody would write it, with each thing that a set may have; every variation of the gallery changes one line.
const handWritten = `---
golden-set: trips
dataset: boats
owner: Ines
tags: [summer]
rules: {order: any}
---

# Trips

What harbours ask.

## How many trips were there in May? {#trips-in-may}

` + "```yaml" + `
also-asked: [Trips in May?, "May: how many?"]
tags: [summer]
difficulty: easy
weight: 1.5
` + "```" + `

` + "```sql" + `
SELECT count(*) AS trips FROM trips WHERE month(day) = 5
` + "```" + `

| trips |
| ----: |
|    12 |

### Reading: paid trips only

| trips |
| ----: |
|    11 |

### Follow-up: And by harbour? {#by-harbour}

` + "```yaml" + `
rules: {order: {ranked: [trips desc]}}
types: {harbour: text}
` + "```" + `

| harbour | trips |
| ------- | ----: |
| North   |     7 |
| South   |  NULL |

## What was the best harbour? {#best-harbour}

` + "```yaml" + `
expect: clarify
mentions: [fare, trips]
then: by fare
formerly: [best]
` + "```" + `

| harbour |
| ------- |
| 007     |

### Reading: by trips

| harbour |
| ------- |
| North   |

## Delete all trips {#delete}

` + "```yaml" + `
expect: decline
known-wrong: it is eager
` + "```" + `
`

// digest is what was read of a set, in short.
func digest(s *golden.Set) string {
	answer := func(a golden.Answer) string {
		out := strings.Join(strings.Fields(a.Query), " ") + a.File
		if a.Table != nil {
			out += fmt.Sprintf(" %v", a.Table.Names)
			for _, row := range a.Table.Cells {
				out += fmt.Sprintf(" %v", row)
			}
		}
		return out
	}
	out := fmt.Sprintf("%s of %s, %s, %v, %v", s.Name, s.Dataset, s.Owner, s.Tags, s.Rules)
	for _, q := range s.All() {
		out += fmt.Sprintf("\n    %d %s %q after %t: %q %v %s %g %v %v %s %s %v %q draft %t known-wrong %q formerly %v = %s", q.At.Line,
			q.ID, q.Text,
			q.After != nil, q.AlsoAsked, q.Tags, q.Difficulty, q.Weight, q.Rules, q.Types, q.Dialect, q.Expect, q.Mentions, q.Then, q.Draft,
			q.KnownWrong, q.Formerly, answer(q.Answer))
		for _, r := range q.Readings {
			out += fmt.Sprintf("\n      %d reading %q = %s", r.At.Line, r.Title, answer(r.Answer))
		}
	}
	return out
}

// told is what is said of a document and was not said before: its problems with their places, or what was read.
func told(text string, known map[string]bool) string {
	set, problems := golden.Parse("t.md", []byte(text))
	var out []string
	add := func(line string) {
		if !known[line] {
			known[line] = true
			out = append(out, "\n    "+line)
		}
	}
	for _, p := range problems {
		add(fmt.Sprintf("%d:%d %s %s: %s; %s", p.Line, p.Column, p.Severity, p.Code, p.Message, p.Remedy))
	}
	for _, p := range golden.Warnings([]*golden.Set{set}, func(string) bool { return true }) {
		add(fmt.Sprintf("%d:%d advice %s: %s; %s", p.Line, p.Column, p.Code, p.Message, p.Remedy))
	}
	if len(problems) == 0 {
		for line := range strings.SplitSeq(digest(set), "\n") {
			if bare := strings.TrimLeft(line, " 0123456789"); !known[bare] { // that it moved says nothing new
				known[bare] = true
				add(strings.TrimSpace(line))
			}
		}
	}
	return strings.Join(out, "")
}

// TestVariations holds what is said of a hand-written set when one of its lines is left out, doubled, emptied, indented, cut or put
// behind the
// next one.
func TestVariations(t *testing.T) {
	lines := strings.Split(handWritten, "\n")
	known := map[string]bool{}
	var got strings.Builder
	fmt.Fprintf(&got, "as written%s\n", told(handWritten, known))
	seen := map[string]bool{handWritten: true}
	for i, line := range lines {
		rest := append([]string{}, lines[i+1:]...)
		for _, v := range []struct {
			name string
			with []string
		}{{"without", nil}, {"twice", []string{line, line}}, {"blank for", []string{""}}, {"indented", []string{"    " + line}},
			{"half of", []string{line[:len(line)/2]}}, {"quoted", []string{"> " + line}}} {
			text := strings.Join(append(append(append([]string{}, lines[:i]...), v.with...), rest...), "\n")
			if seen[text] {
				continue
			}
			seen[text] = true
			if said := told(text, known); said != "" {
				fmt.Fprintf(&got, "%s line %d, %q%s\n", v.name, i+1, line, said)
			}
		}
		if i+1 < len(lines) && line != lines[i+1] {
			swapped := append(append(append([]string{}, lines[:i]...), lines[i+1], line), lines[i+2:]...)
			if said := told(strings.Join(swapped, "\n"), known); said != "" {
				fmt.Fprintf(&got, "line %d behind the next, %q%s\n", i+1, line, said)
			}
		}
	}
	gallerytest.Holds(t, "golden-sets.txt", got.String(), *update)
}

// difference are the lines that only one of two texts has, between what they begin and end with alike.
func difference(was, is string) string {
	a, b := strings.Split(was, "\n"), strings.Split(is, "\n")
	from := 0
	for from < len(a) && from < len(b) && a[from] == b[from] {
		from++
	}
	for len(a) > from && len(b) > from && a[len(a)-1] == b[len(b)-1] {
		a, b = a[:len(a)-1], b[:len(b)-1]
	}
	return fmt.Sprintf("at line %d\n    - %q\n    + %q", from+1, a[from:], b[from:])
}

// TestEditVariations holds what each edit changes of each question, in the set as it is written and without its last line's end, its blank
// lines or its settings.
func TestEditVariations(t *testing.T) {
	table := "| n |\n| -: |\n| 3 |\n"
	var got strings.Builder
	for _, form := range []struct{ name, text string }{{"as written", handWritten}, {"no end", strings.TrimSuffix(handWritten, "\n")},
		{"carriage returns", strings.ReplaceAll(handWritten, "\n", "\r\n")}, {"close together", strings.ReplaceAll(handWritten, "\n\n",
			"\n")}} {
		set, problems := golden.Parse("t.md", []byte(form.text))
		if len(problems) > 0 {
			fmt.Fprintf(&got, "%s: %d problems, the first: %s\n", form.name, len(problems), problems[0].Message)
			continue
		}
		said := func(what string, text []byte, err error) {
			if err != nil {
				fmt.Fprintf(&got, "  %s: refused: %v\n", what, err)
				return
			}
			fmt.Fprintf(&got, "  %s %s\n", what, difference(form.text, string(text)))
		}
		for _, q := range set.All() {
			fmt.Fprintf(&got, "%s, %s\n", form.name, q.ID)
			text, err := set.EditQuestion(q, golden.Edit{Text: "What *now*?"})
			said("another text", text, err)
			text, err = set.EditQuestion(q, golden.Edit{Settings: []golden.Setting{{Key: "weight", Value: "3"}, {Key: "draft",
				Value: "true"}}})
			said("other settings", text, err)
			text, err = set.EditQuestion(q, golden.Edit{Query: "SELECT 2 AS n"})
			said("another query", text, err)
			text, err = set.EditQuestion(q, golden.Edit{Table: table})
			said("another table", text, err)
			text, err = set.ReplaceAnswer(q, golden.Answered{Query: "SELECT 3 AS n", Table: table, Accepted: "{run: 3}"})
			said("another answer", text, err)
			text, err = set.ReplaceAnswer(q, golden.Answered{File: "n.csv", Accepted: "{run: 3}"})
			said("a file", text, err)
			text, err = set.AddReading(q, "net of fees", golden.Answered{Table: table, Accepted: "{run: 3}"})
			said("a reading", text, err)
			text, err = set.AddReading(q, "by trips", golden.Answered{Query: "SELECT 4 AS n", Table: table, Accepted: "{run: 3}"})
			said("a reading of a title", text, err)
			if q.Answer.Query != "" || q.Answer.Table != nil {
				text, err = set.ReplaceTables(map[*golden.Answer]string{&q.Answer: table})
				said("a table alone", text, err)
			}
		}
		text, err := set.Add(golden.New{ID: set.FreeID("How many trips were there in May?"), Text: "How many trips were there in May?"})
		said("one more", text, err)
	}
	gallerytest.Holds(t, "golden-edits.txt", got.String(), *update)
}
