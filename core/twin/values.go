package twin

import (
	"slices"
	"strings"

	"tovrel/core/value"
)

// deals exchange the cells of the blocks that may move, and move numbers on which nothing depends.
func (t *Table) deals(share int) []Step {
	var out []Step
	for _, b := range t.Blocks {
		if !b.Fixed {
			out = append(out, Deal{t.names(b.Columns), share})
		}
	}
	for i, c := range t.Columns {
		if t.amount(i) {
			out = append(out, Jitter{c.Name, c.Decimals, c.Min.String(), c.Max.String(), 300})
		}
	}
	return out
}

// amount tells whether a column holds numbers that may be changed one by one.
func (t *Table) amount(column int) bool {
	c := t.Columns[column]
	return c.Amount && c.Kind.Number() && t.alone(column) && !t.Fixed(column) && !c.Unique && c.Distinct > 2*groupsAtMost
}

// salts put rows exactly on and beside what reference queries compare columns with.
func (t *Table) salts(bounds []Boundary) []Step {
	var out []Step
	for i, c := range t.Columns {
		for _, b := range bounds {
			if strings.EqualFold(b.Column, c.Name) {
				out = append(out, t.salted(i, b)...)
			}
		}
		if t.alone(i) && !t.Fixed(i) && !c.Unique {
			for _, code := range c.Codes {
				out = append(out, Salt{Column: c.Name, Value: code, Type: c.Type, Share: saltShare})
			}
		}
		if c.Nullable && t.mayBlank(i) {
			out = append(out, Blank{c.Name, 30})
		}
	}
	return out
}

// mayBlank tells whether a value may be taken away: nothing else tells that it is there.
func (t *Table) mayBlank(column int) bool {
	for _, tie := range t.Ties {
		if (tie.A == column || tie.B == column) && !tie.Soft && tie.Room == NoRoom {
			return false
		}
	}
	return !t.Columns[column].NearlyUnique
}

// swaps give rows other categories.
func (t *Table) swaps(share int) []Step {
	var out []Step
	for i, c := range t.Columns {
		if values := t.swappable(i); len(values) > 1 {
			out = append(out, Swap{c.Name, c.Type, values, share})
		}
	}
	return out
}

// swappable are the values that any row may have in a column; none where it holds no categories.
func (t *Table) swappable(column int) []string {
	c := t.Columns[column]
	if !t.alone(column) || t.Fixed(column) || c.Unique || c.Amount {
		return nil
	}
	return t.unpinned(column)
}

// extremes give the rows with the largest and smallest amounts other categories, or none.
func (t *Table) extremes(seed int) []Step {
	var out []Step
	for i, c := range t.Columns {
		values := t.swappable(i)
		if len(values) < 2 && !(c.Nullable && t.mayBlank(i) && seed%2 == 1) {
			continue
		}
		for j, m := range t.Columns {
			if m.Amount && i != j {
				out = append(out, Extreme{m.Name, c.Name, c.Type, values, t.firstDate(i)})
			}
		}
	}
	return out
}

func (t *Table) firstDate(but int) string {
	for i, c := range t.Columns {
		if i != but && (c.Kind == value.Date || c.Kind == value.Timestamp || c.Kind == value.TimestampTZ) {
			return c.Name
		}
	}
	return ""
}

// unpinned are a column's values that may stand in any row; none where it has many.
func (t *Table) unpinned(column int) []string {
	var out []string
next:
	for _, v := range t.Columns[column].values {
		for _, p := range t.Pins {
			if p.Column == column && p.Value == v {
				continue next
			}
		}
		out = append(out, v)
	}
	return out
}

func (t *Table) salted(column int, b Boundary) []Step {
	c := t.Columns[column]
	if c.Unique {
		return nil
	}
	var values []string
	for _, literal := range b.Values {
		values = append(values, c.beside(literal)...)
	}
	order, room, hard, rises := t.around(column)
	along := t.along(column)
	var out []Step
	switch {
	case hard:
		return nil
	case rises || len(along) > 0:
		room, fits := order.room(room)
		if c.Kind.Temporal() && fits {
			slices.Sort(values) // moments as texts are in their order
			if room == MayRise {
				slices.Reverse(values)
			}
			for _, v := range slices.Compact(values) {
				out = append(out, Land{c.Name, v, c.Type, room, along})
			}
		}
		return out
	}
	switch room {
	case MayFall:
		order.NotAbove = append(order.NotAbove, c.Name)
	case MayRise:
		order.NotBelow = append(order.NotBelow, c.Name)
	}
	share := saltShare
	if t.inKey(column) {
		share = keySaltShare // most rows of one value would repeat a key, and be removed
	}
	for _, v := range values {
		out = append(out, Salt{c.Name, v, c.Type, max(1, min(share, mostSalted/len(values))), order})
	}
	for _, other := range b.Others {
		for i, o := range t.Columns {
			if strings.EqualFold(o.Name, other) && i != column && o.Kind == c.Kind {
				out = append(out, Meet{c.Name, o.Name, 3 * saltShare, order})
			}
		}
	}
	return out
}

func (t *Table) inKey(column int) bool {
	for _, key := range t.Keys {
		if slices.Contains(key, column) {
			return true
		}
	}
	return false
}

// room is in which direction rows may move that must keep an order with others; false for in none.
func (o Order) room(r Room) (Room, bool) {
	up, down := r != MayFall && len(o.NotAbove) == 0, r != MayRise && len(o.NotBelow) == 0
	switch {
	case up && down:
		return NoRoom, true
	case up:
		return MayRise, true
	}
	return MayFall, down
}

// along are the columns at a fixed distance from one.
func (t *Table) along(column int) []string {
	var out []string
	for _, tie := range t.Ties {
		if tie.Why == fixedDistance && (tie.A == column || tie.B == column) {
			out = append(out, t.Columns[tie.A+tie.B-column].Name)
		}
	}
	return out
}

// around is what a new value of a column must keep an order with; hard where it cannot be changed by itself, rises where it must keep
// the order of another column's rows.
func (t *Table) around(column int) (order Order, room Room, hard, rises bool) {
	for _, tie := range t.Ties {
		if tie.A != column && tie.B != column {
			continue
		}
		switch {
		case tie.Why == "tells where there is nothing in": // a value stays a value
		case tie.Room != NoRoom && tie.A == column && (room == NoRoom || room == tie.Room):
			room = tie.Room
		case !tie.Soft:
			hard = hard || tie.Why != fixedDistance || t.Columns[tie.A].Type != t.Columns[tie.B].Type
		case tie.Why == "rises or falls with":
			rises = true
		case tie.A == column:
			order.NotAbove = append(order.NotAbove, t.Columns[tie.B].Name)
		default:
			order.NotBelow = append(order.NotBelow, t.Columns[tie.A].Name)
		}
	}
	return order, room, hard, rises
}
