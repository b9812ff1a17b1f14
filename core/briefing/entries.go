package briefing

import (
	"cmp"
	"maps"
	"slices"
)

// Told is all that a translator is told of a dataset.
type Told struct {
	Dataset Dataset
	Beyond  *Beyond // nil for nothing
}

// Lines write it as lines.
func (t Told) Lines() []string { return Lines(t.Dataset, t.Beyond) }

// Entry is one change of what is told, by itself.
type Entry struct {
	Name    string   // what it is about: "loads.litres: synonyms", "term net payment"
	Changed []string // lines that go (-) and come (+)
	Told    Told     // what was told before, with this one change
}

// Entries takes the change from one telling to another apart: each entry is the earlier one with one change.
func Entries(before, after Told) []Entry {
	d := difference{before: before}
	d.about(after)
	for _, t := range after.Dataset.Tables {
		d.table(t)
	}
	if !slices.Equal(before.Dataset.Joins, after.Dataset.Joins) {
		d.joins(after.Dataset.Joins)
	}
	d.beyond(after.Beyond)
	return d.entries
}

type difference struct {
	before  Told
	entries []Entry
}

// add makes an entry of a change of the earlier telling.
func (d *difference) add(name string, change func(*Told)) {
	told := d.before.clone()
	change(&told)
	if lines := Changed(d.before.Lines(), told.Lines()); len(lines) > 0 {
		d.entries = append(d.entries, Entry{name, lines, told})
	}
}

func (d *difference) about(after Told) {
	d.add("about", func(t *Told) { t.Dataset.About = after.Dataset.About })
}

func (d *difference) table(after ToldTable) {
	at := slices.IndexFunc(d.before.Dataset.Tables, func(t ToldTable) bool { return t.Name == after.Name })
	if at < 0 {
		d.add(after.Name, func(t *Told) { t.Dataset.Tables = append(t.Dataset.Tables, after) })
		return
	}
	d.add(after.Name+": about", func(t *Told) { t.Dataset.Tables[at].About = after.About })
	before := d.before.Dataset.Tables[at]
	for _, c := range after.Columns {
		d.column(at, before, c)
	}
	for _, c := range before.Columns {
		if columnAt(after, c.Name) < 0 {
			d.add(before.Name+"."+c.Name+": hidden", func(t *Told) {
				i := columnAt(t.Dataset.Tables[at], c.Name)
				t.Dataset.Tables[at].Columns = slices.Delete(t.Dataset.Tables[at].Columns, i, i+1)
			})
		}
	}
}

func columnAt(t ToldTable, name string) int {
	return slices.IndexFunc(t.Columns, func(c ToldColumn) bool { return c.Name == name })
}

func (d *difference) column(table int, before ToldTable, after ToldColumn) {
	place := before.Name + "." + after.Name
	at := columnAt(before, after.Name)
	if at < 0 {
		d.add(place+": told", func(t *Told) { t.Dataset.Tables[table].Columns = append(t.Dataset.Tables[table].Columns, after) })
		return
	}
	column := func(t *Told) *ToldColumn { return &t.Dataset.Tables[table].Columns[at] }
	d.add(place+": role", func(t *Told) { column(t).Role = after.Role })
	d.add(place+": about", func(t *Told) { column(t).About = after.About })
	d.add(place+": unit", func(t *Told) { column(t).Unit = after.Unit })
	d.add(place+": synonyms", func(t *Told) { column(t).Synonyms = after.Synonyms })
	d.add(place+": values", func(t *Told) { column(t).Values = after.Values })
}

// joins takes each join that went or came for itself.
func (d *difference) joins(after []string) {
	for _, each := range listChanges(d.before.Dataset.Joins, after, func(a, b string) bool { return a == b }) {
		d.add("join "+each.of, func(t *Told) { t.Dataset.Joins = each.list })
	}
}

func (d *difference) beyond(after *Beyond) {
	before := cmp.Or(d.before.Beyond, &Beyond{})
	after = cmp.Or(after, &Beyond{})
	terms := maps.Clone(before.Terms)
	if terms == nil {
		terms = map[string]string{}
	}
	maps.Copy(terms, after.Terms)
	for _, name := range slices.Sorted(maps.Keys(terms)) {
		definition, stays := after.Terms[name]
		if had, was := before.Terms[name]; was == stays && had == definition {
			continue
		}
		d.add("term "+name, func(t *Told) {
			if delete(t.Beyond.Terms, name); stays {
				t.Beyond.Terms[name] = definition
			}
		})
	}
	for _, each := range listChanges(before.Notes, after.Notes, func(a, b string) bool { return a == b }) {
		d.add("note "+shortened(each.of), func(t *Told) { t.Beyond.Notes = each.list })
	}
	for _, each := range listChanges(before.Examples, after.Examples, func(a, b ToldExample) bool { return a == b }) {
		d.add("example "+shortened(each.of.Question), func(t *Told) { t.Beyond.Examples = each.list })
	}
}

// listChange is a list with one change, and what changed.
type listChange[T any] struct {
	of   T
	list []T
}

// listChanges are the changes of a list one by one: each thing that came, at its end, and each that went.
func listChanges[T any](before, after []T, same func(a, b T) bool) []listChange[T] {
	has := func(list []T, one T) bool {
		return slices.ContainsFunc(list, func(other T) bool { return same(one, other) })
	}
	var out []listChange[T]
	for _, one := range after {
		if !has(before, one) {
			out = append(out, listChange[T]{one, append(slices.Clone(before), one)})
		}
	}
	for i, one := range before {
		if !has(after, one) {
			out = append(out, listChange[T]{one, slices.Delete(slices.Clone(before), i, i+1)})
		}
	}
	return out
}

// shortened is the beginning of a text, to name it by.
func shortened(text string) string {
	const most = 40
	letters := []rune(oneLine(text))
	if len(letters) <= most {
		return string(letters)
	}
	return string(letters[:most]) + "…"
}

// clone copies a telling as deep as changes of it reach.
func (t Told) clone() Told {
	out := t
	out.Dataset.Joins = slices.Clone(t.Dataset.Joins)
	out.Dataset.Tables = slices.Clone(t.Dataset.Tables)
	for i := range out.Dataset.Tables {
		out.Dataset.Tables[i].Columns = slices.Clone(out.Dataset.Tables[i].Columns)
	}
	beyond := Beyond{Terms: map[string]string{}}
	if t.Beyond != nil {
		beyond = Beyond{Terms: maps.Clone(t.Beyond.Terms), Notes: slices.Clone(t.Beyond.Notes), Examples: slices.Clone(t.Beyond.Examples)}
	}
	if beyond.Terms == nil {
		beyond.Terms = map[string]string{}
	}
	out.Beyond = &beyond
	return out
}
