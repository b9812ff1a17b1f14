package twin

import (
	"fmt"
	"math"
	"slices"
	"strings"

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
		column := &Column{Name: c.Name, Type: rows.Types[i], Kind: c.Type.Kind, Unique: rows.Unique[i] && !rows.Loose[i],
			Nullable: v.nulls > 0, NearlyUnique: v.nearlyUnique() && !rows.Amount[i] && v.filled() > 1, Distinct: v.distinct(),
			Min: rows.Min[i], Max: rows.Max[i], Decimals: v.decimals, Midnight: midnight(v), Amount: rows.Amount[i],
			seen: map[string]bool{}}
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
			if why, flipped := tied(a, columns[j], hardLooks); why != "" {
				tie := Tie{A: i, B: j, Why: why}
				if flipped {
					tie.A, tie.B = j, i
				}
				t.Ties = append(t.Ties, tie)
				t.note(tie, a, columns[j])
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
					t.note(tie, a, columns[j])
				}
			}
		}
	}
	t.pins(columns)
	t.formulas(columns)
}

// formulas ties the columns of which one is computed from the others: what is found of the same columns is said once, by the simplest
// formula.
func (t *Table) formulas(columns []*vector) {
	type group struct {
		best computation
		ties []Tie
	}
	var order []string
	groups := map[string]*group{}
	for _, c := range computed(columns) {
		of := append([]int{c.target}, c.from...)
		slices.Sort(of)
		key := fmt.Sprint(of)
		if groups[key] == nil {
			groups[key] = &group{best: c}
			order = append(order, key)
		}
		g := groups[key]
		if exact, before := c.broken == 0, g.best.broken == 0; exact && !before || exact == before && c.formula < g.best.formula {
			g.best = c
		}
		for _, from := range c.from {
			if !t.has(c.target, from) {
				tie := Tie{A: from, B: c.target, Why: "is a part of the sum or product"}
				t.Ties, g.ties = append(t.Ties, tie), append(g.ties, tie)
			}
		}
	}
	for _, key := range order {
		best := groups[key].best
		from, rows := t.names(best.from), len(columns[best.target].rank)
		slices.Sort(from)
		for _, c := range best.from {
			rows = min(rows, bothFilled(columns[best.target], columns[c]))
		}
		t.found = append(t.found, Found{Table: t.Name, Rows: rows, Broken: best.broken, ties: groups[key].ties,
			Says: t.Columns[best.target].Name + " is computed from " + strings.Join(from, " and ")})
	}
}

// pins finds the rows of columns that stay as they are, and the values that only occur beside some of another column's.
func (t *Table) pins(columns []*vector) {
	for i, a := range columns {
		if a.nearlyUnique() && a.distinct() < a.filled() && !t.Columns[i].Amount && !a.temporal() {
			t.Pins = append(t.Pins, Pin{Column: i})
		}
		if a.nearlyUnique() && a.filled() > 0 && a.nulls > 0 && a.nulls*10 <= len(a.rank) && !t.Columns[i].Amount && !a.temporal() {
			t.Pins = append(t.Pins, Pin{Column: i, Null: true}) // rows of another kind, such as totals
		}
		t.narrowed(i, columns)
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
