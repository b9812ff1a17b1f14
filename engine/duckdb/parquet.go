package duckdb

import (
	"context"
	"database/sql/driver"
	"errors"
	"fmt"

	"github.com/duckdb/duckdb-go/v2"

	"tovrel/core/table"
	"tovrel/engine/sqltext"
)

// ReadParquet reads a Parquet file of the user's own as a table. It errs where the file cannot be read or a type has no counterpart.
func ReadParquet(ctx context.Context, path string) (t *table.Table, err error) {
	conn, closeAll, err := inMemory(ctx)
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, closeAll()) }()
	arrow, err := duckdb.NewArrowFromConn(conn)
	if err != nil {
		return nil, err
	}
	err = stream(ctx, arrow, "SELECT * FROM read_parquet("+sqltext.Text(path)+")", func(batch *table.Table) error {
		if t == nil {
			t = batch
			return nil
		}
		appendRows(t, batch)
		return nil
	})
	if err != nil {
		return nil, fmt.Errorf("%s cannot be read as Parquet: %s", path, messageOf(readError(err)))
	}
	return t, nil
}

// WriteParquet turns a CSV file with known types into a Parquet file; columns is the engine's struct of them. It errs where a cell is
// none of its column's type, or the file cannot be written.
func WriteParquet(ctx context.Context, csvPath, columns, path string) (err error) {
	conn, closeAll, err := inMemory(ctx)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, closeAll()) }()
	_, err = conn.(driver.ExecerContext).ExecContext(ctx, "COPY (SELECT * FROM read_csv("+sqltext.Text(csvPath)+", columns="+columns+
		", auto_detect=false, header=true, delim=',')) TO "+sqltext.Text(path)+" (FORMAT parquet)", nil)
	return err
}

// inMemory opens a database of nothing but the files that a statement names. One thread keeps what it writes the same.
func inMemory(ctx context.Context) (driver.Conn, func() error, error) {
	connector, err := duckdb.NewConnector("?threads=1&"+options.Encode(), initialiser([]string{"SET GLOBAL timezone='UTC'"}))
	if err != nil {
		return nil, nil, err
	}
	conn, err := connector.Connect(ctx)
	if err != nil {
		return nil, nil, errors.Join(err, connector.Close())
	}
	return conn, func() error { return errors.Join(conn.Close(), connector.Close()) }, nil
}

func appendRows(t, more *table.Table) {
	for i, c := range more.Columns {
		for row := range c.Len() {
			t.Columns[i].Append(c.Value(row))
		}
	}
}
