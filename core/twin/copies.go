package twin

// copies make rows that repeat others.
func (t *Table) copies(share int, whole bool) []Step {
	all := append(t.copyable(), t.besideKey()...)
	if whole || len(all) == 0 {
		return nil
	}
	return []Step{Copy{t.names(all), share}}
}

// copyable are the columns of blocks that may be copied from row to row.
func (t *Table) copyable() []int {
	var out []int
	for _, b := range t.Blocks {
		if !b.Fixed && !b.Unique {
			out = append(out, b.Columns...)
		}
	}
	return out
}

// besideKey are the columns that stay with what identifies a row, but can be those of the row before it: what keeps them there is an
// order, or each other.
func (t *Table) besideKey() []int {
	free := map[int]bool{}
	for _, b := range t.Blocks {
		if b.Fixed {
			for _, c := range b.Columns {
				free[c] = !t.Columns[c].Unique
			}
		}
	}
	for changed := true; changed; {
		changed = false
		for _, tie := range t.Ties {
			if hold := free[tie.A] != free[tie.B] && tie.Why != "rises or falls with"; hold && (t.Fixed(tie.A) || t.Fixed(tie.B)) {
				free[tie.A], free[tie.B] = false, false
				changed = true
			}
		}
	}
	var out []int
	for i := range t.Columns {
		if free[i] {
			out = append(out, i)
		}
	}
	return out
}
