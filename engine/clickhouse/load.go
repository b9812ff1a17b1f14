package clickhouse

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strconv"
	"strings"
	"time"

	"github.com/ClickHouse/clickhouse-go/v2/lib/driver"
	"github.com/shopspring/decimal"

	"tovrel/engine"
	"tovrel/engine/server"
)

// Load puts tables into a database of Tovrel's own, named in the place, unless it holds them already. Each is loaded under another name and
// given its own when it is whole; of several loaders the first wins. The error is of the server, or of reading rows.
func Load(ctx context.Context, at engine.Server, tables []engine.Table, rows server.RowsOf) (err error) {
	conn, err := Connect(ctx, engine.Server{DSN: at.DSN}, nil)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, conn.Close()) }()
	there := "SELECT count() FROM system.tables WHERE database = " + text(at.Schema) + " AND name = "
	var loaded uint64
	if err := conn.QueryRow(ctx, there+text(server.LoadedTable)).Scan(&loaded); err != nil || loaded > 0 {
		return plain(err)
	}
	if err := conn.Exec(ctx, "CREATE DATABASE IF NOT EXISTS "+quote(at.Schema)); err != nil {
		return fmt.Errorf("the user of the DSN cannot make a database: %w", plain(err))
	}
	for _, t := range tables {
		if err := conn.QueryRow(ctx, there+text(t.Name)).Scan(&loaded); err != nil {
			return plain(err)
		}
		if loaded > 0 {
			continue
		}
		if err := loadTable(ctx, conn, at.Schema, t, rows); err != nil {
			return fmt.Errorf("table %s: %w", t.Name, plain(err))
		}
	}
	return plain(conn.Exec(ctx, "CREATE TABLE IF NOT EXISTS "+quote(at.Schema)+"."+server.LoadedTable+" (at DateTime) ENGINE = TinyLog"))
}

// text is a text as a literal.
func text(s string) string { return "'" + strings.NewReplacer(`\`, `\\`, "'", `\'`).Replace(s) + "'" }

// batchRows bounds one block of rows.
const batchRows = 50_000

func loadTable(ctx context.Context, conn driver.Conn, schema string, t engine.Table, rows server.RowsOf) (err error) {
	types, err := storedTypes(ctx, t, rows)
	if err != nil {
		return err
	}
	var columns, names []string
	for i, c := range t.Columns {
		names = append(names, quote(c.Name))
		columns = append(columns, names[i]+" Nullable("+types[i]+")")
	}
	whole := quote(schema) + "." + quote(t.Name)
	part := quote(schema) + "." + quote(fmt.Sprintf("%sloading_%d_%d_%s", server.OwnPrefix, os.Getpid(), time.Now().UnixNano(), t.Name))
	if err := conn.Exec(ctx, "CREATE TABLE "+part+" ("+strings.Join(columns, ", ")+") ENGINE = MergeTree ORDER BY tuple()"); err != nil {
		return err
	}
	if err = fill(ctx, conn, part+" ("+strings.Join(names, ", ")+")", t, types, rows); err == nil {
		if err = conn.Exec(ctx, "RENAME TABLE "+part+" TO "+whole); err == nil {
			return nil
		}
	}
	dropped := conn.Exec(context.WithoutCancel(ctx), "DROP TABLE IF EXISTS "+part)
	if isCode(err, codeExists) {
		return dropped // another loader was first
	}
	return errors.Join(err, dropped)
}

func fill(ctx context.Context, conn driver.Conn, into string, t engine.Table, types []string, rows server.RowsOf) error {
	var batch driver.Batch
	send := func() error {
		if batch == nil || batch.Rows() == 0 {
			return nil
		}
		err := batch.Send()
		batch = nil
		return err
	}
	err := rows(ctx, t, func(cells []*string) (err error) {
		if batch == nil {
			if batch, err = conn.PrepareBatch(ctx, "INSERT INTO "+into); err != nil {
				return err
			}
		}
		values := make([]any, len(cells))
		for i, c := range cells {
			if c == nil {
				continue
			}
			if values[i], err = stored(*c, types[i], t.Columns[i].Type); err != nil {
				return fmt.Errorf("column %s: %w", t.Columns[i].Name, err)
			}
		}
		if err := batch.Append(values...); err != nil {
			return err
		}
		if batch.Rows() >= batchRows {
			return send()
		}
		return nil
	})
	if err != nil {
		return err
	}
	return send()
}

// wholes are the types of whole numbers of the embedded engine on the server, where tables are joined by columns of one type only.
var wholes = map[string]string{"TINYINT": "Int64", "SMALLINT": "Int64", "INTEGER": "Int64", "BIGINT": "Int64", "UTINYINT": "Int64",
	"USMALLINT": "Int64", "UINTEGER": "Int64", "UBIGINT": "UInt64", "BOOLEAN": "UInt8"}

// storedTypes are the types of a table's columns on the server. Its days and moments are those of 1970 to 2105, in seconds; a column with
// others is of texts, which are in the same order.
func storedTypes(ctx context.Context, t engine.Table, rows server.RowsOf) ([]string, error) {
	types := make([]string, len(t.Columns))
	timed := false
	for i, c := range t.Columns {
		types[i] = storedType(c.Type)
		timed = timed || strings.HasPrefix(types[i], "Date")
	}
	if !timed {
		return types, nil
	}
	return types, rows(ctx, t, func(cells []*string) error {
		for i, c := range cells {
			if c != nil && strings.HasPrefix(types[i], "Date") && !fits(*c, types[i]) {
				types[i] = "String"
			}
		}
		return nil
	})
}

func storedType(of string) string {
	switch {
	case wholes[of] != "":
		return wholes[of]
	case of == "HUGEINT" || of == "UHUGEINT":
		return "Decimal(38, 0)"
	case strings.HasPrefix(of, "DECIMAL"):
		return "Decimal" + strings.TrimPrefix(of, "DECIMAL")
	case of == "FLOAT":
		return "Float32"
	case of == "DOUBLE":
		return "Float64"
	case of == "DATE":
		return "Date"
	case strings.HasPrefix(of, "TIMESTAMP"):
		return "DateTime"
	}
	return "String"
}

// firstYear and lastYear are those of days and moments on the server.
const firstYear, lastYear = 1970, 2105

func fits(cell, of string) bool {
	at, err := moment(cell, of)
	return err == nil && at.Year() >= firstYear && at.Year() <= lastYear && at.Nanosecond() == 0
}

func moment(cell, of string) (time.Time, error) {
	if of == "Date" {
		return time.Parse(time.DateOnly, cell)
	}
	return time.Parse("2006-01-02 15:04:05.999999", strings.TrimSuffix(cell, "+00"))
}

// stored is a cell as the driver takes it; of is the column's type on the server, was that of the embedded engine.
func stored(cell, of, was string) (any, error) {
	switch {
	case was == "BOOLEAN":
		return map[string]uint8{"true": 1}[cell], nil
	case was == "BLOB":
		return string(server.Bytes(cell)), nil
	case of == "UInt64":
		return strconv.ParseUint(cell, 10, 64)
	case of == "Int64":
		return strconv.ParseInt(cell, 10, 64)
	case strings.HasPrefix(of, "Decimal"):
		return decimal.NewFromString(cell)
	case of == "Float32":
		f, err := strconv.ParseFloat(cell, 32)
		return float32(f), err
	case of == "Float64":
		return strconv.ParseFloat(cell, 64)
	case strings.HasPrefix(of, "Date"):
		return moment(cell, of)
	}
	return cell, nil
}

// Drop removes a database of Tovrel's own. The error is of the server.
func Drop(ctx context.Context, at engine.Server) error {
	conn, err := Connect(ctx, engine.Server{DSN: at.DSN}, nil)
	if err != nil {
		return err
	}
	return errors.Join(plain(conn.Exec(ctx, "DROP DATABASE IF EXISTS "+quote(at.Schema))), conn.Close())
}
