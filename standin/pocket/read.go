package pocket

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"tovrel/core/briefing"
	"tovrel/translator"
)

// thing is what a phrase of the question names: a table, a column, or a value of a column.
type thing struct {
	table  *briefing.ToldTable
	column *briefing.ToldColumn // nil for a table
	value  string               // a code; "" for none
	at     int                  // first word
	length int                  // in words
}

// reader reads one question.
type reader struct {
	r       translator.Request
	words   []string
	phrases map[string][]thing // by the phrase's words
	found   []thing            // in the order of the question
	used    []bool             // words that are read already

	base     *briefing.ToldTable
	measures []*briefing.ToldColumn // none: rows are counted
	sum      string                 // aggregate of the measures
	distinct *briefing.ToldColumn   // counted once each
	ratio    *thing                 // the share of rows with this value
	groups   []string               // expressions
	joined   map[string]bool        // tables to join
	where    []string
	period   []string // conditions on the time column, %s for it; the end of a range is its second
	top      int
	lowest   bool
	ranked   bool
	absent   bool // those without any
	zeros    bool // also those without any
	subject  *briefing.ToldTable
	timeOf   *briefing.ToldColumn // asked for by name
}

func newReader(r translator.Request, question string) *reader {
	p := &reader{r: r, words: words(question), phrases: map[string][]thing{}, joined: map[string]bool{}}
	p.used = make([]bool, len(p.words))
	for i := range r.Dataset.Tables {
		t := &r.Dataset.Tables[i]
		p.name(t.Name, thing{table: t})
		if parts := strings.Split(t.Name, "_"); len(parts) > 1 {
			p.name(parts[len(parts)-1], thing{table: t})
		}
		for j := range t.Columns {
			c := &t.Columns[j]
			if c.Name != "name" {
				p.name(c.Name, thing{table: t, column: c})
			}
			for _, s := range c.Synonyms {
				p.name(s, thing{table: t, column: c})
			}
			for code, label := range c.Values {
				p.name(label, thing{table: t, column: c, value: code})
			}
		}
	}
	return p
}

func (p *reader) name(text string, t thing) {
	key := strings.Join(words(strings.ReplaceAll(text, "_", " ")), " ")
	p.phrases[key] = append(p.phrases[key], t)
}

// find matches the longest phrases of the question to things.
func (p *reader) find() {
	for at := 0; at < len(p.words); {
		length := 0
		for n := min(4, len(p.words)-at); n > 0 && length == 0; n-- {
			if p.anyUsed(at, n) {
				continue
			}
			for _, t := range p.phrases[strings.Join(p.words[at:at+n], " ")] {
				t.at, t.length = at, n
				p.found = append(p.found, t)
				length = n
			}
		}
		at += max(1, length)
	}
}

func (p *reader) anyUsed(at, n int) bool {
	for _, u := range p.used[at : at+n] {
		if u {
			return true
		}
	}
	return false
}

// has finds a run of words; -1 where it is not there.
func (p *reader) has(phrase string) int {
	want := words(phrase)
	for at := 0; at+len(want) <= len(p.words); at++ {
		if strings.Join(p.words[at:at+len(want)], " ") == strings.Join(want, " ") {
			return at
		}
	}
	return -1
}

func (p *reader) hasAny(phrases ...string) int {
	for _, phrase := range phrases {
		if at := p.has(phrase); at >= 0 {
			return at
		}
	}
	return -1
}

// changes is the verb of a question that asks to change the data; "" for none.
func (p *reader) changes() string {
	if len(p.words) > 0 {
		switch w := p.words[0]; w {
		case "delete", "remove", "drop", "update", "change", "insert", "correct", "rename":
			return w
		}
	}
	return ""
}

// ambiguous are the measures that "best" could go by, where the question names none.
func (p *reader) ambiguous() []string {
	if p.hasAny("best", "worst", "good", "favourite") < 0 {
		return nil
	}
	q := newReader(p.r, strings.Join(p.words, " "))
	q.find()
	var names []string
	for _, t := range q.found {
		if t.column != nil && t.column.Role == "measure" {
			return nil
		}
	}
	for _, t := range p.r.Dataset.Tables {
		for _, c := range t.Columns {
			if c.Role == "measure" {
				names = append(names, strings.ReplaceAll(c.Name, "_", " "))
			}
		}
	}
	return names
}

// read fills the plan.
func (p *reader) read() {
	p.readTerms()
	p.readPeriod()
	p.readNumbers()
	p.find()
	p.readMeasure()
	p.readGroups()
	p.readFilters()
}

// readTerms takes over what the briefing's terms mean: codes, null tests, comparisons of columns, months.
func (p *reader) readTerms() {
	if p.r.Briefing == nil {
		return
	}
	names := slices.Sorted(maps.Keys(p.r.Briefing.Terms))
	for _, name := range names {
		at := p.has(name)
		if at < 0 {
			continue
		}
		meaning := words(p.r.Briefing.Terms[name])
		p.readMeaning(meaning)
		if months[at0(meaning, "to", -1)] > 0 && months[at0(meaning, "to", 1)] > 0 {
			p.period = append(p.period, fmt.Sprintf("month(%%s) BETWEEN %d AND %d", months[at0(meaning, "to", -1)],
				months[at0(meaning, "to", 1)]))
		}
	}
}

// at0 is the word beside the first occurrence of another.
func at0(list []string, word string, offset int) string {
	for i, w := range list {
		if w == word && i+offset >= 0 && i+offset < len(list) {
			return list[i+offset]
		}
	}
	return ""
}

// readMeaning reads "… status acc", "… back_on is null" and "back_on is after its due_on" out of a definition.
func (p *reader) readMeaning(meaning []string) {
	text := strings.Join(meaning, " ")
	for i := range p.r.Dataset.Tables {
		t := &p.r.Dataset.Tables[i]
		for j := range t.Columns {
			c := &t.Columns[j]
			name := strings.Join(words(strings.ReplaceAll(c.Name, "_", " ")), " ")
			for code := range c.Values {
				if strings.Contains(text+" ", name+" "+strings.ToLower(code)+" ") {
					p.found = append(p.found, thing{table: t, column: c, value: code, at: -1})
				}
			}
			if strings.Contains(text, name+" is null") {
				p.where = append(p.where, quote(t.Name)+"."+quote(c.Name)+" IS NULL")
			}
			for _, other := range t.Columns {
				if strings.Contains(text, name+" is after it "+strings.Join(words(strings.ReplaceAll(other.Name, "_", " ")), " ")) {
					p.where = append(p.where, fmt.Sprintf("%s.%s > %s.%s", quote(t.Name), quote(c.Name), quote(t.Name), quote(other.Name)))
				}
			}
		}
	}
}

// readPeriod reads months, quarters, halves and years, and the last days.
func (p *reader) readPeriod() {
	for i, w := range p.words {
		year, err := strconv.Atoi(w)
		if err != nil || year < 1900 || year > 2100 {
			continue
		}
		p.used[i] = true
		before := func(n int) string {
			if i-n >= 0 {
				return p.words[i-n]
			}
			return ""
		}
		switch m := months[before(1)]; {
		case m > 0:
			p.used[i-1] = true
			p.between(year, m, 1)
		case ordinals[before(3)] > 0 && before(2) == "quarter":
			p.use(i-3, 2)
			p.between(year, 3*ordinals[before(3)]-2, 3)
		case ordinals[before(3)] > 0 && before(2) == "half":
			p.use(i-3, 2)
			p.between(year, 6*min(ordinals[before(3)], 2)-5, 6)
		default:
			p.between(year, 1, 12)
		}
		break
	}
	if at := p.hasAny("last", "past"); at >= 0 && at+2 < len(p.words) && p.words[at+2] == "day" {
		if n, ok := numeral(p.words[at+1]); ok {
			p.use(at, 3)
			p.period = append(p.period, fmt.Sprintf("%%s > current_date - %d", n))
		}
	}
}

func (p *reader) use(at, n int) {
	for i := at; i < at+n && i < len(p.used); i++ {
		p.used[i] = true
	}
}

// between is a range of whole months: from its first day to before the first day after it.
func (p *reader) between(year, month, count int) {
	endYear, endMonth := year, month+count
	for endMonth > 12 {
		endYear, endMonth = endYear+1, endMonth-12
	}
	p.period = append(p.period, fmt.Sprintf("%%s >= DATE '%d-%02d-01'", year, month),
		fmt.Sprintf("%%s < DATE '%d-%02d-01'", endYear, endMonth))
}

// readNumbers reads how many of the first are asked for, and their order.
func (p *reader) readNumbers() {
	p.ranked = p.hasAny("most", "highest", "largest", "best", "top", "biggest", "fewest", "lowest", "least", "smallest") >= 0
	p.lowest = p.hasAny("fewest", "lowest", "least", "smallest") >= 0
	for i, w := range p.words {
		n, ok := numeral(w)
		if !ok || p.used[i] || i == 0 {
			continue
		}
		switch p.words[i-1] {
		case "which", "top", "first", "the", "best", "than":
		default:
			continue
		}
		if p.words[i-1] != "than" && p.ranked {
			p.top = n
			p.used[i] = true
		}
	}
	if p.ranked && p.top == 0 {
		p.top = 1
	}
}

// before tells whether a thing follows one of some words directly, or with a short word between.
func (p *reader) follows(t thing, before ...string) bool {
	for back := 1; back <= 2 && t.at-back >= 0; back++ {
		if slices.Contains(before, p.words[t.at-back]) {
			return true
		}
	}
	return false
}
