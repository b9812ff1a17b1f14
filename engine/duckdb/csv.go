package duckdb

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"

	"tovrel/core/near"
	"tovrel/core/source"
	"tovrel/core/table"
	"tovrel/core/value"
	"tovrel/engine/sqltext"
)

// sampled is how many rows of each file a first guess of the types rests on; all rows then confirm or correct it.
const sampled = 1000

// maxRejects is how many unreadable rows are listed.
const maxRejects = 20

// loading is the import of one table from CSV files.
type loading struct {
	conn    *sql.Conn
	source  Source
	names   []string
	columns []loadColumn
	cells   [][]table.Cell   // by column, the first rows of each file
	places  []map[string]int // by sample, of its columns
}

// loadColumn is a column with the type that it is tried with.
type loadColumn struct {
	columnType
	given bool // the user set the type: what does not fit is a defect, not a reason for another type
	texts bool // its cells are texts in the file: dates and times may be read from them, numbers not
}

// importCSV guesses the types from the first rows, reads all files in one pass under them, and reads again under wider types
// where a column does not hold. A row that cannot be read refuses the file: nothing is dropped in silence.
func importCSV(ctx context.Context, conn *sql.Conn, s Source) error {
	l := &loading{conn: conn, source: s, names: s.Samples[0].Names}
	if err := l.checkNames(); err != nil {
		return err
	}
	if err := l.guess(ctx); err != nil {
		return err
	}
	if l.wide() {
		return l.importWide(ctx)
	}
	for {
		if err := l.load(ctx); err != nil {
			return err
		}
		bad, err := l.unfit(ctx)
		if err != nil {
			return err
		}
		if len(bad) == 0 {
			return l.finish(ctx)
		}
		if err := l.widen(ctx, bad); err != nil {
			return err
		}
		if _, err := conn.ExecContext(ctx, "DROP TABLE "+sqltext.Name(s.Table)); err != nil {
			return err
		}
	}
}

// widen takes the next type for columns that do not hold; one whose type the user gave is an error.
func (l *loading) widen(ctx context.Context, bad []int) error {
	var problems source.Problems
	for _, i := range bad {
		if l.columns[i].given {
			found, err := l.misfits(ctx, i)
			if err != nil {
				return err
			}
			problems = append(problems, found...)
		} else {
			l.columns[i].columnType = wider(l.columns[i].columnType)
		}
	}
	if len(problems) > 0 {
		return problems
	}
	return nil
}

// checkNames refuses types of columns that are not there, and files of one table whose columns differ.
func (l *loading) checkNames() error {
	for name := range l.source.Types {
		if !containsFold(l.names, name) {
			return problem(l.source.Samples[0], 1, "unknown-column",
				fmt.Sprintf("types: names the column %q, which the file does not have", name), near.Hint(name, l.names))
		}
	}
	for i, s := range l.source.Samples[1:] {
		for _, n := range l.names {
			if _, has := l.place(i + 1)[strings.ToLower(n)]; !has {
				return problem(s, s.Skip+1, "other-columns",
					fmt.Sprintf("the file has no column %q, which %s has", n, l.source.Samples[0].File),
					"files of one table need the same columns")
			}
		}
		for _, n := range s.Names {
			if _, has := l.place(0)[strings.ToLower(n)]; !has {
				return problem(s, s.Skip+1, "other-columns",
					fmt.Sprintf("the file has a column %q, which %s has not", n, l.source.Samples[0].File),
					"files of one table need the same columns")
			}
		}
	}
	return nil
}

func containsFold(names []string, name string) bool {
	for _, n := range names {
		if strings.EqualFold(n, name) {
			return true
		}
	}
	return false
}

// reading is the FROM of a file: all columns as texts. A blank is null, a quoted blank is the empty text.
func reading(s *Sample, more string) string {
	columns := make([]string, len(s.Names))
	for i, n := range s.Names {
		columns[i] = sqltext.Text(n) + ": 'VARCHAR'"
	}
	return "read_csv(" + sqltext.Text(s.Path) + ", columns={" + strings.Join(columns, ", ") + "}, " +
		strings.Join(howToRead(s, "="), ", ") + more + ")"
}

// howToRead are the options for a file, with what stands between an option and its value.
func howToRead(s *Sample, is string) []string {
	return []string{"auto_detect" + is + "false", "header" + is + "true", "skip" + is + fmt.Sprint(s.Skip), "delim" + is +
		sqltext.Text(string(s.Delimiter)),
		"quote" + is + `'"'`, "escape" + is + `'"'`, "nullstr" + is + "''", "allow_quoted_nulls" + is + "false", "strict_mode" +
			is + "true", "null_padding" + is + "false"}
}

// cell is a column's text, null for the words that mean nothing.
func (l *loading) cell(name string) string {
	column := sqltext.Name(name)
	if len(l.source.NullWords) == 0 {
		return column
	}
	words := make([]string, len(l.source.NullWords))
	for i, w := range l.source.NullWords {
		words[i] = sqltext.Text(strings.ToLower(strings.TrimSpace(w)))
	}
	return "CASE WHEN lower(trim(" + column + ")) NOT IN (" + strings.Join(words, ", ") + ") THEN " + column + " END"
}

// guess finds types from the first rows of each file, by the rules of written tables.
func (l *loading) guess(ctx context.Context) error {
	l.cells = make([][]table.Cell, len(l.names))
	for i := range l.source.Samples {
		if err := l.sample(ctx, i); err != nil {
			return err
		}
	}
	for i, n := range l.names {
		inferred := infer(l.cells[i])
		c := loadColumn{columnType: engineType(inferred)}
		if known := l.known(n); known != nil {
			if c.columnType, c.texts = engineType(*known), known.Kind == value.Text; c.texts && inferred.Kind.Temporal() {
				c.columnType = engineType(inferred)
			}
		}
		if kind, given := givenType(l.source.Types, n); given {
			c = loadColumn{columnType: engineType(value.Type{Kind: kind, Scale: inferred.Scale}), given: true}
		}
		l.columns = append(l.columns, c)
	}
	return nil
}

// infer is table.Infer, but that dates among timestamps are timestamps at midnight: a spreadsheet shows both in one column.
func infer(cells []table.Cell) value.Type {
	t := table.Infer(cells)
	if t.Kind != value.Text {
		return t
	}
	some := false
	for _, c := range cells {
		if c.Null {
			continue
		}
		_, notDate := value.Parse(c.Text, value.Type{Kind: value.Date})
		_, notTime := value.Parse(c.Text, value.Type{Kind: value.Timestamp})
		if notDate != nil && notTime != nil {
			return t
		}
		some = true
	}
	if some {
		return value.Type{Kind: value.Timestamp}
	}
	return t
}

// known is the type that a column has in the files themselves; nil where it is to be inferred.
func (l *loading) known(name string) *value.Type {
	var found *value.Type
	for at, s := range l.source.Samples {
		i, has := l.place(at)[strings.ToLower(name)]
		if !has || s.Known == nil {
			continue
		}
		switch t := s.Known[i]; {
		case t == nil:
		case found == nil || *found == *t:
			found = t
		default:
			found = &value.Type{Kind: value.Text}
		}
	}
	return found
}

// place finds a sample's columns by their names in lower case.
func (l *loading) place(sample int) map[string]int {
	if l.places == nil {
		l.places = make([]map[string]int, len(l.source.Samples))
	}
	if l.places[sample] == nil {
		l.places[sample] = map[string]int{}
		for i, n := range l.source.Samples[sample].Names {
			l.places[sample][strings.ToLower(n)] = i
		}
	}
	return l.places[sample]
}

func givenType(types map[string]value.Kind, name string) (value.Kind, bool) {
	for n, kind := range types {
		if strings.EqualFold(n, name) {
			return kind, true
		}
	}
	return value.Null, false
}

// sample adds the first cells of a file.
func (l *loading) sample(ctx context.Context, at int) error {
	s := l.source.Samples[at]
	items := make([]string, len(l.names))
	for i, n := range l.names {
		items[i] = l.cell(n)
	}
	if at == 0 && len(l.source.NullWords) == 0 {
		items = []string{"*"} // where there are thousands of columns, each that is named takes time by their number
	}
	rows, err := l.conn.QueryContext(ctx, "SELECT "+strings.Join(items, ", ")+" FROM "+reading(s, ", ignore_errors=true")+
		fmt.Sprintf(" LIMIT %d", sampled))
	if err != nil {
		return problem(s, 0, "unreadable-csv", "cannot be read as CSV: "+messageOf(readError(err)),
			"check the file's delimiter, quotes and encoding")
	}
	texts := make([]sql.NullString, len(l.names))
	targets := make([]any, len(l.names))
	for i := range texts {
		targets[i] = &texts[i]
	}
	for rows.Next() {
		if err := rows.Scan(targets...); err != nil {
			return errors.Join(err, rows.Close())
		}
		for i, t := range texts {
			l.cells[i] = append(l.cells[i], table.Cell{Text: t.String, Null: !t.Valid})
		}
	}
	return errors.Join(rows.Err(), rows.Close())
}

// maskBits is how many columns one mask of what does not fit has room for.
const maskBits = 60

// masks are the expressions that tell, a bit a column, which cells do not fit their types.
func (l *loading) masks() []string {
	var masks []string
	for from := 0; from < len(l.columns); from += maskBits {
		terms := []string{"0::BIGINT"}
		for i := from; i < min(from+maskBits, len(l.columns)); i++ {
			if c := l.columns[i]; c.Kind != value.Text {
				terms = append(terms, fmt.Sprintf("CASE WHEN %s THEN 0 ELSE %d END", l.fits(i), int64(1)<<(i-from)))
			}
		}
		masks = append(masks, strings.Join(terms, " + "))
	}
	return masks
}

func maskName(i int) string { return sqltext.Name(fmt.Sprintf("tovrel unfit %d", i)) }

// load makes the table of all files under the present types, with the masks as further columns.
func (l *loading) load(ctx context.Context) error {
	items := make([]string, len(l.names))
	for i, n := range l.names {
		items[i] = l.cell(n) + " AS " + sqltext.Name(n)
		if l.columns[i].Kind != value.Text {
			items[i] = "TRY_CAST(" + l.cell(n) + " AS " + l.columns[i].sql + ") AS " + sqltext.Name(n)
		}
	}
	for i, m := range l.masks() {
		items = append(items, m+" AS "+maskName(i))
	}
	for i, s := range l.source.Samples {
		verb := "CREATE TABLE " + sqltext.Name(l.source.Table) + " AS "
		if i > 0 {
			verb = "INSERT INTO " + sqltext.Name(l.source.Table) + " "
		}
		_, err := l.conn.ExecContext(ctx, verb+"SELECT "+strings.Join(items, ", ")+" FROM "+
			reading(s, ", store_rejects=true, rejects_limit=0"))
		if err != nil {
			return problem(s, 0, "unreadable-csv", "cannot be read as CSV: "+messageOf(readError(err)),
				"check the file's delimiter, quotes and encoding")
		}
		if err := rejected(ctx, l.conn, s); err != nil {
			return err
		}
	}
	return nil
}

// unfit lists the columns that have cells which do not fit.
func (l *loading) unfit(ctx context.Context) ([]int, error) {
	masks := l.masks()
	items, bits, targets := make([]string, len(masks)), make([]int64, len(masks)), make([]any, len(masks))
	for i := range masks {
		items[i], targets[i] = "coalesce(bit_or("+maskName(i)+"), 0)", &bits[i]
	}
	if err := l.conn.QueryRowContext(ctx, "SELECT "+strings.Join(items, ", ")+" FROM "+
		sqltext.Name(l.source.Table)).Scan(targets...); err != nil {
		return nil, err
	}
	var bad []int
	for i := range l.columns {
		if bits[i/maskBits]>>(i%maskBits)&1 == 1 {
			bad = append(bad, i)
		}
	}
	return bad, nil
}

// finish drops the masks.
func (l *loading) finish(ctx context.Context) error {
	if len(l.masks()) > fewMasks { // each drop takes time by the number of columns
		return l.copied(ctx)
	}
	for i := range l.masks() {
		if _, err := l.conn.ExecContext(ctx, "ALTER TABLE "+sqltext.Name(l.source.Table)+" DROP COLUMN "+maskName(i)); err != nil {
			return err
		}
	}
	return nil
}

// fewMasks is up to how many masks are dropped one by one.
const fewMasks = 4

// copied puts a copy without the masks in the table's place.
func (l *loading) copied(ctx context.Context) error {
	items := make([]string, len(l.names))
	for i, n := range l.names {
		items[i] = sqltext.Name(n)
	}
	name, scratch := sqltext.Name(l.source.Table), sqltext.Name("tovrel scratch")
	for _, statement := range []string{"CREATE TABLE " + scratch + " AS SELECT " + strings.Join(items, ", ") + " FROM " + name,
		"DROP TABLE " + name, "ALTER TABLE " + scratch + " RENAME TO " + name} {
		if _, err := l.conn.ExecContext(ctx, statement); err != nil {
			return err
		}
	}
	return nil
}
