package server

import (
	"context"
	"database/sql"
	"errors"
	"strings"
)

// Querier is a connection of database/sql.
type Querier interface {
	QueryContext(ctx context.Context, query string, arguments ...any) (*sql.Rows, error)
}

// Names are the texts of a query's only column, as a set. The error is the driver's.
func Names(ctx context.Context, q Querier, query string) (out map[string]bool, err error) {
	rows, err := q.QueryContext(ctx, query)
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	out = map[string]bool{}
	for rows.Next() {
		var name string
		if err := rows.Scan(&name); err != nil {
			return nil, err
		}
		out[name] = true
	}
	return out, rows.Err()
}

// Unqualified is the last part of the name that stands first in single quotes in a server's message.
func Unqualified(message string) string {
	_, name, _ := strings.Cut(message, "'")
	name, _, _ = strings.Cut(name, "'")
	return name[strings.LastIndexByte(name, '.')+1:]
}
