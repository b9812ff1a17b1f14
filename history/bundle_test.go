package history

import (
	"context"
	"encoding/json"
	"fmt"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
)

// drawnLight draws a light form, with texts that are rare and texts that come again.
func drawnLight(t *rapid.T) record.Light {
	words := rapid.OneOf(rapid.SampledFrom([]string{"", "a", "set/q", "näheres\x00\n"}), rapid.String())
	a := record.Light{Question: words.Draw(t, "question"), Wording: words.Draw(t, "wording"), Answer: words.Draw(t, "answer"),
		Said:    words.Draw(t, "said"),
		Verdict: rapid.SampledFrom([]score.Verdict{score.Right, score.Wrong, score.Unscored}).Draw(t, "verdict"),
		Latency: time.Duration(rapid.Int64().Draw(t, "latency")), Cost: rapid.Float64().Draw(t, "cost"),
		Tokens: rapid.Int64().Draw(t, "tokens"), Repeat: rapid.Int32().Draw(t, "repeat"), Turn: rapid.Int32().Draw(t, "turn"),
		Stance: rapid.Bool().Draw(t, "stance"), Replied: rapid.Bool().Draw(t, "replied"), MissedOn: []string{}}
	for range rapid.IntRange(0, 3).Draw(t, "faults") {
		a.Faults = append(a.Faults, rapid.SampledFrom(fault.Codes()).Draw(t, "fault"))
	}
	for i := range rapid.IntRange(0, 2).Draw(t, "missed") {
		a.MissedOn = append(a.MissedOn, fmt.Sprint("twin-", i))
	}
	for i := range rapid.IntRange(0, 2).Draw(t, "tries") {
		a.Tries = append(a.Tries, record.Try{Ask: i, Latency: time.Second, Problem: "late"})
	}
	return a
}

func drawnLights(t *rapid.T) Lights {
	var all Lights
	for range rapid.IntRange(0, 20).Draw(t, "attempts") {
		all.Attempts, all.Places = append(all.Attempts, drawnLight(t)), append(all.Places, rapid.IntRange(0, 1<<40).Draw(t, "place"))
	}
	return all
}

// What is packed is unpacked as it was, and every piece that ends early is refused.
func TestPackedLightsAreTheSame(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		all := drawnLights(t)
		piece := packed(all)
		back, err := unpacked(piece)
		if err != nil {
			t.Fatal(err)
		}
		if len(all.Attempts) > 0 {
			assert.Equal(t, all, back)
			_, err := unpacked(piece[:rapid.IntRange(0, len(piece)-1).Draw(t, "cut")])
			assert.ErrorIs(t, err, errDamaged)
		}
	})
}

func FuzzUnpacked(f *testing.F) {
	f.Add(packed(Lights{[]record.Light{{Question: "a/b", Verdict: score.Wrong, Faults: []fault.Code{fault.FilterMissing}}}, []int{7}}))
	f.Fuzz(func(t *testing.T, piece []byte) {
		all, err := unpacked(piece)
		if err == nil {
			again, err := unpacked(packed(all))
			require.NoError(t, err)
			require.Len(t, again.Attempts, len(all.Attempts))
		}
	})
}

// pieces counts the runs that are kept in one piece.
func pieces(t *testing.T, s *Store) (n int) {
	require.NoError(t, s.db.QueryRow("SELECT count(*) FROM bundle").Scan(&n))
	return n
}

func verdicts(t *testing.T, s *Store, run int) (out []score.Verdict) {
	all, err := s.Light(run)
	require.NoError(t, err)
	for _, a := range all.Attempts {
		out = append(out, a.Verdict)
	}
	return out
}

// A piece never outlives what it was made of: an attempt that comes later, a diagnosis, and the run itself.
func TestPiecesFollowTheirRuns(t *testing.T) {
	s, err := Open(context.Background(), filepath.Join(t.TempDir(), "h.db"))
	require.NoError(t, err)
	defer func() { require.NoError(t, s.Close()) }()
	r := record.Run{Translator: "one@1", State: record.Running, UID: "u", Weights: map[string]float64{"a/b": 1}}
	r.ID, err = s.Begin(r)
	require.NoError(t, err)
	attempt := record.Attempt{Question: "a/b", Verdict: score.Unscored, Reason: fault.ReasonOverBudget, Raw: json.RawMessage(`{}`)}
	require.NoError(t, s.Save(r.ID, 0, attempt))
	assert.Equal(t, 0, pieces(t, s), "while the run is under way")
	r.State = record.Stopped
	require.NoError(t, s.Finish(r))
	assert.Equal(t, 1, pieces(t, s))
	assert.Equal(t, []score.Verdict{score.Unscored}, verdicts(t, s, r.ID))

	attempt.Verdict, attempt.Reason = score.Wrong, ""
	require.NoError(t, s.Save(r.ID, 0, attempt)) // the run is taken up again
	assert.Equal(t, []score.Verdict{score.Wrong}, verdicts(t, s, r.ID))
	r.State = record.Complete
	require.NoError(t, s.Finish(r))
	assert.Equal(t, []score.Verdict{score.Wrong}, verdicts(t, s, r.ID))

	attempt.Faults = []fault.Fault{{Code: fault.FilterMissing}}
	_, err = s.AddScoring(Scoring{Run: r.ID, Kind: Diagnosis}, []Scored{{Placed: Placed{0, attempt}}})
	require.NoError(t, err)
	all, err := s.Light(r.ID)
	require.NoError(t, err)
	assert.Equal(t, []fault.Code{fault.FilterMissing}, all.Attempts[0].Faults)
	assert.Equal(t, 1, pieces(t, s))

	_, err = s.db.Exec("UPDATE bundle SET body = x'05'")
	require.NoError(t, err)
	_, err = s.Light(r.ID)
	assert.ErrorContains(t, err, "the history is damaged: run 1")
	require.NoError(t, s.Remove([]int{r.ID}))
	assert.Equal(t, 0, pieces(t, s))
}

// What is read in one piece is what is read attempt by attempt.
func TestPiecesSayWhatTheirAttemptsSay(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		s, err := Open(context.Background(), ":memory:")
		require.NoError(t, err)
		s.db.SetMaxOpenConns(1) // each connection has a memory of its own
		defer func() { require.NoError(t, s.Close()) }()
		in := Imported{Run: record.Run{Translator: "one@1", State: record.Complete, UID: "u"}}
		for i := range rapid.IntRange(1, 8).Draw(rt, "attempts") {
			a := record.Attempt{Question: fmt.Sprint("s/", i%3),
				Wording: rapid.SampledFrom([]string{"How many?", "How much?"}).Draw(rt, "wording"),
				Verdict: rapid.SampledFrom([]score.Verdict{score.Right, score.Wrong}).Draw(rt, "verdict"), Repeat: i,
				Latency: time.Duration(rapid.Int64Range(0, 1e12).Draw(rt, "latency")), Cost: rapid.Float64Range(0, 9).Draw(rt, "cost"),
				Query: rapid.SampledFrom([]string{"", "SELECT 1"}).Draw(rt, "query")}
			in.Attempts = append(in.Attempts, Placed{i * 2, a})
		}
		id, _, err := s.Import(in)
		require.NoError(t, err)
		whole, err := s.Light(id)
		require.NoError(t, err)
		_, err = s.db.Exec("DELETE FROM bundle")
		require.NoError(t, err)
		each, err := s.Light(id)
		require.NoError(t, err)
		assert.Equal(t, each, whole)
	})
}
