package duckdb

import (
	"context"
	"database/sql"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"github.com/duckdb/duckdb-go/v2"

	"tovrel/core/source"
	"tovrel/core/value"
)

// Source is a sample file to import as a table.
type Source struct {
	Table string
	File  string // as the user wrote it, for messages
	Path  string // where it is
	Types map[string]value.Kind
}

// Column is a column of a frozen table with the engine's name of its type.
type Column struct {
	Name string `json:"name"`
	Type string `json:"type"`
}

// Table is a frozen table.
type Table struct {
	Name    string   `json:"name"`
	Rows    int64    `json:"rows"`
	Columns []Column `json:"columns"`
}

// Freeze imports files into a new database file and describes its tables. Errors of the data are source.Problems.
func Freeze(ctx context.Context, path string, sources []Source) (tables []Table, err error) {
	connector, err := duckdb.NewConnector(path+"?"+options.Encode(), initialiser([]string{"SET GLOBAL timezone='UTC'"}))
	if err != nil {
		return nil, fmt.Errorf("cannot make %s: %w", path, err)
	}
	db := sql.OpenDB(connector)
	defer func() { err = errors.Join(err, db.Close()) }()
	conn, err := db.Conn(ctx)
	if err != nil {
		return nil, fmt.Errorf("cannot make %s: %w", path, err)
	}
	defer func() { err = errors.Join(err, conn.Close()) }()
	for _, s := range sources {
		if err := importFile(ctx, conn, s); err != nil {
			return nil, err
		}
		t, err := describe(ctx, conn, s.Table)
		if err != nil {
			return nil, err
		}
		tables = append(tables, t)
	}
	return tables, nil
}

func importFile(ctx context.Context, conn *sql.Conn, s Source) error {
	if strings.EqualFold(filepath.Ext(s.Path), ".parquet") {
		_, err := conn.ExecContext(ctx, "CREATE TABLE "+identifier(s.Table)+" AS SELECT * FROM read_parquet("+literal(s.Path)+")")
		if err != nil {
			return problem(s, 0, "unreadable-parquet", "cannot be read as Parquet: "+messageOf(readError(err)), "write the file again")
		}
		return nil
	}
	return importCSV(ctx, conn, s)
}

// describe tells a table's columns and rows.
func describe(ctx context.Context, conn *sql.Conn, name string) (Table, error) {
	t := Table{Name: name}
	rows, err := conn.QueryContext(ctx, "SELECT column_name, data_type FROM duckdb_columns() WHERE schema_name = 'main' AND database_name = current_database() AND table_name = ? ORDER BY column_index", name)
	if err != nil {
		return t, err
	}
	for rows.Next() {
		var c Column
		if err := rows.Scan(&c.Name, &c.Type); err != nil {
			return t, errors.Join(err, rows.Close())
		}
		t.Columns = append(t.Columns, c)
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return t, err
	}
	return t, conn.QueryRowContext(ctx, "SELECT count(*) FROM "+identifier(name)).Scan(&t.Rows)
}

func identifier(name string) string { return `"` + strings.ReplaceAll(name, `"`, `""`) + `"` }

func literal(text string) string { return `'` + strings.ReplaceAll(text, `'`, `''`) + `'` }

func problem(s Source, line int, code, message, remedy string) error {
	return source.Problems{{Position: source.Position{File: s.File, Line: line}, Code: code, Severity: source.Error, Message: message, Remedy: remedy}}
}

// header reads a CSV file's first record.
func header(s Source) ([]string, error) {
	f, err := os.Open(s.Path)
	if err != nil {
		return nil, problem(s, 0, "unreadable-file", "cannot be opened: "+reason(err), "check the path under tables: in tovrel.yaml")
	}
	defer f.Close() //nolint:errcheck // opened for reading only
	r := csv.NewReader(f)
	names, err := r.Read()
	if errors.Is(err, io.EOF) {
		return nil, problem(s, 1, "no-header", "the file is empty", "it needs a header line with the columns' names")
	}
	if err != nil {
		return nil, problem(s, 1, "unreadable-header", "the header line cannot be read: "+err.Error(), "check its quotes")
	}
	names[0] = strings.TrimPrefix(names[0], "\ufeff")
	return names, checkHeader(s, names)
}

func checkHeader(s Source, names []string) error {
	seen := map[string]int{}
	for i, n := range names {
		key := strings.ToLower(strings.TrimSpace(n))
		if key == "" {
			return problem(s, 1, "empty-header", fmt.Sprintf("column %d has no name", i+1), "name it in the header line")
		}
		if before := seen[key]; before > 0 {
			return problem(s, 1, "duplicate-header", fmt.Sprintf("columns %d and %d are both named %q", before, i+1, n), "rename one in the header line")
		}
		seen[key] = i + 1
	}
	return nil
}

func reason(err error) string {
	var path *os.PathError
	if errors.As(err, &path) {
		return path.Err.Error()
	}
	return err.Error()
}
