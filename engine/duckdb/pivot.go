package duckdb

import (
	"context"
	"database/sql/driver"
	"fmt"

	"github.com/duckdb/duckdb-go/v2"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/engine"
)

// mostPivoted is how many columns a PIVOT may make of the data.
const mostPivoted = 1000

// withPivotLists writes the columns out that a PIVOT takes from the data. What gives them is a query like any other: it passes the gate
// first.
func (d *Database) withPivotLists(ctx context.Context, text string) (string, error) {
	lists := sql.PivotLists(text)
	if len(lists) == 0 {
		return text, nil
	}
	values := make([][]string, len(lists))
	for i, l := range lists {
		var err error
		if values[i], err = d.pivoted(ctx, l.Query); err != nil {
			return "", err
		}
		if len(values[i]) == 0 {
			return "", &sql.Refusal{Why: "the PIVOT has no column: the data have no value for it"}
		}
	}
	return sql.WithLists(text, lists, values), nil
}

func (d *Database) pivoted(ctx context.Context, sql string) (values []string, err error) {
	_, text, err := d.prepare(ctx, engine.Request{SQL: sql})
	if err != nil {
		return nil, err
	}
	err = d.conn.Raw(func(c any) error {
		arrow, err := duckdb.NewArrowFromConn(c.(driver.Conn))
		if err != nil {
			return err
		}
		return stream(ctx, arrow, text, func(t *table.Table) error {
			for row := range t.Rows() {
				values = append(values, t.Columns[0].Value(row).String())
			}
			if len(values) > mostPivoted {
				return &engine.Failure{Code: fault.TooBig,
					Message: fmt.Sprintf("the PIVOT would have more than %d columns", mostPivoted), Position: -1}
			}
			return nil
		})
	})
	return values, err
}
