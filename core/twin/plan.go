package twin

// Twins differ in how much they change: some are near the sample, some far from it.
var shares = []struct{ deal, drop, copy, orphan, swap int }{{600, 80, 40, 60, 150}, {950, 200, 80, 120, 300},
	{350, 60, 120, 40, 80}, {800, 450, 60, 150, 450}, {1000, 120, 30, 80, 200}}

const (
	saltShare    = 12 // of 1000 rows, for each value
	keySaltShare = 2
	mostSalted   = 400 // of 1000 rows, for all values of a column
	fewRows      = 4   // a table of fewer rows is left as it is
	coverLimit   = 60  // values of a column that stay covered
)

// Make plans the twin of a seed, from 1.
func Make(f *Facts, bounds []Boundary, seed int) Plan {
	p := Plan{Seed: seed, Links: f.Links, Laws: f.Laws}
	how := shares[(seed-1)%len(shares)]
	for _, t := range f.Tables {
		tp := TablePlan{Name: t.Name, Order: t.order(), Pins: t.PinnedRows()}
		if !t.Lookup && t.Rows >= fewRows {
			whole := f.whole(t)
			tp.Steps = append(tp.Steps, t.deals(how.deal)...)
			tp.Steps = append(tp.Steps, t.swaps(how.swap)...)
			tp.Steps = append(tp.Steps, t.salts(bounds)...)
			tp.Steps = append(tp.Steps, t.copies(how.copy, whole)...)
			tp.Steps = append(tp.Steps, t.extremes(seed)...)
			tp.Steps = append(tp.Steps, t.removals(f, bounds, how.drop, how.orphan, seed, whole)...)
			if t.mayLoseAny() {
				for _, key := range t.Keys {
					tp.Steps = append(tp.Steps, Distinct{t.names(key)})
				}
			}
		}
		p.Tables = append(p.Tables, tp)
	}
	return p
}

// PinnedRows choose the rows that stay as they are.
func (t *Table) PinnedRows() []Pinned {
	var out []Pinned
	for _, p := range t.Pins {
		out = append(out, Pinned{t.Columns[p.Column].Name, p.Value, p.Null})
	}
	return out
}

func (t *Table) names(columns []int) []string {
	var out []string
	for _, c := range columns {
		out = append(out, t.Columns[c].Name)
	}
	return out
}

// order is the column that the rows are put in order by, so that the neighbours of a row are its neighbours in time as well.
func (t *Table) order() string {
	for _, c := range t.Columns {
		if c.Unique {
			return c.Name
		}
	}
	return ""
}

// whole tells whether a parent sums this table's rows up.
func (f *Facts) whole(t *Table) bool {
	for _, l := range f.Links {
		if l.Whole && l.From.Table == t.Name {
			return true
		}
	}
	return false
}
