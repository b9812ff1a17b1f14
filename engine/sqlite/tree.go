package sqlite

import (
	"bytes"
	"context"
	"strings"

	"tovrel/core/sql"
	"tovrel/engine"
)

// Parser reads queries as syntax trees and writes them: SQLite itself gives none.
type Parser interface {
	Parse(ctx context.Context, query string) (serialised []byte, err error)
	Write(ctx context.Context, serialised []byte) (query string, err error)
}

// parse is the parser, which is started when it is first asked for.
func (d *Database) parse() (Parser, error) {
	if d.parser == nil {
		p, err := d.newParser()
		if err != nil {
			return nil, err
		}
		d.parser = p
	}
	return d.parser, nil
}

// tree is a query's serialised tree; nil where the parser does not read it, and where SQLite does not take what the tree is written as:
// then it means something else.
func (d *Database) tree(ctx context.Context, query string) []byte {
	p, err := d.parse()
	if err != nil {
		return nil
	}
	serialised, err := p.Parse(ctx, withCalls(query))
	if err != nil {
		return nil
	}
	serialised = bytes.ReplaceAll(serialised, []byte(`"`+called), []byte(`"`))
	if _, err := sql.Read(serialised); err != nil {
		return nil
	}
	written, err := p.Write(ctx, serialised)
	if err != nil {
		return nil
	}
	statement, err := d.conn.PrepareContext(ctx, written)
	if err != nil {
		return nil
	}
	_ = statement.Close() // it was never run
	return serialised
}

// called begins the name that a function has for the parser, where that takes its own name for a type.
const called = "tovrel_lite_"

// withCalls is a query in which the functions whose names are types elsewhere have names of their own.
func withCalls(query string) string {
	var b strings.Builder
	done := 0
	tokens := sql.Tokens(query)
	for i, t := range tokens {
		name := strings.ToLower(t.Text)
		if (name == "date" || name == "time") && t.Kind == sql.WordToken && i+1 < len(tokens) && tokens[i+1].Text == "(" {
			b.WriteString(query[done:t.Start] + called + name)
			done = t.Start + len(t.Text)
		}
	}
	return b.String() + query[done:]
}

// written is a request's query as text.
func (d *Database) written(ctx context.Context, r engine.Request) (string, error) {
	if r.Serialised == "" {
		return r.SQL, nil
	}
	p, err := d.parse()
	if err != nil {
		return "", err
	}
	return p.Write(ctx, []byte(r.Serialised))
}
