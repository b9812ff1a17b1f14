package history

import (
	"context"
	"database/sql"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/cenkalti/backoff/v5"
)

// kind is what a kind of database has for what the others write otherwise.
type kind struct {
	forms     []string // the steps to the present form: see form.go
	form      string   // asks for the form that a history has
	formNow   string   // notes it; %d is the form
	numbered  bool     // parameters are $1, $2, … there
	cutShort  string   // a condition: see find.go
	columns   string   // a run's number and body, for cutShort
	beside    bool     // what a body says and queries ask for is in columns of its own: no body is read there
	uid       string   // of a run
	verdict   string   // of an attempt
	used      string   // the digests of all tables that are still used
	places    string   // the values of a list of places in JSON, which is the parameter
	states    string   // reads the number and the state of every run
	compact   string   // gives the space of what was removed back
	dropped   func(error) bool
	exclusive string // keeps others from a transaction that changes the form; "" where a transaction does
}

// database is a history's database. What is read is asked for again where the connection was dropped, as long as patience lasts.
type database struct {
	*sql.DB
	kind *kind
}

// patience is how long a database that dropped its connections is waited for: a restart takes less.
const patience = time.Minute

// insist does something until the connection holds, or for as long as patience lasts.
func (k *kind) insist(ctx context.Context, do func() error) error {
	wait := backoff.NewExponentialBackOff()
	wait.InitialInterval, wait.MaxInterval = 50*time.Millisecond, 2*time.Second
	_, err := backoff.Retry(ctx, func() (struct{}, error) {
		err := do()
		if err != nil && (k.dropped == nil || !k.dropped(err)) {
			err = backoff.Permanent(err)
		}
		return struct{}{}, err
	}, backoff.WithBackOff(wait), backoff.WithMaxElapsedTime(patience))
	return err
}

// bind writes a query's parameters as the kind has them: ? and ?1 as $1.
func (k *kind) bind(query string) string {
	if !k.numbered {
		return query
	}
	var b strings.Builder
	for n := 1; ; n++ {
		before, after, found := strings.Cut(query, "?")
		b.WriteString(before)
		if !found {
			return b.String()
		}
		b.WriteByte('$')
		if after == "" || after[0] < '0' || after[0] > '9' {
			b.WriteString(strconv.Itoa(n))
		}
		query = after
	}
}

// QueryContext asks for rows.
func (d *database) QueryContext(ctx context.Context, query string, args ...any) (rows *sql.Rows, err error) {
	err = d.kind.insist(ctx, func() error {
		rows, err = d.DB.QueryContext(ctx, d.kind.bind(query), args...) //nolint:sqlclosecheck // the caller closes them
		return err
	})
	return rows, err
}

// row is a query for one row, which Scan asks.
type row func(into ...any) error

// Scan reads the row; it errs with sql.ErrNoRows where there is none.
func (r row) Scan(into ...any) error { return r(into...) }

// QueryRowContext is a query for one row.
func (d *database) QueryRowContext(ctx context.Context, query string, args ...any) row {
	return func(into ...any) error {
		return d.kind.insist(ctx, func() error { return d.DB.QueryRowContext(ctx, d.kind.bind(query), args...).Scan(into...) })
	}
}

// ExecContext does something that may be done twice.
func (d *database) ExecContext(ctx context.Context, query string, args ...any) (result sql.Result, err error) {
	err = d.kind.insist(ctx, func() error {
		result, err = d.DB.ExecContext(ctx, d.kind.bind(query), args...)
		return err
	})
	return result, err
}

// writer is a transaction. Where it is tried again, the first may have been done after all: its end was not heard of.
type writer struct {
	*sql.Tx
	kind  *kind
	again bool
}

// Exec does something within the transaction.
func (w *writer) Exec(query string, args ...any) (sql.Result, error) {
	return w.Tx.Exec(w.kind.bind(query), args...)
}

// QueryRow asks for one row within the transaction.
func (w *writer) QueryRow(query string, args ...any) *sql.Row {
	return w.Tx.QueryRow(w.kind.bind(query), args...)
}

// column is a column with its value.
type column struct {
	name  string
	value any
}

// insert is a statement that adds a row, and its arguments; beside are columns that only kinds have which keep them beside bodies.
func (k *kind) insert(table string, columns, beside []column) (statement string, args []any) {
	if k.beside {
		columns = slices.Concat(columns, beside)
	}
	names := make([]string, len(columns))
	for i, c := range columns {
		names[i], args = c.name, append(args, c.value)
	}
	return "INSERT INTO " + table + " (" + strings.Join(names, ", ") + ") VALUES (?" + strings.Repeat(", ?", len(columns)-1) + ")", args
}

// numberOf adds a row that is numbered, and gives its number.
func (w *writer) numberOf(table string, columns, beside []column) (id int, err error) {
	insert, args := w.kind.insert(table, columns, beside)
	err = w.QueryRow(insert+" RETURNING id", args...).Scan(&id)
	return id, err
}
