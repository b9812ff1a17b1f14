// Package feedback gathers rated questions of users into candidates for golden sets: near-duplicates joined, what a set holds already
// told apart. It reads no files and runs no query.
package feedback

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"tovrel/core/chart"
	"tovrel/core/near"
	"tovrel/core/source"
	"tovrel/core/wording"
)

// Rating is what users thought of an answer.
type Rating int

// The ratings.
const (
	Down    Rating = -1
	Unrated Rating = 0
	Up      Rating = 1
)

// Rated is one question that a user asked, with the query that answered it.
type Rated struct {
	Line     int
	Question string
	Query    string // "" for none
	Text     string // the reply in words; "" for none
	Chart    string // the reply's chart, as JSON; "" for none
	Rating   Rating
	Comment  string
}

// columns are the names that a file may use: the documented ones.
var columns = []string{"question", "query", "text", "chart", "rating", "comment"}

// ParseLines reads JSON Lines: an object a line. Blank lines are passed over.
func ParseLines(file string, text []byte) ([]Rated, source.Problems) {
	var out []Rated
	var problems source.Problems
	for i, line := range strings.Split(string(text), "\n") {
		if strings.TrimSpace(line) == "" {
			continue
		}
		var fields map[string]any
		if err := json.Unmarshal([]byte(line), &fields); err != nil {
			problems = append(problems, problem(file, i+1, "not-json", "the line is no JSON object: "+err.Error(),
				"write one object a line, such as {\"question\": \"…\", \"query\": \"…\", \"rating\": \"up\"}"))
			continue
		}
		values := map[string]string{}
		for key, v := range fields {
			if !slices.Contains(columns, key) {
				problems = append(problems, problem(file, i+1, "unknown-column", fmt.Sprintf("there is no field %q", key),
					near.Hint(key, columns)))
			}
			if v != nil {
				values[key] = written(v)
			}
		}
		out = add(out, &problems, file, i+1, values)
	}
	return out, problems
}

// written is a field as text; an object as JSON.
func written(v any) string {
	if _, object := v.(map[string]any); object {
		if body, err := json.Marshal(v); err == nil {
			return string(body)
		}
	}
	return fmt.Sprint(v)
}

// ParseRows reads the rows of a sheet, the first of which names the columns.
func ParseRows(file string, rows [][]string) ([]Rated, source.Problems) {
	var problems source.Problems
	if len(rows) == 0 {
		return nil, source.Problems{problem(file, 1, "no-header", "the file is empty", "its first row must name the columns "+
			strings.Join(columns, ", "))}
	}
	for _, name := range rows[0] {
		if !slices.Contains(columns, name) {
			problems = append(problems, problem(file, 1, "unknown-column", fmt.Sprintf("there is no column %q", name),
				near.Hint(name, columns)))
		}
	}
	if !slices.Contains(rows[0], "question") {
		problems = append(problems, problem(file, 1, "no-question", "the file has no column question",
			"its first row must name the columns "+strings.Join(columns, ", ")))
	}
	var out []Rated
	for i, row := range rows[1:] {
		values := map[string]string{}
		for c, cell := range row {
			if c < len(rows[0]) {
				values[rows[0][c]] = cell
			}
		}
		if strings.TrimSpace(strings.Join(row, "")) != "" {
			out = add(out, &problems, file, i+2, values)
		}
	}
	return out, problems
}

func problem(file string, line int, code, message, remedy string) source.Problem {
	return source.Problem{Position: source.Position{File: file, Line: line}, Code: code, Severity: source.Error,
		Message: message, Remedy: remedy}
}

func add(all []Rated, problems *source.Problems, file string, line int, values map[string]string) []Rated {
	r := Rated{Line: line, Question: strings.Join(strings.Fields(values["question"]), " "),
		Query: strings.TrimSpace(values["query"]), Text: strings.TrimSpace(values["text"]), Chart: strings.TrimSpace(values["chart"]),
		Comment: strings.Join(strings.Fields(values["comment"]), " ")}
	if r.Question == "" {
		*problems = append(*problems, problem(file, line, "no-question", "the line has no question", "add it, or remove the line"))
		return all
	}
	var known bool
	if r.Rating, known = ratingOf(values["rating"]); !known {
		*problems = append(*problems, problem(file, line, "unknown-rating", fmt.Sprintf("%q is no rating", values["rating"]),
			"write up or down, yes or no, 1 or -1, or 1 to 5 stars as 4/5"))
		return all
	}
	if r.Chart != "" {
		if _, err := chart.Parse([]byte(r.Chart)); err != nil {
			*problems = append(*problems, problem(file, line, "bad-chart", err.Error(),
				"write the chart as the translator gave it, or leave it out"))
			return all
		}
	}
	return append(all, r)
}

var ratings = map[string]Rating{"": Unrated, "up": Up, "down": Down, "yes": Up, "no": Down, "true": Up, "false": Down,
	"good": Up, "bad": Down, "1": Up, "+1": Up, "-1": Down, "0": Unrated}

// ratingOf reads a rating: a word, a sign, or so many of so many stars.
func ratingOf(text string) (Rating, bool) {
	text = strings.ToLower(strings.TrimSpace(text))
	if r, known := ratings[text]; known {
		return r, true
	}
	given, of, ok := strings.Cut(text, "/")
	n, err := strconv.ParseFloat(strings.TrimSpace(given), 64)
	most, err2 := strconv.ParseFloat(strings.TrimSpace(of), 64)
	switch {
	case !ok || err != nil || err2 != nil || most <= 0 || n < 0 || n > most:
		return Unrated, false
	case n > 0.6*most:
		return Up, true
	case n < 0.6*most:
		return Down, true
	}
	return Unrated, true
}

// Known is a question that a golden set holds.
type Known struct {
	Name     string
	Wordings []string
	Rejected []string
}

// Candidate is a question to be added, or what is to be added to one that is there.
type Candidate struct {
	Holds     string // the name of the question that asks the same; "" for a new one
	Question  string
	AlsoAsked []string // other wordings
	Query     string   // rated up, or not rated; "" for none
	RatedUp   bool     // that query was rated up
	Text      string   // a reply in words, rated up; "" for none
	Chart     string   // a chart, rated up; "" for none
	Rejected  []string // queries and replies in words that were rated down
	Comments  []string
	Asked     int // how often
}

// Gather joins near-duplicates, and tells which of them a set holds. Candidates are in the order in which they were first asked.
func Gather(all []Rated, held []Known) []Candidate {
	var out []*Candidate
	for _, r := range all {
		c := find(out, r.Question)
		if c == nil {
			c = &Candidate{Question: r.Question, Holds: holder(held, r.Question)}
			out = append(out, c)
		}
		c.take(r)
	}
	var gathered []Candidate
	for _, c := range out {
		for _, k := range held {
			if k.Name == c.Holds {
				c.Rejected = slices.DeleteFunc(c.Rejected, func(q string) bool { return containsFolded(k.Rejected, q) })
			}
		}
		gathered = append(gathered, *c)
	}
	return gathered
}

func find(all []*Candidate, question string) *Candidate {
	for _, c := range all {
		for _, text := range append([]string{c.Question}, c.AlsoAsked...) {
			if wording.Fold(text) == wording.Fold(question) || wording.Similar(text, question) {
				return c
			}
		}
	}
	return nil
}

func holder(held []Known, question string) string {
	for _, k := range held {
		for _, text := range k.Wordings {
			if wording.Fold(text) == wording.Fold(question) || wording.Similar(text, question) {
				return k.Name
			}
		}
	}
	return ""
}

func (c *Candidate) take(r Rated) {
	c.Asked++
	if wording.Fold(r.Question) != wording.Fold(c.Question) &&
		!slices.ContainsFunc(c.AlsoAsked, func(s string) bool { return wording.Fold(s) == wording.Fold(r.Question) }) {
		c.AlsoAsked = append(c.AlsoAsked, r.Question)
	}
	if r.Comment != "" && !slices.Contains(c.Comments, r.Comment) {
		c.Comments = append(c.Comments, r.Comment)
	}
	c.takeReply(r)
	switch {
	case r.Query == "":
	case r.Rating == Down:
		if !containsFolded(c.Rejected, r.Query) {
			c.Rejected = append(c.Rejected, r.Query)
		}
	case c.Query == "" || r.Rating == Up && !c.RatedUp:
		c.Query, c.RatedUp = r.Query, r.Rating == Up
	}
	if containsFolded(c.Rejected, c.Query) && !c.RatedUp {
		c.Query = ""
	}
}

// takeReply takes what was said or drawn: what was rated up is kept, words that were rated down are rejected.
func (c *Candidate) takeReply(r Rated) {
	switch {
	case r.Rating == Up && r.Text != "" && c.Text == "":
		c.Text = r.Text
	case r.Rating == Down && r.Text != "" && r.Query == "" && !containsFolded(c.Rejected, r.Text):
		c.Rejected = append(c.Rejected, r.Text)
	}
	if r.Rating == Up && c.Chart == "" {
		c.Chart = r.Chart
	}
}

// containsFolded tells whether a query is in a list, but for spaces.
func containsFolded(queries []string, query string) bool {
	one := strings.Join(strings.Fields(query), " ")
	return one != "" && slices.ContainsFunc(queries, func(q string) bool { return strings.Join(strings.Fields(q), " ") == one })
}
