package claim

import (
	"fmt"
	"slices"
	"strings"
)

// superlativeWords say that what stands with them is the first; words in -est do too.
var superlativeWords = setOf("most top best first leader leads led winner won wins least worst tops topped leading")

var noSuperlative = setOf(
	"rest west west's test interest request forest latest guest harvest midwest northwest southwest suggest invest " +
		"quest contest protest honest modest closest nearest manifest arrest everest")

// places finds the names that are said to be the first, and those that are said to come behind.
func (j *judging) places() {
	j.first, j.lower = map[*mention]bool{}, map[*mention]bool{}
	for _, s := range j.sentences {
		for i, t := range s.tokens {
			if s.superlative(i) {
				if m := s.nearest(i, func(m *mention) bool { return !m.denied && m.ahead == nil }); m != nil {
					j.first[m] = true
				}
			}
			if t.kind == word && lower[t.text] || t.kind == amount && t.rank && t.number.value > 1 {
				if m := s.nearest(i, func(m *mention) bool { return !m.denied }); m != nil {
					j.lower[m] = true
				}
			}
		}
	}
}

// superlative tells whether a word says that what stands with it is the first.
func (s *sentence) superlative(i int) bool {
	t := s.tokens[i]
	if t.kind != word || !superlativeWord(t.text) || behindAfter(s, i) {
		return false
	}
	before := s.before(i, 3)
	if (t.text == "most" || t.text == "least") && endsWith(before, []string{"at"}, 0) {
		return false
	}
	return !endsWith(before, []string{"second", "third", "next", "2nd", "3rd", "among the", "one of the", "other"}, 0)
}

// superlativeWord tells a word that says of something that it is the first of its kind.
func superlativeWord(text string) bool {
	return superlativeWords[text] || len(text) > 4 && strings.HasSuffix(text, "est") && !noSuperlative[text]
}

// behindAfter tells "the largest after East", which is the next one.
func behindAfter(s *sentence, i int) bool {
	for k := i + 1; k < len(s.tokens) && k <= i+3; k++ {
		if s.tokens[k].text == "after" || s.tokens[k].text == "behind" {
			return true
		}
	}
	return false
}

// nearest is the mention that stands with a word, of those that fit; nil for none.
func (s *sentence) nearest(i int, fits func(*mention) bool) *mention {
	var best *mention
	cost := maxTie + 1
	for _, m := range s.found {
		if abs(m.at-i) > reach || !fits(m) {
			continue
		}
		if c := s.cost(i, m.at); c < cost {
			best, cost = m, c
		}
	}
	return best
}

func abs(n int) int { return max(n, -n) }

// lower are words by which a name is said to come behind the expected one.
var lower = setOf("below under stayed remained missed second third fourth 2nd 3rd 4th runner next follows followed behind trails " +
	"lags less fewer lower smaller only distant others other rest remaining else")

// strict are the words of comparing that tell an order; the others excuse a name and say nothing of its place.
func strict(s *sentence, at int) bool {
	before := s.before(at, 5)
	return endsWith(before, []string{"ahead of", "followed by", "beating", "beats", "beat", "overtaking", "in front of", "behind",
		"trailing", "trails"}, 1)
}

// order holds what is said of places against the order of the rows.
func (j *judging) order() {
	if !j.w.Ranked && j.w.Full == nil {
		return
	}
	for _, m := range j.mentions {
		if m.ahead == nil || *m.ahead == 0 || m.dropped || !strict(m.s, m.at) {
			continue
		}
		if first := j.heldAgainst(m); first != nil {
			a, b := j.rank(first), j.rank(m)
			if a >= 0 && b >= 0 && a != b && (a < b) != (*m.ahead > 0) {
				j.against = append(j.against, fmt.Sprintf("%q puts %s and %s in the wrong order", clip(m.s.text),
					m.s.tokens[first.at].text,
					m.s.tokens[m.at].text))
			}
		}
	}
	j.listOrder()
}

// heldAgainst is the mention that one behind a word of comparing is held against.
func (j *judging) heldAgainst(m *mention) *mention {
	var found *mention
	for _, other := range m.s.found {
		if other.at < m.at && other.at >= m.at-reach && !other.denied && (other.ahead == nil || found == nil) {
			found = other
		}
	}
	return found
}

// rank is the row of a mention in the reference's whole result, else in what is expected; -1 for none.
func (j *judging) rank(m *mention) int {
	t := j.w.Full
	if t == nil {
		t = j.w.Table
	}
	if rows := rowsWith(t, m.names[:1]); len(rows) > 0 {
		return rows[0]
	}
	return -1
}

// listOrder holds the order of the names in a list, or in a sentence without numbers, against the order that was asked. Rows with the
// same numbers are tied.
func (j *judging) listOrder() {
	if !j.w.Ranked || j.w.Table.Rows() < 2 || len(j.against) > 0 {
		return
	}
	var rows []int
	column := j.w.named
	if len(column) == 0 {
		return
	}
	for _, m := range j.mentions {
		text, ok := m.of(column[0])
		if !ok || !m.counts() && m.ahead == nil || m.s.kind == prose && len(j.numbers) > 0 {
			continue
		}
		at := rowsWith(j.w.Table, []name{{column[0], text}})
		if len(at) == 1 && !slices.Contains(rows, at[0]) {
			rows = append(rows, at[0])
		}
	}
	for k := 1; k < len(rows); k++ {
		if rows[k] < rows[k-1] && !j.tied(rows[k], rows[k-1]) {
			j.against = append(j.against, "the rows are asked in an order, and the reply lists them in another")
			return
		}
	}
}

// tied tells whether two rows have the same numbers.
func (j *judging) tied(a, b int) bool {
	if len(j.w.numbered) == 0 {
		return false
	}
	for _, c := range j.w.numbered {
		x, _ := numberOf(j.w.Table, a, c)
		y, _ := numberOf(j.w.Table, b, c)
		if x != y {
			return false
		}
	}
	return true
}
