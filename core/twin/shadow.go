package twin

// The steps that a view can make, so that a query sees a table changed and nothing is stored. Like the others they are values: what
// they are in SQL is the engine's business.

// Overwrite gives many rows of a column, chosen by their number, one of some values; as many rows keep their own.
type Overwrite struct {
	Column string
	Type   string
	Values []string // as texts; one that is none of the type changes nothing
	Seed   int      // the same rows for the same seed
}

// Head keeps a table's first rows.
type Head struct{ Rows int }

// Thin drops one row in so many, by chance.
type Thin struct{ OneIn, Seed int }

// Add adds a row.
type Add struct{ Cells []TypedCell }

// TypedCell is a cell of a column of a type; a nil text is null.
type TypedCell struct {
	Text *string
	Type string
}

// Only keeps some rows, by their numbers.
type Only struct{ Rows Spans }

// Without leaves out the rows with some values of a column, as texts.
type Without struct {
	Column, Type string
	Values       []string
}

// Agree keeps the rows on which two conditions, as SQL over the table's columns, both hold or both do not; "" always holds.
type Agree struct{ One, Other string }

// Take gives a column the values of another.
type Take struct{ Column, Other, Type string }

// Trade exchanges two values of a column, as texts.
type Trade struct{ Column, Type, A, B string }

// Later moves the moments of a column.
type Later struct {
	Column, Type string
	Months       int
}

// Present keeps the rows that have a value.
type Present struct{ Column string }

// Fill puts a value, as text, where there is none.
type Fill struct{ Column, Type, Value string }

// Same puts one value, as text, in the place of every value.
type Same struct{ Column, Type, Value string }

// Commonest keeps the rows whose column has the value that is the commonest (the second, the third … for a place from 1 on) of a column of
// a table, of those that so many rows have.
type Commonest struct {
	Column, Table, With string
	Place, Rows         int
}

// Met keeps the rows whose column is met by a column of another table, in rows that meet a condition; "" always holds.
type Met struct{ Column, Table, With, Where string }

// Kept keeps the rows whose parent, a row of a table by its key, some steps leave there; and those that have no parent.
type Kept struct {
	Column, Table, Key string
	By                 []Step
}

// Levels cuts a hierarchy within a table, whose column refers to the table's key: what lies deeper has no parent. At depth 1 nothing has
// one, at depth 2 the children of what has none.
type Levels struct {
	Column, Table, Key string
	Depth              int
}

// FirstOf keeps the first row of each combination of some columns, of the rows that meet a condition.
type FirstOf struct {
	Columns []string
	Where   string
	Rest    bool // the rows that do not meet it stay
}

// Times has each row as often as a column of it is met by a column of another table; not at all where it is not met.
type Times struct{ Column, Table, With string }

func (Overwrite) step() {}
func (Only) step()      {}
func (Without) step()   {}
func (Head) step()      {}
func (Thin) step()      {}
func (Add) step()       {}
func (Agree) step()     {}
func (Take) step()      {}
func (Trade) step()     {}
func (Later) step()     {}
func (Present) step()   {}
func (Fill) step()      {}
func (Same) step()      {}
func (Commonest) step() {}
func (Met) step()       {}
func (Kept) step()      {}
func (Levels) step()    {}
func (FirstOf) step()   {}
func (Times) step()     {}
