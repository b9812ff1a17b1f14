package history

import (
	"database/sql"
	"errors"
	"slices"
	"strconv"
	"strings"
	"time"

	"tovrel/core/near"
	"tovrel/core/record"
	"tovrel/trouble"
)

// columns are a run's number and body, with the state that it has: a run that its budget ended is stopped, which earlier programs stored as
// complete (cutShort).
func (s *Store) columns() string { return s.db.kind.columns }

// complete is the condition of a complete run, whose state is the parameter.
func (s *Store) complete() string { return "state = ? AND NOT " + s.db.kind.cutShort }

// Find finds a run by number, mark, "latest" (the newest of any state), a translator (its latest complete run), or a translator with
// ~N (the Nth before that). It errs where there is none, with what there is.
func (s *Store) Find(name string) (record.Run, error) {
	if id, err := strconv.Atoi(name); err == nil {
		return s.one(name, "SELECT "+s.columns()+" FROM run WHERE id = ?", id)
	}
	var marked sql.NullInt64
	if err := s.db.QueryRowContext(s.ctx, "SELECT max(run) FROM mark WHERE name = ?", name).Scan(&marked); err != nil {
		return record.Run{}, trouble.As(trouble.Unreachable, err)
	}
	if marked.Valid {
		return s.byID(int(marked.Int64))
	}
	if name == "latest" {
		return s.one(name, "SELECT "+s.columns()+" FROM run ORDER BY id DESC LIMIT 1")
	}
	translator, back, hasBack := strings.Cut(name, "~")
	n := 0
	if hasBack {
		var err error
		if n, err = strconv.Atoi(back); err != nil || n < 0 {
			return record.Run{}, trouble.New(trouble.Usage, "%q is no run; write it as TRANSLATOR~1 for the run before the latest", name)
		}
	}
	return s.one(name, "SELECT "+s.columns()+" FROM run WHERE translator = ? AND "+s.complete()+
		" ORDER BY id DESC LIMIT 1 OFFSET ?", translator, record.Complete, n)
}

// CompleteRuns are the numbers of the complete runs of a translator, the oldest first: of one version, or of all where none is named.
func (s *Store) CompleteRuns(translator string) ([]int, error) {
	rows, err := s.db.QueryContext(s.ctx, "SELECT id FROM run WHERE (translator = ?1 OR translator LIKE replace(?1, '_', '\\_') || '@%' "+
		"ESCAPE '\\') AND state = ?2 AND NOT "+s.db.kind.cutShort+" ORDER BY id", translator, record.Complete)
	if err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	defer rows.Close() //nolint:errcheck // rows.Err tells
	var ids []int
	for rows.Next() {
		var id int
		if err := rows.Scan(&id); err != nil {
			return nil, trouble.As(trouble.Unreachable, err)
		}
		ids = append(ids, id)
	}
	return ids, trouble.As(trouble.Unreachable, rows.Err())
}

// RunsSince are the runs of a translator with its version that were begun at some moment or later, in any state, the oldest first.
func (s *Store) RunsSince(translator string, since time.Time) ([]record.Run, error) {
	rows, err := s.db.QueryContext(s.ctx, "SELECT "+s.columns()+" FROM run WHERE translator = ? ORDER BY id", translator)
	if err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	all, err := collectRuns(rows)
	return slices.DeleteFunc(all, func(r record.Run) bool { return r.Started.Before(since) }), err
}

func (s *Store) byID(id int) (record.Run, error) {
	return s.one(strconv.Itoa(id), "SELECT "+s.columns()+" FROM run WHERE id = ?", id)
}

func (s *Store) one(name, query string, args ...any) (record.Run, error) {
	rows, err := s.db.QueryContext(s.ctx, query, args...)
	if err != nil {
		return record.Run{}, trouble.As(trouble.Unreachable, err)
	}
	runs, err := collectRuns(rows)
	if err != nil {
		return record.Run{}, err
	}
	if len(runs) == 0 {
		return record.Run{}, s.unknown(name)
	}
	return runs[0], nil
}

// unknown says what runs there are instead.
func (s *Store) unknown(name string) error {
	var newest sql.NullInt64
	err := s.db.QueryRowContext(s.ctx, "SELECT max(id) FROM run").Scan(&newest)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return trouble.As(trouble.Unreachable, err)
	}
	if !newest.Valid {
		return trouble.New(trouble.Usage, "unknown run %q; the history has none yet, make one with `tovrel run`", name)
	}
	if _, err := strconv.Atoi(name); err == nil {
		return trouble.New(trouble.Usage, "unknown run %q; the history has runs 1 to %d", name, newest.Int64)
	}
	known := []string{"latest"}
	rows, err := s.db.QueryContext(s.ctx, "SELECT translator FROM run WHERE "+s.complete()+
		" UNION SELECT name FROM mark ORDER BY 1", record.Complete)
	if err != nil {
		return trouble.As(trouble.Unreachable, err)
	}
	defer rows.Close() //nolint:errcheck // rows.Err tells
	for rows.Next() {
		var t string
		if err := rows.Scan(&t); err != nil {
			return trouble.As(trouble.Unreachable, err)
		}
		known = append(known, t)
	}
	return trouble.New(trouble.Usage, "unknown run %q (a mark, or a translator's name for its latest complete run); %s", name,
		near.Hint(name, known))
}

// Runs lists all runs, the oldest first.
func (s *Store) Runs() ([]record.Run, error) {
	rows, err := s.db.QueryContext(s.ctx, "SELECT "+s.columns()+" FROM run ORDER BY id")
	if err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	return collectRuns(rows)
}
