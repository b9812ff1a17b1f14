// Package duckdb runs queries on a frozen DuckDB file inside a worker: read-only, without files, network, extensions or
// settings, and only after the gate (core/sql/gate) let the query's syntax tree pass. It also imports sample files.
package duckdb

import (
	"context"
	database "database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"maps"
	"net/url"
	"time"

	"github.com/duckdb/duckdb-go/v2"

	"tovrel/core/dialect"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/engine"
)

// Name is the engine's name in a worker's setup, and the dialect of its queries.
const Name = engine.DuckDB

// Database is an open frozen dataset.
type Database struct {
	db        *database.DB
	conn      *database.Conn
	serialise *database.Stmt
	functions map[string]bool // that the engine has; nil until one is asked for that the gate does not know
	today     sql.Today
	columns   *dialect.Columns // of its tables; nil until a query of another dialect asks for them
}

// options are set for every database, the importer's too.
var options = url.Values{
	"errors_as_json":                         {"true"},
	"autoinstall_known_extensions":           {"false"},
	"autoload_known_extensions":              {"false"},
	"allow_community_extensions":             {"false"},
	"allow_unsigned_extensions":              {"false"},
	"enable_http_metadata_cache":             {"false"},
	"allow_persistent_secrets":               {"false"},
	"preserve_insertion_order":               {"true"},
	"scalar_subquery_error_on_multiple_rows": {"true"},
}

// Open opens a frozen dataset read-only for hostile queries. It errs where the file is none of the engine's, or there is no room for
// its memory.
func Open(setup engine.Setup) (*Database, error) {
	dsn := url.Values{}
	maps.Copy(dsn, options)
	dsn.Set("access_mode", "read_only")
	dsn.Set("memory_limit", fmt.Sprintf("%dMB", max(64, setup.Limits.Memory>>21))) // half: not every allocation counts
	dsn.Set("threads", "1")                                                        // ties come out the same each time
	dsn.Set("enable_external_access", "false")
	dsn.Set("max_temp_directory_size", "0GB")
	statements := []string{"SET GLOBAL timezone='UTC'", "SET GLOBAL max_expression_depth=250"}
	if setup.Careful {
		statements = append(statements, "SET GLOBAL disabled_optimizers='build_side_probe_side'")
	}
	statements = append(statements, "SET GLOBAL lock_configuration=true")
	connector, err := duckdb.NewConnector(setup.File+"?"+dsn.Encode(), initialiser(statements))
	if err != nil {
		return nil, err
	}
	d := &Database{db: database.OpenDB(connector), today: sql.TodayOf(setup.AsOf)}
	ctx := context.Background()
	if d.conn, err = d.db.Conn(ctx); err != nil {
		return nil, err
	}
	d.serialise, err = d.conn.PrepareContext(ctx, "SELECT json_serialize_sql(?::VARCHAR, skip_null := true)::VARCHAR")
	return d, err
}

func initialiser(statements []string) func(driver.ExecerContext) error {
	return func(ex driver.ExecerContext) error {
		for _, s := range statements {
			if _, err := ex.ExecContext(context.Background(), s, nil); err != nil {
				return err
			}
		}
		return nil
	}
}

// Run implements engine.Database. The error is *engine.Failure, or *engine.Broken where the database died of the query.
func (d *Database) Run(ctx context.Context, r engine.Request, emit func(*table.Table) error) (engine.Ran, error) {
	var rules []string
	given := r
	if r.Dialect != "" && r.Dialect != Name {
		text, used, err := d.rewritten(ctx, r.SQL, r.Dialect)
		if err != nil {
			return engine.Ran{}, asFailure(ctx, err)
		}
		r.SQL, rules = text, used
	}
	ran, err := d.runLocal(ctx, r, emit)
	if rules == nil {
		return ran, err
	}
	if ran.Rules = rules; ran.Instead == "" && r.SQL != given.SQL {
		ran.Instead = r.SQL
	}
	return ran, asForeign(err)
}

// runLocal runs a query of this engine's own dialect.
func (d *Database) runLocal(ctx context.Context, r engine.Request, emit func(*table.Table) error) (engine.Ran, error) {
	ran, text, err := d.prepare(ctx, r)
	if err != nil {
		return ran, asFailure(ctx, err)
	}
	if r.ParseOnly {
		return ran, emit(&table.Table{})
	}
	start := time.Now()
	err = d.conn.Raw(func(c any) error {
		arrow, err := duckdb.NewArrowFromConn(c.(driver.Conn))
		if err != nil {
			return err
		}
		return stream(ctx, arrow, text, emit)
	})
	ran.Elapsed = time.Since(start)
	return ran, asFailure(ctx, err)
}

// prepare has a request's query pass the gate, and gives the text to run: the same, or one that sees the dataset's today.
func (d *Database) prepare(ctx context.Context, r engine.Request) (ran engine.Ran, text string, err error) {
	if text, err = d.written(ctx, r); err != nil {
		return ran, "", err
	}
	if err := sql.CheckText(text); err != nil {
		return ran, "", err
	}
	if text, err = d.withPivotLists(ctx, text); err != nil {
		return ran, "", err
	}
	tree, serialised, err := d.gate(ctx, text)
	if err != nil {
		return ran, "", err
	}
	ran.Tree = serialised
	if r.Serialised != "" {
		ran.Instead = text // the caller has not seen it written
	}
	if !tree.SeeToday(d.today, text) {
		return ran, text, nil
	}
	frozen, err := tree.Serialised()
	if err != nil {
		return ran, "", err
	}
	ran.Instead, err = d.written(ctx, engine.Request{Serialised: string(frozen)})
	return ran, ran.Instead, err
}

// written is a request's query as text: a syntax tree is written out first, and then passes the gate like any other.
func (d *Database) written(ctx context.Context, r engine.Request) (string, error) {
	if r.Serialised == "" {
		return r.SQL, nil
	}
	var text string
	err := d.conn.QueryRowContext(ctx, "SELECT json_deserialize_sql(?::JSON)", r.Serialised).Scan(&text)
	return text, err
}

// gate lets only one reading statement pass, and gives its tree, also as it was serialised.
func (d *Database) gate(ctx context.Context, text string) (*sql.Tree, []byte, error) {
	var serialised string
	if err := d.serialise.QueryRowContext(context.WithoutCancel(ctx), text).Scan(&serialised); err != nil { // parsing honours no interrupt
		return nil, nil, err
	}
	tree, err := sql.Read([]byte(serialised))
	if err != nil {
		return nil, nil, err
	}
	return tree, []byte(serialised), tree.Check(d.hasFunction)
}

// hasFunction tells whether the engine has a function of a name.
func (d *Database) hasFunction(name string) bool {
	if d.functions == nil {
		names, err := d.functionNames()
		if err != nil {
			return true // what cannot be told is not let through
		}
		d.functions = names
	}
	return d.functions[name]
}

func (d *Database) functionNames() (names map[string]bool, err error) {
	rows, err := d.conn.QueryContext(context.Background(), "SELECT DISTINCT lower(function_name) FROM duckdb_functions()")
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	names = map[string]bool{}
	for rows.Next() {
		var name string
		if err := rows.Scan(&name); err != nil {
			return nil, err
		}
		names[name] = true
	}
	return names, rows.Err()
}

// stream runs a query and emits its rows. A result without rows is emitted once, for its columns.
func stream(ctx context.Context, arrow *duckdb.Arrow, text string, emit func(*table.Table) error) error {
	reader, err := arrow.QueryContext(ctx, text)
	if err != nil {
		return err
	}
	defer reader.Release()
	columns, err := columnsOf(reader.Schema())
	if err != nil {
		return err
	}
	first := true
	for reader.Next() {
		if err := emit(batchOf(columns, reader.RecordBatch())); err != nil {
			return err
		}
		first = false
	}
	if err := reader.Err(); err != nil {
		return err
	}
	if first {
		return emit(batchOf(columns, nil))
	}
	return nil
}

// Close closes the database. It errs as the engine does.
func (d *Database) Close() error {
	return errors.Join(d.serialise.Close(), d.conn.Close(), d.db.Close())
}
