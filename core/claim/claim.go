// Package claim judges answers in words. It reads a text into claims (numbers with their unit and precision, names of the expected
// columns' domains, periods), ties each to the names that stand with it, and holds them against what is expected:
//
// text → lines (line.go) → tokens (token.go, number.go, period.go, name.go) → ties (tie.go) → judgement (judge.go, support.go, place.go)
//
// Sentences are read in English; numbers and dates as English, German and French write them. What no rule decides is Unsure, never wrong.
package claim

import (
	"fmt"
	"slices"

	"tovrel/core/match"
	"tovrel/core/table"
)

// maxText is how many bytes of words are judged.
const maxText = 256 << 10

// maxClaims is how many names and numbers of a text are judged.
const maxClaims = 500

// Expected is what a text is held against.
type Expected struct {
	Table    *table.Table
	Full     *table.Table // the reference's result without its cut; nil where that is not known
	Ranked   bool         // rows stand in an order that was asked
	Question string
	Query    string              // the reference query; "" for none: its years are those of the question
	Keys     []bool              // by column: it shows the values of a column of the data; nil where that is not known
	Domain   [][]string          // by column: texts that could have been the answer
	Units    []string            // by column; nil where they are not known
	Labels   []map[string]string // by column: the label of each code
	Synonyms map[string][]string // of a column's name
	Rules    match.Rules         // for a table that stands in the text
	Known    match.Known
}

// Verdict is what a text is worth.
type Verdict int

// The verdicts.
const (
	Wrong  Verdict = iota
	Right          // every expected cell is met, nothing is contradicted
	Unsure         // no rule decides: a person must look
)

// Finding is a judgement of a text.
type Finding struct {
	Verdict   Verdict
	TooLong   bool     // the text is longer than is judged
	Why       string   // the rule that decided, with the sentence and the cell
	Closeness float64  // share of the expected cells that are met
	Unchecked []string // numbers that could be tied to nothing that is expected
	Rounded   bool     // a number is met at a lower precision
	Tied      bool     // another choice was taken among rows that are tied at the reference's cut
	against   []string // what contradicts
}

// Judge holds a text against what is expected, and where rows are tied at the reference's cut against each choice among them.
func Judge(text string, e Expected) Finding {
	f := judgeOne(text, e)
	if f.Verdict == Right || f.TooLong {
		return f
	}
	for _, other := range e.choices() {
		if tied := judgeOne(text, other); tied.Verdict == Right {
			tied.Tied = true
			return tied
		}
	}
	return f
}

func judgeOne(text string, e Expected) Finding {
	if len(text) > maxText {
		return Finding{Verdict: Unsure, TooLong: true,
			Why: fmt.Sprintf("the reply has %d KB of words; at most %d are judged", len(text)>>10, maxText>>10)}
	}
	w := newWanted(e)
	lines := linesOf(text)
	spoken := readAll(lines, w)
	if t := tableIn(lines, styleOf(text)); t != nil {
		f := w.besideTable(t, spoken, e)
		if styleOf(text) == undecided && f.Verdict != Unsure {
			return w.eitherWriting(f, w.besideTable(tableIn(lines, commaDecimal), spoken, e))
		}
		return f
	}
	return w.judge(spoken)
}

// eitherWriting joins the judgements of a table under both writings of its numbers, of which nothing decides.
func (w *wanted) eitherWriting(english, other Finding) Finding {
	if english.Verdict == Right || other.Verdict != Right {
		return english
	}
	other.Verdict, other.Why = Unsure, "the numbers of the table may be written in two ways, and match in one of them"
	return other
}

// besideTable judges a text that holds a table: the sentences alone may answer; else the table does, and sentences must not contradict
// it.
func (w *wanted) besideTable(t *table.Table, all []*sentence, e Expected) Finding {
	prose := slices.DeleteFunc(slices.Clone(all), func(s *sentence) bool { return s.kind == tableRow })
	alone := w.judge(prose)
	if alone.Verdict == Right && w.cells > 0 {
		return alone
	}
	r := match.Match(e.Table, shares(t, w), e.Rules, e.Known)
	f := Finding{Why: "the table in the text: " + r.Why}
	if r.Closeness != nil {
		f.Closeness = *r.Closeness
	}
	switch {
	case r.NeedsLook:
		f.Verdict = Unsure
		return f
	case !r.Matched:
		return f
	case len(alone.against) > 0:
		f.Why = alone.Why
		return f
	}
	f.Verdict, f.Why = Right, "the table in the text matches"
	return f
}
