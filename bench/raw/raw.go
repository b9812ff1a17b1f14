// Package raw runs queries through the plain Go driver of the engine: the limit of what could be reached.
package raw

import (
	"context"
	"database/sql"

	_ "github.com/duckdb/duckdb-go/v2" // the engine
	"golang.org/x/sync/errgroup"
)

// Run runs all queries on a database file through the driver, so many at once, reading every value.
func Run(path string, queries []string, parallel int) (err error) {
	db, err := sql.Open("duckdb", path+"?access_mode=read_only")
	if err != nil {
		return err
	}
	defer db.Close() //nolint:errcheck // read-only
	db.SetMaxOpenConns(parallel)
	g, ctx := errgroup.WithContext(context.Background())
	g.SetLimit(parallel)
	for _, q := range queries {
		g.Go(func() error { return readAll(ctx, db, q) })
	}
	return g.Wait()
}

func readAll(ctx context.Context, db *sql.DB, query string) error {
	rows, err := db.QueryContext(ctx, query)
	if err != nil {
		return err
	}
	defer rows.Close() //nolint:errcheck // rows.Err tells
	names, err := rows.Columns()
	if err != nil {
		return err
	}
	cells := make([]any, len(names))
	targets := make([]any, len(names))
	for i := range cells {
		targets[i] = &cells[i]
	}
	for rows.Next() {
		if err := rows.Scan(targets...); err != nil {
			return err
		}
	}
	return rows.Err()
}
