package claim

import (
	"slices"
	"sort"
	"strconv"
	"strings"

	"tovrel/core/table"
	"tovrel/core/value"
	"tovrel/core/wording"
)

// name is a value of an expected column that a text may name.
type name struct {
	column int
	text   string // the value as it is in the data
}

// phrase is one way to write a name, by its folded words.
type phrase struct {
	words []string
	exact string // must be written so; "" for any case
	of    name
}

// nameIndex finds names by their first word.
type nameIndex map[string][]phrase

// add adds the ways to write a value.
func (x nameIndex) add(of name, written string) {
	words := strings.Fields(wording.Fold(strings.ReplaceAll(written, "_", " ")))
	if len(words) == 0 || len(words) == 1 && plainNumber(words[0]) {
		return
	}
	p := phrase{words: words, of: of}
	if len(words) == 1 && (len([]rune(words[0])) == 1 || common[words[0]]) {
		p.exact = strings.TrimSpace(written)
	}
	x[words[0]] = append(x[words[0]], p)
	if len(words) == 1 { // also in the plural
		for _, plural := range []string{words[0] + "s", words[0] + "es"} {
			if p.exact == "" {
				x[plural] = append(x[plural], phrase{words: []string{plural}, of: of})
			}
		}
	}
}

// plainNumber tells a text of digits, which says nothing as a name.
func plainNumber(text string) bool {
	_, err := strconv.ParseFloat(text, 64)
	return err == nil
}

// common are words that names must not be taken for, unless they are written as the name is.
var common = setOf("a i in on at of no not none all other others may will is as or and the it us we to by for yes true false most")

// longest sorts the phrases of each word, the longest first.
func (x nameIndex) longest() {
	for _, all := range x {
		sort.SliceStable(all, func(i, j int) bool { return len(all[i].words) > len(all[j].words) })
	}
}

// at lists the names that begin at a field, all of the longest way to write one, and how many fields they take.
func (x nameIndex) at(fields []field, i int, text string) (found []name, taken int) {
	for _, p := range x[fields[i].folded] {
		if taken > 0 && len(p.words) < taken {
			break
		}
		if i+len(p.words) > len(fields) || !sameFields(fields[i:], p.words) {
			continue
		}
		if p.exact != "" && text[fields[i].from:fields[i].to] != p.exact {
			continue
		}
		found, taken = append(found, p.of), len(p.words)
	}
	return found, taken
}

func sameFields(fields []field, words []string) bool {
	for i, w := range words {
		if got := fields[i].folded; got != w && (i == 0 || i < len(words)-1 || got != w+"s" && got != w+"es") {
			return false
		}
	}
	return true
}

// truth adds the ways to say true and false, in a column of them.
func (x nameIndex) truth(column int) {
	for written, words := range map[string][]string{"true": {"true", "yes"}, "false": {"false", "no"}} {
		for _, w := range words {
			p := phrase{words: []string{w}, of: name{column, written}}
			if !slices.ContainsFunc(x[w], func(q phrase) bool { return q.of == p.of }) {
				x[w] = append(x[w], p)
			}
		}
	}
}

// namesOf indexes what the columns of names may hold: the expected cells, the reference's without its cut, the domain, the labels.
func namesOf(e Expected, columns []int) nameIndex {
	x := nameIndex{}
	seen := map[name]bool{}
	add := func(of name, written string) {
		if !seen[of] {
			seen[of] = true
			x.add(of, written)
		}
	}
	for _, c := range columns {
		for _, t := range []*table.Table{e.Table, e.Full} {
			if t == nil || c >= len(t.Columns) {
				continue
			}
			for row := range t.Rows() {
				v := t.Columns[c].Value(row)
				if v.Kind() == value.Bool {
					x.truth(c)
				}
				if v.Kind() == value.Text || v.Kind() == value.JSON {
					add(name{c, v.String()}, v.String())
				}
			}
		}
		if c < len(e.Domain) {
			for _, text := range e.Domain[c] {
				add(name{c, text}, text)
			}
		}
		if c < len(e.Labels) {
			for code, label := range e.Labels[c] {
				x.add(name{c, code}, label)
			}
		}
	}
	x.longest()
	return x
}
