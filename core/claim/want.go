package claim

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"tovrel/core/pattern"
	"tovrel/core/table"
	"tovrel/core/value"
	"tovrel/core/wording"
)

// wanted is what is expected, prepared for reading.
type wanted struct {
	Expected
	named         []int // columns whose cells name rows
	numbered      []int // columns whose numbers are asked
	keyNumbers    []int // of the named ones, those that hold numbers
	periods       map[int][]period
	fullDates     map[int][]period // of Full
	index         nameIndex
	nameWords     map[int]map[string]bool // by column: stems of what it may be called
	asked         map[string]bool         // stems of what the question counts or measures
	question      []token
	questionStems map[string]bool
	superlative   bool // the question asks for an extreme
	relative      bool // the question speaks of a time that only its day tells
	negative      bool // the question asks for what is not
	yearNames     bool // years are names of rows
	cells         int
}

var (
	keyName = pattern.Of(`(?i)(?:^|_)(?:id|no|nr|num|number|key|code|year|month|quarter|week|day|hour|weekday|rank|place` +
		`|position)$`)
	relative = pattern.Of(`(?i)\b(?:last|this|current|previous|past|recent|latest|so far|to date|ytd|today|yesterday|now` +
		`|currently)\b`)
	negative = pattern.Of(`(?i)\b(?:not|never|without|no|none|nothing|missing|lack|lacks)\b|n't\b`)
	counted  = pattern.Of(`(?i)\b(?:how (?:many|much)|number of|count of|total(?: number)?(?: of)?|sum of|average|mean|median|` +
		`share of|percentage of|highest|lowest|largest|smallest|most|fewest|least)\s+((?:[\pL'-]+\s*){1,4})`)
	yearDigits = pattern.Of(`\b(?:19|20)\d{2}\b`)
)

func newWanted(e Expected) *wanted {
	w := &wanted{Expected: e, periods: map[int][]period{}, fullDates: map[int][]period{}, nameWords: map[int]map[string]bool{},
		asked:    map[string]bool{},
		relative: relative.MatchString(e.Question), negative: negative.MatchString(e.Question)}
	for i, c := range e.Table.Columns {
		w.cells += c.Len()
		if w.isKey(i) {
			w.named = append(w.named, i)
			if c.Type.Kind.Number() {
				w.keyNumbers = append(w.keyNumbers, i)
			}
		} else {
			w.numbered = append(w.numbered, i)
		}
		w.nameWords[i] = w.called(i)
	}
	for _, i := range w.named {
		if all := periodsOf(e.Table.Columns[i]); all != nil {
			w.periods[i] = all
			w.yearNames = w.yearNames || yearsAlone(all)
		}
		if e.Full != nil && i < len(e.Full.Columns) {
			w.fullDates[i] = periodsOf(e.Full.Columns[i])
		}
	}
	w.index = namesOf(e, w.named)
	for _, m := range counted.FindAllStringSubmatch(e.Question, -1) {
		for word := range strings.FieldsSeq(wording.Fold(m[1])) {
			if askStop[word] {
				break
			}
			w.asked[Stem(word)] = true
		}
	}
	w.questionStems = map[string]bool{}
	for _, s := range stems(e.Question) {
		w.questionStems[s] = true
		w.superlative = w.superlative || superlativeWord(s) || oneOf(s, "maximum", "minimum", "max", "min", "record")
	}
	w.question = tokensOf(e.Question, w.index, pointDecimal)
	q := &sentence{tokens: w.question}
	q.years(w)
	return w
}

// askStop are words behind which a question speaks of something else than what it counts.
var askStop = setOf("did do does were was are is have has had in on at from with by per for that which who there to each of and can " +
	"will the")

func yearsAlone(all []period) bool {
	for _, p := range all {
		if len(p.spans) > 0 && p.spans[len(p.spans)-1].to-p.spans[len(p.spans)-1].from > 360 {
			return true
		}
	}
	return false
}

// isKey tells whether a column's cells name rows rather than being asked for as numbers.
func (w *wanted) isKey(i int) bool {
	c := w.Table.Columns[i]
	if !c.Type.Kind.Number() {
		return true
	}
	if strings.Contains(strings.ToLower(c.Name), "year") && periodsOf(c) != nil {
		return true
	}
	if c.Type.Kind != value.Int || len(w.Table.Columns) < 2 || !distinct(c) {
		return false
	}
	if i < len(w.Keys) && w.Keys[i] && !w.othersName(i) && w.othersCount(i) {
		return true
	}
	return keyName.MatchString(c.Name) && (w.Keys == nil || i < len(w.Keys) && w.Keys[i])
}

// othersName tells whether another column names rows.
func (w *wanted) othersName(i int) bool {
	for j, c := range w.Table.Columns {
		if j != i && !c.Type.Kind.Number() {
			return true
		}
	}
	return false
}

// othersCount tells whether another column holds numbers that are no values of the data's columns.
func (w *wanted) othersCount(i int) bool {
	for j, c := range w.Table.Columns {
		if j != i && c.Type.Kind.Number() && (j >= len(w.Keys) || !w.Keys[j]) {
			return true
		}
	}
	return false
}

func distinct(c *table.Column) bool {
	seen := map[string]bool{}
	for row := range c.Len() {
		text := c.Value(row).String()
		if seen[text] {
			return false
		}
		seen[text] = true
	}
	return true
}

// called are the stems of what a column may be called: its name, its synonyms, its unit.
func (w *wanted) called(i int) map[string]bool {
	name := w.Table.Columns[i].Name
	texts := append([]string{name}, w.Synonyms[name]...)
	if i < len(w.Units) {
		texts = append(texts, w.Units[i])
	}
	out := map[string]bool{}
	for _, text := range texts {
		for _, s := range stems(text) {
			if len(s) > 1 && !plainNumber(s) && !dull[s] {
				out[s] = true
			}
		}
	}
	return out
}

// dull are words of columns' names that name nothing.
var dull = map[string]bool{"count": true, "star": true, "sum": true, "total": true, "number": true, "of": true, "per": true, "by": true,
	"n":   true,
	"cnt": true, "value": true, "amount": true, "averag": true, "max": true, "minute": false}

// measureWord tells a word that names one of the asked measures.
func (w *wanted) measureWord(word string) bool {
	s := Stem(word)
	if w.asked[s] {
		return true
	}
	return slices.ContainsFunc(w.numbered, func(c int) bool { return w.nameWords[c][s] })
}

// holds tells whether a column of names holds a text.
func (w *wanted) holds(c int, text string) bool {
	for _, t := range []*table.Table{w.Table, w.Full} {
		if t == nil || c >= len(t.Columns) {
			continue
		}
		for row := range t.Rows() {
			if t.Columns[c].Value(row).String() == text {
				return true
			}
		}
	}
	return c < len(w.Domain) && slices.Contains(w.Domain[c], text)
}

// number is a cell as a number; false for null and what is none.
func numberOf(t *table.Table, row, column int) (float64, bool) {
	c := t.Columns[column]
	if c.IsNull(row) {
		return 0, false
	}
	x, ok := c.Value(row).Float64()
	if ok && math.IsNaN(x) {
		return 0, false
	}
	return x, ok
}

// ratio tells whether a column holds shares: numbers from -1 to 1 that are no counts, or a name or unit that says so.
func (w *wanted) ratio(c int) (fraction, ratio bool) {
	column := w.Table.Columns[c]
	said := w.nameWords[c]["percent"] || w.nameWords[c]["share"] || w.nameWords[c]["shar"] || w.nameWords[c]["rate"] ||
		w.nameWords[c]["rat"] ||
		w.nameWords[c]["ratio"] || w.nameWords[c]["proportion"] || w.nameWords[c]["fraction"] ||
		strings.Contains(strings.ToLower(w.Question), "percent") ||
		strings.Contains(strings.ToLower(w.Question), "share") || strings.Contains(w.Question, "%")
	small := true
	for row := range column.Len() {
		if x, ok := numberOf(w.Table, row, c); ok && math.Abs(x) > 1 {
			small = false
		}
	}
	whole := column.Type.Kind == value.Int
	if small && (!whole || said) {
		return true, true
	}
	return false, said
}

// spansAsked tells whether a period is one that the question speaks of, or lies in none that it does not.
func (w *wanted) spansAsked(p period) bool {
	if w.relative {
		return true
	}
	asked := false
	for _, t := range w.question {
		if t.kind != dated {
			continue
		}
		asked = true
		if p.within(t.period) && t.period.within(p) || t.period.same(p) || p.month > 0 && t.period.month == 0 &&
			len(t.period.spans) > 0 &&
			t.period.spans[0].month() == p.month || covers(p, t.period) {
			return true
		}
	}
	if asked {
		return false
	}
	for _, y := range yearDigits.FindAllString(w.Query, -1) {
		n, _ := strconv.Atoi(y) // four digits
		if p.within(period{spans: []span{yearSpan(n)}}) {
			return true
		}
	}
	return false
}

// covers tells whether a period holds another whole.
func covers(p, q period) bool { return q.within(p) && len(p.spans) > 0 }
