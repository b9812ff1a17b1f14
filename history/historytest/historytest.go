// Package historytest holds what every kind of history must do.
package historytest

import (
	"context"
	"fmt"
	"math/rand/v2"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/table"
	"tovrel/core/versus"
	"tovrel/history"
	"tovrel/trouble"
)

// Place names a new, empty history of a kind.
type Place func(t *testing.T) string

// Run runs the suite.
func Run(t *testing.T, place Place) {
	for name, test := range map[string]func(*testing.T, Place){"keeps": keepsRuns, "again": again, "writers": severalWriters,
		"judgements": laterJudgements, "listing": listing, "purge": purge} {
		t.Run(name, func(t *testing.T) { test(t, place) })
	}
}

func open(t *testing.T, path string) *history.Store {
	t.Helper()
	s, err := history.Open(context.Background(), path)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, s.Close()) })
	return s
}

// keepsRuns: what is stored comes back as it was, and runs are found by every name they have.
func keepsRuns(t *testing.T, place Place) {
	path := place(t)
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

func numbers() *table.Table {
	return &table.Table{Columns: []*table.Column{table.FromCells("n", []table.Cell{{Text: "1"}, {Text: "2"}})}}
}

// again: an attempt that could not be scored makes room for one that could; its stored reply goes with it.
func again(t *testing.T, place Place) {
	s := open(t, place(t))
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

// severalWriters: programs that write at the same time lose nothing.
func severalWriters(t *testing.T, place Place) {
	path := place(t)
	const writers, attempts = 4, 40
	var wg sync.WaitGroup
	for w := range writers {
		s := open(t, path)
		wg.Go(func() {
			id, err := s.Begin(record.Run{Translator: fmt.Sprintf("w@%d", w), State: record.Running})
			for place := 0; place < attempts && err == nil; place++ {
				err = s.Save(id, place, record.Attempt{Question: "s/q", Verdict: score.Right})
			}
			if err == nil {
				err = s.Finish(record.Run{ID: id, Translator: fmt.Sprintf("w@%d", w), State: record.Complete})
			}
			if err != nil {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	all, err := open(t, path).List()
	require.NoError(t, err)
	require.Len(t, all, writers)
	for _, l := range all {
		require.Equal(t, attempts, l.Summary.Right)
	}
}

// laterJudgements: a diagnosis shows with the run, a rescoring beside it, and the run itself stays as it was.
func laterJudgements(t *testing.T, place Place) {
	s := open(t, place(t))
	id, err := s.Begin(record.Run{Translator: "a@1"})
	require.NoError(t, err)
	made := record.Attempt{Question: "s/q", Wording: "How\x1fmany?", Verdict: score.Wrong,
		Faults: []fault.Fault{{Code: fault.Unexplained}}, Cost: 0.25, Tries: []record.Try{{Latency: 5}, {Latency: 7}}}
	require.NoError(t, s.Save(id, 0, made))
	require.NoError(t, s.Finish(record.Run{ID: id, Translator: "a@1", State: record.Complete}))
	found := made
	found.Faults = []fault.Fault{{Code: fault.Boundary, Certainty: fault.Proved}}
	_, err = s.AddScoring(history.Scoring{Run: id, Kind: history.Diagnosis}, []history.Scored{{Placed: history.Placed{Attempt: found}}})
	require.NoError(t, err)
	right := made
	right.Verdict, right.Faults = score.Right, nil
	_, err = s.AddScoring(history.Scoring{Run: id, Kind: history.Rescoring}, []history.Scored{{Placed: history.Placed{Attempt: right}}})
	require.NoError(t, err)

	shown, err := s.Attempts(id)
	require.NoError(t, err)
	require.Equal(t, fault.Boundary, shown[0].Faults[0].Code)
	light, err := s.Light(id)
	require.NoError(t, err)
	require.Equal(t, fault.Boundary, light.Attempts[0].Main())
	require.Equal(t, "How many?", light.Attempts[0].Wording)
	require.Equal(t, made.Tries, light.Attempts[0].Tries)
	all, err := s.List()
	require.NoError(t, err)
	require.Equal(t, 1, all[0].Summary.Faults[fault.Boundary], "the stored summary is fresh")
	_, rescored, has, err := s.LatestRescoring(id)
	require.NoError(t, err)
	require.True(t, has)
	require.Equal(t, score.Right, rescored[0].Verdict)
	placed, err := s.Placed(id)
	require.NoError(t, err)
	require.Equal(t, fault.Unexplained, placed[0].Attempt.Faults[0].Code, "the run does not change")
	require.NoError(t, s.Remove([]int{id}))
	all, err = s.List()
	require.NoError(t, err)
	require.Empty(t, all)
}

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

// listing: whatever runs come and go, the list shows of each what its attempts and the complete run of its translator before it come
// to, as if all were read whole.
func listing(t *testing.T, place Place) {
	r := rand.New(rand.NewPCG(8, 1)) //nolint:gosec // a test's
	s := open(t, place(t))
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

// purge: purged runs keep what they were judged and their figures, and nothing of replies and values; others stay as they are.
func purge(t *testing.T, place Place) {
	s := open(t, place(t))
	const secret = "the secret value"
	answer, other := history.KeepLines([]string{secret}), history.KeepLines([]string{"another"})
	var runs []record.Run
	for i, table := range []history.Stored{answer, other} {
		r := record.Run{Translator: "a@1", State: record.Running, UID: fmt.Sprint("u", i), Weights: map[string]float64{"s/q": 1}}
		var err error
		r.ID, err = s.Begin(r)
		require.NoError(t, err)
		a := record.Attempt{Question: "s/q", Wording: "w", Verdict: score.Wrong, Query: "SELECT '" + secret + "'",
			Raw: []byte(`{"query":"` + secret + `"}`), Why: secret, Cost: 0.5, Answer: table.Digest,
			Expected: table.Digest, Notes: []string{secret},
			Faults: []fault.Fault{{Code: fault.Boundary, Certainty: fault.Proved, Evidence: secret, Query: secret}}}
		require.NoError(t, s.Save(r.ID, 0, a, table))
		require.NoError(t, s.KeepReply(r.ID, 1, history.Reply{Place: 1, Body: []byte(`"` + secret + `"`)}))
		_, err = s.AddScoring(history.Scoring{Run: r.ID, Kind: history.Diagnosis}, []history.Scored{{Placed: history.Placed{Attempt: a}}})
		require.NoError(t, err)
		r.State = record.Complete
		require.NoError(t, s.Finish(r))
		runs = append(runs, r)
	}
	before, err := s.List()
	require.NoError(t, err)
	untouched, err := s.Attempts(runs[1].ID)
	require.NoError(t, err)
	now := history.Now()
	require.NoError(t, s.Purge(runs[:1], now))

	after, err := s.List()
	require.NoError(t, err)
	require.Equal(t, before, after)
	var out strings.Builder
	found, err := s.Find(fmt.Sprint(runs[0].ID))
	require.NoError(t, err)
	require.Equal(t, now, found.Purged.UTC())
	require.NoError(t, s.Export(&out, found))
	require.NotContains(t, out.String(), secret)
	require.NotContains(t, out.String(), answer.Digest)
	attempts, err := s.Attempts(runs[0].ID)
	require.NoError(t, err)
	require.Equal(t, score.Wrong, attempts[0].Verdict)
	require.Equal(t, fault.Boundary, attempts[0].Faults[0].Code)
	require.Equal(t, fault.Proved, attempts[0].Faults[0].Certainty)
	require.InDelta(t, 0.5, attempts[0].Cost, 0)
	require.Contains(t, attempts[0].Why, "purged on")
	replies, err := s.Replies(runs[0].ID)
	require.NoError(t, err)
	require.Empty(t, replies)
	_, err = s.Table(answer.Digest)
	require.Error(t, err, "no run needs it any more")
	kept, err := s.Attempts(runs[1].ID)
	require.NoError(t, err)
	require.Equal(t, untouched, kept)
	_, err = s.Table(other.Digest)
	require.NoError(t, err)
}
