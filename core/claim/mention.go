package claim

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/table"
)

// mention is a name or period of an expected column in a sentence.
type mention struct {
	s       *sentence
	at      int
	names   []name
	denied  bool
	ahead   *int // of the word of comparing that stands before it; nil for none
	dropped bool // corrected later
}

// mentions lists the names of a sentence.
func (s *sentence) mentions(w *wanted) []*mention {
	var out []*mention
	for i, t := range s.tokens {
		names := w.namesAt(t)
		if len(names) == 0 {
			continue
		}
		m := &mention{s: s, at: i, names: names, ahead: s.compared(i), denied: s.denies(i, w.negative)}
		if n := len(out); n > 0 && m.ahead == nil && s.listed(out[n-1].at, i) {
			m.ahead = out[n-1].ahead // "followed by East and West"
		}
		out = append(out, m)
	}
	return out
}

// denies tells whether a name is denied. Where the question asks for what is not, only "not X" and the like do.
func (s *sentence) denies(i int, negative bool) bool {
	before := s.before(i, 5)
	if negative {
		return endsWith(before, negations, 0)
	}
	return endsWith(before, negations, 2) && !strings.Contains(before, "not only") && !strings.Contains(before, "not just") ||
		s.deniedBehind(i)
}

// listed tells whether only marks, numbers and words that list stand between two tokens.
func (s *sentence) listed(from, to int) bool {
	for _, t := range s.tokens[from+1 : to] {
		if t.kind != mark && t.kind != amount && !oneOf(t.text, "and", "or", "then", "with", "at") {
			return false
		}
	}
	return true
}

// deniedBehind tells "X is not", "X isn't", "X did not".
func (s *sentence) deniedBehind(i int) bool {
	var words []string
	for j := i + 1; j < len(s.tokens) && j <= i+3 && s.tokens[j].kind == word; j++ {
		words = append(words, s.tokens[j].text)
	}
	for k, w := range words {
		if w == "not" && (k+1 >= len(words) || words[k+1] != "only") {
			return true
		}
		if k+1 < len(words) && words[k+1] == "t" && (strings.HasSuffix(w, "n")) {
			return true
		}
	}
	return false
}

// of is the name of a mention in a column; false where it has none there.
func (m *mention) of(column int) (string, bool) {
	for _, n := range m.names {
		if n.column == column {
			return n.text, true
		}
	}
	return "", false
}

// counts tells a mention that says something: it is not denied, nor corrected, nor what something else is held against.
func (m *mention) counts() bool { return !m.denied && !m.dropped && m.ahead == nil }

// meetNames finds for each expected name whether it is said.
func (j *judging) meetNames() {
	t := j.w.Table
	single := t.Rows() == 1
	for _, column := range j.w.named {
		for row := range t.Rows() {
			if t.Columns[column].IsNull(row) {
				j.met[cellAt{row, column}] = true
				continue
			}
			text := t.Columns[column].Value(row).String()
			for _, m := range j.mentions {
				if got, ok := m.of(column); ok && got == text && (!m.denied || j.zeroRow(row)) && !m.dropped && (m.ahead == nil ||
					!single) {
					j.met[cellAt{row, column}], j.read = true, true
				}
			}
			j.fromQuestion(cellAt{row, column}, text)
		}
	}
	j.read = j.read || len(j.mentions) > 0 || len(j.w.periods) > 0 && j.dates()
	j.pairs()
}

// dates tells whether a date is said.
func (j *judging) dates() bool {
	return slices.ContainsFunc(j.sentences, func(s *sentence) bool {
		return slices.ContainsFunc(s.tokens, func(t token) bool { return t.kind == dated })
	})
}

// zeroRow tells whether an expected row has a number that is nothing: who denies its name says so.
func (j *judging) zeroRow(row int) bool {
	return slices.ContainsFunc(j.w.numbered, func(c int) bool {
		x, ok := numberOf(j.w.Table, row, c)
		return !ok || x == 0
	})
}

// fromQuestion meets the name of a single row that the question names itself: nobody repeats it.
func (j *judging) fromQuestion(cell cellAt, text string) {
	if j.w.Table.Rows() > 1 || len(j.w.numbered) == 0 || !j.inQuestion(cell.column, text) {
		return
	}
	for _, m := range j.mentions {
		if got, ok := m.of(cell.column); ok && got == text && m.denied {
			return
		}
	}
	j.met[cell] = true
}

// inQuestion tells whether the question names a value of a column.
func (j *judging) inQuestion(column int, text string) bool {
	for _, t := range j.w.question {
		if slices.Contains(j.w.namesAt(t), name{column, text}) {
			return true
		}
	}
	return false
}

// otherNames looks at the names that are not expected: each must be excused, else it takes the place of an expected one.
func (j *judging) otherNames() {
	for _, m := range j.mentions {
		if m.dropped {
			continue
		}
		column, text, expected := j.placeOf(m)
		if expected {
			if m.denied && j.deniedOnly(column, text) {
				j.against = append(j.against, fmt.Sprintf("%q denies %s", clip(m.s.text), text))
			}
			continue
		}
		if m.denied || j.inQuestion(column, text) || j.excused(m, column) {
			continue
		}
		j.against = append(j.against, fmt.Sprintf("%q names %s in the place of %s", clip(m.s.text), text, j.expectedNames(column)))
	}
}

// deniedOnly tells whether the denial of an expected name counts: it is said nowhere else, and no zero is asked of it.
func (j *judging) deniedOnly(column int, text string) bool {
	for _, other := range j.mentions {
		if got, ok := other.of(column); ok && got == text && other.counts() {
			return false
		}
	}
	return !slices.ContainsFunc(rowsWith(j.w.Table, []name{{column, text}}), j.zeroRow)
}

// placeOf is the column of a mention and its name there, and whether that is expected.
func (j *judging) placeOf(m *mention) (column int, text string, expected bool) {
	for _, n := range m.names {
		if len(rowsWith(j.w.Table, []name{n})) > 0 {
			return n.column, n.text, true
		}
	}
	return m.names[0].column, m.names[0].text, false
}

// excused tells whether a name that is not expected is said of something else: it is held against an expected one, or a true number of
// another row stands with it. In a list it is a row too many.
func (j *judging) excused(m *mention, column int) bool {
	if j.first[m] && m.ahead == nil {
		return false
	}
	if j.w.periods[column] != nil {
		return true // periods stand beside much
	}
	if m.ahead != nil || j.lower[m] || j.lowers(m.s) || m.s.remark() {
		return true
	}
	if m.s.kind != prose && j.listed() {
		return false
	}
	for _, c := range m.s.said {
		if len(c.ties) > 0 && slices.Contains(m.names, c.ties[0]) && !c.negated && (j.inFull(c) || c.n.value == 0) {
			return true
		}
	}
	return false
}

// lowers tells a sentence that only says who comes behind: it names nothing that is expected, and a word of coming behind.
func (j *judging) lowers(s *sentence) bool {
	for _, m := range s.found {
		if _, _, expected := j.placeOf(m); expected {
			return false
		}
	}
	return slices.ContainsFunc(s.tokens, func(t token) bool { return t.kind == word && lower[t.text] })
}

// remarks are words by which a sentence speaks of how something was counted.
var remarks = map[string]bool{"includ": true, "exclud": true, "filter": true, "ignor": true, "consider": true, "omit": true,
	"regardless": true,
	"assum":      true, "note": true, "not": false, "count": true, "drop": true}

// remark tells a sentence that speaks of how it was counted, and gives no number.
func (s *sentence) remark() bool {
	told := false
	for _, t := range s.tokens {
		if t.kind == amount && !t.rank {
			return false
		}
		told = told || t.kind == word && remarks[Stem(t.text)]
	}
	return told
}

// listed tells whether the items of a list hold an expected name: then its other items are rows too.
func (j *judging) listed() bool {
	for _, m := range j.mentions {
		if _, _, expected := j.placeOf(m); expected && m.s.kind != prose {
			return true
		}
	}
	return false
}

func (j *judging) expectedNames(column int) string {
	c := j.w.Table.Columns[column]
	var texts []string
	for row := range min(3, c.Len()) {
		texts = append(texts, c.Value(row).String())
	}
	if c.Len() > 3 {
		texts = append(texts, "…")
	}
	return strings.Join(texts, ", ")
}

// pairs holds the names of a second column against those of the first with which they stand, where no number does it.
func (j *judging) pairs() {
	t := j.w.Table
	if len(j.w.named) < 2 || t.Rows() < 2 {
		return
	}
	first := j.w.named[0]
	for _, column := range j.w.named[1:] {
		for _, m := range j.mentions {
			text, ok := m.of(column)
			if !ok || !m.counts() {
				continue
			}
			with := j.nearest(m, first)
			if with == "" {
				continue
			}
			if len(rowsWith(t, []name{{column, text}})) > 0 && len(rowsWith(t, []name{{first, with}})) > 0 && !together(t, first, with,
				column, text) {
				j.against = append(j.against, fmt.Sprintf("%q puts %s with %s", clip(m.s.text), text, with))
			}
		}
	}
}

// nearest is the name of a column that stands nearest to a mention in its sentence; "" for none.
func (j *judging) nearest(m *mention, column int) string {
	best, text := maxTie+1, ""
	for _, other := range m.s.found {
		if got, ok := other.of(column); ok && other.at != m.at && abs(other.at-m.at) <= reach {
			if cost := m.s.cost(m.at, other.at); cost < best {
				best, text = cost, got
			}
		}
	}
	return text
}

func together(t *table.Table, a int, x string, b int, y string) bool {
	for row := range t.Rows() {
		if t.Columns[a].Value(row).String() == x && t.Columns[b].Value(row).String() == y {
			return true
		}
	}
	return false
}
