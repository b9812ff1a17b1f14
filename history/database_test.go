package history

import (
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"io"
	"testing"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/stretchr/testify/assert"
)

// TestBind: parameters are written as each kind has them.
func TestBind(t *testing.T) {
	for query, bound := range map[string]string{
		"SELECT 1":                            "SELECT 1",
		"a = ? AND b = ?":                     "a = $1 AND b = $2",
		"a = ?1 OR b = ?1 AND c = ?2":         "a = $1 OR b = $1 AND c = $2",
		"VALUES (?, ?, ?)":                    "VALUES ($1, $2, $3)",
		"x IN (SELECT v FROM f(?::json)) = ?": "x IN (SELECT v FROM f($1::json)) = $2",
	} {
		assert.Equal(t, bound, served.bind(query))
		assert.Equal(t, query, lite.bind(query))
	}
}

// TestInsert: what queries ask for is beside a body where the kind has it so.
func TestInsert(t *testing.T) {
	columns, beside := []column{{"place", 1}, {"body", "{}"}}, []column{{"verdict", "right"}}
	statement, args := lite.insert("attempt", columns, beside)
	assert.Equal(t, "INSERT INTO attempt (place, body) VALUES (?, ?)", statement)
	assert.Equal(t, []any{1, "{}"}, args)
	statement, args = served.insert("attempt", columns, beside)
	assert.Equal(t, "INSERT INTO attempt (place, body, verdict) VALUES (?, ?, ?)", statement)
	assert.Equal(t, []any{1, "{}", "right"}, args)
}

// TestDropped: what is tried again is what may go well on another connection, and nothing that the server refused.
func TestDropped(t *testing.T) {
	for _, err := range []error{io.EOF, io.ErrUnexpectedEOF, driver.ErrBadConn, sql.ErrConnDone, &pgconn.PgError{Code: "57P01"},
		&pgconn.PgError{Code: "57P03"}, &pgconn.PgError{Code: "08006"}, &pgconn.PgError{Code: "40001"}, &pgconn.PgError{Code: "53300"},
		fmt.Errorf("within: %w", io.EOF)} {
		assert.True(t, Dropped(err), "%v", err)
	}
	for _, err := range []error{sql.ErrNoRows, &pgconn.PgError{Code: "23505"}, &pgconn.PgError{Code: "28P01"},
		&pgconn.PgError{Code: "53100"}, errors.New("another")} {
		assert.False(t, Dropped(err), "%v", err)
	}
}
