package twin

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

func (Deal) step() {}

func (Jitter) step() {}

func (Salt) step() {}

func (Meet) step() {}

func (Land) step() {}

func (Blank) step() {}

func (Copy) step() {}

func (Drop) step() {}

func (Orphan) step() {}

func (Swap) step() {}

func (Extreme) step() {}

func (Clear) step() {}

func (Distinct) step() {}

// Plan makes one twin.
type Plan struct {
	Seed   int
	Tables []TablePlan
	Links  []Link // kept in the end: a row whose parent is gone goes too
	Laws   []Law  // held in the end: what breaks one is as it was
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
