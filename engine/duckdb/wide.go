package duckdb

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/duckdb/duckdb-go/v2"

	"tovrel/core/value"
	"tovrel/engine/sqltext"
)

// manyColumns is from how many columns on a table is imported without naming them one by one: the engine's time for a named
// column grows with the number of columns.
const manyColumns = 500

// wide says that a table has very many columns, and that all its rows were among the first ones, which are at hand.
func (l *loading) wide() bool {
	return len(l.names) >= manyColumns && len(l.source.NullWords) == 0 && len(l.cells[0]) < sampled
}

// importWide finds types that hold for the cells at hand, by the same conditions as for other tables, and has the engine copy the files.
func (l *loading) importWide(ctx context.Context) error {
	if err := l.keepCells(ctx); err != nil {
		return err
	}
	check := make([]int, len(l.columns))
	for i := range check {
		check[i] = i
	}
	for len(check) > 0 {
		bad, err := l.unfitCells(ctx, check)
		if err != nil {
			return err
		}
		if err := l.widen(ctx, bad); err != nil {
			return err
		}
		check = bad
	}
	if _, err := l.conn.ExecContext(ctx, "DROP TABLE "+cellTable); err != nil {
		return err
	}
	return l.copyIn(ctx)
}

// cellTable has one row for each cell at hand.
const cellTable = `"tovrel cells"`

// keepCells puts the cells that are not null into a table of their own.
func (l *loading) keepCells(ctx context.Context) error {
	if _, err := l.conn.ExecContext(ctx, "CREATE TEMP TABLE "+cellTable+" (position INTEGER, cell VARCHAR)"); err != nil {
		return err
	}
	return l.conn.Raw(func(c any) (err error) {
		appender, err := duckdb.NewAppender(c.(*duckdb.Conn), "temp", "main", "tovrel cells")
		if err != nil {
			return err
		}
		defer func() { err = errors.Join(err, appender.Close()) }()
		for i, cells := range l.cells {
			for _, cell := range cells {
				if cell.Null {
					continue
				}
				if err := appender.AppendRow(int32(i), cell.Text); err != nil {
					return err
				}
			}
		}
		return nil
	})
}

// unfitCells lists those of the columns that have cells which do not fit, in their order.
func (l *loading) unfitCells(ctx context.Context, columns []int) ([]int, error) {
	byCondition := map[string][]string{}
	for _, i := range columns {
		if c := l.columns[i]; c.Kind != value.Text {
			fits := condition(c, "cell", "TRY_CAST(cell AS "+c.sql+")")
			byCondition[fits] = append(byCondition[fits], fmt.Sprint(i))
		}
	}
	var bad []int
	for fits, at := range byCondition {
		rows, err := l.conn.QueryContext(ctx, "SELECT DISTINCT position FROM "+cellTable+" WHERE position IN ("+
			strings.Join(at, ", ")+") AND ("+fits+") IS NOT TRUE")
		if err != nil {
			return nil, err
		}
		if bad, err = appendInts(bad, rows); err != nil {
			return nil, err
		}
	}
	slices.Sort(bad)
	return bad, nil
}

func appendInts(to []int, rows *sql.Rows) ([]int, error) {
	for rows.Next() {
		var i int
		if err := rows.Scan(&i); err != nil {
			return nil, errors.Join(err, rows.Close())
		}
		to = append(to, i)
	}
	return to, errors.Join(rows.Err(), rows.Close())
}

// copyIn makes the table and copies the files into it.
func (l *loading) copyIn(ctx context.Context) error {
	columns := make([]string, len(l.names))
	for i, n := range l.names {
		columns[i] = sqltext.Name(n) + " " + l.columns[i].sql
	}
	if _, err := l.conn.ExecContext(ctx, "CREATE TABLE "+sqltext.Name(l.source.Table)+" ("+strings.Join(columns, ", ")+")"); err != nil {
		return err
	}
	for i, s := range l.source.Samples {
		into := ""
		if i > 0 {
			names := make([]string, len(s.Names))
			for at, n := range s.Names {
				names[at] = sqltext.Name(n)
			}
			into = " (" + strings.Join(names, ", ") + ")"
		}
		_, err := l.conn.ExecContext(ctx, "COPY "+sqltext.Name(l.source.Table)+into+" FROM "+sqltext.Text(s.Path)+" ("+
			strings.Join(howToRead(s, " "), ", ")+", store_rejects true, rejects_limit 0)")
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
