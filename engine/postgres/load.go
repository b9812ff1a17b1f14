package postgres

import (
	"context"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"

	"tovrel/engine"
	"tovrel/engine/server"
)

// Load puts tables into a schema of Tovrel's own, named in the place, unless it holds them already: whole or not at all, also with several
// loaders at once. The error is of the server, or of reading rows.
func Load(ctx context.Context, at engine.Server, tables []engine.Table, rows server.RowsOf) (err error) {
	schema := at.Schema
	at.Schema = ""
	conn, err := Connect(ctx, at)
	if err != nil {
		return err
	}
	defer conn.Close(context.WithoutCancel(ctx)) //nolint:errcheck // what is not committed is gone
	if err := run(ctx, conn, "BEGIN; SELECT pg_advisory_xact_lock(hashtext("+server.Text(schema)+"))"); err != nil {
		return err
	}
	there, err := column(ctx, conn, "SELECT to_regclass("+server.Text(quote(schema)+"."+server.LoadedTable)+") IS NOT NULL")
	if err != nil || there[0] == "t" {
		return err
	}
	if err := run(ctx, conn, "DROP SCHEMA IF EXISTS "+quote(schema)+" CASCADE; CREATE SCHEMA "+quote(schema)+"; SET LOCAL search_path = "+
		quote(schema)); err != nil {
		return fmt.Errorf("the role of the DSN cannot make a schema: %w", err)
	}
	for _, t := range tables {
		if err := loadTable(ctx, conn, t, rows); err != nil {
			return fmt.Errorf("table %s: %w", t.Name, err)
		}
	}
	return run(ctx, conn, "CREATE TABLE "+server.LoadedTable+" AS SELECT now() AS at; COMMIT; ANALYZE")
}

func run(ctx context.Context, conn *pgconn.PgConn, statements string) error {
	_, err := conn.Exec(ctx, statements).ReadAll()
	return plain(err)
}

func loadTable(ctx context.Context, conn *pgconn.PgConn, t engine.Table, rows server.RowsOf) error {
	var columns []string
	for _, c := range t.Columns {
		columns = append(columns, quote(c.Name)+" "+storedType(c.Type))
	}
	if err := run(ctx, conn, "CREATE TABLE "+quote(t.Name)+" ("+strings.Join(columns, ", ")+")"); err != nil {
		return err
	}
	reading, writing := io.Pipe()
	go func() {
		writing.CloseWithError(rows(ctx, t, func(cells []*string) error {
			_, err := io.WriteString(writing, copyLine(t, cells))
			return err
		}))
	}()
	_, err := conn.CopyFrom(ctx, reading, "COPY "+quote(t.Name)+" FROM STDIN")
	return errors.Join(plain(err), reading.Close())
}

// copyLine is a row as COPY reads it.
func copyLine(t engine.Table, cells []*string) string {
	escape := strings.NewReplacer(`\`, `\\`, "\t", `\t`, "\n", `\n`, "\r", `\r`)
	var b strings.Builder
	for i, c := range cells {
		if i > 0 {
			b.WriteByte('\t')
		}
		switch {
		case c == nil:
			b.WriteString(`\N`)
		case t.Columns[i].Type == "BLOB":
			b.WriteString(`\\x` + hex.EncodeToString(server.Bytes(*c)))
		default:
			b.WriteString(escape.Replace(*c))
		}
	}
	b.WriteByte('\n')
	return b.String()
}

// storedTypes are the types of columns of the embedded engine on the server; what is not here is a text.
var storedTypes = map[string]string{"TINYINT": "smallint", "SMALLINT": "smallint", "INTEGER": "int", "BIGINT": "bigint",
	"HUGEINT": "numeric(39, 0)", "UHUGEINT": "numeric(39, 0)", "UTINYINT": "smallint", "USMALLINT": "int", "UINTEGER": "bigint",
	"UBIGINT": "numeric(20, 0)", "FLOAT": "real", "DOUBLE": "double precision", "BOOLEAN": "boolean", "DATE": "date", "TIME": "time",
	"TIMESTAMP": "timestamp", "TIMESTAMP_S": "timestamp", "TIMESTAMP_MS": "timestamp", "TIMESTAMP_NS": "timestamp",
	"TIMESTAMP WITH TIME ZONE": "timestamptz", "INTERVAL": "interval", "BLOB": "bytea", "UUID": "uuid", "JSON": "json"}

func storedType(of string) string {
	if size, is := strings.CutPrefix(of, "DECIMAL"); is {
		return "numeric" + size
	}
	if stored := storedTypes[of]; stored != "" {
		return stored
	}
	return "text"
}

// Drop removes a schema of Tovrel's own. The error is of the server.
func Drop(ctx context.Context, at engine.Server) error {
	conn, err := Connect(ctx, engine.Server{DSN: at.DSN})
	if err != nil {
		return err
	}
	defer conn.Close(context.WithoutCancel(ctx)) //nolint:errcheck // the statement has answered
	return run(ctx, conn, "DROP SCHEMA IF EXISTS "+quote(at.Schema)+" CASCADE")
}
