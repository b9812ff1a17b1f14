package twin

import (
	"slices"
	"sort"
	"strings"

	"tovrel/core/value"
)

// Step changes a table of a twin. Shares are of 1000 rows.
type Step interface{ step() }

// Deal exchanges the cells of some columns among a share of the rows: every value stays, in another row.
type Deal struct {
	Columns []string
	Share   int
}

// Jitter moves numbers a little, within their range and decimals.
type Jitter struct {
	Column   string
	Decimals int
	Low      string
	High     string
	Share    int
}

// Salt writes a value into a share of the rows that have one, at least into a few.
type Salt struct {
	Column, Value string
	Type          string // the engine's
	Share         int
	Order
}

// Order is what a new value may not be above and below: other columns of its row, and itself where it may only fall or rise.
type Order struct {
	NotAbove, NotBelow []string
}

// Meet writes another column's value into a share of the rows that have both.
type Meet struct {
	Column, Other string
	Share         int
	Order
}

// Land moves the values next to one onto it, those above or, where they may only rise, those below: for columns that keep an order with
// others. Values are landed on from the lowest up, or from the highest down.
type Land struct {
	Column, Value, Type string
	Room                Room
	Along               []string // columns at a fixed distance: they move as far
}

// Swap writes another of some values into a share of the rows.
type Swap struct {
	Column, Type string
	Values       []string
	Share        int
}

// Extreme gives the rows with the largest and smallest amounts another of some values; nothing where there are none.
type Extreme struct {
	Amount, Column, Type string
	Values               []string
	Year                 string // a column of dates: of each year; "" for none
}

// Clear removes the rows of a few parents that lie in a part of a column: from a value, up to before another, or with a value, or
// without it. "" for no bound.
type Clear struct {
	Reference, Column, Type string
	From, Before            string
	Is, IsNot               string
	Nulls                   bool // the rows without a value
	Share                   int
}

// Blank takes the value from a share of the rows, in columns where there are nulls.
type Blank struct {
	Column string
	Share  int
}

// Copy makes a share of the rows like the row before them, in these columns.
type Copy struct {
	Columns []string
	Share   int
}

// Level makes the rows of one parent like those of another, in these columns, and removes what is over; and so ties what is summed up
// over them. Place says which of the largest parents.
type Level struct {
	Reference string
	Columns   []string
	Largest   string // the column whose sum makes a parent large; "" for the number of its rows
	Place     int    // 0 for the largest and the second largest
}

// Crown writes the largest value of a column into rows that have nearly as much: a tie at the top.
type Crown struct{ Column string }

// Drop removes a share of the rows, but for the first of each value (and month) of the columns that are to stay covered.
type Drop struct {
	Share  int
	Values []string // columns of which every value stays
	Months []string // columns of which every month stays
}

// Orphan removes all rows of a share of the parents, at least of one.
type Orphan struct {
	Reference, Parent, Key string
	Share                  int
}

// Distinct removes the rows that repeat an earlier one in these columns, where none of them is null.
type Distinct struct{ Columns []string }

func (Deal) step()     {}
func (Jitter) step()   {}
func (Salt) step()     {}
func (Meet) step()     {}
func (Land) step()     {}
func (Blank) step()    {}
func (Copy) step()     {}
func (Level) step()    {}
func (Crown) step()    {}
func (Drop) step()     {}
func (Orphan) step()   {}
func (Swap) step()     {}
func (Extreme) step()  {}
func (Clear) step()    {}
func (Distinct) step() {}

// Plan makes one twin.
type Plan struct {
	Seed   int
	Tables []TablePlan
	Links  []Link // kept in the end: a row whose parent is gone goes too
}

// Pinned chooses rows that no step changes or removes.
type Pinned struct {
	Column, Value string // "" for all values that occur more than once
	Null          bool   // the rows without a value
}

// TablePlan is what is done to a table.
type TablePlan struct {
	Name  string
	Pins  []Pinned
	Order string // the column whose order the rows are in; "" for the order in which they are stored
	Steps []Step
}

// Twins differ in how much they change: some are near the sample, some far from it.
var shares = []struct{ deal, drop, copy, orphan, swap int }{{600, 80, 40, 60, 150}, {950, 200, 80, 120, 300}, {350, 60, 120, 40, 80}, {800, 450, 60, 150, 450}, {1000, 120, 30, 80, 200}}

const (
	saltShare    = 12 // of 1000 rows, for each value
	keySaltShare = 2
	mostSalted   = 400 // of 1000 rows, for all values of a column
	fewRows      = 4   // a table of fewer rows is left as it is
	coverLimit   = 60  // values of a column that stay covered
)

// Make plans the twin of a seed, from 1.
func Make(f *Facts, bounds []Boundary, seed int) Plan {
	p := Plan{Seed: seed, Links: f.Links}
	how := shares[(seed-1)%len(shares)]
	for _, t := range f.Tables {
		tp := TablePlan{Name: t.Name, Order: t.order()}
		for _, p := range t.Pins {
			tp.Pins = append(tp.Pins, Pinned{t.Columns[p.Column].Name, p.Value, p.Null})
		}
		if !t.Lookup && t.Rows >= fewRows {
			whole := f.whole(t)
			tp.Steps = append(tp.Steps, t.deals(how.deal)...)
			tp.Steps = append(tp.Steps, t.swaps(how.swap)...)
			tp.Steps = append(tp.Steps, t.salts(bounds)...)
			tp.Steps = append(tp.Steps, t.copies(f, how.copy, seed, whole)...)
			tp.Steps = append(tp.Steps, t.extremes(seed)...)
			tp.Steps = append(tp.Steps, t.removals(f, bounds, how.drop, how.orphan, seed, whole)...)
			for _, key := range t.Keys {
				tp.Steps = append(tp.Steps, Distinct{t.names(key)})
			}
		}
		p.Tables = append(p.Tables, tp)
	}
	return p
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

// clearShare is of how many of 1000 parents the rows in a part of a column are removed.
const clearShare, clearedParents = 30, 200 // by one clear, and by all of them

// clears take from a few parents the rows in the parts that a column's boundaries cut it into.
func (t *Table) clears(reference string, parents int64, bounds []Boundary, seed int) []Clear {
	var out []Clear
	for _, c := range t.Columns {
		if c.Nullable && !strings.EqualFold(c.Name, reference) {
			out = append(out, Clear{Reference: reference, Column: c.Name, Type: c.Type, Nulls: true})
		}
		for _, b := range bounds {
			if !strings.EqualFold(b.Column, c.Name) || strings.EqualFold(c.Name, reference) {
				continue
			}
			step := Clear{Reference: reference, Column: c.Name, Type: c.Type}
			if !c.Kind.Temporal() && !c.Amount {
				for _, v := range b.Values {
					if c.seen[v] {
						is, isNot := step, step
						is.Is, isNot.IsNot = v, v
						out = append(out, is, isNot)
					}
				}
				continue
			}
			out = append(out, step.parts(c.cuts(b.Values), seed, parents)...)
		}
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
			sort.Strings(values) // moments as texts are in their order
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
		if len(rest) > 0 {
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

// removals take rows away: some at random, and all of some parents.
func (t *Table) removals(f *Facts, bounds []Boundary, drop, orphan, seed int, whole bool) []Step {
	var out []Step
	d := Drop{Share: drop}
	for _, c := range t.Columns {
		switch {
		case c.Unique:
		case c.Kind.Temporal():
			d.Months = append(d.Months, c.Name)
		case c.Distinct <= coverLimit:
			d.Values = append(d.Values, c.Name)
		}
	}
	if !whole && !refersToItself(f, t) {
		out = append(out, d)
	}
	for _, l := range f.Links {
		if l.From.Table == t.Name && l.To.Table != t.Name && !l.Whole && !f.Table(l.To.Table).Lookup {
			out = append(out, Orphan{l.From.Column, l.To.Table, l.To.Column, orphan})
			clears := t.clears(l.From.Column, f.Table(l.To.Table).Rows, bounds, seed)
			for _, c := range clears {
				c.Share = min(clearShare, clearedParents/len(clears))
				out = append(out, c)
			}
		}
	}
	return out
}

func refersToItself(f *Facts, t *Table) bool {
	for _, l := range f.Links {
		if l.From.Table == t.Name && l.To.Table == t.Name {
			return true
		}
	}
	return false
}

// parts are the clears below, above and between cuts: all of them where there are parents enough, else another for each cut with every
// seed.
func (c Clear) parts(cuts []string, seed int, parents int64) []Clear {
	var out []Clear
	for i, v := range cuts {
		above, below, between := c, c, c
		above.From, below.Before, between.From = v, v, v
		if i+1 < len(cuts) {
			between.Before = cuts[i+1]
		}
		kinds := []Clear{above, below, between}
		if parents < int64(8*len(cuts)) {
			kinds = kinds[(i+seed)%3 : (i+seed)%3+1]
		}
		out = append(out, kinds...)
	}
	return out
}
