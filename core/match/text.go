package match

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"strings"

	"tovrel/core/table"
	"tovrel/core/value"
)

// maxTextRows is how many expected rows a reply in words is judged against.
const maxTextRows = 3

// maxText is how many bytes of words are judged.
const maxText = 256 << 10

// TextResult is the judgement of a reply in words.
type TextResult struct {
	Matched bool
	TooLong bool   // more rows are expected than words are judged against, or the reply is too long
	Why     string // the rule that decided
}

// Text judges a reply in words: it must state every expected value, those of a row together in one sentence or line, and
// name no other value of an expected column's domain and no other number that competes. Domain holds, by expected column,
// the texts that could have been the answer; it may be nil.
//
// Numbers that stand in the question, dates and list positions do not compete; a negated value does not count.
func Text(expected *table.Table, reply, question string, domain [][]string) TextResult {
	if expected.Rows() > maxTextRows {
		return TextResult{TooLong: true, Why: fmt.Sprintf("%d rows are expected; replies in words are judged against at most %d",
			expected.Rows(), maxTextRows)}
	}
	if len(reply) > maxText {
		return TextResult{TooLong: true, Why: fmt.Sprintf("the reply has %d KB of words; at most %d are judged", len(reply)>>10,
			maxText>>10)}
	}
	t := newReplyText(reply, question)
	if expected.Rows() == 0 {
		if none.MatchString(strings.ToLower(reply)) && len(t.competing(nil)) == 0 {
			return TextResult{Matched: true, Why: "nothing is expected, and the reply says so"}
		}
		return TextResult{Why: "nothing is expected, and the reply does not say so"}
	}
	used := map[int]bool{}
	for row := range expected.Rows() {
		if missing := t.state(expected.Row(row), used); missing != "" {
			return TextResult{Why: missing}
		}
	}
	if others := t.competing(used); len(others) > 0 {
		return TextResult{Why: "the reply names another number: " + others[0]}
	}
	if other := t.otherValue(expected, domain); other != "" {
		return TextResult{Why: "the reply names another value: " + other}
	}
	return TextResult{Matched: true, Why: "the reply states every expected value"}
}

var (
	none        = regexp.MustCompile(`\bnone\b|\bno [a-z]|\bnothing\b|\bnobody\b|\bnot any\b|\bwithout any\b|\bzero\b`)
	sentenceEnd = regexp.MustCompile(`[.!?;](?:\s+|$)|\n+`)
	numberToken = regexp.MustCompile(`(?:[-−]\s?)?(?:[$€£¥]\s?)?(?:\d{1,3}(?:[, \x{2009}\x{00a0}\x{202f}']\d{3})+|\d+)(?:\.\d+)?\s?%?`)
	isoDate     = regexp.MustCompile(`\b\d{4}-\d{2}(?:-\d{2})?(?:[T ]\d{2}:\d{2}(?::\d{2})?)?\b|\b\d{4}-?Q[1-4]\b|\bQ[1-4]\b`)
	wordedDate  = regexp.MustCompile(`(?i)\b(?:\d{1,2}(?:st|nd|rd|th)?\s+)?(?:jan(?:uary)?|feb(?:ruary)?|mar(?:ch)?|` +
		`apr(?:il)?|may|june?|july?|aug(?:ust)?|sept?(?:ember)?|oct(?:ober)?|nov(?:ember)?|` +
		`dec(?:ember)?)\b\.?(?:\s+\d{1,2}(?:st|nd|rd|th)?\b,?)?(?:\s+\d{4})?\b`)
	yearToken    = regexp.MustCompile(`\b(?:in|of|for|during|since|until|year|by)\s+(?:19|20)\d{2}\b`)
	listPosition = regexp.MustCompile(`(?m)^\s*(?:#\s?)?\d{1,2}[.):]\s`)
	// negation is looked for at the end of what stands before a word, no farther back than negationReach.
	negation = regexp.MustCompile(`(?i)\b(?:not|never|isn't|wasn't|aren't|weren't|rather than|instead of|unlike|except|` +
		`excluding)\s+(?:\S+\s+){0,2}$`)
)

// negationReach is how many bytes before a word a negation of it may begin.
const negationReach = 120

// negated tells whether what stands before a place negates what comes there.
func negated(before string) bool {
	return negation.MatchString(before[max(0, len(before)-negationReach):])
}

// replyText is a reply taken apart.
type replyText struct {
	sentences []sentence
	asked     map[string]bool // numbers that stand in the question
	question  string          // folded
}

// sentence is a sentence or line with its numbers.
type sentence struct {
	text    string
	folded  string
	numbers []spoken
}

// spoken is a number as it was said.
type spoken struct {
	id       int
	text     string
	value    value.Value
	decimals int
	percent  bool
	negated  bool
	neutral  bool // part of a date or a list position
}

func newReplyText(reply, question string) *replyText {
	t := &replyText{asked: map[string]bool{}, question: " " + foldWords(question) + " "}
	for _, n := range numbersIn(question, 0) {
		t.asked[n.value.String()] = true
	}
	id := 0
	for _, s := range splitSentences(reply) {
		numbers := numbersIn(s, id)
		id += len(numbers)
		t.sentences = append(t.sentences, sentence{s, " " + foldWords(s) + " ", numbers})
	}
	return t
}

// splitSentences splits at ends of sentences and lines; a point inside a number ends none.
func splitSentences(text string) []string {
	var out []string
	start := 0
	for _, at := range sentenceEnd.FindAllStringIndex(text, -1) {
		if at[1]-start < 6 && listPosition.MatchString(text[start:at[1]]) && strings.TrimSpace(text[start:at[0]]) != "" {
			continue // the point behind a list position
		}
		out = append(out, text[start:at[1]])
		start = at[1]
	}
	return append(out, text[start:])
}

// foldWords folds case and turns everything but letters, digits and inner marks of words into spaces.
func foldWords(s string) string {
	return strings.Join(strings.FieldsFunc(foldText(s), func(r rune) bool {
		return strings.ContainsRune(" ,.;:!?()[]{}\"'*_`|/", r)
	}), " ")
}

func numbersIn(text string, from int) []spoken {
	var neutral [][]int
	for _, form := range []*regexp.Regexp{isoDate, wordedDate, yearToken, listPosition} {
		neutral = append(neutral, form.FindAllStringIndex(text, -1)...)
	}
	slices.SortFunc(neutral, func(a, b []int) int { return a[0] - b[0] })
	next, until := 0, 0
	var out []spoken
	for _, at := range numberToken.FindAllStringIndex(text, -1) {
		raw := strings.TrimSpace(text[at[0]:at[1]])
		if at[0] > 0 && letter(text[at[0]-1]) { // part of a name, such as T14
			continue
		}
		plain, percent, ok := readNumber(raw)
		if !ok {
			continue
		}
		column := table.FromCells("", []table.Cell{{Text: plain}})
		n := spoken{id: from + len(out), text: raw, value: column.Value(0), decimals: decimalsOf(column, 0), percent: percent,
			negated: negated(text[:at[0]])}
		for next < len(neutral) && neutral[next][0] <= at[0] { // both go from left to right
			until = max(until, neutral[next][1])
			next++
		}
		n.neutral = at[0] < until
		out = append(out, n)
	}
	return out
}

func letter(b byte) bool { return b >= 'a' && b <= 'z' || b >= 'A' && b <= 'Z' || b == '_' }

// state finds a sentence that states all values of a row, and marks the numbers that it took; else it says what is missing.
func (t *replyText) state(row []value.Value, used map[int]bool) string {
	for _, s := range t.sentences {
		taken, all := s.states(row)
		if !all {
			continue
		}
		for _, id := range taken {
			used[id] = true
		}
		return ""
	}
	return "no sentence states " + joinValues(row)
}

func joinValues(row []value.Value) string {
	parts := make([]string, len(row))
	for i, v := range row {
		parts[i] = v.String()
	}
	return strings.Join(parts, " with ")
}

// states tells whether a sentence states all values, with the numbers that it took for them.
func (s sentence) states(row []value.Value) (taken []int, all bool) {
	for _, v := range row {
		if v.IsNull() {
			continue
		}
		if v.Kind().Number() {
			id, ok := s.number(v)
			if !ok {
				return nil, false
			}
			taken = append(taken, id)
			continue
		}
		if !s.word(v) {
			return nil, false
		}
	}
	return taken, true
}

// number finds the number in a sentence that states a value: the value itself, or its rounding to the decimals that are
// said, moved by no more than 0.5 %; a percentage also states the hundredth.
func (s sentence) number(v value.Value) (int, bool) {
	for _, n := range s.numbers {
		if n.negated || n.neutral && n.decimals > 0 {
			continue
		}
		if saysNumber(v, n.value, n.decimals) {
			return n.id, true
		}
		if n.percent && saysNumber(v, value.Shift(n.value, -2, value.Type{Kind: value.Decimal, Scale: n.decimals + 2}), n.decimals+2) {
			return n.id, true
		}
	}
	return 0, false
}

func saysNumber(v, said value.Value, decimals int) bool {
	x, _ := v.Float64()
	y, _ := said.Float64()
	if math.Abs(x-y) <= relative*math.Max(math.Abs(x), math.Abs(y)) {
		return true
	}
	return v.Kind() != value.Int && roundsTo(v, said, decimals) && math.Abs(x-y) <= 0.005*math.Abs(x)
}

// word tells whether a sentence names a value that is no number, whole and not negated.
func (s sentence) word(v value.Value) bool {
	return slices.ContainsFunc(wordForms(v), s.says)
}

// says tells whether a sentence has a folded word or phrase where it first stands, and not negated.
func (s sentence) says(folded string) bool {
	at := strings.Index(s.folded, " "+folded+" ")
	return at >= 0 && !negated(s.folded[:at+1])
}

// wordForms are the ways to write a value in words.
func wordForms(v value.Value) []string {
	switch v.Kind() {
	case value.Bool:
		if b, _ := v.Small(); b != 0 {
			return []string{"true", "yes"}
		}
		return []string{"false", "no"}
	case value.Date, value.Timestamp, value.TimestampTZ:
		return dateForms(v.String())
	}
	return []string{foldWords(v.String())}
}

// dateForms are the ways to write an ISO date or a timestamp at midnight.
func dateForms(iso string) []string {
	forms := []string{foldWords(iso)}
	date, clock, _ := strings.Cut(iso, " ")
	if clock != "" && strings.Trim(clock, "0:Z") != "" || len(date) != 10 {
		return forms
	}
	month := 0
	if _, err := fmt.Sscanf(date[5:7], "%d", &month); err != nil || month < 1 || month > 12 {
		return forms
	}
	year, day := date[:4], strings.TrimPrefix(date[8:], "0")
	for _, name := range []string{monthNames[month-1], monthNames[month-1][:3]} {
		forms = append(forms, day+" "+name+" "+year, name+" "+day+" "+year, day+"th "+name+" "+year)
	}
	return append(forms, date)
}

// competing lists the numbers that were said beside the ones that are used.
func (t *replyText) competing(used map[int]bool) []string {
	var said []value.Value // the used ones, few as they are: others may only repeat them
	for _, s := range t.sentences {
		for _, n := range s.numbers {
			if used[n.id] {
				said = append(said, n.value)
			}
		}
	}
	repeats := func(v value.Value) bool {
		return slices.ContainsFunc(said, func(u value.Value) bool { return value.CompareNumbers(u, v) == 0 })
	}
	var out []string
	for _, s := range t.sentences {
		for _, n := range s.numbers {
			if !used[n.id] && !n.neutral && !n.negated && !t.asked[n.value.String()] && !repeats(n.value) {
				out = append(out, n.text)
			}
		}
	}
	return out
}

// otherValue finds a value of an expected column's domain that is named and not expected.
func (t *replyText) otherValue(expected *table.Table, domain [][]string) string {
	for i, c := range expected.Columns {
		if i >= len(domain) || c.Type.Kind.Number() {
			continue
		}
		right := map[string]bool{}
		for row := range c.Len() {
			right[foldWords(c.Value(row).String())] = true
		}
		others := phrases{}
		for _, other := range domain[i] {
			folded := foldWords(other)
			if folded != "" && !right[folded] && !strings.Contains(t.question, " "+folded+" ") {
				others.add(folded, other)
			}
		}
		for _, s := range t.sentences {
			for _, p := range others.in(s.folded) {
				if s.says(p.folded) && !insideRight(s.folded, p.folded, right) {
					return p.as
				}
			}
		}
	}
	return ""
}

// phrase is a folded text, and as it is written.
type phrase struct{ folded, as string }

// phrases are texts to be looked for at once, by their first word: a reply is read once, however many there are.
type phrases map[string][]phrase

func (p phrases) add(folded, as string) {
	first, _, _ := strings.Cut(folded, " ")
	p[first] = append(p[first], phrase{folded, as})
}

// in lists the phrases that a folded sentence holds, in the order in which they first stand there.
func (p phrases) in(sentence string) []phrase {
	if len(p) == 0 {
		return nil
	}
	var found []phrase
	seen := map[string]bool{}
	for at := 0; ; {
		space := strings.IndexByte(sentence[at:], ' ')
		if space < 0 {
			return found
		}
		at += space + 1
		first, _, _ := strings.Cut(sentence[at:], " ")
		for _, candidate := range p[first] {
			if !seen[candidate.folded] && strings.HasPrefix(sentence[at:], candidate.folded+" ") {
				seen[candidate.folded] = true
				found = append(found, candidate)
			}
		}
	}
}

// insideRight tells whether a name only occurs within an expected one, such as Vale within North Vale.
func insideRight(text, name string, right map[string]bool) bool {
	longestFirst := slices.SortedFunc(maps.Keys(right), func(a, b string) int { return cmp.Or(len(b)-len(a), strings.Compare(a, b)) })
	for _, whole := range longestFirst {
		if strings.Contains(" "+whole+" ", " "+name+" ") {
			text = strings.ReplaceAll(text, " "+whole+" ", " ")
		}
	}
	return !strings.Contains(text, " "+name+" ")
}
