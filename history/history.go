// Package history keeps runs in a SQLite file, or in a PostgreSQL server for a team. Every attempt is stored in its own transaction; runs
// never change once they are finished.
//
// Errors are of kind trouble.Unreachable where the file cannot be read or written, and say that it is damaged where what it holds cannot be
// understood; nothing is half written then.
package history

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"golang.org/x/sys/unix"
	"modernc.org/sqlite"
	lib "modernc.org/sqlite/lib"

	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/table"
	"tovrel/trouble"
)

// Store is an open history. Its methods err with trouble.Unreachable where the file cannot be read or written; what each says of errors is
// beyond that. A write is done whole or not at all.
type Store struct {
	db  *database
	ctx context.Context // of the command that opened it: it ends what is read
}

// keeping is the context of what is written: an answer that was paid for is kept, also when the command is being ended.
func (s *Store) keeping() context.Context { return context.WithoutCancel(s.ctx) }

// Open opens a history, a file or the DSN of a PostgreSQL server, making it when it is missing. Reading it ends with the context. It errs
// where it cannot be made, is no history, or is of a newer program.
func Open(ctx context.Context, path string) (*Store, error) {
	if OnServer(path) {
		return openServed(ctx, path)
	}
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		return nil, trouble.New(trouble.Unreachable, "the history %s cannot be made: %w", path, err)
	}
	options := url.Values{"_pragma": {"journal_mode(WAL)", "synchronous(NORMAL)", "busy_timeout(10000)", "foreign_keys(1)"},
		"_txlock": {"immediate"}}
	db, err := sql.Open("sqlite", (&url.URL{Scheme: "file", Opaque: url.PathEscape(path), RawQuery: options.Encode()}).String())
	if err != nil {
		return nil, trouble.New(trouble.Unreachable, "the history %s cannot be opened: %w", path, err)
	}
	s := &Store{&database{db, &lite}, ctx}
	if err := s.prepare(); err != nil {
		err = errors.Join(err, db.Close())
		if errors.Is(err, errNewer) {
			return nil, trouble.New(trouble.Unreachable, "the history %s cannot be opened: %w", path, err)
		}
		return nil, trouble.New(trouble.Unreachable, "the history %s cannot be opened: %w%s", path, err, hintFor(path, err))
	}
	return s, nil
}

// hintFor says what to do about a history that does not open.
func hintFor(path string, err error) string {
	var coded *sqlite.Error
	switch {
	case !writable(filepath.Dir(path)) || !writable(path):
		return "; the folder cannot be written: runs can be looked at there, but not made"
	case errors.As(err, &coded) && coded.Code()&0xff == lib.SQLITE_FULL:
		return "; the disk is full"
	case errors.As(err, &coded) && (coded.Code()&0xff == lib.SQLITE_CORRUPT || coded.Code()&0xff == lib.SQLITE_NOTADB):
		return "; the file is damaged: move it away, and read exported runs back with `tovrel history import`"
	}
	return ""
}

// OpenToRead opens a history file that is there, also one in a folder that cannot be written: then it is read as it stands, and writing
// fails.
func OpenToRead(ctx context.Context, path string) (*Store, error) {
	if OnServer(path) {
		return openServed(ctx, path)
	}
	s, err := Open(ctx, path)
	if err == nil || writable(path) {
		return s, err
	}
	options := url.Values{"mode": {"ro"}, "immutable": {"1"}}
	db, failed := sql.Open("sqlite", (&url.URL{Scheme: "file", Opaque: url.PathEscape(path), RawQuery: options.Encode()}).String())
	if failed != nil {
		return nil, err
	}
	s = &Store{&database{db, &lite}, ctx}
	var has int
	if failed := db.QueryRowContext(ctx, "PRAGMA user_version").Scan(&has); failed != nil || has != len(lite.forms) {
		return nil, errors.Join(trouble.New(trouble.Unreachable,
			"the history %s is of another form (%d, this program reads %d), and cannot be brought to it where nothing can be "+
				"written", path, has, len(lite.forms)), db.Close())
	}
	return s, nil
}

// writable tells whether a file and its folder can be written.
func writable(path string) bool {
	return unix.Access(path, unix.W_OK) == nil && unix.Access(filepath.Dir(path), unix.W_OK) == nil
}

// Close closes the history.
func (s *Store) Close() error { return s.db.Close() }

// Begin stores a new run and numbers it, with what its translator is told.
func (s *Store) Begin(r record.Run, told ...Stored) (int, error) {
	id := 0
	err := s.writing(func(tx *writer) (err error) {
		if err = saveTables(tx, told); err != nil {
			return err
		}
		id, err = begin(tx, r)
		return err
	})
	return id, err
}

func begin(tx *writer, r record.Run) (int, error) {
	body, err := json.Marshal(r)
	if err != nil {
		return 0, err
	}
	if tx.again && r.UID != "" {
		var known sql.NullInt64
		if err := tx.QueryRow("SELECT max(id) FROM run WHERE "+tx.kind.uid+" = ?", r.UID).Scan(&known); err != nil || known.Valid {
			return int(known.Int64), err
		}
	}
	return tx.numberOf("run", []column{{"translator", r.Translator}, {"state", r.State}, {"body", string(body)}},
		[]column{{"uid", r.UID}, {"told", toldBy(r)}})
}

// toldBy are the digests of what a run's translator was told.
func toldBy(r record.Run) string {
	digests := map[string]bool{}
	for _, under := range r.Under {
		digests[under.Told] = true
	}
	return strings.Join(slices.Sorted(maps.Keys(digests)), " ")
}

// Finish stores a run's end.
func (s *Store) Finish(r record.Run) error {
	body, err := json.Marshal(r)
	if err != nil {
		return err
	}
	beside, err := s.summarise(r)
	if err != nil {
		return err
	}
	return s.writing(func(tx *writer) error {
		if _, err := tx.Exec("UPDATE run SET state = ?, body = ? WHERE id = ?", r.State, string(body), r.ID); err != nil {
			return err
		}
		return beside.keep(tx)
	})
}

// Save stores an attempt, at its place in the run's plan, with its tables. What is there already is refused, but for an attempt that
// could not be scored, which this one replaces.
func (s *Store) Save(runID, place int, a record.Attempt, tables ...Stored) error {
	return s.save(runID, place, a, tables, false)
}

// SaveFirst is Save of one of several machines: what is there already stays, and is no error.
func (s *Store) SaveFirst(runID, place int, a record.Attempt, tables ...Stored) error {
	return s.save(runID, place, a, tables, true)
}

func (s *Store) save(runID, place int, a record.Attempt, tables []Stored, first bool) error {
	return s.writing(func(tx *writer) error {
		tx.again = tx.again || first
		if _, err := tx.Exec("DELETE FROM attempt WHERE run = ? AND place = ? AND "+tx.kind.verdict+" = ?", runID,
			place, score.Unscored); err != nil {
			return err
		}
		if err := errors.Join(saveAttempt(tx, runID, place, a, tables), unbundle(tx, runID)); err != nil {
			return err
		}
		_, err := tx.Exec("DELETE FROM reply WHERE run = ? AND place = ?", runID, place)
		return err
	})
}

// writing does something in a transaction of its own: whole or not at all. It is done again where the connection was dropped.
func (s *Store) writing(do func(tx *writer) error) error {
	if err := s.transact(do); err != nil {
		return trouble.New(trouble.Unreachable, "the history cannot be written: %w", err)
	}
	return nil
}

func (s *Store) transact(do func(tx *writer) error) error {
	again := false
	return s.db.kind.insist(s.keeping(), func() error {
		tx, err := s.db.BeginTx(s.keeping(), nil)
		if err != nil {
			return err
		}
		defer tx.Rollback() //nolint:errcheck // after a commit there is nothing to roll back
		w := &writer{tx, s.db.kind, again}
		again = true
		if err := do(w); err != nil {
			return err
		}
		return tx.Commit()
	})
}

func saveTables(tx *writer, tables []Stored) error {
	for _, t := range tables {
		if t.Digest == "" {
			continue
		}
		if _, err := tx.Exec("INSERT INTO result (digest, body) VALUES (?, ?) ON CONFLICT DO NOTHING", t.Digest, t.Body); err != nil {
			return err
		}
	}
	return nil
}

func saveAttempt(tx *writer, runID, place int, a record.Attempt, tables []Stored) error {
	if err := saveTables(tx, tables); err != nil {
		return err
	}
	body, err := json.Marshal(a)
	if err != nil {
		return err
	}
	insert, args := tx.kind.insert("attempt", []column{{"run", runID}, {"place", place}, {"question", a.Question}, {"body", string(body)}},
		[]column{{"verdict", a.Verdict}, {"expected", a.Expected}, {"answer", a.Answer}})
	if tx.again {
		insert += " ON CONFLICT DO NOTHING"
	}
	done, err := tx.Exec(insert, args...)
	if err != nil {
		return err
	}
	if n, err := done.RowsAffected(); err != nil || n == 0 { // it was there
		return err
	}
	_, err = tx.Exec("INSERT INTO light (run, place, form) VALUES (?, ?, ?) ON CONFLICT (run, place) DO UPDATE SET form = excluded.form",
		runID, place, lightOf(a))
	return err
}

// Reply is an answer that is not judged yet, in the runner's own form, under the key of its attempt.
type Reply struct {
	Place int             `json:"place"`
	Key   string          `json:"key"`
	Body  json.RawMessage `json:"body"`
}

// KeepReply stores an answer before it is judged, so that it need not be asked for again.
func (s *Store) KeepReply(runID, place int, reply Reply) error {
	body, err := json.Marshal(reply)
	if err != nil {
		return err
	}
	if _, err := s.db.ExecContext(s.keeping(), "INSERT INTO reply (run, place, body) VALUES (?, ?, ?) "+
		"ON CONFLICT (run, place) DO UPDATE SET body = excluded.body", runID, place, string(body)); err != nil {
		return trouble.New(trouble.Unreachable, "the history cannot be written: %w", err)
	}
	return nil
}

// Replies reads the answers of a run that are not judged yet.
func (s *Store) Replies(runID int) ([]Reply, error) {
	rows, err := s.db.QueryContext(s.ctx, "SELECT body FROM reply WHERE run = ? ORDER BY place", runID)
	if err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	return collect[Reply](rows)
}

// Placed is an attempt with its place in the store.
type Placed struct {
	Place   int
	Attempt record.Attempt
}

// Placed reads a run's attempts with their places, as they were judged when it was made.
func (s *Store) Placed(runID int) ([]Placed, error) {
	rows, err := s.db.QueryContext(s.ctx, "SELECT place, body FROM attempt WHERE run = ? ORDER BY place", runID)
	if err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	return collectPlaced(rows)
}

func collectPlaced(rows *sql.Rows) (placed []Placed, err error) {
	defer func() { err = errors.Join(err, rows.Close()) }()
	for rows.Next() {
		var p Placed
		var body []byte
		if err := rows.Scan(&p.Place, &body); err != nil {
			return nil, trouble.As(trouble.Unreachable, err)
		}
		if err := json.Unmarshal(body, &p.Attempt); err != nil {
			return nil, trouble.New(trouble.Unreachable, "the history is damaged: %w", err)
		}
		p.Attempt.Believable()
		placed = append(placed, p)
	}
	return placed, trouble.As(trouble.Unreachable, rows.Err())
}

// Stored is a table as it is kept, under the digest of its content.
type Stored struct {
	Digest string
	Body   []byte
	Table  *table.Table
	Rows   int // of the whole table; Table may be only its head
}

// maxStored bounds the rows of a table that are kept.
const maxStored = 1000

type storedForm struct {
	Rows  int             `json:"rows"`
	Table json.RawMessage `json:"table"`
}

// Cut tells whether a table has more rows than its stored form.
func Cut(t *table.Table) bool { return t.Rows() > maxStored }

// Keep makes the stored form of a table: its first 1,000 rows, and how many there were.
func Keep(t *table.Table) Stored {
	table, err := t.Head(maxStored).MarshalJSON()
	if err != nil { // cannot be: cells always encode
		panic(err)
	}
	body := append(append(fmt.Appendf(nil, `{"rows":%d,"table":`, t.Rows()), table...), '}')
	digest := sha256.Sum256(body)
	return Stored{Digest: hex.EncodeToString(digest[:16]), Body: body, Table: t, Rows: t.Rows()}
}

// Table reads a stored table. It errs also where no table has the digest.
func (s *Store) Table(digest string) (Stored, error) {
	stored := Stored{Digest: digest}
	if err := s.db.QueryRowContext(s.ctx, "SELECT body FROM result WHERE digest = ?", digest).Scan(&stored.Body); err != nil {
		return stored, trouble.New(trouble.Unreachable, "a stored table cannot be read: %w", err)
	}
	return stored.read()
}

// read reads a stored table's body.
func (t Stored) read() (Stored, error) {
	var f storedForm
	err := json.Unmarshal(t.Body, &f)
	if err == nil {
		t.Rows = f.Rows
		t.Table, err = table.FromJSON(f.Table)
	}
	return t, trouble.As(trouble.Unreachable, err)
}

func collectRuns(rows *sql.Rows) ([]record.Run, error) {
	defer rows.Close() //nolint:errcheck // rows.Err tells
	var runs []record.Run
	for rows.Next() {
		var id int
		var body string
		var r record.Run
		if err := rows.Scan(&id, &body); err != nil {
			return nil, trouble.As(trouble.Unreachable, err)
		}
		if err := json.Unmarshal([]byte(body), &r); err != nil {
			return nil, trouble.New(trouble.Unreachable, "run %d in the history is damaged: %w", id, err)
		}
		r.ID = id
		runs = append(runs, r)
	}
	return runs, trouble.As(trouble.Unreachable, rows.Err())
}

func collect[T any](rows *sql.Rows) ([]T, error) {
	defer rows.Close() //nolint:errcheck // rows.Err tells
	var all []T
	for rows.Next() {
		var body string
		var item T
		if err := rows.Scan(&body); err != nil {
			return nil, trouble.As(trouble.Unreachable, err)
		}
		if err := json.Unmarshal([]byte(body), &item); err != nil {
			return nil, trouble.New(trouble.Unreachable, "the history is damaged: %w", err)
		}
		all = append(all, item)
	}
	return all, trouble.As(trouble.Unreachable, rows.Err())
}

// Now is the time that new runs start at; it is kept to the second.
func Now() time.Time { return time.Now().UTC().Truncate(time.Second) }
