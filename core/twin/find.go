package twin

import (
	"math"
	"slices"
	"strings"

	"tovrel/core/profile"
	"tovrel/core/table"
	"tovrel/core/value"
)

// Find finds the facts that hold on a dataset.
func Find(tables []Rows, joined []Joined) *Facts {
	f := &Facts{}
	vectors := map[string][]*vector{}
	for _, rows := range tables {
		t := tableOf(rows)
		f.Tables = append(f.Tables, t)
		for i, c := range rows.Sample.Columns {
			vectors[t.Name] = append(vectors[t.Name], vectorOf(c, rows.Amount[i]))
		}
		t.ties(vectors[t.Name])
	}
	for _, j := range joined {
		f.Links = append(f.Links, f.across(j))
	}
	f.lookups(vectors)
	for _, l := range f.Links {
		child := f.Table(l.From.Table)
		child.Columns[child.Column(l.From.Column)].Reference = true
	}
	for _, t := range f.Tables {
		t.blocks(f.Links)
	}
	return f
}

func tableOf(rows Rows) *Table {
	t := &Table{Name: rows.Name, Rows: rows.Rows, Keys: rows.Keys}
	for i, c := range rows.Sample.Columns {
		v := vectorOf(c, rows.Amount[i])
		column := &Column{Name: c.Name, Type: rows.Types[i], Kind: c.Type.Kind, Unique: rows.Unique[i] && !rows.Loose[i], Nullable: v.nulls > 0, NearlyUnique: v.nearlyUnique() && !rows.Amount[i] && v.filled() > 1, Distinct: v.distinct(),
			Min: rows.Min[i], Max: rows.Max[i], Decimals: v.decimals, Midnight: midnight(v), Amount: rows.Amount[i], seen: map[string]bool{}}
		if few(v) {
			column.values = distinctTexts(c)
		}
		for row := range c.Len() {
			if !column.Amount && !c.IsNull(row) {
				column.seen[c.Value(row).String()] = true
			}
		}
		for code := range rows.Codes {
			if name, text, _ := strings.Cut(code, "\x00"); name == c.Name {
				column.Codes = append(column.Codes, text)
			}
		}
		slices.Sort(column.Codes)
		t.Columns = append(t.Columns, column)
	}
	return t
}

// distinctTexts are a column's values in their order, as texts.
func distinctTexts(c *table.Column) []string {
	v := vectorOf(c, false)
	out := make([]string, v.distinct())
	for row, r := range v.rank {
		if r >= 0 {
			out[r] = c.Value(row).String()
		}
	}
	return out
}

func midnight(v *vector) bool {
	for _, at := range v.at {
		if !math.IsNaN(at) && at != math.Trunc(at) {
			return false
		}
	}
	return v.kind == value.Timestamp || v.kind == value.TimestampTZ
}

// soft are the ties that allow a new value between its neighbours.
func soft(why string) bool { return why == "rises or falls with" || why == "is never above" }

// ties finds the dependencies between the columns of a table.
func (t *Table) ties(columns []*vector) {
	for i, a := range columns {
		for j := i + 1; j < len(columns); j++ {
			if why, _ := tied(a, columns[j], hardLooks); why != "" {
				t.Ties = append(t.Ties, Tie{A: i, B: j, Why: why})
				continue
			}
			for _, order := range orders {
				why, flipped := tied(a, columns[j], []look{order})
				tie := Tie{A: i, B: j, Why: why, Soft: true}
				if flipped {
					tie.A, tie.B = j, i
				}
				if why != "" {
					t.Ties = append(t.Ties, tie)
				}
			}
		}
	}
	for i, a := range columns {
		if a.nearlyUnique() && a.distinct() < a.filled() && !t.Columns[i].Amount && !a.temporal() {
			t.Pins = append(t.Pins, Pin{Column: i})
		}
		if a.nearlyUnique() && a.filled() > 0 && a.nulls > 0 && a.nulls*10 <= len(a.rank) && !t.Columns[i].Amount && !a.temporal() {
			t.Pins = append(t.Pins, Pin{Column: i, Null: true}) // rows of another kind, such as totals
		}
		t.narrowed(i, columns)
	}
	for _, group := range computed(columns) {
		for _, from := range group[1:] {
			if !t.has(group[0], from) {
				t.Ties = append(t.Ties, Tie{A: from, B: group[0], Why: "is a part of the sum or product"})
			}
		}
	}
}

// pinnedAtMost is up to which share of the rows those with a value stay as they are; where it would be more, columns are tied.
const pinnedAtMost = 0.3

// narrowed finds the values of a column that only occur beside some of another column's.
func (t *Table) narrowed(column int, columns []*vector) {
	a := columns[column]
	pinned := map[int]bool{}
	for j, b := range columns {
		if j == column {
			continue
		}
		groups, rows := narrowGroups(a, b), 0
		if b.nulls > 0 && b.filled() > 0 {
			groups = append(groups, narrowGroups(a, b.blanks())...)
		}
		for _, g := range groups {
			if !pinned[g] {
				rows += a.rows[g]
			}
		}
		if rows > int(pinnedAtMost*float64(len(a.rank))) {
			if !t.has(column, j) {
				t.Ties = append(t.Ties, Tie{A: column, B: j, Why: "narrows"})
			}
			continue
		}
		for _, g := range groups {
			pinned[g] = true
		}
	}
	for g := range a.distinct() {
		if pinned[g] {
			t.Pins = append(t.Pins, Pin{Column: column, Value: t.Columns[column].values[g]})
		}
	}
}

// has tells whether two columns are tied hard already.
func (t *Table) has(a, b int) bool {
	for _, tie := range t.Ties {
		if !tie.Soft && (tie.A == a && tie.B == b || tie.A == b && tie.B == a) {
			return true
		}
	}
	return false
}

// acrossLooks are the ties that columns of two tables can have.
var acrossLooks = []look{bounds, offset, partOfDate, proportional}

// across finds the dependencies between a child's columns and its parent's: then the child's column stays with its reference, and the
// parent's with its key.
func (f *Facts) across(j Joined) Link {
	child, parent := f.Table(j.Link.From.Table), f.Table(j.Link.To.Table)
	key, reference := parent.Column(j.Link.To.Column), child.Column(j.Link.From.Column)
	link := Link{From: j.Link.From, To: j.Link.To}
	refers := vectorOf(j.Child.Columns[reference], false)
	for p, pc := range j.Parent.Columns {
		if p == key {
			continue
		}
		a := vectorOf(pc, parent.Columns[p].Amount)
		for c, cc := range j.Child.Columns {
			if c == reference {
				continue
			}
			b := vectorOf(cc, child.Columns[c].Amount)
			why, flipped := tied(a, b, acrossLooks)
			if once := pairs(refers, b); why == "" && len(once) > 0 { // rows of one parent count once, else every parent would prove it
				why, _ = tied(a.of(once), b.of(once), []look{determines})
			}
			if why != "" && !(soft(why) && a.nulls+b.nulls > 0) {
				child.tie(c, reference, why+" its parent's "+pc.Name, roomOf(why, flipped))
				parent.tie(p, key, why+" its children's "+cc.Name, -roomOf(why, flipped))
			}
		}
	}
	if j.Sums != nil {
		link.Whole = f.sums(j, child, parent, key, reference)
	}
	return link
}

// pairs are the first rows of each pair of values of two columns.
func pairs(a, b *vector) []int {
	seen := map[[2]int]bool{}
	var out []int
	for row := range a.rank {
		pair := [2]int{a.rank[row], b.rank[row]}
		if !seen[pair] {
			seen[pair] = true
			out = append(out, row)
		}
	}
	return out
}

// roomOf is in which direction a child's value may move when its parent's is never above it, or never below it where that is flipped.
func roomOf(why string, flipped bool) Room {
	switch {
	case why != "is never above":
		return NoRoom
	case flipped:
		return MayFall
	}
	return MayRise
}

func (t *Table) tie(a, b int, why string, room Room) {
	if a != b && !t.has(a, b) {
		t.Ties = append(t.Ties, Tie{A: a, B: b, Why: why, Room: room})
	}
}

// sums tells whether a column of the parent sums its children up.
func (f *Facts) sums(j Joined, child, parent *Table, key, reference int) bool {
	whole := false
	for p := range parent.Columns {
		a := vectorOf(j.Sums.Columns[p], true)
		if !a.number() && !a.temporal() || p == key || a.distinct() < 3 {
			continue
		}
		for s, of := range j.SumOf {
			if !same(a, vectorOf(j.Sums.Columns[len(parent.Columns)+s], true)) {
				continue
			}
			whole = true
			parent.tie(p, key, "sums up its children", NoRoom)
			if c := child.Column(of); c >= 0 {
				child.tie(c, reference, "is summed up by its parent's "+parent.Columns[p].Name, NoRoom)
			} else {
				child.tie(reference, child.identity(), "is counted by its parent's "+parent.Columns[p].Name, NoRoom)
			}
		}
	}
	return whole
}

// identity is the first column that never repeats, else the first.
func (t *Table) identity() int {
	for i, c := range t.Columns {
		if c.Unique {
			return i
		}
	}
	return 0
}

func same(a, b *vector) bool {
	n := 0
	for row := range a.at {
		x, y := a.at[row], b.at[row]
		if math.IsNaN(x) && (math.IsNaN(y) || y == 0) {
			continue
		}
		if math.IsNaN(x) || math.IsNaN(y) || math.Abs(x-y) > a.half()+1e-9*math.Abs(x) {
			return false
		}
		n++
	}
	return n >= 5
}

// mostLookups is how many rows a table of codes has at most.
const mostLookups = 200

// lookups finds the tables that only give codes their labels, and the references to tables by codes of other names.
func (f *Facts) lookups(vectors map[string][]*vector) {
	for _, t := range f.Tables {
		if t.Rows > mostLookups {
			continue
		}
		labels, used := true, false
		for _, c := range t.Columns {
			labels = labels && (c.Kind == value.Text || c.Unique)
		}
		for key, c := range t.Columns {
			if !c.Unique || c.Kind != value.Text {
				continue
			}
			for _, other := range f.Tables {
				for i, from := range vectors[other.Name] {
					if other != t && from.texts != nil && from.distinct() >= 2 && !from.unique() && within(from, vectors[t.Name][key]) {
						f.refer(Link{From: profile.Place{Table: other.Name, Column: other.Columns[i].Name}, To: profile.Place{Table: t.Name, Column: c.Name}})
						used = true
					}
				}
			}
		}
		t.Lookup = labels && used
	}
}

// refer adds a reference that is not known yet.
func (f *Facts) refer(l Link) {
	for _, known := range f.Links {
		if known.From == l.From && known.To == l.To {
			return
		}
	}
	f.Links = append(f.Links, l)
}

func within(from, key *vector) bool {
	known := map[string]bool{}
	for _, text := range key.texts {
		known[text] = true
	}
	for _, text := range from.texts {
		if !known[text] {
			return false
		}
	}
	return true
}

// blocks gathers the columns that depend on each other.
func (t *Table) blocks(links []Link) {
	root := make([]int, len(t.Columns))
	for i := range root {
		root[i] = i
	}
	find := func(i int) int {
		for root[i] != i {
			i = root[i]
		}
		return i
	}
	for _, tie := range t.Ties {
		root[find(tie.B)] = find(tie.A)
	}
	fixed := t.identities(links)
	at := map[int]int{}
	for i, c := range t.Columns {
		r := find(i)
		b, known := at[r]
		if !known {
			b = len(t.Blocks)
			at[r] = b
			t.Blocks = append(t.Blocks, Block{})
		}
		t.Blocks[b].Columns = append(t.Blocks[b].Columns, i)
		t.Blocks[b].Unique = t.Blocks[b].Unique || c.Unique
		t.Blocks[b].Fixed = t.Blocks[b].Fixed || fixed[i]
	}
}

// identities are the columns that identify a row: those that others refer to, and the texts and whole numbers that never repeat. What is
// measured may be exchanged among rows.
func (t *Table) identities(links []Link) map[int]bool {
	out := map[int]bool{}
	for i, c := range t.Columns {
		if c.NearlyUnique && (c.Kind == value.Text || c.Kind == value.Int || c.Kind == value.Blob) {
			out[i] = true
		}
	}
	for _, l := range links {
		if l.To.Table == t.Name {
			out[t.Column(l.To.Column)] = true
		}
	}
	return out
}

// CandidateKeys are the sets of two or three columns that no two rows of a sample agree in although chance would let some: they are to
// be counted over all rows.
func CandidateKeys(rows Rows) [][]int {
	var columns []int
	vectors := make([]*vector, len(rows.Sample.Columns))
	for i, c := range rows.Sample.Columns {
		vectors[i] = vectorOf(c, rows.Amount[i])
		measured := vectors[i].kind == value.Float || vectors[i].kind == value.Decimal || rows.Loose[i]
		if !rows.Unique[i] && !measured && vectors[i].distinct() > 1 && len(columns) < 10 {
			columns = append(columns, i)
		}
	}
	var found [][]int
	for size := 2; size <= 3; size++ {
		combinations(columns, size, func(set []int) {
			if !holdsAny(found, set) && distinctRows(vectors, set) {
				found = append(found, append([]int(nil), set...))
			}
		})
	}
	return found
}

func combinations(columns []int, size int, do func([]int)) {
	if size == 0 {
		do(nil)
		return
	}
	for i := range columns {
		combinations(columns[i+1:], size-1, func(rest []int) { do(append([]int{columns[i]}, rest...)) })
	}
}

func holdsAny(sets [][]int, set []int) bool {
	for _, s := range sets {
		all := true
		for _, c := range s {
			all = all && slices.Contains(set, c)
		}
		if all {
			return true
		}
	}
	return false
}

// distinctRows tells whether no two rows agree in a set of columns, and chance would let five pairs do.
func distinctRows(vectors []*vector, set []int) bool {
	n := len(vectors[set[0]].rank)
	expected := float64(n) * float64(n-1) / 2
	for _, c := range set {
		expected *= vectors[c].alike()
	}
	if expected < 5 {
		return false
	}
	seen := map[[3]int]bool{}
	for row := range n {
		var key [3]int
		null := false
		for i, c := range set {
			key[i] = vectors[c].rank[row]
			null = null || key[i] < 0
		}
		if null {
			continue
		}
		if seen[key] {
			return false
		}
		seen[key] = true
	}
	return true
}
