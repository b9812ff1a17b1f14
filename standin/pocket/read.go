package pocket

import (
	"maps"
	"slices"
	"strings"

	"tovrel/core/briefing"
	"tovrel/translator"
)

// thing is what a phrase of the question names: a table, a column, or a value of a column.
type thing struct {
	field         // its column is nil for a table
	value  string // a code; "" for none
	at     int    // first word
	length int    // in words
}

// condition limits the rows by a field: a test in SQL, and the code that it compares with ("" for none).
type condition struct {
	field
	test, code string
}

// reader reads one question. What it reads it puts into the plan.
type reader struct {
	told    briefing.Dataset
	words   []string
	phrases map[string][]thing // by the phrase's words
	found   []thing            // in the order of the question
	steps   []step
	plan
}

// plan is what a question asks for: the base's rows, counted or added up, for each of the groups.
type plan struct {
	base      *briefing.ToldTable
	measures  []field // none: rows are counted
	aggregate string  // of the measures
	distinct  *field  // counted once each
	subject   *field  // what those without any are kept of
	absent    bool    // only those without any
	groups    []field
	unit      string // a period that is grouped by
	where     []condition
	span      span
	top       int // 0 for all
	lowest    bool
}

func newReader(r translator.Request, question string) *reader {
	p := &reader{told: r.Dataset, phrases: map[string][]thing{}}
	bare := func(t briefing.ToldTable) bool { return len(t.Columns) == 0 }
	p.told.Tables = slices.DeleteFunc(slices.Clone(r.Dataset.Tables), bare)
	for i := range p.told.Tables {
		p.nameTable(&p.told.Tables[i])
	}
	p.readJoins()
	span, rest := readSpan(strings.Join(words(question), " "))
	p.span, p.words = span, strings.Fields(rest)
	p.found = p.find(p.words)
	if r.Briefing != nil {
		for _, term := range slices.Sorted(maps.Keys(r.Briefing.Terms)) {
			if p.has(term) {
				p.readMeaning(r.Briefing.Terms[term])
			}
		}
	}
	return p
}

// nameTable takes down the phrases for a table, its columns and their values.
func (p *reader) nameTable(t *briefing.ToldTable) {
	p.name(t.Name, thing{field: field{table: t}})
	if at := strings.LastIndex(t.Name, "_"); at >= 0 {
		p.name(t.Name[at+1:], thing{field: field{table: t}})
	}
	for i := range t.Columns {
		f := field{t, &t.Columns[i]}
		for _, name := range append([]string{f.column.Name}, f.column.Synonyms...) {
			if name != "name" {
				p.name(name, thing{field: f})
			}
		}
		for code, label := range f.column.Values {
			p.name(label, thing{field: f, value: code})
			p.name(f.column.Name+" "+code, thing{field: f, value: code})
			p.name(f.column.Name+" is "+code, thing{field: f, value: code})
		}
	}
}

func (p *reader) name(text string, t thing) {
	key := strings.Join(words(text), " ")
	p.phrases[key] = append(p.phrases[key], t)
}

// find matches the longest phrases of a text to things.
func (p *reader) find(text []string) []thing {
	var found []thing
	for at := 0; at < len(text); {
		length := min(4, len(text)-at)
		for length > 1 && p.phrases[strings.Join(text[at:at+length], " ")] == nil {
			length--
		}
		for _, t := range p.phrases[strings.Join(text[at:at+length], " ")] {
			t.at, t.length = at, length
			found = append(found, t)
		}
		at += length
	}
	return found
}

// has tells whether the question has one of some phrases.
func (p *reader) has(phrases ...string) bool { return p.after(phrases...) >= 0 }

// after is the place behind the first of some phrases; -1 where none is there.
func (p *reader) after(phrases ...string) int {
	for _, phrase := range phrases {
		want := words(phrase)
		for at := 0; at+len(want) <= len(p.words); at++ {
			if slices.Equal(p.words[at:at+len(want)], want) {
				return at + len(want)
			}
		}
	}
	return -1
}

// word is a word of the question; "" outside it.
func (p *reader) word(at int) string {
	if at < 0 || at >= len(p.words) {
		return ""
	}
	return p.words[at]
}

// readMeaning takes over what a term means: codes, and columns that are null.
func (p *reader) readMeaning(meaning string) {
	text := words(meaning)
	for _, t := range p.find(text) {
		behind := strings.Join(text[t.at+t.length:], " ") + " "
		switch {
		case t.column == nil:
		case t.value != "":
			p.limit(t.field, "=", t.value)
		case strings.HasPrefix(behind, "is null "):
			p.limit(t.field, "IS NULL", "")
		}
	}
}

func (p *reader) limit(f field, test, code string) {
	if c := (condition{f, test, code}); !slices.Contains(p.where, c) {
		p.where = append(p.where, c)
	}
}

// beyond tells a question that is beyond the few rules here: shares, growth, comparisons with numbers.
func (p *reader) beyond() bool {
	return p.has("share", "percentage", "percent", "proportion", "than", "at least", "weighted")
}

// changes is the verb of a question that asks to change the data; "" for none.
func (p *reader) changes() string {
	if verb := p.word(0); slices.Contains([]string{"delete", "remove", "drop", "update", "change", "insert", "correct", "rename"}, verb) {
		return verb
	}
	return ""
}

// ambiguous are the measures that "best" could go by, where the question names none.
func (p *reader) ambiguous() []string {
	named := slices.ContainsFunc(p.found, func(t thing) bool { return t.column != nil && t.column.Role == "measure" })
	if named || !p.has("best", "worst", "good", "favourite") {
		return nil
	}
	var names []string
	for _, t := range p.told.Tables {
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
	p.lowest = p.has("fewest", "lowest", "least", "smallest")
	ranked := p.lowest || p.has("most", "highest", "largest", "best", "top", "biggest")
	p.absent = p.has("never", "without any", "have not", "has not") && !p.has("also")
	p.readConditions()
	p.readMeasures()
	p.readGroups(ranked || p.absent)
	if ranked && len(p.groups) > 0 {
		p.top = 1
		for i, w := range p.words {
			if n := numeral(w); n > 0 && slices.Contains([]string{"which", "top", "first", "the", "best"}, p.word(i-1)) {
				p.top = n
			}
		}
	}
	if i := slices.IndexFunc(p.groups, func(f field) bool { return f.table != p.base }); i >= 0 && (p.absent || p.has("also")) {
		p.subject = &p.groups[i]
	}
}

// readConditions finds values by their labels, and flags.
func (p *reader) readConditions() {
	for _, t := range p.found {
		switch {
		case t.column == nil:
		case t.value != "":
			p.limit(t.field, "=", t.value)
		case strings.EqualFold(t.column.Type, "BOOLEAN") && !p.each(t):
			p.limit(t.field, map[bool]string{true: "= FALSE", false: "= TRUE"}[p.word(t.at-1) == "not"], "")
		}
	}
}

// readMeasures finds what is counted or added up: what stands behind "how many", else the measures that are named, else rows.
func (p *reader) readMeasures() {
	p.aggregate = "sum"
	if p.has("average", "mean") {
		p.aggregate = "avg"
	} else if p.has("median") {
		p.aggregate = "median"
	}
	count := p.after("how many", "number of", "count")
	for _, t := range p.found {
		switch measured := t.column != nil && t.value == "" && t.measure(); {
		case t.at < count:
		case p.base == nil && (measured || t.column == nil && count >= 0):
			p.base = t.table
			fallthrough
		case len(p.measures) > 0 && p.base == t.table && p.has("what were"):
			if measured && !slices.Contains(p.measures, t.field) {
				p.measures = append(p.measures, t.field)
			}
		}
	}
	if p.base == nil {
		p.base = p.mentioned()
	}
	if p.base != nil && p.has("different", "distinct") {
		p.countOnce()
	}
}

// mentioned is the table of the last column, value or verb of the question, else its first table; nil for none.
func (p *reader) mentioned() *briefing.ToldTable {
	for _, t := range slices.Backward(p.found) {
		if t.column != nil {
			return t.table
		}
	}
	if len(p.found) > 0 {
		return p.found[0].table
	}
	return nil
}

// countOnce counts the base's things once each where another table that is named refers to them.
func (p *reader) countOnce() {
	for _, t := range p.found {
		if way := p.path(t.table, p.base); len(way) == 1 {
			p.base, p.distinct = t.table, &way[0].from
			return
		}
	}
}

// readGroups finds what the answer has a row for: what stands behind "each" or "by", and in a ranking what is asked for first.
func (p *reader) readGroups(first bool) {
	for i, w := range p.words {
		if slices.Contains([]string{"month", "quarter", "year"}, w) && isEach(p.word(i-1)) {
			p.unit = w
		}
	}
	for _, t := range p.found {
		if t.value != "" || t.column != nil && (t.measure() || t.time()) || !p.each(t) && !(first && len(p.groups) == 0) {
			continue
		}
		if t.column == nil {
			t.field = label(t.table)
		}
		if !slices.Contains(p.groups, t.field) && p.path(p.base, t.table) != nil {
			p.groups = append(p.groups, t.field)
		}
	}
}

// each tells whether a thing stands behind "each" or its like, or with one word between.
func (p *reader) each(t thing) bool { return isEach(p.word(t.at-1)) || isEach(p.word(t.at-2)) }

func isEach(word string) bool { return slices.Contains([]string{"each", "per", "every", "by"}, word) }
