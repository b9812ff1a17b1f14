package pocket

import (
	"slices"
	"strings"

	"tovrel/core/briefing"
)

// isMeasure tells columns that can be added up: by their role, else by their type.
func isMeasure(c *briefing.ToldColumn) bool {
	if c.Role != "" {
		return c.Role == "measure"
	}
	kind := strings.ToUpper(c.Type)
	return strings.HasPrefix(kind, "DECIMAL") || kind == "DOUBLE" || kind == "FLOAT" || kind == "REAL"
}

func isTime(c *briefing.ToldColumn) bool {
	kind := strings.ToUpper(c.Type)
	return kind == "DATE" || strings.HasPrefix(kind, "TIMESTAMP")
}

func isText(c *briefing.ToldColumn) bool {
	return strings.Contains(strings.ToUpper(c.Type), "CHAR") || strings.EqualFold(c.Type, "TEXT")
}

// readMeasure finds what is measured and how.
func (p *reader) readMeasure() {
	count := p.hasAny("how many", "number of", "count")
	p.sum = "sum"
	switch {
	case p.hasAny("average", "mean") >= 0:
		p.sum = "avg"
	case p.has("median") >= 0:
		p.sum = "median"
	}
	p.absent = p.hasAny("never", "without any", "have not", "ha not") >= 0 && p.hasAny("also") < 0
	p.zeros = p.hasAny("also those without", "also those with none", "including those without", "also those without any") >= 0
	p.findMeasures(count)
	if p.ratio != nil {
		p.measures = nil
	}
	p.counted(count)
	severalAsked := p.sum == "sum" && p.hasAny("what were", "what wa") >= 0
	if len(p.measures) > 1 && !severalAsked {
		p.measures = p.measures[:1]
	}
}

// findMeasures finds the columns that are measured, all of one table, or the value whose share is asked for.
func (p *reader) findMeasures(count int) {
	for i, t := range p.found {
		if t.column != nil && t.value == "" && isMeasure(t.column) && t.at > count && !p.comparison(t) && !p.measured(t.column) {
			if p.base == nil || p.base == t.table {
				p.base = t.table
				p.measures = append(p.measures, t.column)
			}
		}
		if t.value != "" && p.hasAny("share", "percentage", "proportion") >= 0 && p.ratio == nil {
			p.ratio, p.base, p.measures = &p.found[i], t.table, nil
		}
	}
}

func (p *reader) measured(c *briefing.ToldColumn) bool {
	return slices.Contains(p.measures, c)
}

// counted finds what rows are counted of, where no column is measured: the table behind "how many", else that of a value or verb.
func (p *reader) counted(count int) {
	if count >= 0 && p.words[count] == "how" && len(p.measures) > 0 && p.foundAt(count+2, p.measures[0]) {
		return // how many litres
	}
	if count >= 0 && p.ratio == nil {
		p.measures = nil
		if p.hasAny("different", "distinct") >= 0 {
			p.countThings(count)
			return
		}
		for _, t := range p.found {
			if t.column == nil && t.at > count {
				p.base = t.table
				return
			}
		}
	}
	if p.base == nil {
		for _, t := range p.found {
			if t.column != nil && t.at >= 0 {
				p.base = t.table // the table of a value or of a verb, such as "lent" for loans.out_on
			}
		}
	}
	if p.base == nil {
		for _, t := range p.found {
			p.base = t.table
			break
		}
	}
}

func (p *reader) foundAt(at int, c *briefing.ToldColumn) bool {
	for _, t := range p.found {
		if t.column == c && t.at >= at-1 && t.at <= at+1 {
			return true
		}
	}
	return false
}

// countThings counts the things of a table once each, by the key that another table has of it.
func (p *reader) countThings(count int) {
	var things *briefing.ToldTable
	for _, t := range p.found {
		switch {
		case t.at < count:
		case t.column == nil && things == nil:
			things = t.table
		case t.table != things:
			p.base = t.table
		}
	}
	if things == nil {
		return
	}
	if p.base == nil || p.base == things {
		p.base = things
		return
	}
	for _, step := range p.path(p.base, things) {
		if step.to == things.Name {
			p.distinct = columnOf(p.table(step.from), step.fromColumn)
			if step.from != p.base.Name {
				p.joined[step.from] = true
			}
		}
	}
}

// comparison tells a measure that a condition is about rather than the question: "more than 500000 cells".
func (p *reader) comparison(t thing) bool {
	for back := 1; back <= 2; back++ {
		if t.at-back >= 1 && (p.words[t.at-back] == "than" || p.words[t.at-back] == "least" || p.words[t.at-back] == "over") {
			return true
		}
		if t.at-back >= 0 && isNumber(p.words[t.at-back]) && t.at-back >= 1 &&
			(p.words[t.at-back-1] == "than" || p.words[t.at-back-1] == "over" || p.words[t.at-back-1] == "least") {
			return true
		}
	}
	return false
}

func isNumber(word string) bool {
	return word != "" && strings.Trim(word, "0123456789.") == ""
}

// labelOf is the column that names a table's rows.
func labelOf(t *briefing.ToldTable) *briefing.ToldColumn {
	for i := range t.Columns {
		if strings.EqualFold(t.Columns[i].Name, "name") || strings.EqualFold(t.Columns[i].Name, "label") {
			return &t.Columns[i]
		}
	}
	for i := range t.Columns {
		if isText(&t.Columns[i]) {
			return &t.Columns[i]
		}
	}
	return &t.Columns[0]
}

func columnOf(t *briefing.ToldTable, name string) *briefing.ToldColumn {
	if t != nil {
		for i := range t.Columns {
			if strings.EqualFold(t.Columns[i].Name, name) {
				return &t.Columns[i]
			}
		}
	}
	return nil
}

func (p *reader) table(name string) *briefing.ToldTable {
	for i := range p.r.Dataset.Tables {
		if strings.EqualFold(p.r.Dataset.Tables[i].Name, name) {
			return &p.r.Dataset.Tables[i]
		}
	}
	return nil
}

// units are periods to group by.
var units = map[string]string{"month": "month", "quarter": "quarter", "year": "year"}

// readGroups finds what the answer has a row for.
func (p *reader) readGroups() {
	for i, w := range p.words {
		if units[w] != "" && i > 0 && (p.words[i-1] == "each" || p.words[i-1] == "by" || p.words[i-1] == "per" || p.words[i-1] == "every") {
			p.groups = append(p.groups, units[w]+"(%time)")
		}
	}
	for _, t := range p.found {
		if t.value != "" || t.at < 0 || !p.groupsBy(t) {
			continue
		}
		if t.column != nil && (isMeasure(t.column) || isTime(t.column)) {
			if isTime(t.column) && t.table == p.base {
				p.timeOf = t.column
			}
			continue
		}
		column := t.column
		if column == nil {
			column = labelOf(t.table)
			if p.subject == nil {
				p.subject = t.table
			}
		}
		expression := quote(t.table.Name) + "." + quote(column.Name)
		if !contains(p.groups, expression) {
			p.groups = append(p.groups, expression)
			p.join(t.table)
		}
	}
}

// groupsBy tells whether the answer has a row for each of a thing: each farm, by district, which farm … most, the farm with the most.
func (p *reader) groupsBy(t thing) bool {
	if p.follows(t, "each", "per", "every", "by") || p.words[max(0, t.at-1)] == "by" {
		return true
	}
	if p.follows(t, "which") && (p.ranked || p.absent) {
		return true
	}
	if !p.ranked || t.at < 1 {
		return false
	}
	before, end := p.words[t.at-1], t.at+t.length
	return before == "best" || before == "top" || before == "the" && end < len(p.words) && p.words[end] == "with"
}

func contains(list []string, s string) bool {
	return slices.Contains(list, s)
}

func (p *reader) join(t *briefing.ToldTable) {
	if t != p.base {
		p.joined[t.Name] = true
	}
}

// readFilters finds conditions: values by their labels, flags, and comparisons of measures.
func (p *reader) readFilters() {
	for i, t := range p.found {
		if t.column == nil || p.ratio != nil && t.column == p.ratio.column && t.value == p.ratio.value {
			continue
		}
		name := quote(t.table.Name) + "." + quote(t.column.Name)
		switch {
		case t.value != "" && p.reachable(t.table):
			p.filter(t, name+" = %code'"+strings.ReplaceAll(t.value, "'", "''")+"'")
		case strings.EqualFold(t.column.Type, "BOOLEAN") && !contains(p.groups, name) && p.reachable(t.table):
			not := ""
			if i > 0 && t.at > 0 && p.words[t.at-1] == "not" {
				not = "NOT "
			}
			p.filter(t, not+name)
		case isMeasure(t.column) && p.comparison(t) && p.reachable(t.table):
			if number, sign := p.bound(t); number != "" {
				p.filter(t, name+" "+sign+" "+number)
			}
		}
	}
}

func (p *reader) reachable(t *briefing.ToldTable) bool {
	return p.base == nil || t == p.base || len(p.path(p.base, t)) > 0
}

func (p *reader) filter(t thing, condition string) {
	if !contains(p.where, condition) {
		p.where = append(p.where, condition)
		p.join(t.table)
	}
}

func (p *reader) bound(t thing) (number, sign string) {
	for back := 1; back <= 2 && t.at-back >= 0; back++ {
		if w := p.words[t.at-back]; isNumber(w) {
			number = w
			sign = ">"
			if t.at-back-1 >= 0 && p.words[t.at-back-1] == "least" {
				sign = ">="
			}
			if t.at-back-2 >= 0 && (p.words[t.at-back-2] == "le" || p.words[t.at-back-2] == "fewer" || p.words[t.at-back-2] == "less") {
				sign = "<"
			}
			return number, sign
		}
	}
	return "", ""
}
