package claim

import "strings"

// sentence is a line of a text, read.
type sentence struct {
	line
	tokens []token
	index  int
	found  []*mention // its names
	said   []*said    // its numbers
}

// words that say how exactly a number is meant; the longer ones first.
var hedges = []struct {
	words string
	hedge hedge
}{
	{"just over", above}, {"a little over", above}, {"slightly over", above}, {"slightly more than", above}, {"little more than", above},
	{"well over", above}, {"more than", above}, {"upwards of", above}, {"over", above}, {"above", above},
	{"just under", below}, {"slightly under", below}, {"a little under", below}, {"slightly less than", below}, {"just below", below},
	{"less than", below}, {"fewer than", below}, {"nearly", below}, {"almost", below}, {"under", below}, {"below", below},
	{"close to", around}, {"in the region of", around}, {"in the order of", around}, {"about", around}, {"around", around},
	{"roughly", around}, {"approximately", around}, {"approx", around}, {"approx .", around}, {"circa", around}, {"ca", around},
	{"ca .", around}, {"some", around}, {"or so", around}, {"rounded to", around},
}

// readAll reads all lines.
func readAll(lines []line, w *wanted) []*sentence {
	var all []string
	for _, l := range lines {
		all = append(all, l.text)
	}
	s := styleOf(strings.Join(all, "\n"))
	var out []*sentence
	for i, l := range lines {
		if i > 0 && l.kind == prose && strings.HasSuffix(strings.TrimSpace(l.text), "?") {
			continue // it offers more, and claims nothing
		}
		one := &sentence{line: l, index: i, tokens: tokensOf(l.text, w.index, s)}
		one.zeros()
		one.years(w)
		one.keys(w)
		one.hedge()
		one.places()
		out = append(out, one)
	}
	return out
}

// before gives the folded words that stand before a token, at most n of them, up to a mark.
func (s *sentence) before(i, n int) string {
	var words []string
	for j := i - 1; j >= 0 && len(words) < n; j-- {
		t := s.tokens[j]
		if t.kind == mark && t.text == ":" {
			continue
		}
		if t.kind == mark && t.text != "." && t.text != "-" {
			break
		}
		words = append([]string{t.text}, words...)
	}
	return strings.Join(words, " ")
}

// hedge notes at each number how exactly it is meant.
func (s *sentence) hedge() {
	for i := range s.tokens {
		t := &s.tokens[i]
		if t.kind != amount {
			continue
		}
		before := " " + s.before(i, 4)
		for _, h := range hedges {
			if strings.HasSuffix(before, " "+h.words) || strings.HasSuffix(before, " "+h.words+" a") {
				t.number.hedge = h.hedge
				break
			}
		}
		if i > 0 && s.tokens[i-1].kind == mark && s.tokens[i-1].text == "~" {
			t.number.hedge = around
		}
		if i+2 < len(s.tokens) && s.tokens[i+1].text == "or" && s.tokens[i+2].text == "so" {
			t.number.hedge = around
		}
	}
}

// yearBefore are words before a year.
var yearBefore = setOf(
	"in of for during since until till by year from through between than throughout calendar fy vs versus before after and to " +
		"early late mid end")

// setOf is the set of a text's words.
func setOf(text string) map[string]bool {
	out := map[string]bool{}
	for word := range strings.FieldsSeq(text) {
		out[word] = true
	}
	return out
}

// years turns numbers that are years into periods.
func (s *sentence) years(w *wanted) {
	for i := range s.tokens {
		t := &s.tokens[i]
		if t.kind != amount || !yearForm(t) {
			continue
		}
		if after := s.near(i + 1); after.kind == word && w.measureWord(after.text) {
			continue // 2031 loads
		}
		p := period{text: t.text, spans: []span{yearSpan(int(t.number.value))}}
		if s.yearTold(i) || w.yearNames && w.periodNames(p) != nil {
			*t = token{kind: dated, text: t.text, period: p}
		}
	}
}

// yearTold tells whether the words and marks beside a number say that it is a year.
func (s *sentence) yearTold(i int) bool {
	before, after := s.near(i-1), s.near(i+1)
	again := s.near(i-2).kind == dated // a period stands before what joins them
	switch {
	case before.kind == dated:
		return true
	case before.kind == word && yearBefore[before.text]:
		return again || !oneOf(before.text, "and", "to", "than")
	case i == 0:
		return oneOf(after.text, ":", "-", "–", "|", "(")
	case before.text == "(":
		return oneOf(after.text, ")", ",")
	}
	return again && oneOf(before.text, ",", "-", "–", "/")
}

func yearForm(t *token) bool {
	n := t.number
	return n.decimals == 0 && n.magnitude == 0 && !n.percent && !n.currency && !n.worded && len(t.text) == 4 && n.value >= 1900 &&
		n.value <= 2100
}

// near is a token of a sentence; an empty one outside of it.
func (s *sentence) near(i int) token {
	if i < 0 || i >= len(s.tokens) {
		return token{kind: mark}
	}
	return s.tokens[i]
}

// keys turns numbers that name rows ("farm 53", "53: 12 loads") into names.
func (s *sentence) keys(w *wanted) {
	for i := range s.tokens {
		t := &s.tokens[i]
		if t.kind != amount || t.number.decimals > 0 || t.number.magnitude > 0 || t.number.worded {
			continue
		}
		for _, c := range w.keyNumbers {
			if w.holds(c, t.text) && s.keyTold(i, w.nameWords[c]) {
				*t = token{kind: named, text: t.text, names: []name{{c, t.text}}}
				break
			}
		}
	}
}

// keyTold tells whether the words and marks beside a number say that it names a row; called are the stems of what the rows' column is
// called.
func (s *sentence) keyTold(i int, called map[string]bool) bool {
	before, after := s.near(i-1), s.near(i+1)
	if i == 0 {
		return oneOf(after.text, ":", "-", "–", "|", "(", "with")
	}
	if oneOf(before.text, "and", ",") { // payments 311 and 327
		for k := i - 2; k >= 0; k-- {
			if s.tokens[k].kind == named {
				return true
			}
		}
	}
	return before.text == "#" || before.kind != mark && called[Stem(before.text)] ||
		before.kind == word && oneOf(before.text, "no", "number", "id")
}

// placeWords stand before a number that is a place.
var placeWords = setOf("rank ranked place position top step nr bottom question table figure chart")

// places marks the numbers that are places in an order.
func (s *sentence) places() {
	for i := range s.tokens {
		t := &s.tokens[i]
		if t.kind != amount {
			continue
		}
		before := s.near(i - 1)
		if placeWords[before.text] || before.text == "#" {
			t.rank = true
		}
		if i == 0 && s.kind != prose && s.near(1).text == "." {
			t.rank = true
		}
	}
}
