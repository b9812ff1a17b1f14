package claim

import (
	"slices"

	"tovrel/core/value"
)

// noNoun are words behind a "no" that count nothing.
var noNoun = setOf("longer doubt more one need problem matter other wait idea it they there the i that this in")

// zeros turns words that mean nothing into the number 0: "none", "no trips", "not any", "without any".
func (s *sentence) zeros() {
	for i := range s.tokens {
		t := &s.tokens[i]
		if t.kind != word {
			continue
		}
		next := s.near(i + 1)
		switch t.text {
		case "none", "nothing", "nobody", "neither":
		case "no":
			if next.kind != word && next.kind != proper || noNoun[next.text] {
				if !(next.text == "one" || next.text == "other") || i > 0 && s.tokens[i-1].kind == amount {
					continue
				}
			}
		case "any":
			if !endsWith(s.before(i, 4), []string{"not", "n t", "t", "without", "never"}, 2) {
				continue
			}
		default:
			continue
		}
		*t = token{kind: amount, text: t.text, number: number{text: t.text, worded: true}}
	}
}

// nothing judges a text where no row is expected.
func (j *judging) nothing() Finding {
	claimed := j.claimed()
	switch {
	case claimed != "":
		return Finding{Why: "nothing is expected, and the reply says " + claimed}
	case j.saysNone():
		return Finding{Verdict: Right, Closeness: 1, Why: "nothing is expected, and the reply says so"}
	}
	return Finding{Verdict: Unsure, Why: "nothing is expected, and no claim could be read from the reply"}
}

// claimed is a number or a name that a text gives where nothing is expected; "" for none.
func (j *judging) claimed() string {
	for _, m := range j.mentions {
		if !m.denied && !m.dropped && !slices.ContainsFunc(m.names, func(n name) bool { return j.inQuestion(n.column, n.text) }) {
			return m.names[0].text
		}
	}
	for _, c := range j.numbers {
		if c.n.value != 0 && !c.dropped && !c.weak() && !j.supports(c) {
			return c.n.text
		}
	}
	return ""
}

// saysNone tells whether a text says that there is nothing.
func (j *judging) saysNone() bool {
	if slices.ContainsFunc(j.numbers, func(c *said) bool { return c.n.value == 0 && !c.n.percent }) {
		return true
	}
	for _, s := range j.sentences {
		for _, t := range s.tokens {
			if t.kind == word && (oneOf(t.text, "empty", "zero") || t.text == "not" && len(j.mentions) == 0) {
				return true
			}
		}
	}
	return false
}

// yesNo judges a text where yes or no is expected: its first word of either kind counts.
func (j *judging) yesNo() Finding {
	cell := j.w.Table.Columns[0].Value(0)
	said, word := 0, ""
	for _, s := range j.sentences {
		for i, t := range s.tokens {
			first := i == 0 || s.tokens[i-1].kind == mark || said == 0 && i < 3
			switch {
			case said != 0:
			case (t.text == "yes" || t.text == "yeah" || t.text == "indeed" || t.text == "correct") && first, t.text == "true":
				said, word = 1, t.text
			case (t.text == "no" || t.text == "nope") && first && (s.near(i+1).kind == mark || i == 0), t.text == "false":
				said, word = -1, t.text
			}
		}
	}
	expected, _ := cell.Small()
	switch {
	case said == 0 || cell.Kind() != value.Bool:
		return Finding{Verdict: Unsure, Why: "neither yes nor no could be read from the reply"}
	case (said > 0) == (expected != 0):
		return Finding{Verdict: Right, Closeness: 1, Why: "the reply says " + word}
	}
	return Finding{Why: "the reply says " + word + " where " + cell.String() + " is expected"}
}
