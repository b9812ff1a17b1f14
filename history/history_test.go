package history_test

import (
	"context"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/history"
	"tovrel/history/historytest"
)

func open(t *testing.T, path string) *history.Store {
	t.Helper()
	s, err := history.Open(context.Background(), path)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	return s
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

// TestKinds: both kinds of history do the same.
func TestKinds(t *testing.T) {
	t.Run("file", func(t *testing.T) {
		historytest.Run(t, func(t *testing.T) string { return filepath.Join(t.TempDir(), "deep", "history.db") })
	})
	t.Run("server", func(t *testing.T) { historytest.Run(t, onServer(t)) })
}
