package history_test

import (
	"database/sql"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/run"
	"tovrel/core/score"
	"tovrel/core/table"
	"tovrel/history"
	"tovrel/trouble"
)

func open(t *testing.T, path string) *history.Store {
	t.Helper()
	s, err := history.Open(path)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	return s
}

// TestKeepsRuns: what is stored comes back as it was, and runs are found by every name they have.
func TestKeepsRuns(t *testing.T) {
	path := filepath.Join(t.TempDir(), "deep", "history.db")
	s := open(t, path)
	_, err := s.Find("latest")
	require.ErrorContains(t, err, "none yet")
	for i, translator := range []string{"a@1", "a@1", "b@1"} {
		r := run.Run{Translator: translator, State: run.Running}
		r.ID, err = s.Begin(r)
		require.NoError(t, err)
		require.Equal(t, i+1, r.ID)
		r.State = run.Complete
		if translator == "b@1" {
			r.State = run.Stopped
		}
		require.NoError(t, s.Finish(r))
	}
	answer := history.Keep(numbers())
	kept := run.Attempt{Question: "s/q", Wording: "How many?", Verdict: score.Right, Query: "SELECT 1", Raw: []byte(`{"query":"SELECT 1"}`), Answer: answer.Digest}
	require.NoError(t, s.Save(1, 0, kept, answer, answer))
	require.Error(t, s.Save(1, 0, kept), "an attempt is recorded once")

	again := open(t, path) // two programs at once
	attempts, err := again.Attempts(1)
	require.NoError(t, err)
	require.Equal(t, []run.Attempt{kept}, attempts)
	stored, err := again.Table(answer.Digest)
	require.NoError(t, err)
	require.Equal(t, 2, stored.Rows)
	require.Equal(t, answer.Body, stored.Body)
	for name, id := range map[string]int{"1": 1, "latest": 3, "a@1": 2, "a@1~1": 1} {
		r, err := again.Find(name)
		require.NoError(t, err, name)
		require.Equal(t, id, r.ID, name)
	}
	for _, name := range []string{"9", "b@1", "a@1~2", "a@1~x", "nobody"} {
		_, err := again.Find(name)
		require.Equal(t, 2, trouble.ExitCode(err), name)
	}
}

// TestRefusesOthers: a newer or damaged store is refused with a way out, and stays as it was.
func TestRefusesOthers(t *testing.T) {
	newer := filepath.Join(t.TempDir(), "newer.db")
	db, err := sql.Open("sqlite", newer)
	require.NoError(t, err)
	_, err = db.Exec("PRAGMA user_version = 99")
	require.NoError(t, err)
	require.NoError(t, db.Close())
	_, err = history.Open(newer)
	require.ErrorContains(t, err, "newer program")
	require.Equal(t, 4, trouble.ExitCode(err))

	damaged := filepath.Join(t.TempDir(), "damaged.db")
	require.NoError(t, os.WriteFile(damaged, []byte("this is no database, and long enough to be read as a header of one ..................................."), 0o600))
	_, err = history.Open(damaged)
	require.Equal(t, 4, trouble.ExitCode(err))
}

func numbers() *table.Table {
	return &table.Table{Columns: []*table.Column{table.FromCells("n", []table.Cell{{Text: "1"}, {Text: "2"}})}}
}

// TestEarlierForm: a history of the first form is brought up to date when it is opened, with everything in it.
func TestEarlierForm(t *testing.T) {
	path := filepath.Join(t.TempDir(), "history.db")
	db, err := sql.Open("sqlite", path)
	require.NoError(t, err)
	_, err = db.Exec(`CREATE TABLE run (id INTEGER PRIMARY KEY, translator TEXT NOT NULL, state TEXT NOT NULL, body TEXT NOT NULL) STRICT;
		CREATE TABLE attempt (run INTEGER NOT NULL REFERENCES run(id), place INTEGER NOT NULL, question TEXT NOT NULL, body TEXT NOT NULL, PRIMARY KEY (run, place)) STRICT;
		CREATE TABLE result (digest TEXT PRIMARY KEY, body BLOB NOT NULL) STRICT; CREATE INDEX run_translator ON run(translator, id);
		INSERT INTO run VALUES (1, 'a@1', 'complete', '{"translator": "a@1", "state": "complete"}');
		INSERT INTO attempt VALUES (1, 0, 's/q', '{"Question": "s/q", "Verdict": "right"}'); PRAGMA user_version = 1`)
	require.NoError(t, err)
	require.NoError(t, db.Close())
	s := open(t, path)
	r, err := s.Find("a@1")
	require.NoError(t, err)
	attempts, err := s.Attempts(r.ID)
	require.NoError(t, err)
	require.Equal(t, []run.Attempt{{Question: "s/q", Verdict: score.Right}}, attempts)
	require.NoError(t, s.KeepReply(1, 1, history.Reply{Place: 1, Key: "k", Body: []byte(`{}`)}))
	replies, err := s.Replies(1)
	require.NoError(t, err)
	require.Len(t, replies, 1)
}

// TestAgain: an attempt that could not be scored makes room for one that could; its stored reply goes with it.
func TestAgain(t *testing.T) {
	s := open(t, filepath.Join(t.TempDir(), "history.db"))
	id, err := s.Begin(run.Run{Translator: "a@1"})
	require.NoError(t, err)
	require.NoError(t, s.Save(id, 0, run.Attempt{Question: "s/q", Verdict: score.Unscored}))
	require.NoError(t, s.KeepReply(id, 0, history.Reply{Body: []byte(`{}`)}))
	require.NoError(t, s.Save(id, 0, run.Attempt{Question: "s/q", Verdict: score.Right}))
	attempts, err := s.Attempts(id)
	require.NoError(t, err)
	require.Equal(t, []run.Attempt{{Question: "s/q", Verdict: score.Right}}, attempts)
	replies, err := s.Replies(id)
	require.NoError(t, err)
	require.Empty(t, replies)
}
