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

func (Overwrite) step() {}
func (Head) step()      {}
func (Thin) step()      {}
func (Add) step()       {}
