package clickhouse

import (
	"context"
	"errors"
	"slices"
	"strings"

	"github.com/ClickHouse/clickhouse-go/v2/lib/driver"

	"tovrel/engine"
	"tovrel/engine/server"
)

// tablesOf lists the tables and views of the connection's database with their columns, by name; their rows are not counted.
func tablesOf(ctx context.Context, conn driver.Conn) (out []engine.Table, err error) {
	rows, err := conn.Query(ctx, "SELECT table, name, type FROM system.columns WHERE database = currentDatabase()")
	if err != nil {
		return nil, plain(err)
	}
	defer func() { err = errors.Join(err, plain(rows.Close())) }()
	at := map[string]int{}
	for rows.Next() {
		var name, column, of string
		if err := rows.Scan(&name, &column, &of); err != nil {
			return nil, err
		}
		if strings.HasPrefix(name, server.OwnPrefix) || strings.HasPrefix(name, ".inner") {
			continue // what is being loaded, and what views keep
		}
		if _, seen := at[name]; !seen {
			at[name] = len(out)
			out = append(out, engine.Table{Name: name})
		}
		t := &out[at[name]]
		t.Columns = append(t.Columns, engine.Column{Name: column, Type: typeName(of)})
	}
	slices.SortFunc(out, func(a, b engine.Table) int { return strings.Compare(a.Name, b.Name) })
	return out, plain(rows.Err())
}

// typeNames are types of the server under the names that the embedded engine has for them; what is not here comes as a text.
var typeNames = map[string]string{"Int8": "TINYINT", "Int16": "SMALLINT", "Int32": "INTEGER", "Int64": "BIGINT", "Int128": "HUGEINT",
	"UInt8": "UTINYINT", "UInt16": "USMALLINT", "UInt32": "UINTEGER", "UInt64": "UBIGINT", "Float32": "FLOAT", "Float64": "DOUBLE",
	"Date": "DATE", "Date32": "DATE", "Bool": "BOOLEAN", "UUID": "UUID"}

func typeName(of string) string {
	of = inner(of)
	name, sizes, _ := strings.Cut(of, "(")
	switch {
	case typeNames[name] != "":
		return typeNames[name]
	case name == "Decimal":
		return "DECIMAL(" + strings.ReplaceAll(sizes, " ", "")
	case strings.HasPrefix(name, "DateTime"):
		return "TIMESTAMP"
	}
	return "VARCHAR"
}

// Describe lists the tables of a dataset on a server, counted: the server knows its counts. The error is of the connection.
func Describe(ctx context.Context, at engine.Server, picked func(table string) bool) ([]engine.Table, error) {
	conn, err := Connect(ctx, at, nil)
	if err != nil {
		return nil, err
	}
	defer conn.Close() //nolint:errcheck // it only read
	all, err := tablesOf(ctx, conn)
	if err != nil {
		return nil, err
	}
	return server.Picked(all, picked, func(table string) (int64, error) {
		var rows uint64
		err := conn.QueryRow(ctx, "SELECT count() FROM "+quote(table)).Scan(&rows)
		return int64(rows), plain(err)
	})
}

// quote puts a name into its quotes.
func quote(name string) string {
	return "`" + strings.NewReplacer(`\`, `\\`, "`", "\\`").Replace(name) + "`"
}

// Version is the server's version, such as "18.16.1". It errs where the server cannot be used.
func Version(ctx context.Context, at engine.Server) (version string, err error) {
	conn, err := Connect(ctx, at, nil)
	if err != nil {
		return "", err
	}
	err = plain(conn.QueryRow(ctx, "SELECT version()").Scan(&version))
	return version, errors.Join(err, conn.Close())
}
