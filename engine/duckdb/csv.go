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
)

// sampled is how many rows a first guess of the types rests on; the whole column then confirms or corrects it.
const sampled = 1000

// maxRejects is how many unreadable rows are listed.
const maxRejects = 20

// importCSV reads all columns as text, finds their types over the whole file, and makes the table. A row that cannot be
// read refuses the file: nothing is dropped in silence.
func importCSV(ctx context.Context, conn *sql.Conn, s Source) error {
	names, err := header(s)
	if err != nil {
		return err
	}
	for name := range s.Types {
		if !containsFold(names, name) {
			return problem(s, 1, "unknown-column", fmt.Sprintf("types: names the column %q, which the file does not have", name), near.Hint(name, names))
		}
	}
	if err := stage(ctx, conn, s, names); err != nil {
		return err
	}
	types, err := inferTypes(ctx, conn, s, names)
	if err != nil {
		return err
	}
	items := make([]string, len(names))
	for i, n := range names {
		items[i] = "CAST(" + identifier(n) + " AS " + types[i].sql + ") AS " + identifier(n)
	}
	_, err = conn.ExecContext(ctx, "CREATE TABLE "+identifier(s.Table)+" AS SELECT "+strings.Join(items, ", ")+" FROM staging")
	if err != nil {
		return problem(s, 0, "type-mismatch", "a column does not fit the type it was given: "+messageOf(readError(err)), "correct the value, or the type under types: in tovrel.yaml")
	}
	_, err = conn.ExecContext(ctx, "DROP TABLE staging; DROP TABLE IF EXISTS reject_errors; DROP TABLE IF EXISTS reject_scans")
	return err
}

func containsFold(names []string, name string) bool {
	for _, n := range names {
		if strings.EqualFold(n, name) {
			return true
		}
	}
	return false
}

// stage loads the file into a temporary table of texts. A blank is null, a quoted blank is the empty text.
func stage(ctx context.Context, conn *sql.Conn, s Source, names []string) error {
	columns := make([]string, len(names))
	for i, n := range names {
		columns[i] = literal(n) + ": 'VARCHAR'"
	}
	_, err := conn.ExecContext(ctx, "CREATE TEMP TABLE staging AS SELECT * FROM read_csv("+literal(s.Path)+
		", columns={"+strings.Join(columns, ", ")+"}, auto_detect=false, header=true, delim=',', quote='\"', escape='\"', nullstr='', "+
		"allow_quoted_nulls=false, strict_mode=true, null_padding=false, store_rejects=true, rejects_limit=0)")
	if err != nil {
		return problem(s, 0, "unreadable-csv", "cannot be read as CSV: "+messageOf(readError(err)), "check the file's delimiter, quotes and encoding")
	}
	return rejected(ctx, conn, s)
}

var rejectWords = map[string]string{"MISSING COLUMNS": "too few columns", "TOO MANY COLUMNS": "too many columns",
	"UNQUOTED VALUE": "a quote that is not closed or stands in the middle of a value", "LINE SIZE OVER MAXIMUM": "too long a line",
	"INVALID ENCODING": "bytes that are not UTF-8"}

// rejected lists the rows that could not be read.
func rejected(ctx context.Context, conn *sql.Conn, s Source) error {
	rows, err := conn.QueryContext(ctx, "SELECT line, any_value(error_type::VARCHAR), any_value(csv_line), count(*) OVER () FROM reject_errors GROUP BY line ORDER BY line LIMIT ?", maxRejects)
	if err != nil {
		return err
	}
	var problems source.Problems
	total := 0
	for rows.Next() {
		var line int
		var kind, text sql.NullString
		if err := rows.Scan(&line, &kind, &text, &total); err != nil {
			return errors.Join(err, rows.Close())
		}
		words := rejectWords[strings.ToUpper(kind.String)]
		if words == "" {
			words = strings.ToLower(kind.String)
		}
		problems = append(problems, source.Problem{Position: source.Position{File: s.File, Line: line}, Code: "unreadable-row", Severity: source.Error,
			Message: "this row cannot be read: it has " + words, Remedy: "correct the row", Excerpt: clip(text.String)})
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return err
	}
	if total > len(problems) {
		problems = append(problems, source.Problem{Position: source.Position{File: s.File}, Code: "unreadable-row", Severity: source.Error,
			Message: fmt.Sprintf("and %d more rows cannot be read", total-len(problems))})
	}
	if len(problems) > 0 {
		return problems
	}
	return nil
}

func clip(text string) string {
	text, _, _ = strings.Cut(text, "\n")
	if r := []rune(text); len(r) > 100 {
		return string(r[:99]) + "…"
	}
	return text
}

// columnType is a column's type with the engine's name of it.
type columnType struct {
	value.Type
	sql string
}

// inferTypes guesses each column's type from its first rows, by the rules of written tables, and confirms it over the
// whole column; what does not hold falls back to a wider type, at last to text.
func inferTypes(ctx context.Context, conn *sql.Conn, s Source, names []string) ([]columnType, error) {
	cells, err := sample(ctx, conn, len(names))
	if err != nil {
		return nil, err
	}
	types := make([]columnType, len(names))
	open := map[int]bool{}
	for i, n := range names {
		if kind, given := givenType(s.Types, n); given {
			types[i] = engineType(value.Type{Kind: kind, Scale: table.Infer(cells[i]).Scale})
			continue
		}
		types[i] = engineType(table.Infer(cells[i]))
		open[i] = true
	}
	for len(open) > 0 {
		if err := confirm(ctx, conn, names, types, open); err != nil {
			return nil, err
		}
	}
	return types, nil
}

func givenType(types map[string]value.Kind, name string) (value.Kind, bool) {
	for n, kind := range types {
		if strings.EqualFold(n, name) {
			return kind, true
		}
	}
	return value.Null, false
}

func sample(ctx context.Context, conn *sql.Conn, columns int) ([][]table.Cell, error) {
	rows, err := conn.QueryContext(ctx, fmt.Sprintf("SELECT * FROM staging LIMIT %d", sampled))
	if err != nil {
		return nil, err
	}
	cells := make([][]table.Cell, columns)
	texts := make([]sql.NullString, columns)
	targets := make([]any, columns)
	for i := range texts {
		targets[i] = &texts[i]
	}
	for rows.Next() {
		if err := rows.Scan(targets...); err != nil {
			return nil, errors.Join(err, rows.Close())
		}
		for i, t := range texts {
			cells[i] = append(cells[i], table.Cell{Text: t.String, Null: !t.Valid})
		}
	}
	return cells, errors.Join(rows.Err(), rows.Close())
}

// confirm checks the open columns in one pass; a column that holds, or has come down to text, is closed.
func confirm(ctx context.Context, conn *sql.Conn, names []string, types []columnType, open map[int]bool) error {
	var checks []string
	var order []int
	for i, n := range names {
		if !open[i] {
			continue
		}
		if types[i].Kind == value.Text {
			delete(open, i)
			continue
		}
		order = append(order, i)
		checks = append(checks, "coalesce(bool_and("+holds(identifier(n), types[i])+"), true)")
	}
	if len(order) == 0 {
		return nil
	}
	results := make([]bool, len(order))
	targets := make([]any, len(order))
	for i := range results {
		targets[i] = &results[i]
	}
	if err := conn.QueryRowContext(ctx, "SELECT "+strings.Join(checks, ", ")+" FROM staging").Scan(targets...); err != nil {
		return err
	}
	for at, i := range order {
		if results[at] {
			delete(open, i)
		} else {
			types[i] = wider(types[i])
		}
	}
	return nil
}

// holds is a condition that every cell of the type meets and that loses nothing: a number must come back as it was written.
func holds(column string, t columnType) string {
	cast := "TRY_CAST(" + column + " AS " + t.sql + ")"
	switch t.Kind {
	case value.Int, value.Decimal, value.Date:
		return cast + "::VARCHAR = " + column
	case value.Float:
		return cast + " IS NOT NULL AND NOT regexp_matches(" + column + `, '^\s|\s$|^-?0[0-9]|^\+|_|^-?[0-9]{16,}')`
	case value.Bool:
		return "lower(" + column + ") IN ('true', 'false')"
	case value.TimestampTZ:
		return cast + " IS NOT NULL AND regexp_matches(" + column + `, '^[0-9]{4}-.*(Z|[+-][0-9:]+)$')`
	}
	return cast + " IS NOT NULL AND regexp_matches(" + column + `, '^[0-9]{2}([0-9]{2}-|:)[0-9:. T-]*$')`
}

// engineType names a type for the engine.
func engineType(t value.Type) columnType {
	switch t.Kind {
	case value.Bool:
		return columnType{t, "BOOLEAN"}
	case value.Int:
		return columnType{t, "BIGINT"}
	case value.Decimal:
		return columnType{t, fmt.Sprintf("DECIMAL(18,%d)", min(t.Scale, 18))}
	case value.Float:
		return columnType{t, "DOUBLE"}
	case value.Date:
		return columnType{t, "DATE"}
	case value.Time:
		return columnType{t, "TIME"}
	case value.Timestamp:
		return columnType{t, "TIMESTAMP"}
	case value.TimestampTZ:
		return columnType{t, "TIMESTAMPTZ"}
	case value.Blob:
		return columnType{t, "BLOB"}
	case value.JSON:
		return columnType{t, "JSON"}
	}
	return columnType{value.Type{Kind: value.Text}, "VARCHAR"}
}

// wider is the next type to try for a column that does not hold.
func wider(t columnType) columnType {
	switch t.Kind {
	case value.Int, value.Decimal:
		return engineType(value.Type{Kind: value.Float})
	case value.Date:
		return engineType(value.Type{Kind: value.Timestamp})
	}
	return engineType(value.Type{Kind: value.Text})
}
