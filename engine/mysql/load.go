package mysql

import (
	"context"
	database "database/sql"
	"errors"
	"fmt"
	"strings"

	"tovrel/engine"
	"tovrel/engine/server"
)

// Load puts tables into a database of Tovrel's own, named in the place, unless it holds them already: what was begun and not ended is made
// anew, also with several loaders at once. The error is of the server, or of reading rows.
func Load(ctx context.Context, at engine.Server, tables []engine.Table, rows server.RowsOf) (err error) {
	schema := at.Schema
	db, err := Connect(ctx, engine.Server{DSN: at.DSN})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, db.Close()) }()
	conn, err := db.Conn(ctx)
	if err != nil {
		return plain(err)
	}
	defer func() { err = errors.Join(err, conn.Close()) }() // and with it the lock is gone
	var locked int
	if err := conn.QueryRowContext(ctx, "SELECT get_lock("+text(schema)+", 600)").Scan(&locked); err != nil || locked != 1 {
		return fmt.Errorf("another loader holds the database %s: %w", schema, plain(err))
	}
	var there int
	if err := conn.QueryRowContext(ctx, "SELECT count(*) FROM information_schema.tables WHERE table_schema = "+text(schema)+
		" AND table_name = "+text(server.LoadedTable)).Scan(&there); err != nil || there > 0 {
		return plain(err)
	}
	for _, statement := range []string{"DROP DATABASE IF EXISTS " + quote(schema),
		"CREATE DATABASE " + quote(schema) + " CHARACTER SET utf8mb4 COLLATE " + collation(ctx, conn), "USE " + quote(schema)} {
		if _, err := conn.ExecContext(ctx, statement); err != nil {
			return fmt.Errorf("the user of the DSN cannot make a database: %w", plain(err))
		}
	}
	for _, t := range tables {
		if err := loadTable(ctx, conn, t, rows); err != nil {
			return fmt.Errorf("table %s: %w", t.Name, err)
		}
	}
	_, err = conn.ExecContext(ctx, "CREATE TABLE "+server.LoadedTable+" AS SELECT now() AS at")
	return plain(err)
}

// collation compares texts as they are: with their case and their spaces.
func collation(ctx context.Context, conn *database.Conn) string {
	var found int
	err := conn.QueryRowContext(ctx,
		"SELECT count(*) FROM information_schema.collations WHERE collation_name = 'utf8mb4_nopad_bin'").Scan(&found)
	if err == nil && found > 0 {
		return "utf8mb4_nopad_bin"
	}
	return "utf8mb4_0900_bin" // MySQL's name for it
}

// batchRows and batchBytes bound one INSERT.
const batchRows, batchBytes = 2000, 4 << 20

// mostKeys bounds the indexes of a table.
const mostKeys = 8

func loadTable(ctx context.Context, conn *database.Conn, t engine.Table, rows server.RowsOf) error {
	var columns, keys []string
	for _, c := range t.Columns {
		columns = append(columns, quote(c.Name)+" "+storedType(c.Type)+" NULL")
		if strings.HasSuffix(c.Type, "INTEGER") || strings.HasSuffix(c.Type,
			"BIGINT") { // what tables are joined by, and it joins slowly without
			keys = append(keys, "KEY ("+quote(c.Name)+")")
		}
	}
	columns = append(columns, keys[:min(len(keys), mostKeys)]...)
	if _, err := conn.ExecContext(ctx, "CREATE TABLE "+quote(t.Name)+" ("+strings.Join(columns, ", ")+")"); err != nil {
		return plain(err)
	}
	var batch strings.Builder
	count := 0
	send := func() error {
		if count == 0 {
			return nil
		}
		_, err := conn.ExecContext(ctx, "INSERT INTO "+quote(t.Name)+" VALUES "+batch.String())
		batch.Reset()
		count = 0
		return plain(err)
	}
	err := rows(ctx, t, func(cells []*string) error {
		if count > 0 {
			batch.WriteByte(',')
		}
		batch.WriteString(valueLine(t, cells))
		if count++; count >= batchRows || batch.Len() > batchBytes {
			return send()
		}
		return nil
	})
	if err != nil {
		return err
	}
	return send()
}

// valueLine is a row as INSERT reads it.
func valueLine(t engine.Table, cells []*string) string {
	written := make([]string, len(cells))
	for i, c := range cells {
		switch of := t.Columns[i].Type; {
		case c == nil:
			written[i] = "NULL"
		case of == "BLOB":
			written[i] = fmt.Sprintf("x'%x'", server.Bytes(*c))
		case of == "BOOLEAN":
			written[i] = *c // true, false
		case strings.HasPrefix(of, "TIMESTAMP"):
			written[i] = text(strings.TrimSuffix(*c, "+00"))
		default:
			written[i] = text(*c)
		}
	}
	return "(" + strings.Join(written, ",") + ")"
}

// storedTypes are the types of columns of the embedded engine on the server; what is not here is a text.
var storedTypes = map[string]string{"TINYINT": "tinyint", "SMALLINT": "smallint", "INTEGER": "int", "BIGINT": "bigint",
	"HUGEINT": "decimal(39, 0)", "UHUGEINT": "decimal(39, 0)", "UTINYINT": "tinyint unsigned", "USMALLINT": "smallint unsigned",
	"UINTEGER": "int unsigned", "UBIGINT": "bigint unsigned", "FLOAT": "float", "DOUBLE": "double", "BOOLEAN": "boolean", "DATE": "date",
	"TIME": "time(6)", "BLOB": "longblob", "JSON": "longtext"}

func storedType(of string) string {
	switch {
	case strings.HasPrefix(of, "DECIMAL"):
		return strings.ToLower(of)
	case strings.HasPrefix(of, "TIMESTAMP"):
		return "datetime(6)"
	case storedTypes[of] != "":
		return storedTypes[of]
	}
	return "longtext"
}

// Drop removes a database of Tovrel's own. The error is of the server.
func Drop(ctx context.Context, at engine.Server) error {
	db, err := Connect(ctx, engine.Server{DSN: at.DSN})
	if err != nil {
		return err
	}
	_, err = db.ExecContext(ctx, "DROP DATABASE IF EXISTS "+quote(at.Schema))
	return errors.Join(plain(err), db.Close())
}
