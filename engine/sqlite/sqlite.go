// Package sqlite runs queries on a frozen SQLite file inside a worker: read-only, under an authoriser that lets a statement
// select, read, recurse and call functions, and nothing else. It adds the aggregates and date functions that business
// questions need and SQLite lacks. SQLite has no syntax tree to give: a parser of another engine reads those queries that both write alike.
package sqlite

import (
	"context"
	database "database/sql"
	"database/sql/driver"
	"errors"
	"net/url"
	"runtime/debug"
	"time"

	"modernc.org/sqlite"
	lib "modernc.org/sqlite/lib"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/engine"
)

// Name is the engine's name in a worker's setup, and the dialect of its queries.
const Name = "sqlite"

// longest bounds a text or blob that a query makes, in bytes.
const longest = 16 << 20

// Database is an open frozen dataset.
type Database struct {
	db     *database.DB
	conn   *database.Conn
	names  []string // of tables and columns, for hints
	limits engine.Limits

	newParser func() (Parser, error)
	parser    Parser // nil until it is asked for
}

// sandboxed opens connections of a driver of our own, so that the history's are not touched.
type sandboxed struct {
	driver *sqlite.Driver
	dsn    string
}

func (s sandboxed) Connect(context.Context) (driver.Conn, error) { return s.driver.Open(s.dsn) }
func (s sandboxed) Driver() driver.Driver                        { return s.driver }

// Open opens a frozen dataset read-only for hostile queries; trees of queries come from a parser. It errs where the file is no database.
func Open(setup engine.Setup, newParser func() (Parser, error)) (*Database, error) {
	debug.SetMemoryLimit(setup.Limits.Memory / 2)
	own := &sqlite.Driver{}
	register(own)
	own.RegisterConnectionHook(func(c sqlite.ExecQuerierContext, _ string) error {
		authorizer, ok := c.(sqlite.AuthorizerRegisterer)
		if !ok {
			return errors.New("the SQLite driver takes no authoriser")
		}
		return authorizer.RegisterAuthorizer(authorise)
	})
	dsn := "file:" + (&url.URL{Path: setup.File}).EscapedPath() +
		"?mode=ro&_dqs=0&_defensive=1&_pragma=query_only(1)&_pragma=trusted_schema(0)&_pragma=temp_store(2)&_pragma=cell_size_check(1)"
	d := &Database{db: database.OpenDB(sandboxed{own, dsn}), limits: setup.Limits, newParser: newParser}
	err := stopClock(sql.TodayOf(setup.AsOf))
	if err != nil {
		return nil, err
	}
	if d.names, err = schemaNames(setup.File); err != nil {
		return nil, err
	}
	if d.conn, err = d.db.Conn(context.Background()); err != nil {
		return nil, err
	}
	for id, most := range map[int]int{lib.SQLITE_LIMIT_ATTACHED: 0, lib.SQLITE_LIMIT_LENGTH: longest,
		lib.SQLITE_LIMIT_SQL_LENGTH: sql.MaxBytes,
		lib.SQLITE_LIMIT_EXPR_DEPTH: 250, lib.SQLITE_LIMIT_COMPOUND_SELECT: 200, lib.SQLITE_LIMIT_LIKE_PATTERN_LENGTH: 1000} {
		if _, err := sqlite.Limit(d.conn, id, most); err != nil {
			return nil, err
		}
	}
	return d, nil
}

// forbidden are functions that tell about the machine or load code.
var forbidden = map[string]bool{"load_extension": true, "readfile": true, "writefile": true, "edit": true, "fts3_tokenizer": true,
	"sqlite_compileoption_get": true, "sqlite_compileoption_used": true, "sqlite_source_id": true, "sqlite_log": true, "zeroblob": false}

func authorise(action sqlite.AuthorizerActionCode, first, second, _, _ string) sqlite.AuthorizerReturnCode {
	switch action {
	case sqlite.AuthSelect, sqlite.AuthRecursive:
		return sqlite.AuthorizerOK
	case sqlite.AuthRead:
		if systemTable(first) {
			return sqlite.AuthorizerDeny
		}
		return sqlite.AuthorizerOK
	case sqlite.AuthFunction:
		if forbidden[second] {
			return sqlite.AuthorizerDeny
		}
		return sqlite.AuthorizerOK
	}
	return sqlite.AuthorizerDeny
}

func systemTable(name string) bool {
	const prefix = "sqlite_"
	return len(name) >= len(prefix) && name[:len(prefix)] == prefix || name == "dbstat" || len(name) > 7 && name[:7] == "pragma_"
}

// Run implements engine.Database. The error is *engine.Failure, or *engine.Broken where the database died of the query.
func (d *Database) Run(ctx context.Context, r engine.Request, emit func(*table.Table) error) (engine.Ran, error) {
	var ran engine.Ran
	if r.Dialect != "" && r.Dialect != Name {
		return ran, &engine.Failure{Code: fault.EngineError, Position: -1, Foreign: true,
			Message: "a query of the dialect " + r.Dialect + " cannot be run on a dataset that is an SQLite file"}
	}
	text, err := d.written(ctx, r)
	if err != nil {
		return ran, d.asFailure(ctx, r.SQL, err)
	}
	if r.Serialised != "" {
		ran.Instead = text // the caller has not seen it written
	}
	if err := sql.CheckText(text); err != nil {
		return ran, d.asFailure(ctx, text, err)
	}
	if err := sql.CheckTokens(sql.Tokens(text)); err != nil {
		return ran, d.asFailure(ctx, text, err)
	}
	start := time.Now()
	t, err := d.read(ctx, text)
	ran.Elapsed = time.Since(start)
	if err != nil {
		return ran, d.asFailure(ctx, text, err)
	}
	if r.Tree {
		ran.Tree = d.tree(ctx, text)
	}
	return ran, emit(t)
}

// read fetches a result whole, within the limits: the type of a column shows only when all its cells are there.
func (d *Database) read(ctx context.Context, text string) (t *table.Table, err error) {
	rows, err := d.conn.QueryContext(ctx, text)
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	types, err := rows.ColumnTypes()
	if err != nil {
		return nil, err
	}
	columns := make([]*column, len(types))
	targets := make([]any, len(types))
	for i, c := range types {
		columns[i] = &column{name: c.Name(), declared: c.DatabaseTypeName()}
		targets[i] = &columns[i].cell
	}
	budget := d.limits.Result
	for n := 0; rows.Next(); n++ {
		if err := rows.Scan(targets...); err != nil {
			return nil, err
		}
		for _, c := range columns {
			budget -= c.keep()
		}
		if n >= d.limits.Rows || budget < 0 {
			break // one row more than is allowed: the sender refuses it
		}
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	t = &table.Table{}
	for _, c := range columns {
		t.Columns = append(t.Columns, c.typed())
	}
	if budget < 0 {
		return nil, &engine.Failure{Code: fault.TooBig, Message: resultTooLarge(d.limits), Position: -1}
	}
	return t, nil
}

// Close closes the database. It errs as the engine does.
func (d *Database) Close() error { return errors.Join(d.conn.Close(), d.db.Close()) }
