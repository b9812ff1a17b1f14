// Package briefing reads what a translator is told about a dataset beyond its schema, checks it against the data, and says what
// is told at each level. The grammar is that of a YAML file:
//
//	dataset: NAME
//	about: TEXT
//	tables: {TABLE: {about: TEXT, columns: {COLUMN: {role, about, unit, synonyms, values, hide, share-values}}}}
//	joins: [TABLE.COLUMN = TABLE.COLUMN]
//	terms: {TERM: DEFINITION}
//	examples: [{question: TEXT, query: SQL}]
//	notes: [TEXT]
//	facts: ["TABLE: CONDITION"]       what twins keep: a condition in SQL, or a line of `tovrel data twin --facts`
//	not-facts: ["TABLE: …"]           lines of `tovrel data twin --facts` that twins need not keep
//
// It reads no files and runs no queries.
package briefing

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/near"
	"tovrel/core/profile"
	"tovrel/core/source"
	"tovrel/core/yamldoc"
)

// Briefing is a parsed briefing. The zero Briefing says nothing.
type Briefing struct {
	File     string
	Dataset  string
	About    string
	Tables   []Table
	Joins    []Join
	Terms    []Term
	Examples []Example
	Notes    []string
	Facts    []Fact // what twins keep besides what is found
	NotFacts []Fact // what is found and need not be kept
}

// Fact is something that holds of a table's rows.
type Fact struct {
	Text             string // as it is written
	Table, Condition string
	At               source.Position
}

// Table is what is said of a table.
type Table struct {
	Name    string
	At      source.Position
	About   string
	Columns []Column
}

// Column is what is said of a column.
type Column struct {
	Name        string
	At          source.Position
	Role        profile.Role // "" where unsaid
	About, Unit string
	Synonyms    []string
	Codes       []Code
	Hide        bool
	ShareValues *bool // nil where unsaid
}

// Code is a value with its label.
type Code struct {
	Value, Label string
	At           source.Position
}

// Join says that two columns are equal where their tables are joined.
type Join struct {
	Text     string
	At       source.Position
	From, To profile.Place
}

// Term is a word of the business with its definition.
type Term struct {
	Name, Definition string
	At               source.Position
}

// Example is a question with its query.
type Example struct {
	Question, Query string
	At              source.Position
}

var (
	topKeys     = yamldoc.Keys{Known: []string{"dataset", "about", "tables", "joins", "terms", "examples", "notes", "facts", "not-facts"}}
	tableKeys   = yamldoc.Keys{Known: []string{"about", "columns"}}
	columnKeys  = yamldoc.Keys{Known: []string{"role", "about", "unit", "synonyms", "values", "hide", "share-values"}}
	exampleKeys = yamldoc.Keys{Known: []string{"question", "query"}}
)

// Parse reads a briefing and gives its defects.
func Parse(file string, text []byte) (*Briefing, source.Problems) {
	r, root := yamldoc.Read(file, text, text, 0)
	b := &Briefing{File: file}
	if len(r.Problems) > 0 {
		return b, r.Problems
	}
	p := parser{r}
	fields := r.Fields(root, file, topKeys)
	p.text(fields["dataset"], "dataset", &b.Dataset)
	p.text(fields["about"], "about", &b.About)
	for _, e := range r.Entries(fields["tables"], "tables") {
		b.Tables = append(b.Tables, p.table(e))
	}
	for _, n := range r.Items(fields["joins"], "joins") {
		if j, ok := p.join(n); ok {
			b.Joins = append(b.Joins, j)
		}
	}
	for _, e := range r.Entries(fields["terms"], "terms") {
		b.Terms = append(b.Terms, Term{e.Key, r.Text(e.Value, "the definition of "+e.Key), r.Position(e.At)})
	}
	for _, n := range r.Items(fields["examples"], "examples") {
		b.Examples = append(b.Examples, p.example(n))
	}
	b.Notes = r.Texts(fields["notes"], "notes")
	b.Facts, b.NotFacts = p.facts(fields["facts"], "facts"), p.facts(fields["not-facts"], "not-facts")
	r.Problems.Sort()
	return b, r.Problems
}

type parser struct{ *yamldoc.Reader }

func (p parser) text(n yamldoc.Node, what string, into *string) {
	if !yamldoc.IsNull(n) {
		*into = p.Text(n, what)
	}
}

func (p parser) table(e yamldoc.Entry) Table {
	t := Table{Name: e.Key, At: p.Position(e.At)}
	if yamldoc.IsNull(e.Value) {
		return t
	}
	fields := p.Fields(e.Value, "table "+e.Key, tableKeys)
	p.text(fields["about"], "about", &t.About)
	for _, c := range p.Entries(fields["columns"], "columns") {
		t.Columns = append(t.Columns, p.column(c))
	}
	return t
}

func (p parser) column(e yamldoc.Entry) Column {
	c := Column{Name: e.Key, At: p.Position(e.At)}
	if yamldoc.IsNull(e.Value) {
		return c
	}
	fields := p.Fields(e.Value, "column "+e.Key, columnKeys)
	if n := fields["role"]; n != nil {
		c.Role = profile.Role(p.Text(n, "role"))
		if !known(c.Role) {
			p.Report(n, "unknown-role", fmt.Sprintf("there is no role %q", c.Role), near.Hint(string(c.Role), profile.Roles()))
		}
	}
	p.text(fields["about"], "about", &c.About)
	p.text(fields["unit"], "unit", &c.Unit)
	c.Synonyms = p.Texts(fields["synonyms"], "synonyms")
	for _, v := range p.Entries(fields["values"], "values") {
		c.Codes = append(c.Codes, Code{v.Key, p.Text(v.Value, "the label of "+v.Key), p.Position(v.At)})
	}
	if n := fields["hide"]; n != nil {
		c.Hide = p.Bool(n, "hide")
	}
	if n := fields["share-values"]; n != nil {
		share := p.Bool(n, "share-values")
		c.ShareValues = &share
	}
	return c
}

func known(role profile.Role) bool {
	return slices.Contains(profile.Roles(), string(role))
}

func (p parser) join(n yamldoc.Node) (Join, bool) {
	j := Join{Text: strings.TrimSpace(p.Text(n, "a join")), At: p.Position(n)}
	var ok bool
	if j.From, j.To, ok = profile.ParseJoin(j.Text); !ok {
		p.Report(n, "bad-join", fmt.Sprintf("%q is no join", j.Text),
			"write it as loads.farm_id = farms.farm_id; names with spaces or dots in double quotes")
	}
	return j, ok
}

func (p parser) facts(n yamldoc.Node, key string) []Fact {
	var out []Fact
	for _, item := range p.Items(n, key) {
		f := Fact{Text: strings.TrimSpace(p.Text(item, "a fact")), At: p.Position(item)}
		table, condition, ok := strings.Cut(f.Text, ":")
		f.Table, f.Condition = strings.TrimSpace(table), strings.TrimSpace(condition)
		if !ok || f.Table == "" || f.Condition == "" {
			p.Report(item, "bad-fact", fmt.Sprintf("%q is no fact", f.Text),
				"write it as \"payments: net = gross - deductions\": a table and a condition, in quotes")
			continue
		}
		out = append(out, f)
	}
	return out
}

func (p parser) example(n yamldoc.Node) Example {
	fields := p.Fields(n, "an example", exampleKeys)
	e := Example{At: p.Position(n)}
	p.text(fields["question"], "question", &e.Question)
	p.text(fields["query"], "query", &e.Query)
	if e.Question == "" || e.Query == "" {
		p.Report(n, "example-incomplete", "an example needs a question and a query", "write both")
	}
	return e
}

// Table finds what is said of a table, in any case; nil for nothing.
func (b *Briefing) Table(name string) *Table {
	if b != nil {
		for i, t := range b.Tables {
			if strings.EqualFold(t.Name, name) {
				return &b.Tables[i]
			}
		}
	}
	return nil
}

// Column finds what is said of a column, in any case; nil for nothing.
func (b *Briefing) Column(place profile.Place) *Column {
	if t := b.Table(place.Table); t != nil {
		for i, c := range t.Columns {
			if strings.EqualFold(c.Name, place.Column) {
				return &t.Columns[i]
			}
		}
	}
	return nil
}

// Hidden lists the columns that are hidden.
func (b *Briefing) Hidden() []profile.Place {
	var hidden []profile.Place
	if b == nil {
		return nil
	}
	for _, t := range b.Tables {
		for _, c := range t.Columns {
			if c.Hide {
				hidden = append(hidden, profile.Place{Table: t.Name, Column: c.Name})
			}
		}
	}
	return hidden
}
