package duckdb

import (
	"context"
	database "database/sql"
	"errors"
	"maps"
	"net/url"

	"github.com/duckdb/duckdb-go/v2"

	"tovrel/core/sql"
)

// Parser reads queries as syntax trees and writes such trees, for engines that have none of their own. It holds no data and runs nothing.
type Parser struct {
	db   *database.DB
	conn *database.Conn
}

// NewParser starts one. It errs where there is no room for it.
func NewParser() (*Parser, error) {
	dsn := url.Values{}
	maps.Copy(dsn, options)
	dsn.Set("memory_limit", "64MB")
	dsn.Set("threads", "1")
	dsn.Set("enable_external_access", "false")
	connector, err := duckdb.NewConnector(":memory:?"+dsn.Encode(), nil)
	if err != nil {
		return nil, err
	}
	p := &Parser{db: database.OpenDB(connector)}
	if p.conn, err = p.db.Conn(context.Background()); err != nil {
		return nil, errors.Join(err, p.db.Close())
	}
	return p, nil
}

// Parse gives a query's tree as the serialiser writes it, which may be that of an error: sql.Read tells.
func (p *Parser) Parse(ctx context.Context, query string) ([]byte, error) {
	var serialised string
	err := p.conn.QueryRowContext(ctx, "SELECT json_serialize_sql(?::VARCHAR, skip_null := true)::VARCHAR", query).Scan(&serialised)
	return []byte(serialised), err
}

// Write gives a serialised tree's query as people write it, or where it has no such form, as the engine does.
func (p *Parser) Write(ctx context.Context, serialised []byte) (string, error) {
	if tree, err := sql.Read(serialised); err == nil {
		if text, ok := tree.Formatted(); ok {
			return text, nil
		}
	}
	var text string
	err := p.conn.QueryRowContext(ctx, "SELECT json_deserialize_sql(?::JSON)", string(serialised)).Scan(&text)
	return text, err
}
