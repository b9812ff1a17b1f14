package trino

import (
	"context"
	database "database/sql"
	"errors"
	"strings"

	"tovrel/engine"
	"tovrel/engine/server"
)

// tablesOf lists the tables and views of the connection's schema with their columns, by name; their rows are not counted.
func tablesOf(ctx context.Context, db *database.DB) (out []engine.Table, err error) {
	rows, err := db.QueryContext(ctx, "SELECT table_name, column_name, data_type FROM information_schema.columns "+
		"WHERE table_schema = current_schema ORDER BY table_name, ordinal_position")
	if err != nil {
		return nil, plain(err)
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	for rows.Next() {
		var name, column, of string
		if err := rows.Scan(&name, &column, &of); err != nil {
			return nil, err
		}
		if len(out) == 0 || out[len(out)-1].Name != name {
			out = append(out, engine.Table{Name: name})
		}
		t := &out[len(out)-1]
		t.Columns = append(t.Columns, engine.Column{Name: column, Type: typeName(of)})
	}
	return out, plain(rows.Err())
}

// typeNames are types of the server under the names that the embedded engine has for them; what is not here comes as a text.
var typeNames = map[string]string{"tinyint": "TINYINT", "smallint": "SMALLINT", "integer": "INTEGER", "bigint": "BIGINT", "real": "FLOAT",
	"double": "DOUBLE", "boolean": "BOOLEAN", "date": "DATE", "time": "TIME", "timestamp": "TIMESTAMP",
	"timestamp with time zone": "TIMESTAMP WITH TIME ZONE", "json": "JSON", "uuid": "UUID", "varbinary": "BLOB"}

func typeName(of string) string {
	name := bare(of)
	if name == "decimal" {
		return strings.ReplaceAll(strings.ToUpper(of), " ", "")
	}
	if known := typeNames[name]; known != "" {
		return known
	}
	return "VARCHAR"
}

// Describe lists the tables of a dataset on a server, counted. The error is of the connection.
func Describe(ctx context.Context, at engine.Server, picked func(table string) bool) ([]engine.Table, error) {
	db, err := Connect(ctx, at, 0)
	if err != nil {
		return nil, err
	}
	defer db.Close() //nolint:errcheck // it only read
	all, err := tablesOf(ctx, db)
	if err != nil {
		return nil, err
	}
	return server.Picked(all, picked, func(table string) (rows int64, err error) {
		err = db.QueryRowContext(ctx, `SELECT count(*) FROM "`+strings.ReplaceAll(table, `"`, `""`)+`"`).Scan(&rows)
		return rows, plain(err)
	})
}

// Version is the server's version, such as "476". It errs where the server cannot be used.
func Version(ctx context.Context, at engine.Server) (version string, err error) {
	db, err := Connect(ctx, at, 0)
	if err != nil {
		return "", err
	}
	err = plain(db.QueryRowContext(ctx, "SELECT version()").Scan(&version))
	return version, errors.Join(err, db.Close())
}
