package history_test

import (
	"context"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/table"
	"tovrel/history"
	"tovrel/trouble"
)

func open(t *testing.T, path string) *history.Store {
	t.Helper()
	s, err := history.Open(context.Background(), path)
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
		r := record.Run{Translator: translator, State: record.Running}
		r.ID, err = s.Begin(r)
		require.NoError(t, err)
		require.Equal(t, i+1, r.ID)
		r.State = record.Complete
		if translator == "b@1" {
			r.State = record.Stopped
		}
		require.NoError(t, s.Finish(r))
	}
	answer := history.Keep(numbers())
	kept := record.Attempt{Question: "s/q", Wording: "How many?", Verdict: score.Right, Query: "SELECT 1",
		Raw: []byte(`{"query":"SELECT 1"}`), Answer: answer.Digest}
	require.NoError(t, s.Save(1, 0, kept, answer, answer))
	require.Error(t, s.Save(1, 0, kept), "an attempt is recorded once")

	again := open(t, path) // two programs at once
	attempts, err := again.Attempts(1)
	require.NoError(t, err)
	require.Equal(t, []record.Attempt{kept}, attempts)
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

// TestCutShort: a run that an earlier program stored as complete although its budget ended it is read as stopped, wherever runs are read.
func TestCutShort(t *testing.T) {
	s := open(t, filepath.Join(t.TempDir(), "history.db"))
	for _, a := range []record.Attempt{
		{Question: "s/q", Verdict: score.Right},
		{Question: "s/q", Verdict: score.Unscored, Reason: fault.ReasonOverBudget},
	} {
		id, err := s.Begin(record.Run{Translator: "a@1", State: record.Running})
		require.NoError(t, err)
		require.NoError(t, s.Save(id, 0, a))
		require.NoError(t, s.Finish(record.Run{ID: id, Translator: "a@1", State: record.Complete}))
	}
	found, err := s.Find("a@1")
	require.NoError(t, err)
	require.Equal(t, 1, found.ID)
	found, err = s.Find("2")
	require.NoError(t, err)
	require.Equal(t, record.Stopped, found.State)
	runs, err := s.Runs()
	require.NoError(t, err)
	require.Equal(t, []record.State{record.Complete, record.Stopped}, []record.State{runs[0].State, runs[1].State})
	listed, err := s.List()
	require.NoError(t, err)
	require.Equal(t, []record.State{record.Complete, record.Stopped}, []record.State{listed[0].Summary.State, listed[1].Summary.State})
}

func numbers() *table.Table {
	return &table.Table{Columns: []*table.Column{table.FromCells("n", []table.Cell{{Text: "1"}, {Text: "2"}})}}
}

// TestAgain: an attempt that could not be scored makes room for one that could; its stored reply goes with it.
func TestAgain(t *testing.T) {
	s := open(t, filepath.Join(t.TempDir(), "history.db"))
	id, err := s.Begin(record.Run{Translator: "a@1"})
	require.NoError(t, err)
	require.NoError(t, s.Save(id, 0, record.Attempt{Question: "s/q", Verdict: score.Unscored}))
	require.NoError(t, s.KeepReply(id, 0, history.Reply{Body: []byte(`{}`)}))
	require.NoError(t, s.Save(id, 0, record.Attempt{Question: "s/q", Verdict: score.Right}))
	attempts, err := s.Attempts(id)
	require.NoError(t, err)
	require.Equal(t, []record.Attempt{{Question: "s/q", Verdict: score.Right}}, attempts)
	replies, err := s.Replies(id)
	require.NoError(t, err)
	require.Empty(t, replies)
}
