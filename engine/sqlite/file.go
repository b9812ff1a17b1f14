package sqlite

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/url"
	"strings"

	"tovrel/engine"
	"tovrel/engine/sqltext"
)

// withFile opens a database file of the user's own or of ours for a moment, read-only.
func withFile(path string, do func(*sql.DB) error) error {
	db, err := sql.Open("sqlite", "file:"+(&url.URL{Path: path}).EscapedPath()+"?mode=ro")
	if err != nil {
		return err
	}
	return errors.Join(do(db), db.Close())
}

// Copy copies a database file, what is still in its log included. It errs where the file is no database or the copy cannot be written.
func Copy(ctx context.Context, from, to string) error {
	return withFile(from, func(db *sql.DB) error {
		if _, err := db.ExecContext(ctx, "VACUUM INTO ?", to); err != nil {
			return fmt.Errorf("%s cannot be read as an SQLite file: %s", from, plainMessage(err))
		}
		return nil
	})
}

// Describe tells the tables and views of a database file, with the types that their columns are declared as. It errs where the file is
// no database.
func Describe(ctx context.Context, path string) (tables []engine.Table, err error) {
	err = withFile(path, func(db *sql.DB) error {
		names, err := texts(ctx, db, "SELECT name FROM sqlite_master WHERE type IN ('table', 'view') AND name NOT LIKE "+
			"'sqlite\\_%' ESCAPE '\\' ORDER BY name")
		if err != nil {
			return err
		}
		for _, name := range names {
			t := engine.Table{Name: name}
			columns, err := texts(ctx, db, "SELECT name || char(31) || type FROM pragma_table_info("+sqltext.Text(name)+") ORDER BY cid")
			if err != nil {
				return err
			}
			for _, c := range columns {
				column, kind, _ := strings.Cut(c, "\x1f")
				t.Columns = append(t.Columns, engine.Column{Name: column, Type: kind})
			}
			if err := db.QueryRowContext(ctx, "SELECT count(*) FROM "+sqltext.Name(name)).Scan(&t.Rows); err != nil {
				return err
			}
			tables = append(tables, t)
		}
		return nil
	})
	return tables, err
}

// Stored lists the tables of a database file that hold rows of their own: no views. It errs where the file is no database.
func Stored(ctx context.Context, path string) (names []string, err error) {
	err = withFile(path, func(db *sql.DB) (err error) {
		names, err = texts(ctx, db, "SELECT name FROM sqlite_master WHERE type = 'table' AND sql NOT LIKE 'CREATE VIRTUAL%' AND name "+
			"NOT LIKE "+
			"'sqlite\\_%' ESCAPE '\\' ORDER BY name")
		return err
	})
	return names, err
}

// Computed lists the columns of a table that are computed from others. It errs where the file is no database.
func Computed(ctx context.Context, path, table string) (names []string, err error) {
	err = withFile(path, func(db *sql.DB) (err error) {
		names, err = texts(ctx, db, "SELECT name FROM pragma_table_xinfo("+sqltext.Text(table)+") WHERE hidden > 1 ORDER BY cid")
		return err
	})
	return names, err
}

// queries runs queries: a database, or a transaction.
type queries interface {
	QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error)
}

func texts(ctx context.Context, db queries, query string) (out []string, err error) {
	rows, err := db.QueryContext(ctx, query)
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	for rows.Next() {
		var text string
		if err := rows.Scan(&text); err != nil {
			return nil, err
		}
		out = append(out, text)
	}
	return out, rows.Err()
}

// schemaNames lists the names of tables and columns.
func schemaNames(path string) ([]string, error) {
	tables, err := Describe(context.Background(), path)
	var names []string
	for _, t := range tables {
		names = append(names, t.Name)
		for _, c := range t.Columns {
			names = append(names, c.Name)
		}
	}
	return names, err
}

// Differ counts the rows of a table that only the older of two files has, and those that only the newer one has. Rows that
// repeat count once. It errs where a file is no database or has no such table.
func Differ(ctx context.Context, older, newer, name string) (gone, added int64, err error) {
	err = withFile(newer, func(db *sql.DB) error {
		conn, err := db.Conn(ctx)
		if err != nil {
			return err
		}
		defer conn.Close() //nolint:errcheck // closed with the database
		if _, err := conn.ExecContext(ctx, "ATTACH ? AS older", "file:"+(&url.URL{Path: older}).EscapedPath()+"?mode=ro"); err != nil {
			return err
		}
		now, before := "SELECT * FROM main."+sqltext.Name(name), "SELECT * FROM older."+sqltext.Name(name)
		if err := conn.QueryRowContext(ctx, "SELECT count(*) FROM ("+before+" EXCEPT "+now+")").Scan(&gone); err != nil {
			return err
		}
		return conn.QueryRowContext(ctx, "SELECT count(*) FROM ("+now+" EXCEPT "+before+")").Scan(&added)
	})
	return gone, added, err
}
