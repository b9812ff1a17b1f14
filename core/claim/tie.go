package claim

import (
	"slices"
	"strings"
)

// said is a number of a sentence with what stands with it.
type said struct {
	s       *sentence
	at      int
	n       number
	nouns   []string // stems behind it, then those before it
	behind  int      // how many of the nouns stand behind it
	ties    []name   // names that stand with it, the nearest first
	other   bool     // a name that is none of the expected columns stands with it
	period  *period  // that stands with it and is none of the question's
	total   bool     // a total
	delta   bool     // a difference, or a change
	whole   bool     // what a number before it is a part of
	down    bool     // a fall, or a loss
	part    bool     // a part of what is asked, such as "of which 12 …"
	negated bool
	dropped bool    // corrected later
	compare bool    // stands behind a word of comparing
	met     bool    // it states an expected cell
	until   *number // the other end of a range of which it is one end; nil for none
}

// negations stand before what is denied.
var negations = []string{"not", "never", "isn't", "wasn't", "aren't", "weren't", "rather than", "instead of", "unlike", "except",
	"excluding",
	"no longer", "neither", "nor", "didn't", "isn t", "wasn t", "aren t", "weren t", "didn t", "doesn t", "don t", "other than",
	"apart from"}

// comparisons stand before a name or number that something else is held against; ahead says that what stands before them ranks higher.
var comparisons = []struct {
	words string
	ahead int // 1 where it ranks before, -1 behind, 0 where it is not said
}{
	{"well ahead of", 1}, {"just ahead of", 1}, {"ahead of", 1}, {"followed by", 1}, {"beating", 1}, {"beats", 1}, {"beat", 1},
	{"overtaking", 1},
	{"then", 1}, {"in front of", 1}, {"more than", 1}, {"higher than", 1}, {"larger than", 1}, {"greater than", 1}, {"leading", 1},
	{"leads", 1},
	{"before", 1}, {"next", 1}, {"second", 1}, {"third", 1}, {"runner up", 1}, {"exceeds", 1}, {"exceeding", 1},
	{"behind", -1}, {"trailing", -1}, {"trails", -1}, {"less than", -1}, {"fewer than", -1}, {"lower than", -1}, {"below", -1}, {"after",
		-1},
	{"compared with", 0}, {"compared to", 0}, {"against", 0}, {"versus", 0}, {"vs", 0}, {"than", 0}, {"while", 0}, {"whereas", 0},
	{"next to", 0}, {"as opposed to", 0}, {"better than", 0}, {"up from", 0}, {"down from", 0},
}

var totalWords = setOf("total totals altogether overall combined together sum all grand adding adds")

var deltaWords = setOf(
	"more less fewer higher lower difference increase decrease growth gap lead margin drop rise rose fell grew change " +
		"larger smaller greater ahead behind clear longer shorter")

// prepositions join a number to a name that follows it.
var links = setOf("for from in at by of on to with belong belongs came come comes went were was are is per under through via made " +
	"fell delivered carried")

// stopNoun ends the words that say what a number counts.
var stopNoun = setOf("if when because unless provided counting including only also too instead rather according based since of in for " +
	"from by at with and was were is are to on which that while but or than as had has have so each per followed " +
	"ahead behind then it during since between out whereas came")

// maxTie is the cost above which a number and a name do not stand together.
const maxTie = 16

// mostTies is how many names may stand with a number.
const mostTies = 6

// reach is how many tokens apart things can stand together.
const reach = 60

// around are the places of a sentence's tokens within reach of one: from, and behind the last.
func (s *sentence) around(i int) (from, to int) {
	return max(0, i-reach), min(len(s.tokens), i+reach+1)
}

// saidIn lists the numbers of a sentence.
func (s *sentence) saidIn(w *wanted) []*said {
	var out []*said
	for i := range s.tokens {
		if s.tokens[i].kind != amount || s.tokens[i].rank {
			continue
		}
		one := &said{s: s, at: i, n: s.tokens[i].number}
		one.describe(w)
		out = append(out, one)
	}
	s.respectively(w, out)
	s.ranges(out)
	return out
}

// ranges joins the ends of "between 10 and 15", "10 to 15", "10 or 15" and "10-15".
func (s *sentence) ranges(all []*said) {
	for k := 1; k < len(all); k++ {
		a, b := all[k-1], all[k]
		joint := s.near(a.at + 1).text
		between := s.near(a.at-1).text == "between" && joint == "and"
		if b.at == a.at+2 && (between || oneOf(joint, "to", "or", "-", "–")) {
			a.until, b.until = &b.n, &a.n
		}
	}
}

// describe notes what stands with a number.
func (c *said) describe(w *wanted) {
	s, i := c.s, c.at
	for j := i + 1; j < len(s.tokens) && j <= i+4; j++ {
		t := s.tokens[j]
		if t.kind != word && t.kind != proper || stopNoun[t.text] {
			break
		}
		c.nouns = append(c.nouns, Stem(t.text))
	}
	if i+1 < len(s.tokens) && s.tokens[i+1].text == "of" && c.n.magnitude == 0 && len(c.nouns) == 0 && i+2 < len(s.tokens) &&
		s.tokens[i+2].kind == word {
		c.nouns = append(c.nouns, Stem(s.tokens[i+2].text)) // "28 of people" is rare; "12 of them"
	}
	c.behind = len(c.nouns)
	before := s.before(i, 5)
	for _, word := range strings.Fields(s.sinceNumber(i, 5)) {
		c.nouns = append(c.nouns, Stem(word))
	}
	c.negated = endsWith(before, negations, 2) && (!c.n.worded || c.n.value != 0)
	c.compare = s.compared(i) != nil
	c.describeMeasure(before)
	c.tie(w)
	c.inPeriod(w)
}

// sinceNumber are the words before a token as far as what the number before it counts, at most so many.
func (s *sentence) sinceNumber(i, most int) string {
	for j := i - 1; j >= 0 && j >= i-most; j-- {
		if s.tokens[j].kind != amount {
			continue
		}
		from := j + 1
		for from < i && s.tokens[from].kind == word && !stopNoun[s.tokens[from].text] {
			from++
		}
		return s.before(i, i-from)
	}
	return s.before(i, most)
}

// wordsBefore are the words before a token as far as a number, at most so many.
func (s *sentence) wordsBefore(i, most int) string {
	for j := i - 1; j >= 0 && j >= i-most; j-- {
		if s.tokens[j].kind == amount {
			return s.before(i, i-1-j)
		}
	}
	return s.before(i, most)
}

// downWords say that a number is a fall.
var downWords = []string{"fell", "fall", "falls", "decreased", "decrease", "dropped", "drop", "declined", "decline", "shrank", "down",
	"lost", "loss",
	"deficit", "minus", "negative", "reduced", "reduction"}

// differenceWords end what stands before a difference.
var differenceWords = []string{"up by", "down by", "difference of", "gap of", "lead of", "margin of", "increase of", "decrease of",
	"rise of",
	"drop of", "growth of", "change of", "grew by", "fell by", "rose by"}

// describeMeasure tells totals, differences, wholes and parts.
func (c *said) describeMeasure(before string) {
	s, i := c.s, c.at
	near := strings.Fields(before)
	for j := i + 1; j < len(s.tokens) && j <= i+4 && s.tokens[j].kind == word; j++ {
		t := s.tokens[j].text
		c.total = c.total || totalWords[t] && t != "all"
		c.delta = c.delta || deltaWords[t]
	}
	last := ""
	for k, t := range near {
		c.total = c.total || totalWords[t] && (t != "all" || k == len(near)-1)
		last = t
	}
	c.delta = c.delta || strings.HasPrefix(c.n.text, "+") || deltaWords[last] || endsWith(before, differenceWords, 1)
	c.whole = endsWith(before, []string{"of", "of the", "of all", "of all the"}, 0) && s.amountBefore(i, 7) ||
		s.near(i-1).text == "/" && s.near(i-2).kind == amount
	behind := s.near(i+1).text + " " + s.near(i+2).text
	c.part = endsWith(before, []string{"of which", "including", "incl", "of them", "of those", "of these"}, 1) ||
		oneOf(behind, "of which", "of whom")
	c.down = endsWith(before, downWords, 3) || oneOf(s.near(i+1).text, "less", "lower", "fewer", "down")
}

// endsWith tells whether a text ends with one of some phrases, with at most so many other words behind it.
func endsWith(text string, phrases []string, others int) bool {
	words := strings.Fields(text)
	for k := 0; k <= others && k < len(words); k++ {
		part := " " + strings.Join(words[:len(words)-k], " ")
		if slices.ContainsFunc(phrases, func(p string) bool { return strings.HasSuffix(part, " "+p) }) {
			return true
		}
	}
	return false
}

// amountBefore tells whether a number stands closely before a token.
func (s *sentence) amountBefore(i, most int) bool {
	for j := i - 1; j >= 0 && j >= i-most; j-- {
		if s.tokens[j].kind == amount {
			return true
		}
	}
	return false
}

// tie finds the names that stand with a number, the nearest first.
func (c *said) tie(w *wanted) {
	type tied struct {
		names []name
		cost  int
	}
	var all []tied
	from, to := c.s.around(c.at)
	for j := from; j < to; j++ {
		names := w.namesAt(c.s.tokens[j])
		if len(names) == 0 {
			continue
		}
		if cost := c.s.cost(c.at, j); cost <= maxTie {
			all = append(all, tied{names, cost})
		}
	}
	slices.SortStableFunc(all, func(a, b tied) int { return a.cost - b.cost })
	for _, t := range all[:min(len(all), mostTies)] {
		c.ties = append(c.ties, t.names...)
	}
	c.other = c.besideOther(w) && (len(all) == 0 || all[0].cost > 1)
}

// labels are words with a capital letter that name no row.
var labels = setOf("the there result answer total count figure value number sum average here it this so yes no share")

// besideOther tells whether a name that is none of the expected columns stands with a number: "Hamlet (24)", "24 people in Hamlet".
func (c *said) besideOther(w *wanted) bool {
	foreign := func(t token) bool {
		return t.kind == proper && !stopNoun[t.text] && !labels[t.text] && !w.inQuestion(t.text) && !w.measureWord(t.text)
	}
	before := c.at - 1
	for oneOf(c.s.near(before).text, "(", ":", "-", "–", "—", "with", "at") {
		before--
	}
	if before < c.at-1 && foreign(c.s.near(before)) {
		return true
	}
	for k := c.at + 1; k <= c.at+3 && c.s.near(k).kind == word; k++ {
		if oneOf(c.s.near(k).text, "in", "for", "from", "by", "at") && foreign(c.s.near(k+1)) {
			return true
		}
	}
	return false
}

// inQuestion tells whether a word stands in the question.
func (w *wanted) inQuestion(text string) bool {
	return slices.ContainsFunc(w.question, func(t token) bool { return t.text == text })
}

// cost tells how far a number stands from a name, the marks and words between them counted by how much they part.
func (s *sentence) cost(number, name int) int {
	from, to := min(number, name), max(number, name)
	cost, barrier, opened := 0, false, false
	for _, t := range s.tokens[min(from+1, to):to] {
		add, parts := t.parting()
		if t.kind == amount && name < number {
			add = min(add, 2) // "East delivered 40 litres with 3 loads"
		}
		if t.kind == mark && oneOf(t.text, "(", "[") {
			opened, parts = true, number < name
		}
		if opened && t.kind == mark && oneOf(t.text, ")", "]") {
			add = 1 // what stood in brackets is over
		}
		cost, barrier = cost+add, barrier || parts
	}
	if name > number {
		compared := s.compared(name) != nil
		cost += 2
		switch {
		case compared:
			cost += 20
		case !barrier && s.linked(number, name):
			cost -= 3
		}
	}
	return max(0, cost)
}

// parting is by how much a token parts what stands on both sides of it, and whether it ends a clause.
func (t token) parting() (cost int, ends bool) {
	switch {
	case t.kind == named:
		return 9, false
	case t.kind == amount && !t.rank:
		return 5, false
	case t.kind != mark && oneOf(t.text, "and", "plus", "&"):
		return 4, true
	case t.kind != mark && oneOf(t.text, "while", "whereas", "but", "although"):
		return 8, true
	case t.kind != mark, oneOf(t.text, "-", "–", "—"):
		return 1, false
	case oneOf(t.text, "(", "[", ":", "=", "|"):
		return 0, false
	case oneOf(t.text, ")", "]"):
		return 3, true
	case t.text == ";":
		return 9, true
	}
	return 4, true
}

// linked tells whether a preposition or verb joins a number to a name behind it.
func (s *sentence) linked(number, name int) bool {
	for j := name - 1; j > number && j >= name-3; j-- {
		if links[s.tokens[j].text] {
			return true
		}
	}
	return false
}

// compared tells which word of comparing stands before a token; nil for none.
func (s *sentence) compared(i int) *int {
	before := s.wordsBefore(i, 5)
	for k := range comparisons {
		if endsWith(before, []string{comparisons[k].words, comparisons[k].words + " in", comparisons[k].words + " by"}, 1) {
			return &comparisons[k].ahead
		}
	}
	return nil
}

// respectively ties numbers to names in their order: "East and West had 3 and 2 trips".
func (s *sentence) respectively(w *wanted, all []*said) {
	var names, numbers []int
	for i, t := range s.tokens {
		if len(w.namesAt(t)) > 0 {
			names = append(names, i)
		}
	}
	for _, c := range all {
		if !c.total && !c.delta && !c.whole && !w.asks(c.n.value) {
			numbers = append(numbers, c.at)
		}
	}
	told := strings.Contains(strings.ToLower(s.text), "respectively")
	if len(names) < 2 || len(names) != len(numbers) || !told && names[len(names)-1] > numbers[0] {
		return
	}
	if !told && numbers[0]-names[len(names)-1] > 6 {
		return
	}
	k := 0
	for _, c := range all {
		if k < len(numbers) && c.at == numbers[k] {
			c.ties = w.namesAt(s.tokens[names[k]])
			k++
		}
	}
}

// namesAt are the names that a token is: its own, or those of the period that it is.
func (w *wanted) namesAt(t token) []name {
	if t.kind == dated {
		return w.periodNames(t.period)
	}
	return t.names
}

// asks tells whether a number stands in the question.
func (w *wanted) asks(x float64) bool {
	return slices.ContainsFunc(w.question, func(t token) bool { return t.kind == amount && t.number.value == x })
}

// periodNames are the names that a period is, of columns that hold periods; nil for none.
func (w *wanted) periodNames(p period) []name {
	var out []name
	for _, c := range w.named {
		if w.periods[c] == nil && w.fullDates[c] == nil {
			continue
		}
		found := false
		for row, cell := range w.periods[c] {
			if cell.text != "" && p.same(cell) {
				out, found = append(out, name{c, w.Table.Columns[c].Value(row).String()}), true
				break
			}
		}
		for row, cell := range w.fullDates[c] {
			if !found && cell.text != "" && p.same(cell) {
				out = append(out, name{c, w.Full.Columns[c].Value(row).String()})
				break
			}
		}
	}
	return out
}

// asOf are words before a day up to which something is counted.
var asOf = []string{"as of", "as at", "up to", "until", "till", "through", "by", "on", "to", "since", "from", "starting"}

// inPeriod notes a period that stands with a number and is none that the question speaks of.
func (c *said) inPeriod(w *wanted) {
	best := 9
	from, to := c.s.around(c.at)
	for j := from; j < to; j++ {
		t := c.s.tokens[j]
		if t.kind != dated || w.periodNames(t.period) != nil || w.spansAsked(t.period) || endsWith(c.s.before(j, 3), asOf, 1) {
			continue
		}
		if t.period.single && len(w.Question) > 0 && c.s.kind == prose && j < c.at && j < 4 {
			continue // "On 2031-06-30 there were 7": the day on which it was counted
		}
		if cost := c.s.cost(c.at, j); cost < best {
			best = cost
			p := t.period
			c.period = &p
		}
	}
}
