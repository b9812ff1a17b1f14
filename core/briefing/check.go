package briefing

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"tovrel/core/near"
	"tovrel/core/profile"
	"tovrel/core/source"
	"tovrel/core/value"
)

// Golden is a golden question, for the search of examples that give it away.
type Golden struct {
	Name      string
	Wordings  []string
	Reference string
}

// Check holds a briefing against the data and the golden questions on it, and gives what does not agree, each at its line.
func Check(b *Briefing, d *profile.Dataset, questions []Golden) []profile.Finding {
	c := &checker{b: b, d: d}
	if b.Dataset != "" && b.Dataset != d.Name {
		c.report(profile.Error, "other-dataset", source.Position{File: b.File, Line: 1}, "", "",
			fmt.Sprintf("the briefing is for dataset %s, and is given to %s", b.Dataset, d.Name),
			"correct dataset:, or give the dataset its own briefing")
	}
	for _, t := range b.Tables {
		c.table(t)
	}
	for _, j := range b.Joins {
		c.place(j.From, j.At, "the join names")
		c.place(j.To, j.At, "the join names")
	}
	for _, f := range slices.Concat(b.Facts, b.NotFacts) {
		if c.find(f.Table) == nil {
			c.report(profile.Error, "unknown-table", f.At, f.Table, "",
				fmt.Sprintf("a fact is about a table %q, which the dataset does not have", f.Table), near.Hint(f.Table, c.tables()))
		}
	}
	c.synonyms()
	c.terms()
	c.leaks(questions)
	return c.found
}

// Settled leaves out the findings that a briefing already answers: a unit that it gives, a column that it hides or explains.
func Settled(b *Briefing, findings []profile.Finding) []profile.Finding {
	var open []profile.Finding
	for _, f := range findings {
		said := b.Column(profile.Place{Table: f.Table, Column: f.Column})
		settled := said != nil && (said.Hide && f.Severity != profile.Error || f.Code == "unit-in-name" && said.Unit != "" ||
			f.Code == "named-alike" && said.About != "")
		if !settled {
			open = append(open, f)
		}
	}
	return open
}

type checker struct {
	b     *Briefing
	d     *profile.Dataset
	found []profile.Finding
}

func (c *checker) report(severity profile.Severity, code string, at source.Position, table, column, message, remedy string) {
	c.found = append(c.found, profile.Finding{Severity: severity, Code: code, Table: table, Column: column, File: at.File,
		Line: at.Line, Message: message, Remedy: remedy})
}

func (c *checker) table(said Table) {
	t := c.find(said.Name)
	if t == nil {
		c.report(profile.Error, "unknown-table", said.At, said.Name, "", fmt.Sprintf("the dataset has no table %q", said.Name),
			near.Hint(said.Name, c.tables()))
		return
	}
	for _, col := range said.Columns {
		facts := column(t, col.Name)
		if facts == nil {
			c.report(profile.Error, "unknown-column", col.At, t.Name, col.Name,
				fmt.Sprintf("table %s has no column %q", t.Name, col.Name), near.Hint(col.Name, columns(t)))
			continue
		}
		c.codes(t, facts, col)
	}
}

// codes finds codes that do not occur, and labels that are used twice.
func (c *checker) codes(t *profile.Table, facts *profile.Column, said Column) {
	labels := map[string]string{}
	for _, code := range said.Codes {
		if !occurs(facts, code.Value) {
			hint := near.Name(code.Value, texts(facts))
			remedy := "correct the code, or remove it"
			if hint != "" {
				remedy = fmt.Sprintf("did you mean %q?", hint)
			}
			c.report(profile.Warning, "value-missing", code.At, t.Name, facts.Name,
				fmt.Sprintf("the value %q does not occur in the data", code.Value), remedy)
		}
		key := strings.ToLower(code.Label)
		if before, twice := labels[key]; twice {
			c.report(profile.Warning, "label-twice", code.At, t.Name, facts.Name,
				fmt.Sprintf("the label %q stands for both %q and %q", code.Label, before, code.Value), "give each code its own label")
		}
		labels[key] = code.Value
	}
}

// occurs tells whether a value is among a column's; where not all of them are known it is given the benefit of the doubt.
func occurs(facts *profile.Column, text string) bool {
	for _, v := range facts.Values {
		if v.Text == text {
			return true
		}
		if facts.Kind == value.Bool && strings.EqualFold(v.Text, text) {
			return true
		}
	}
	return !facts.Complete()
}

func texts(facts *profile.Column) []string {
	var out []string
	for _, v := range facts.Values {
		out = append(out, v.Text)
	}
	return out
}

// place reports a column that does not exist.
func (c *checker) place(p profile.Place, at source.Position, who string) {
	t := c.find(p.Table)
	if t == nil {
		c.report(profile.Error, "unknown-table", at, p.Table, "",
			fmt.Sprintf("%s the table %q, which the dataset does not have", who, p.Table), near.Hint(p.Table, c.tables()))
		return
	}
	if column(t, p.Column) == nil {
		c.report(profile.Error, "unknown-column", at, t.Name, p.Column,
			fmt.Sprintf("%s the column %q, which %s does not have", who, p.Column, t.Name), near.Hint(p.Column, columns(t)))
	}
}

// synonyms finds words that stand for two things within one table, or for another column's name.
func (c *checker) synonyms() {
	for _, t := range c.b.Tables {
		owner := map[string]string{}
		if facts := c.find(t.Name); facts != nil {
			for _, col := range facts.Columns {
				owner[folded(col.Name)] = col.Name
			}
		}
		for _, col := range t.Columns {
			for _, s := range col.Synonyms {
				if before := owner[folded(s)]; before != "" && !strings.EqualFold(before, col.Name) {
					c.report(profile.Warning, "synonym-collides", col.At, t.Name, col.Name,
						fmt.Sprintf("the synonym %q also means %s", s, before), "keep it for one of them")
				}
				owner[folded(s)] = col.Name
			}
		}
	}
}

// terms finds definitions that name what a translator is not told of.
func (c *checker) terms() {
	for _, term := range c.b.Terms {
		for _, hidden := range c.b.Hidden() {
			if mentions(term.Definition, hidden.Column) {
				c.report(profile.Error, "term-names-hidden", term.At, hidden.Table, hidden.Column,
					fmt.Sprintf("the term %q names %s, which is hidden", term.Name, hidden),
					"say it by another column, or do not hide this one")
			}
		}
	}
}

// leaks finds examples that repeat a golden question or its reference query: an answer that was given away proves nothing.
func (c *checker) leaks(questions []Golden) {
	for _, e := range c.b.Examples {
		for _, q := range questions {
			if leaks(e, q) {
				c.report(profile.Error, "example-leak", e.At, "", "",
					fmt.Sprintf("the example %q repeats the golden question %s", e.Question, q.Name),
					"use a question that no golden set asks")
			}
		}
	}
}

func leaks(e Example, q Golden) bool {
	for _, w := range q.Wordings {
		if letters(w) == letters(e.Question) {
			return true
		}
	}
	return q.Reference != "" && letters(q.Reference) == letters(e.Query)
}

// letters is a text by its letters, digits and operators alone, in lower case.
func letters(text string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) || strings.ContainsRune("<>=+*/-'%", r) {
			return unicode.ToLower(r)
		}
		return -1
	}, text)
}

func folded(name string) string {
	return strings.NewReplacer("_", "", " ", "").Replace(strings.ToLower(name))
}

// mentions tells whether a text holds a name as a whole word.
func mentions(text, name string) bool {
	for _, word := range strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '_' }) {
		if strings.EqualFold(word, name) {
			return true
		}
	}
	return false
}

func (c *checker) find(name string) *profile.Table {
	for _, t := range c.d.Tables {
		if strings.EqualFold(t.Name, name) {
			return t
		}
	}
	return nil
}

func column(t *profile.Table, name string) *profile.Column {
	for _, c := range t.Columns {
		if strings.EqualFold(c.Name, name) {
			return c
		}
	}
	return nil
}

func (c *checker) tables() []string {
	var names []string
	for _, t := range c.d.Tables {
		names = append(names, t.Name)
	}
	return names
}

func columns(t *profile.Table) []string {
	var names []string
	for _, c := range t.Columns {
		names = append(names, c.Name)
	}
	return names
}
