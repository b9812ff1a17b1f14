package twin

// copies make rows that repeat others, and ties.
func (t *Table) copies(f *Facts, share, seed int, whole bool) []Step {
	if whole {
		return nil
	}
	movable := t.copyable()
	var out []Step
	for _, l := range f.Links {
		if l.From.Table != t.Name || len(movable) == 0 {
			continue
		}
		var rest []string
		for _, c := range movable {
			if !t.tiedTo(c, t.Column(l.From.Column)) {
				rest = append(rest, t.Columns[c].Name)
			}
		}
		if len(rest) > 0 && t.mayLoseAny() { // it takes rows away
			for _, at := range []int{0, 2 + seed%3} {
				out = append(out, Level{l.From.Column, rest, t.firstAmount(movable), at})
			}
		}
		break
	}
	if all := append(movable, t.besideKey()...); len(all) > 0 {
		out = append(out, Copy{t.names(all), share})
	}
	for i, c := range t.Columns {
		if seed%5 == 1 && t.amount(i) {
			out = append(out, Crown{c.Name})
		}
	}
	return out
}

func (t *Table) firstAmount(columns []int) string {
	for _, c := range columns {
		if t.Columns[c].Amount {
			return t.Columns[c].Name
		}
	}
	return ""
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

// tiedTo tells whether two columns are in one block.
func (t *Table) tiedTo(a, b int) bool {
	for _, block := range t.Blocks {
		in := 0
		for _, c := range block.Columns {
			if c == a || c == b {
				in++
			}
		}
		if in == 2 || in == 1 && a == b {
			return true
		}
	}
	return false
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
