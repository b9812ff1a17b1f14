package duckdb

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"

	"github.com/duckdb/duckdb-go/v2"

	"tovrel/core/near"
	"tovrel/core/source"
	"tovrel/core/value"
	"tovrel/engine"
	"tovrel/engine/sqltext"
)

// Source is what a table is imported from.
type Source struct {
	Table     string
	Samples   []*Sample             // of the same format; their rows follow each other
	Types     map[string]value.Kind // set by the user
	NullWords []string              // words that mean nothing
	LeftOut   []string              // columns that the table is not to have
}

// Freeze imports files into a new database file and describes its tables. Errors of the data are source.Problems.
func Freeze(ctx context.Context, path string, sources []Source) (tables []engine.Table, err error) {
	err = withFile(ctx, path+"?"+options.Encode(), func(conn *sql.Conn) error {
		for _, s := range sources {
			if err := importFile(ctx, conn, s); err != nil {
				return err
			}
			for _, column := range s.LeftOut {
				if _, err := conn.ExecContext(ctx, "ALTER TABLE "+sqltext.Name(s.Table)+" DROP COLUMN "+sqltext.Name(column)); err != nil {
					return err
				}
			}
			t, err := describe(ctx, conn, s.Table)
			if err != nil {
				return err
			}
			tables = append(tables, t)
		}
		return nil
	})
	return tables, err
}

func importFile(ctx context.Context, conn *sql.Conn, s Source) error {
	if s.Samples[0].Format == CSV {
		return importCSV(ctx, conn, s)
	}
	verb := "CREATE TABLE " + sqltext.Name(s.Table) + " AS "
	for _, sample := range s.Samples {
		if err := importTyped(ctx, conn, verb, sample); err != nil {
			return err
		}
		verb = "INSERT INTO " + sqltext.Name(s.Table) + " BY NAME "
	}
	return nil
}

// importTyped imports a file that brings its own types.
func importTyped(ctx context.Context, conn *sql.Conn, verb string, s *Sample) error {
	if s.Format == Parquet {
		if _, err := conn.ExecContext(ctx, verb+"SELECT * FROM read_parquet("+sqltext.Text(s.Path)+")"); err != nil {
			return problem(s, 0, "unreadable-parquet", "cannot be read as Parquet: "+messageOf(readError(err)),
				"write the file again; files of one table need the same columns")
		}
		return nil
	}
	if _, err := conn.ExecContext(ctx, "ATTACH "+sqltext.Text(s.Path)+" AS tovrel_sample (READ_ONLY)"); err != nil {
		return problem(s, 0, "unreadable-duckdb", "cannot be read as a DuckDB file: "+messageOf(readError(err)),
			"check the file, and that no other program has it open for writing")
	}
	err := importAttached(ctx, conn, verb, s)
	_, detached := conn.ExecContext(ctx, "DETACH tovrel_sample")
	return errors.Join(err, detached)
}

func importAttached(ctx context.Context, conn *sql.Conn, verb string, s *Sample) error {
	names, err := tableNames(ctx, conn, "tovrel_sample")
	if err != nil {
		return err
	}
	inside := s.Inside
	if inside == "" && len(names) == 1 {
		inside = names[0]
	}
	if inside == "" {
		return problem(s, 0, "table-missing", fmt.Sprintf("the file has %d tables: %s", len(names), strings.Join(names, ", ")),
			"name one with table: in tovrel.yaml")
	}
	if !containsFold(names, inside) {
		return problem(s, 0, "unknown-table", fmt.Sprintf("the file has no table %q", inside), near.Hint(inside, names))
	}
	_, err = conn.ExecContext(ctx, verb+"SELECT * FROM tovrel_sample.main."+sqltext.Name(inside))
	if err != nil {
		return problem(s, 0, "unreadable-duckdb", "the table "+inside+" cannot be read: "+messageOf(readError(err)), "check the file")
	}
	return nil
}

// tableNames lists the tables of an attached database's main schema.
func tableNames(ctx context.Context, conn *sql.Conn, database string) ([]string, error) {
	rows, err := conn.QueryContext(ctx, "SELECT table_name FROM duckdb_tables() WHERE database_name = ? AND schema_name = "+
		"'main' ORDER BY 1", database)
	if err != nil {
		return nil, err
	}
	return Names(rows)
}

// Names reads rows of one text each, and closes them. It errs where a row is another or reading fails.
func Names(rows *sql.Rows) (names []string, err error) {
	defer func() { err = errors.Join(err, rows.Close()) }()
	for rows.Next() {
		var name string
		if err := rows.Scan(&name); err != nil {
			return nil, err
		}
		names = append(names, name)
	}
	return names, rows.Err()
}

// TableNames lists the tables of a DuckDB file. It errs where the file is none of the engine's.
func TableNames(ctx context.Context, path string) (names []string, err error) {
	err = withFile(ctx, path+"?access_mode=read_only&"+options.Encode(), func(conn *sql.Conn) error {
		if err := conn.QueryRowContext(ctx, "SELECT current_database()").Scan(&path); err != nil {
			return err
		}
		names, err = tableNames(ctx, conn, path)
		return err
	})
	return names, err
}

// Describe tells the tables of a DuckDB file. It errs where the file is none of the engine's.
func Describe(ctx context.Context, path string) (tables []engine.Table, err error) {
	names, err := TableNames(ctx, path)
	if err != nil {
		return nil, err
	}
	err = withFile(ctx, path+"?access_mode=read_only&"+options.Encode(), func(conn *sql.Conn) error {
		for _, name := range names {
			t, err := describe(ctx, conn, name)
			if err != nil {
				return err
			}
			tables = append(tables, t)
		}
		return nil
	})
	return tables, err
}

// withFile opens a database file of the user's own or of ours for a moment.
func withFile(ctx context.Context, dsn string, do func(*sql.Conn) error) (err error) {
	connector, err := duckdb.NewConnector(dsn, initialiser([]string{"SET GLOBAL timezone='UTC'"}))
	if err != nil {
		return err
	}
	db := sql.OpenDB(connector)
	defer func() { err = errors.Join(err, db.Close()) }()
	conn, err := db.Conn(ctx)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, conn.Close()) }()
	return do(conn)
}

// describe tells a table's columns and rows.
func describe(ctx context.Context, conn *sql.Conn, name string) (engine.Table, error) {
	t := engine.Table{Name: name}
	rows, err := conn.QueryContext(ctx, "SELECT column_name, data_type FROM duckdb_columns() WHERE schema_name = 'main' AND "+
		"database_name = current_database() AND table_name = ? ORDER BY column_index", name)
	if err != nil {
		return t, err
	}
	for rows.Next() {
		var c engine.Column
		if err := rows.Scan(&c.Name, &c.Type); err != nil {
			return t, errors.Join(err, rows.Close())
		}
		t.Columns = append(t.Columns, c)
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return t, err
	}
	return t, conn.QueryRowContext(ctx, "SELECT count(*) FROM "+sqltext.Name(name)).Scan(&t.Rows)
}

func problem(s *Sample, line int, code, message, remedy string) error {
	return source.Problems{{Position: source.Position{File: s.File, Line: line}, Code: code, Severity: source.Error,
		Message: message, Remedy: remedy}}
}

// Differ counts the rows of a table that only the older of two files has, and those that only the newer one has. It errs where a file
// cannot be read or has no such table.
func Differ(ctx context.Context, older, newer, name string) (gone, added int64, err error) {
	err = withFile(ctx, "?"+options.Encode(), func(conn *sql.Conn) error {
		if _, err := conn.ExecContext(ctx, "ATTACH "+sqltext.Text(older)+" AS older (READ_ONLY); ATTACH "+sqltext.Text(newer)+
			" AS newer (READ_ONLY)"); err != nil {
			return err
		}
		count := "SELECT count(*) FROM (SELECT * FROM %s.main." + sqltext.Name(name) + " EXCEPT ALL SELECT * FROM %s.main." +
			sqltext.Name(name) + ")"
		if err := conn.QueryRowContext(ctx, fmt.Sprintf(count, "older", "newer")).Scan(&gone); err != nil {
			return err
		}
		return conn.QueryRowContext(ctx, fmt.Sprintf(count, "newer", "older")).Scan(&added)
	})
	return gone, added, err
}
