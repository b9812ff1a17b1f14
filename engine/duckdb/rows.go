package duckdb

import (
	"context"
	"database/sql"
	"errors"
	"strings"

	"tovrel/engine"
	"tovrel/engine/sqltext"
)

// EachRow gives the rows of a table of a database file in their order, as texts; nil for null. It errs where the file cannot be read, and
// with what each returns.
func EachRow(ctx context.Context, path string, t engine.Table, each func(cells []*string) error) error {
	return withFile(ctx, path+"?access_mode=read_only&"+options.Encode(), func(conn *sql.Conn) (err error) {
		var items []string
		for _, c := range t.Columns {
			items = append(items, "CAST("+sqltext.Name(c.Name)+" AS VARCHAR)")
		}
		rows, err := conn.QueryContext(ctx, "SELECT "+strings.Join(items, ", ")+" FROM main."+sqltext.Name(t.Name)+" ORDER BY rowid")
		if err != nil {
			return err
		}
		defer func() { err = errors.Join(err, rows.Close()) }()
		cells, into := make([]*string, len(items)), make([]any, len(items))
		for i := range cells {
			into[i] = &cells[i]
		}
		for rows.Next() {
			if err := rows.Scan(into...); err != nil {
				return err
			}
			if err := each(cells); err != nil {
				return err
			}
		}
		return rows.Err()
	})
}
