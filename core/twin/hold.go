package twin

import (
	"slices"
	"strings"
)

// heldTogether is why columns stay together of which a law speaks.
const heldTogether = "is held by a law with"

// Keep takes laws into what twins keep: the columns of which they speak stay where they are, or together, and rows are taken away only
// where that breaks none.
func (f *Facts) Keep(laws []Law) {
	f.Laws = laws
	for _, l := range laws {
		if t := f.Table(l.Table); t != nil {
			f.keep(t, l)
		}
	}
	for _, t := range f.Tables {
		if t.still || len(t.groups) > 0 {
			f.steady(t)
		}
	}
	for _, t := range f.Tables {
		t.Blocks = nil
		t.blocks(f.Links)
	}
}

func (f *Facts) keep(t *Table, l Law) {
	switch {
	case l.Kind == Ordered:
		t.keepOrder(l)
	case l.Kind == OrderedAcross:
		f.keepAcross(t, l)
	case l.Kind == Determines:
		t.tie(t.Column(l.Columns[0]), t.Column(l.Columns[1]), determine, NoRoom)
	case l.Kind == Meets:
		t.together(t.namedIn(l.SQL))
	case l.Kind == Forest:
		f.refer(Link{From: l.place(0), To: l.place(1)})
		t.Columns[t.Column(l.Columns[0])].Reference = true
		t.hold(l)
	case l.whole() || l.By != "":
		t.hold(l)
	}
}

// keepOrder ties two columns of a row: softly, but where the order only nearly holds.
func (t *Table) keepOrder(l Law) {
	a, b := t.Column(l.Columns[0]), t.Column(l.Columns[1])
	known := func(tie Tie) bool { return tie.A == a && tie.B == b }
	switch {
	case l.Broken > 0:
		t.tie(a, b, heldTogether, NoRoom)
	case !slices.ContainsFunc(t.Ties, known):
		t.Ties = append(t.Ties, Tie{A: a, B: b, Why: "is never above", Soft: true})
	}
}

// keepAcross ties a child's column to its reference, and its parent's to the key.
func (f *Facts) keepAcross(child *Table, l Law) {
	parent := f.Table(l.Other.Table)
	room := MayRise
	if l.Number > 0 {
		room = MayFall
	}
	if l.Broken > 0 {
		room = NoRoom
	}
	child.tie(child.Column(l.Columns[1]), child.Column(l.Columns[0]), "keeps an order with its parent's", room)
	parent.tie(parent.Column(l.Other.Column), parent.Column(l.Values[0]), "keeps an order with its children's", -room)
}

// hold keeps the columns of a law where they are.
func (t *Table) hold(l Law) {
	if t.held == nil {
		t.held, t.groups = map[int]bool{}, map[string]bool{}
	}
	var columns []int
	for _, name := range append([]string{l.By}, l.Columns...) {
		if i := t.Column(name); i >= 0 {
			t.held[i] = true
			columns = append(columns, i)
		}
	}
	t.together(columns)
	switch {
	case l.whole():
		t.still = true
	case !l.rowsAlone():
		t.groups[l.By] = true
	}
}

// together ties columns that a law speaks of.
func (t *Table) together(columns []int) {
	for _, c := range columns[min(1, len(columns)):] {
		t.tie(columns[0], c, heldTogether, NoRoom)
	}
}

// namedIn are the columns whose names stand in a condition.
func (t *Table) namedIn(condition string) []int {
	words := strings.FieldsFunc(strings.ToLower(condition), func(r rune) bool {
		return r != '_' && (r < '0' || r > '9' && r < 'a' || r > 'z' && r < 0x80)
	})
	var out []int
	for i, c := range t.Columns {
		if slices.Contains(words, strings.ToLower(c.Name)) || strings.Contains(condition, `"`+c.Name+`"`) {
			out = append(out, i)
		}
	}
	return out
}

// steady keeps the rows of the tables that a table refers to, where rows of its own would be gone with them one by one.
func (f *Facts) steady(t *Table) {
	for _, l := range f.Links {
		parent := f.Table(l.To.Table)
		if l.From.Table != t.Name || parent == t || parent.still || !t.still && t.mayLose(l.From.Column) {
			continue
		}
		parent.still = true
		f.steady(parent)
	}
}

// mayLoseAny tells whether rows may be taken away one by one.
func (t *Table) mayLoseAny() bool { return !t.still && len(t.groups) == 0 }

// mayLose tells whether all rows with a value of a column may be taken away.
func (t *Table) mayLose(column string) bool {
	return t.mayLoseAny() || !t.still && len(t.groups) == 1 && t.groups[column]
}
