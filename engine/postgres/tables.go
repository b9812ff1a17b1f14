package postgres

import (
	"context"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"

	"tovrel/engine"
	"tovrel/engine/server"
)

// tablesOf lists the tables and views of the connection's schema with their columns, by name; rows are those that the server's last look
// estimates.
func tablesOf(ctx context.Context, conn *pgconn.PgConn) ([]engine.Table, error) {
	rows, err := texts(ctx, conn, `SELECT c.relname, greatest(c.reltuples, 0)::bigint, a.attname,
			pg_catalog.format_type(a.atttypid, a.atttypmod)
		FROM pg_catalog.pg_class c JOIN pg_catalog.pg_attribute a ON a.attrelid = c.oid
		WHERE c.relnamespace = pg_catalog.current_schema()::regnamespace AND c.relkind IN ('r', 'v', 'm', 'p', 'f')
			AND NOT c.relispartition AND a.attnum > 0 AND NOT a.attisdropped AND c.relname <> 'tovrel_loaded'
			AND pg_catalog.has_table_privilege(c.oid, 'SELECT')
		ORDER BY c.relname, a.attnum`)
	if err != nil {
		return nil, err
	}
	var out []engine.Table
	for _, r := range rows {
		if len(out) == 0 || out[len(out)-1].Name != r[0] {
			out = append(out, engine.Table{Name: r[0], Rows: number(r[1])})
		}
		t := &out[len(out)-1]
		t.Columns = append(t.Columns, engine.Column{Name: r[2], Type: typeName(r[3])})
	}
	return out, nil
}

// typeName is a type of the server under the name that the embedded engine has for it; its own name where that has none.
func typeName(of string) string {
	bare, rest, _ := strings.Cut(of, "(")
	if strings.HasSuffix(of, "[]") {
		return "VARCHAR" // an array comes as a text
	}
	switch strings.TrimSpace(bare) {
	case "bigint":
		return "BIGINT"
	case "integer":
		return "INTEGER"
	case "smallint":
		return "SMALLINT"
	case "numeric":
		if rest == "" {
			return "DECIMAL"
		}
		return "DECIMAL(" + rest
	case "double precision":
		return "DOUBLE"
	case "real":
		return "FLOAT"
	case "boolean":
		return "BOOLEAN"
	case "text", "character varying", "character":
		return "VARCHAR"
	case "date":
		return "DATE"
	case "bytea":
		return "BLOB"
	case "json", "jsonb":
		return "JSON"
	case "uuid":
		return "UUID"
	case "interval":
		return "INTERVAL"
	}
	switch {
	case strings.HasPrefix(of, "timestamp") && strings.HasSuffix(of, "with time zone"):
		return "TIMESTAMP WITH TIME ZONE"
	case strings.HasPrefix(of, "timestamp"):
		return "TIMESTAMP"
	case strings.HasPrefix(of, "time"):
		return "TIME"
	}
	return "VARCHAR"
}

// Describe lists the tables of a dataset on a server. Those that were never looked at by the server's statistics are counted. The error is
// of the connection.
func Describe(ctx context.Context, at engine.Server, picked func(table string) bool) ([]engine.Table, error) {
	conn, err := Connect(ctx, at)
	if err != nil {
		return nil, err
	}
	defer conn.Close(context.WithoutCancel(ctx)) //nolint:errcheck // it only read
	all, err := tablesOf(ctx, conn)
	if err != nil {
		return nil, err
	}
	return server.Picked(all, picked, func(table string) (int64, error) {
		counted, err := column(ctx, conn, "SELECT count(*) FROM "+quote(table))
		if err != nil {
			return 0, err
		}
		return number(counted[0]), nil
	})
}

// Version is the server's version, such as "15.20".
func Version(ctx context.Context, at engine.Server) (string, error) {
	conn, err := Connect(ctx, at)
	if err != nil {
		return "", err
	}
	defer conn.Close(context.WithoutCancel(ctx)) //nolint:errcheck // it only read
	version, _, _ := strings.Cut(conn.ParameterStatus("server_version"), " ")
	return version, nil
}
