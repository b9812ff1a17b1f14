// Package draft proposes starter questions for a dataset: from what was counted of its columns and what its briefing says, in plain
// English, each with the query that answers it. It runs nothing, and does not know whether an answer is worth asking for: a person does.
package draft

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"tovrel/core/briefing"
	"tovrel/core/pattern"
	"tovrel/core/profile"
	"tovrel/core/value"
)

// Question is a proposal.
type Question struct {
	Kind string // of question, such as "total by group"; the proposals take turns between them
	Text string
	SQL  string
	Uses []profile.Place // the columns that it is about
}

// Propose lists questions, those of different kinds first; covered are columns that other questions ask about already: proposals about
// others come before those. None is there twice.
func Propose(d *profile.Dataset, b *briefing.Briefing, covered map[profile.Place]bool) []Question {
	p := &proposer{d: d, b: b}
	for _, t := range d.Tables {
		p.table(t)
	}
	for _, l := range d.Links {
		p.link(l)
	}
	return inTurns(p.all, covered)
}

// inTurns orders questions by kind in turn; within a kind those about columns that nothing covers come first.
func inTurns(all []Question, covered map[profile.Place]bool) []Question {
	byKind := map[string][]Question{}
	var kinds []string
	for _, q := range all {
		if len(byKind[q.Kind]) == 0 {
			kinds = append(kinds, q.Kind)
		}
		byKind[q.Kind] = append(byKind[q.Kind], q)
	}
	fresh := func(q Question) int {
		n := 0
		for _, place := range q.Uses {
			if !covered[place] {
				n++
			}
		}
		return n
	}
	for _, questions := range byKind {
		slices.SortStableFunc(questions, func(a, b Question) int { return cmp.Compare(fresh(b), fresh(a)) })
	}
	seen := map[string]bool{}
	var out []Question
	for turn := range all {
		for _, k := range kinds {
			if turn < len(byKind[k]) && !seen[byKind[k][turn].SQL] {
				seen[byKind[k][turn].SQL] = true
				out = append(out, byKind[k][turn])
			}
		}
	}
	return out
}

type proposer struct {
	d   *profile.Dataset
	b   *briefing.Briefing
	all []Question
}

func (p *proposer) add(kind, text, sql string, uses ...profile.Place) {
	p.all = append(p.all, Question{Kind: kind, Text: text, SQL: sql, Uses: uses})
}

// columns are the columns of a table that may be asked about, of a role.
func (p *proposer) columns(t *profile.Table, role profile.Role) []*profile.Column {
	var out []*profile.Column
	for _, c := range t.Columns {
		place := profile.Place{Table: t.Name, Column: c.Name}
		said := p.b.Column(place)
		if said != nil && said.Hide || c.Filled() == 0 {
			continue
		}
		is, _ := profile.RoleOf(p.d, t, c)
		if said != nil && said.Role != "" {
			is = said.Role
		}
		if is == role {
			out = append(out, c)
		}
	}
	return out
}

// The bounds of what makes a good group.
const (
	fewestGroups, mostGroups = 2, 24
	topRows                  = 3
)

func (p *proposer) table(t *profile.Table) {
	if t.Rows == 0 {
		return
	}
	things, from := words(t.Name), " FROM "+name(t.Name)
	p.add("count", fmt.Sprintf("How many %s are there?", things), "SELECT count(*) AS n"+from)
	measures, times := p.columns(t, profile.Measure), p.columns(t, profile.Time)
	var groups []*profile.Column
	for _, c := range p.columns(t, profile.Dimension) {
		if c.Distinct >= fewestGroups && c.Distinct <= mostGroups {
			groups = append(groups, c)
		}
	}
	for i, m := range measures {
		at := profile.Place{Table: t.Name, Column: m.Name}
		of := p.summed(m, at)
		if of == total {
			p.add("total", fmt.Sprintf("What is the total %s of all %s%s?", words(m.Name), things, p.unit(at)), "SELECT sum("+
				name(m.Name)+") AS total"+from, at)
		}
		p.add("mean", fmt.Sprintf("What is the average %s of %s%s?", words(m.Name), things, p.unit(at)), "SELECT avg("+
			name(m.Name)+") AS average"+from, at)
		if len(groups) > 0 {
			g := groups[i%len(groups)]
			p.add(of.word+" by group", fmt.Sprintf("What is the %s %s for each %s of the %s?", of.word, words(m.Name),
				words(g.Name), things),
				fmt.Sprintf("SELECT %s, %s(%s) AS %s%s GROUP BY 1 ORDER BY 2 DESC, 1", name(g.Name), of.function, name(m.Name),
					of.word, from), at, profile.Place{Table: t.Name, Column: g.Name})
		}
		if len(times) > 0 && times[0].Kind != value.Int {
			at2 := profile.Place{Table: t.Name, Column: times[0].Name}
			p.add("over time", fmt.Sprintf("What was the %s %s of %s in each month, by %s?", of.word, words(m.Name), things,
				words(times[0].Name)),
				fmt.Sprintf("SELECT date_trunc('month', %s) AS month, %s(%s) AS %s%s WHERE %s IS NOT NULL GROUP BY 1 ORDER BY 1",
					name(times[0].Name), of.function, name(m.Name), of.word, from, name(times[0].Name)), at, at2)
		}
	}
	for _, g := range groups {
		p.group(t, g, things, from)
	}
	for _, c := range times {
		at := profile.Place{Table: t.Name, Column: c.Name}
		p.add("latest", fmt.Sprintf("What is the latest %s of the %s?", words(c.Name), things), "SELECT max("+name(c.Name)+
			") AS latest"+from, at)
	}
	for _, c := range t.Columns {
		if c.Nulls > 0 && c.Filled() > 0 && p.told(t, c) {
			p.add("missing", fmt.Sprintf("How many %s have no %s?", things, words(c.Name)),
				fmt.Sprintf("SELECT count(*) AS n%s WHERE %s IS NULL", from, name(c.Name)), profile.Place{Table: t.Name, Column: c.Name})
		}
	}
}

// told tells whether a column may be asked about.
func (p *proposer) told(t *profile.Table, c *profile.Column) bool {
	said := p.b.Column(profile.Place{Table: t.Name, Column: c.Name})
	return said == nil || !said.Hide
}

// group proposes what a column of few values is asked about.
func (p *proposer) group(t *profile.Table, g *profile.Column, things, from string) {
	at := profile.Place{Table: t.Name, Column: g.Name}
	p.add("count by group", fmt.Sprintf("How many %s are there for each %s?", things, words(g.Name)),
		fmt.Sprintf("SELECT %s, count(*) AS n%s GROUP BY 1 ORDER BY 2 DESC, 1", name(g.Name), from), at)
	if g.Distinct > topRows {
		p.add("top", fmt.Sprintf("Which %d values of %s have the most %s?", topRows, words(g.Name), things),
			fmt.Sprintf("SELECT %s, count(*) AS n%s GROUP BY 1 ORDER BY 2 DESC LIMIT %d", name(g.Name), from, topRows), at)
	}
	if len(g.Values) < 2 {
		return
	}
	one := g.Values[len(g.Values)/2] // neither the commonest nor the rarest
	label := p.label(at, one.Text)
	p.add("filtered count", fmt.Sprintf("How many %s have the %s %s?", things, words(g.Name), label),
		fmt.Sprintf("SELECT count(*) AS n%s WHERE %s = %s", from, name(g.Name), literal(g, one.Text)), at)
	first := g.Values[0]
	p.add("share", fmt.Sprintf("What share of the %s have the %s %s?", things, words(g.Name), p.label(at, first.Text)),
		fmt.Sprintf("SELECT 1.0 * count(*) FILTER (WHERE %s = %s) / count(*) AS share%s", name(g.Name), literal(g, first.Text), from), at)
}

// link proposes what two joined tables are asked about.
func (p *proposer) link(l profile.Link) {
	child, parent := p.d.Table(l.From.Table), p.d.Table(l.To.Table)
	if child == nil || parent == nil || child.Rows == 0 || parent.Rows == 0 {
		return
	}
	on := fmt.Sprintf("c.%s = p.%s", name(l.From.Column), name(l.To.Column))
	p.add("without rows", fmt.Sprintf("How many %s have no %s at all?", words(parent.Name), words(child.Name)),
		fmt.Sprintf("SELECT count(*) AS n FROM %s p WHERE NOT EXISTS (SELECT 1 FROM %s c WHERE %s)", name(parent.Name),
			name(child.Name), on), l.From, l.To)
	p.add("distinct", fmt.Sprintf("How many different %s occur in the %s?", words(parent.Name), words(child.Name)),
		fmt.Sprintf("SELECT count(DISTINCT %s) AS n FROM %s", name(l.From.Column), name(child.Name)), l.From)
	for _, g := range p.columns(parent, profile.Dimension) {
		if g.Distinct < fewestGroups || g.Distinct > mostGroups {
			continue
		}
		at := profile.Place{Table: parent.Name, Column: g.Name}
		for _, m := range p.columns(child, profile.Measure) {
			of := p.summed(m, profile.Place{Table: child.Name, Column: m.Name})
			p.add(of.word+" over a join", fmt.Sprintf("What is the %s %s of the %s for each %s of their %s?", of.word,
				words(m.Name), words(child.Name), words(g.Name), words(parent.Name)),
				fmt.Sprintf("SELECT p.%s, %s(c.%s) AS %s FROM %s c JOIN %s p ON %s GROUP BY 1 ORDER BY 2 DESC, 1", name(g.Name),
					of.function, name(m.Name), of.word, name(child.Name), name(parent.Name), on),
				at, profile.Place{Table: child.Name, Column: m.Name}, l.From)
		}
	}
}

// summary is how the numbers of a measure are taken together.
type summary struct{ word, function string }

var total, average = summary{"total", "sum"}, summary{"average", "avg"}

// notAdded are pieces of the names of measures whose sum says nothing, and of their units.
var notAdded = pattern.Of(`(?i)(^|[^a-z])(temp|temperature|rate|ratio|share|pct|percent|percentage|avg|average|mean|` +
	`median|price|score|rating|index|age|level|density|speed)([^a-z]|$)|°|%|/| per `)

// summed tells whether a measure's numbers may be added up: temperatures, shares and prices may not.
func (p *proposer) summed(m *profile.Column, at profile.Place) summary {
	said := p.b.Column(at)
	if notAdded.MatchString(m.Name) || said != nil && (notAdded.MatchString(said.Unit) || said.Unit == "fraction") {
		return average
	}
	return total
}

// unit is a measure's unit in words, where the briefing has one.
func (p *proposer) unit(at profile.Place) string {
	if said := p.b.Column(at); said != nil && said.Unit != "" {
		return " (in " + said.Unit + ")"
	}
	return ""
}

// label is a code as people call it.
func (p *proposer) label(at profile.Place, code string) string {
	if said := p.b.Column(at); said != nil {
		for _, c := range said.Codes {
			if c.Value == code {
				return c.Label
			}
		}
	}
	return code
}

// words is a name as people say it.
func words(name string) string {
	return strings.Join(strings.FieldsFunc(name, func(r rune) bool { return r == '_' || r == ' ' }), " ")
}

// plain is a name that needs no quotes in SQL.
var plain = pattern.Of(`^[a-z_][a-z0-9_]*$`)

// reserved are words that are no names in SQL without quotes.
var reserved = map[string]bool{"order": true, "group": true, "select": true, "from": true, "where": true, "table": true,
	"user": true, "limit": true, "case": true, "when": true, "end": true, "in": true, "is": true, "not": true,
	"and": true, "or": true, "on": true, "as": true, "by": true, "to": true, "desc": true, "asc": true, "all": true,
	"any": true, "check": true, "column": true, "default": true, "distinct": true, "else": true, "false": true, "for": true,
	"grant": true, "having": true, "into": true, "join": true, "left": true, "right": true, "null": true, "offset": true,
	"primary": true, "references": true, "then": true, "true": true, "union": true, "unique": true, "using": true, "with": true,
	"window": true}

// name is a name as SQL writes it.
func name(n string) string {
	if plain.MatchString(n) && !reserved[n] {
		return n
	}
	return `"` + strings.ReplaceAll(n, `"`, `""`) + `"`
}

// literal is a value of a column as SQL writes it.
func literal(c *profile.Column, text string) string {
	if c.Kind.Number() || c.Kind == value.Bool {
		return text
	}
	return "'" + strings.ReplaceAll(text, "'", "''") + "'"
}
