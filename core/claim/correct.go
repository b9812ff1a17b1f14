package claim

import "strings"

// corrections are words by which a text takes back what it said before.
var corrections = []string{"sorry", "correction", "correcting", "i meant", "i mean", "scratch that", "let me correct", "my mistake",
	"oops", "apologies",
	"no wait", "wait", "on second thought", "to correct", "i misread", "i miscounted", "that is wrong", "that was wrong", "rechecking",
	"or rather", "make that"}

// correct drops claims that a later sentence, or a later part of the same, takes back.
func (j *judging) correct() {
	for _, s := range j.sentences {
		at := corrected(s)
		if at < 0 {
			continue
		}
		later := func(other *sentence, i int) bool { return other.index > s.index || other == s && i > at }
		for _, c := range j.numbers {
			if !later(c.s, c.at) && j.takenBack(c, later) {
				c.dropped = true
			}
		}
		for _, m := range j.mentions {
			if later(m.s, m.at) {
				continue
			}
			for _, other := range j.mentions {
				if later(other.s, other.at) && other.names[0].column == m.names[0].column && j.w.Table.Rows() == 1 && !other.denied {
					m.dropped = true
				}
			}
		}
	}
}

// takenBack tells whether a number of the same names and unit comes later.
func (j *judging) takenBack(c *said, later func(*sentence, int) bool) bool {
	for _, other := range j.numbers {
		if !later(other.s, other.at) || other.n.percent != c.n.percent {
			continue
		}
		if len(other.ties) == 0 || len(c.ties) == 0 || other.ties[0] == c.ties[0] {
			return true
		}
	}
	return false
}

// corrected is where in a sentence a correction begins; -1 for none. One that begins a text corrects nothing.
func corrected(s *sentence) int {
	for i, t := range s.tokens {
		if t.kind != word {
			continue
		}
		if s.index == 0 && i < 2 {
			continue
		}
		ahead := t.text
		for k := i + 1; k < len(s.tokens) && k < i+4 && s.tokens[k].kind == word; k++ {
			ahead += " " + s.tokens[k].text
		}
		for _, phrase := range corrections {
			if ahead == phrase || strings.HasPrefix(ahead, phrase+" ") {
				return i
			}
		}
	}
	return -1
}

// carry gives numbers of a sentence that names nobody the names of the sentence before: "East was first. It carried 30."
func (j *judging) carry() {
	var subject []name
	at := 0
	for _, s := range j.sentences {
		var here *mention
		for _, m := range s.found {
			if m.counts() && here == nil {
				here = m
			}
		}
		if here != nil {
			subject, at = here.names, s.index
			continue
		}
		if subject == nil || s.index > at+2 {
			continue
		}
		for _, c := range s.said {
			if len(c.ties) == 0 && !c.total && !c.other {
				c.ties = subject
			}
		}
	}
}
