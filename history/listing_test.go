package history_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/versus"
	"tovrel/history"
)

// finished stores a run of two questions with their verdicts.
func finished(t *testing.T, s *history.Store, translator string, state record.State, verdicts [2]score.Verdict) int {
	t.Helper()
	r := record.Run{Translator: translator, State: record.Running, Grounds: map[string]record.Ground{"s/a": {Question: "a"},
		"s/b": {Question: "b"}},
		About: map[string]record.About{"s/a": {Dataset: "d"}, "s/b": {Dataset: "d"}}, Options: record.Options{Only: []string{"s/a", "s/b"}}}
	id, err := s.Begin(r)
	require.NoError(t, err)
	r.ID, r.State = id, state
	for i, v := range verdicts {
		require.NoError(t, s.Save(id, i, record.Attempt{Question: []string{"s/a", "s/b"}[i], Wording: "w", Verdict: v}))
	}
	require.NoError(t, s.Finish(r))
	return id
}

// TestListing: whatever runs come and go, the list shows of each what its attempts and the complete run of its translator before it come
// to, as if all were read whole.
func TestListing(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 1)) //nolint:gosec // a test's
	s := open(t, t.TempDir()+"/history.db")
	verdicts := []score.Verdict{score.Right, score.Wrong}
	for range 24 {
		translator := []string{"a@1", "a@2", "a_b@1", "a"}[r.IntN(4)]
		state := []record.State{record.Complete, record.Complete, record.Partial, record.Stopped}[r.IntN(4)]
		finished(t, s, translator, state, [2]score.Verdict{verdicts[r.IntN(2)], verdicts[r.IntN(2)]})
	}
	asRead(t, s)
	require.NoError(t, s.Remove([]int{3, 7, 11, 12}))
	asRead(t, s)
	id, err := s.Begin(record.Run{Translator: "a@1", State: record.Running})
	require.NoError(t, err)
	all := asRead(t, s)
	require.Equal(t, id, all[len(all)-1].Run.ID, "a run under way is listed too")
	require.Equal(t, record.Running, all[len(all)-1].Run.State)
	require.Empty(t, all[0].Run.Grounds, "a list holds nothing of the questions")
	require.Empty(t, all[0].Run.Options.Only)
}

// asRead holds a list against the runs as they are read whole.
func asRead(t *testing.T, s *history.Store) []history.Listed {
	t.Helper()
	all, err := s.List()
	require.NoError(t, err)
	require.NotEmpty(t, all)
	last := map[string]versus.Past{}
	for _, l := range all {
		run, err := s.Find(fmt.Sprint(l.Run.ID))
		require.NoError(t, err)
		light, err := s.Light(run.ID)
		require.NoError(t, err)
		require.Equal(t, record.SummariseLight(run, light.Attempts).Right, l.Summary.Right)
		require.Equal(t, run.State, l.Run.State)
		require.Equal(t, run.Translator, l.Run.Translator)
		now := versus.Past{Run: run, Standings: record.StandingsLight(light.Attempts)}
		base, _, _ := strings.Cut(run.Translator, "@")
		want := -1
		if before, has := last[base]; has {
			want = versus.RegressedSince(before, now)
		}
		require.Equal(t, want, l.Regressions, "run %d, %s", run.ID, run.Translator)
		if run.State == record.Complete {
			last[base] = now
		}
	}
	return all
}
