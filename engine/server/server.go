// Package server runs queries on a database server inside a worker: what PostgreSQL, MariaDB and their like have in common. A query passes
// the gate, sees the dataset's today, and runs in a read-only transaction under the server's own limit of time; trees of queries come from
// the embedded engine's parser, through core/dialect. What a server speaks is in the package of each (postgres, mysql).
package server

import (
	"context"
	"errors"
	"time"

	"tovrel/core/dialect"
	"tovrel/core/fault"
	"tovrel/core/near"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/engine"
)

// Parser reads queries as syntax trees.
type Parser interface {
	Parse(ctx context.Context, query string) (serialised []byte, err error)
}

// Backend is a connection to a server.
type Backend interface {
	// Read runs a statement that the gate let through, and gives its rows within the limits. The error is *engine.Failure where the server
	// says what is wrong, else of the connection.
	Read(ctx context.Context, query string, limits engine.Limits) (*table.Table, error)
	// Today is a query that sees a dataset's today where it reads the clock; false where it reads none, or the session's clock is set.
	Today(query string, tokens []sql.Token, today sql.Today) (string, bool)
	// Close ends the connection.
	Close() error
}

// Database is a dataset on a server. It implements engine.Database.
type Database struct {
	Backend Backend
	Gate    *Gate
	Dialect string
	Columns dialect.Columns
	Names   []string // of tables and columns, for hints
	Limits  engine.Limits
	Now     sql.Today

	NewParser func() (Parser, error)
	parser    Parser
}

// Run implements engine.Database. The error is *engine.Failure, or *engine.Broken where the connection is gone.
func (d *Database) Run(ctx context.Context, r engine.Request, emit func(*table.Table) error) (engine.Ran, error) {
	ran, text, err := d.prepare(ctx, r)
	if err != nil {
		return ran, d.failure(ctx, err)
	}
	if r.ParseOnly {
		return ran, emit(&table.Table{})
	}
	tokens, err := d.Gate.Check(text)
	if err != nil {
		return ran, d.failure(ctx, err)
	}
	if seen, changed := d.Backend.Today(text, tokens, d.Now); changed {
		text, ran.Instead = seen, seen
	}
	start := time.Now()
	t, err := d.Backend.Read(ctx, text, d.Limits)
	ran.Elapsed = time.Since(start)
	if err != nil {
		return ran, d.failure(ctx, err)
	}
	return ran, emit(t)
}

// prepare gives the text that runs: the request's own, or what a query of the embedded dialect is here.
func (d *Database) prepare(ctx context.Context, r engine.Request) (ran engine.Ran, text string, err error) {
	if r.Dialect == d.Dialect && r.Serialised == "" {
		if r.Tree || r.ParseOnly {
			ran.Tree = d.tree(ctx, r.SQL)
		}
		return ran, r.SQL, nil
	}
	serialised := []byte(r.Serialised)
	if r.Dialect != "" && r.Dialect != dialect.Embedded {
		return ran, "", &dialect.Unsupported{What: "a query of the dialect " + r.Dialect, Dialect: d.Dialect}
	}
	if r.Serialised == "" {
		if serialised, err = d.parse(ctx, r.SQL); err != nil {
			return ran, "", err
		}
	}
	tree, err := sql.Read(serialised)
	if err != nil {
		return ran, "", err
	}
	ran.Tree = serialised
	if r.ParseOnly {
		return ran, "", nil
	}
	tree.SeeToday(d.Now, r.SQL)
	text, _, err = dialect.Write(tree, d.Dialect, d.Columns)
	ran.Instead = text
	return ran, text, err
}

func (d *Database) parse(ctx context.Context, query string) ([]byte, error) {
	if d.parser == nil {
		p, err := d.NewParser()
		if err != nil {
			return nil, err
		}
		d.parser = p
	}
	return d.parser.Parse(ctx, query)
}

// tree is the serialised tree of a query of the server's dialect, as the embedded dialect would write it; nil where it cannot be told.
func (d *Database) tree(ctx context.Context, query string) []byte {
	plain, err := dialect.Plain(query, d.Dialect, d.Columns)
	if err != nil {
		return nil
	}
	serialised, err := d.parse(ctx, plain)
	if err != nil {
		return nil
	}
	tree, err := sql.Read(serialised)
	if err != nil {
		return nil
	}
	local, _, err := dialect.Local(tree, d.Dialect, d.Columns)
	if err != nil {
		return nil
	}
	if serialised, err = d.parse(ctx, local); err != nil {
		return nil
	}
	if _, err := sql.Read(serialised); err != nil {
		return nil
	}
	return serialised
}

// failure turns any error of a query into *engine.Failure, or *engine.Broken.
func (d *Database) failure(ctx context.Context, err error) error {
	var failure *engine.Failure
	var refusal *sql.Refusal
	var parse *sql.ParseError
	var unsupported *dialect.Unsupported
	switch {
	case errors.As(err, &failure):
		d.hint(failure)
		if failure.Code == fault.TooSlow {
			return &engine.Failure{Code: fault.TooSlow, Message: "the query ran longer than its time limit (limits: time)", Position: -1}
		}
		return failure
	case errors.As(err, &refusal):
		return engine.Refused(refusal)
	case errors.As(err, &parse):
		return &engine.Failure{Code: fault.Syntax, Message: parse.Message, Position: parse.Position}
	case errors.As(err, &unsupported):
		return &engine.Failure{Code: fault.EngineError, Message: unsupported.Error(), Position: -1, Foreign: true}
	case ctx.Err() != nil || errors.Is(err, context.DeadlineExceeded):
		return &engine.Failure{Code: fault.TooSlow, Message: "the query ran longer than its time limit (limits: time)", Position: -1}
	}
	return &engine.Broken{Failure: &engine.Failure{Code: fault.EngineError, Message: "the connection to the server is gone: " + err.Error(),
		Position: -1}}
}

// hint adds the nearest names to a failure for a name that is not there. Its candidates hold the name that was written.
func (d *Database) hint(f *engine.Failure) {
	if f.Code != fault.UnknownTable && f.Code != fault.UnknownColumn || len(f.Candidates) != 1 {
		return
	}
	name := f.Candidates[0]
	f.Candidates = nil
	if nearest := near.Name(name, d.Names); nearest != "" {
		f.Candidates = []string{nearest}
	}
}

// Close closes the connection. It errs as the server does.
func (d *Database) Close() error { return d.Backend.Close() }
