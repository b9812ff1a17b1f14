package history_test

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/history"
	"tovrel/trouble"
)

// earlier are files as earlier programs wrote them: never change these texts.
var earlier = []string{`
CREATE TABLE run (id INTEGER PRIMARY KEY, translator TEXT NOT NULL, state TEXT NOT NULL, body TEXT NOT NULL) STRICT;
CREATE TABLE attempt (run INTEGER NOT NULL REFERENCES run(id), place INTEGER NOT NULL, question TEXT NOT ` +
	`NULL, body TEXT NOT NULL, PRIMARY KEY (run, place)) STRICT;
CREATE TABLE result (digest TEXT PRIMARY KEY, body BLOB NOT NULL) STRICT;
CREATE INDEX run_translator ON run(translator, id);
INSERT INTO run VALUES (1, 'a@1', 'complete', '{"translator":"a@1","state":"complete","uid":"u1","weights":{"s/q":1}}');
INSERT INTO attempt VALUES (1, 0, 's/q', '{"Question":"s/q","Wording":"How ` +
	`many?","Verdict":"wrong","Faults":[{"code":"boundary","certainty":"proved","evidence":"e"}],"Query":"SELECT 1"}');
PRAGMA user_version = 1;`,
	`CREATE TABLE reply (run INTEGER NOT NULL REFERENCES run(id), place INTEGER NOT NULL, ` +
		`body TEXT NOT NULL, PRIMARY KEY (run, place)) STRICT;
INSERT INTO reply VALUES (1, 1, '{"place":1,"key":"k","body":{}}');
PRAGMA user_version = 2;`}

// TestEarlierForms: a history of each earlier form is read and written on, and loses nothing.
func TestEarlierForms(t *testing.T) {
	for form := 1; form <= len(earlier); form++ {
		path := filepath.Join(t.TempDir(), "history.db")
		db, err := sql.Open("sqlite", path)
		require.NoError(t, err)
		_, err = db.Exec(strings.Join(earlier[:form], "\n"))
		require.NoError(t, err)
		require.NoError(t, db.Close())

		s := open(t, path)
		all, err := s.List()
		require.NoError(t, err)
		require.Equal(t, 1, all[0].Summary.Wrong, "form %d", form)
		require.Equal(t, 1, all[0].Summary.Standing[score.Broken])
		light, err := s.Light(1)
		require.NoError(t, err)
		require.Equal(t, fault.Code("boundary"), light.Attempts[0].Main())
		replies, err := s.Replies(1)
		require.NoError(t, err)
		require.Len(t, replies, form-1)
		require.NoError(t, s.Save(1, 1, record.Attempt{Question: "s/r", Verdict: score.Right}))
		light, err = s.Light(1)
		require.NoError(t, err)
		require.Len(t, light.Attempts, 2, "attempts of both forms")
		_, err = s.Mark(1, "old")
		require.NoError(t, err)
	}
}

// TestRefused: a file of a newer program and a damaged one are left alone, with a way out.
func TestRefused(t *testing.T) {
	path := filepath.Join(t.TempDir(), "history.db")
	s := open(t, path)
	_, err := s.Begin(record.Run{Translator: "a@1"})
	require.NoError(t, err)
	db, err := sql.Open("sqlite", path)
	require.NoError(t, err)
	_, err = db.Exec("PRAGMA user_version = 99")
	require.NoError(t, err)
	require.NoError(t, db.Close())
	_, err = history.Open(context.Background(), path)
	require.ErrorContains(t, err, "newer program")
	require.Equal(t, 4, trouble.ExitCode(err))

	damaged := filepath.Join(t.TempDir(), "history.db")
	require.NoError(t, os.WriteFile(damaged, []byte(strings.Repeat("no database ", 500)), 0o600))
	_, err = history.Open(context.Background(), damaged)
	require.ErrorContains(t, err, "move it away")
	body, readErr := os.ReadFile(damaged)
	require.NoError(t, readErr)
	require.Equal(t, strings.Repeat("no database ", 500), string(body), "it stays as it was")
}

// TestJoinedShards: a run made of shards remembers what the questions of all of them rested on and are about.
func TestJoinedShards(t *testing.T) {
	var shards []history.Imported
	for i, name := range []string{"s/a", "s/b"} {
		shards = append(shards, history.Imported{Run: record.Run{Translator: "a@1", State: record.Partial, UID: name,
			Options: record.Options{Shard: [2]int{i + 1, 2}}, Weights: map[string]float64{name: 2},
			Datasets: map[string]string{"d": "f"}, Grounds: map[string]record.Ground{name: {Expected: name}},
			About:       map[string]record.About{name: {Tags: []string{"t"}}},
			Consistency: map[string]record.Consistency{name: {Repeats: record.Pairs{Agree: 1, Of: 1}}}},
			Attempts: []history.Placed{{Attempt: record.Attempt{Question: name}}}})
	}
	joined, err := history.Join(shards)
	require.NoError(t, err)
	require.Equal(t, record.Complete, joined.Run.State)
	require.Len(t, joined.Attempts, 2)
	require.Equal(t, map[string]record.Ground{"s/a": {Expected: "s/a"}, "s/b": {Expected: "s/b"}}, joined.Run.Grounds)
	require.Len(t, joined.Run.About, 2)
	require.Len(t, joined.Run.Consistency, 2)
	require.Len(t, joined.Run.Weights, 2)
	require.Len(t, shards[0].Run.Grounds, 1, "what is joined stays as it is")
}

// TestShardsThatDoNotJoin: shards of different runs are refused with the reason, and what is joined has the recipes of all twins.
func TestShardsThatDoNotJoin(t *testing.T) {
	made := func() []history.Imported {
		var out []history.Imported
		for i, uid := range []string{"one", "two", "three"} {
			out = append(out, history.Imported{Run: record.Run{Translator: "a@1", UID: uid, State: record.Partial,
				Duration: time.Duration(9 - i),
				Planned:  i + 1, Options: record.Options{Shard: [2]int{i + 1, 3}, Brief: "full"}, Datasets: map[string]string{"d": "f"},
				Twins: map[string][]string{"d": {"t1", "t2"}}, Recipes: map[string]json.RawMessage{uid: json.RawMessage("{}")},
				Wordings: map[string][]string{uid: {"w"}}},
				Attempts: []history.Placed{{Place: 5, Attempt: record.Attempt{Question: uid}}}})
		}
		return out
	}
	joined, err := history.Join(made())
	require.NoError(t, err)
	require.Equal(t, []any{6, time.Duration(9), record.Complete, [2]int{}}, []any{joined.Run.Planned, joined.Run.Duration, joined.Run.State,
		joined.Run.Options.Shard})
	require.Equal(t, map[string][]string{"d": {"t1", "t2"}}, joined.Run.Twins)
	require.Len(t, joined.Run.Recipes, 3)
	require.Len(t, joined.Run.Wordings, 3)
	for i, a := range joined.Attempts {
		require.Equal(t, i, a.Place)
	}
	for want, change := range map[string]func(s []history.Imported) []history.Imported{
		"the shards one and two were tried on other twins of d": func(s []history.Imported) []history.Imported {
			s[1].Run.Twins = map[string][]string{"d": {"t2", "t1"}}
			return s
		},
		"shard 2 of 3 is missing": func(s []history.Imported) []history.Imported { return []history.Imported{s[0], s[2]} },
		"shard 3 of 3 is missing": func(s []history.Imported) []history.Imported { return s[:2] },
		"shard 1 of 3 is there twice": func(s []history.Imported) []history.Imported {
			s[1].Run.Options.Shard[0] = 1
			return s
		},
		"run two is no shard": func(s []history.Imported) []history.Imported {
			s[1].Run.Options.Shard = [2]int{}
			return s
		},
		"the shards one and two are not of one run": func(s []history.Imported) []history.Imported {
			s[1].Run.Translator = "b@1"
			return s
		},
		"the shards one and three are not of one run": func(s []history.Imported) []history.Imported {
			s[2].Run.Datasets = map[string]string{"d": "g"}
			return s
		},
		"options or data differ": func(s []history.Imported) []history.Imported {
			s[2].Run.Options.Brief = "none"
			return s
		},
	} {
		_, err := history.Join(change(made()))
		require.ErrorContains(t, err, want)
	}
	stopped := made()
	stopped[1].Run.State = record.Stopped
	joined, err = history.Join(stopped)
	require.NoError(t, err)
	require.Equal(t, record.Stopped, joined.Run.State)
}

// TestWrittenHistory: what a program of an earlier day wrote is read whole: written again it is the same, and its tables are there. The
// text in testdata is never changed; a new form gets one of its own beside it.
func TestWrittenHistory(t *testing.T) {
	files, err := filepath.Glob("testdata/*.sql")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, file := range files {
		text, err := os.ReadFile(file)
		require.NoError(t, err)
		path := filepath.Join(t.TempDir(), "history.db")
		db, err := sql.Open("sqlite", path)
		require.NoError(t, err)
		_, err = db.Exec(string(text))
		require.NoError(t, err)
		stored := map[int]string{}
		rows, err := db.Query("SELECT place, body FROM attempt")
		require.NoError(t, err)
		for rows.Next() {
			var place int
			var body string
			require.NoError(t, rows.Scan(&place, &body))
			stored[place] = body
		}
		require.NoError(t, errors.Join(rows.Err(), rows.Close(), db.Close()))

		s := open(t, path)
		all, err := s.List()
		require.NoError(t, err)
		require.Len(t, all, 1, file)
		require.Equal(t, len(stored), all[0].Summary.Right+all[0].Summary.Wrong, file)
		placed, err := s.Placed(all[0].Run.ID)
		require.NoError(t, err)
		require.Len(t, placed, len(stored))
		for _, p := range placed {
			again, err := json.Marshal(p.Attempt)
			require.NoError(t, err)
			require.JSONEq(t, stored[p.Place], string(again), "%s: nothing of attempt %d is lost", file, p.Place)
			for _, digest := range []string{p.Attempt.Expected, p.Attempt.Answer} {
				table, err := s.Table(digest)
				require.NoError(t, err)
				require.Positive(t, table.Rows, file)
			}
		}
	}
}
