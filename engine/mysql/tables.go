package mysql

import (
	"context"
	database "database/sql"
	"errors"
	"strings"

	"tovrel/engine"
	"tovrel/engine/server"
)

// tablesOf lists the tables and views of the connection's database with their columns, by name; rows are the server's estimate.
func tablesOf(ctx context.Context, conn *database.Conn) (out []engine.Table, err error) {
	rows, err := conn.QueryContext(ctx, `SELECT t.table_name, coalesce(t.table_rows, 0), c.column_name, c.column_type
		FROM information_schema.tables t JOIN information_schema.columns c
			ON c.table_schema = t.table_schema AND c.table_name = t.table_name
		WHERE t.table_schema = database() AND t.table_name <> 'tovrel_loaded' AND t.table_type IN ('BASE TABLE', 'VIEW', 'SYSTEM VERSIONED')
		ORDER BY t.table_name, c.ordinal_position`)
	if err != nil {
		return nil, plain(err)
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	for rows.Next() {
		var name, column, of string
		var count int64
		if err := rows.Scan(&name, &count, &column, &of); err != nil {
			return nil, err
		}
		if len(out) == 0 || out[len(out)-1].Name != name {
			out = append(out, engine.Table{Name: name, Rows: count})
		}
		t := &out[len(out)-1]
		t.Columns = append(t.Columns, engine.Column{Name: column, Type: typeName(of)})
	}
	return out, rows.Err()
}

// typeName is a type of the server under the name that the embedded engine has for it.
func typeName(of string) string {
	of = strings.ToLower(of)
	bare, rest, _ := strings.Cut(of, "(")
	unsigned := ""
	if strings.Contains(of, "unsigned") {
		unsigned = "U"
	}
	switch strings.Fields(bare + " ")[0] {
	case "tinyint":
		return unsigned + "TINYINT"
	case "smallint", "year":
		return unsigned + "SMALLINT"
	case "mediumint", "int", "integer":
		return unsigned + "INTEGER"
	case "bigint":
		return unsigned + "BIGINT"
	case "decimal":
		size, _, _ := strings.Cut(rest, ")")
		return "DECIMAL(" + size + ")"
	case "float":
		return "FLOAT"
	case "double":
		return "DOUBLE"
	case "date":
		return "DATE"
	case "datetime", "timestamp":
		return "TIMESTAMP"
	case "time":
		return "TIME"
	case "json":
		return "JSON"
	case "blob", "tinyblob", "mediumblob", "longblob", "binary", "varbinary", "bit":
		return "BLOB"
	}
	return "VARCHAR"
}

// Describe lists the tables of a dataset on a server; small ones are counted, since the server only estimates. The error is of the
// connection.
func Describe(ctx context.Context, at engine.Server, picked func(table string) bool) ([]engine.Table, error) {
	db, err := Connect(ctx, at)
	if err != nil {
		return nil, err
	}
	defer db.Close() //nolint:errcheck // it only read
	conn, err := db.Conn(ctx)
	if err != nil {
		return nil, plain(err)
	}
	defer conn.Close() //nolint:errcheck // it only read
	all, err := tablesOf(ctx, conn)
	if err != nil {
		return nil, err
	}
	return server.Picked(all, picked, func(table string) (rows int64, err error) {
		err = conn.QueryRowContext(ctx, "SELECT count(*) FROM "+quote(table)).Scan(&rows)
		return rows, plain(err)
	})
}

// Version is the server's version, such as "10.11.19-MariaDB".
func Version(ctx context.Context, at engine.Server) (version string, err error) {
	db, err := Connect(ctx, at)
	if err != nil {
		return "", err
	}
	err = plain(db.QueryRowContext(ctx, "SELECT version()").Scan(&version))
	return version, errors.Join(err, db.Close())
}
