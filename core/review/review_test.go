package review_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/decision"
	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/review"
	"tovrel/core/score"
)

func attempt(question string, verdict score.Verdict) record.Attempt {
	return record.Attempt{Question: question, Verdict: verdict, Answer: "digest"}
}

func doubtful(question string) record.Attempt {
	return record.Attempt{Question: question, Verdict: score.Unscored, Reason: fault.ReasonNeedsALook, Look: &record.Look{Reply: "well"}}
}

func names(items []review.Item) (out []string) {
	for _, i := range items {
		out = append(out, i.Question)
	}
	return out
}

// What was right before comes first, then what waits for a person, then by verdict.
func TestOrderOfItems(t *testing.T) {
	attempts := []record.Attempt{attempt("a/right", score.Right), attempt("a/lucky", score.Lucky), attempt("a/wrong", score.Wrong),
		doubtful("a/doubtful"), attempt("a/failed", score.Failed), attempt("a/broke", score.Wrong), attempt("a/twice", score.Wrong),
		doubtful("a/twice"), attempt("a/partly", score.Right), attempt("a/partly", score.Wrong)}
	before := []record.Attempt{attempt("a/lucky", score.Lucky), attempt("a/wrong", score.Wrong), doubtful("a/doubtful"),
		attempt("a/failed", score.Wrong), attempt("a/broke", score.Right), attempt("a/twice", score.Wrong),
		attempt("a/partly", score.Wrong)}
	items := review.Items(attempts, before, 0, 1)
	assert.Equal(t, []string{"a/broke", "a/doubtful", "a/twice", "a/partly", "a/wrong", "a/lucky", "a/failed"}, names(items))
	assert.True(t, items[0].IsNew)
	assert.False(t, items[1].IsNew)
	assert.Equal(t, score.Unscored, items[2].Attempt.Verdict, "the attempt that waits")
	assert.Equal(t, 9, items[3].At, "the attempt that is not right")
	for _, i := range review.Items(attempts, nil, 0, 1) {
		assert.False(t, i.IsNew, "there is no run before")
	}
}

// A sample has right questions alone, each once, the same for the same seed.
func TestSample(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var attempts []record.Attempt
		for i := range rapid.IntRange(0, 30).Draw(t, "questions") {
			for range rapid.IntRange(1, 3).Draw(t, "repeats") {
				verdict := rapid.SampledFrom([]score.Verdict{score.Right, score.Right, score.Wrong}).Draw(t, "verdict")
				attempts = append(attempts, attempt(fmt.Sprintf("q/%d", i), verdict))
			}
		}
		n, seed := rapid.IntRange(0, 40).Draw(t, "sample"), rapid.Uint64().Draw(t, "seed")
		items := review.Items(attempts, nil, n, seed)
		require.Equal(t, items, review.Items(attempts, nil, n, seed))
		seen := map[string]bool{}
		sampled := 0
		for _, i := range items {
			require.False(t, seen[i.Question], "each question once")
			seen[i.Question] = true
			require.Equal(t, i.Sampled, i.Attempt.Verdict == score.Right)
			if i.Sampled {
				sampled++
			}
		}
		right := 0
		for q, verdicts := range verdictsOf(attempts) {
			if !slices.Contains(verdicts, score.Wrong) {
				right++
			} else {
				require.True(t, seen[q])
			}
		}
		require.Equal(t, min(n, right), sampled)
	})
}

func verdictsOf(attempts []record.Attempt) map[string][]score.Verdict {
	out := map[string][]score.Verdict{}
	for _, a := range attempts {
		out[a.Question] = append(out[a.Question], a.Verdict)
	}
	return out
}

func TestSeedsDrawOtherSamples(t *testing.T) {
	var attempts []record.Attempt
	for i := range 100 {
		attempts = append(attempts, attempt(fmt.Sprintf("q/%d", i), score.Right))
	}
	one, other := names(review.Items(attempts, nil, 10, 1)), names(review.Items(attempts, nil, 10, 2))
	assert.Len(t, one, 10)
	assert.NotEqual(t, one, other)
	assert.True(t, slices.IsSorted(one))
}

// What may be decided goes by what there is: a table can be accepted, a doubtful reply decided, a right answer only looked at.
func TestChoices(t *testing.T) {
	decisions := func(a record.Attempt) (out []string) {
		for _, c := range (review.Item{Attempt: a}).Choices() {
			out = append(out, c.Decision)
		}
		return out
	}
	assert.Equal(t, []string{decision.Reading, decision.Expected, decision.KnownWrong}, decisions(attempt("a/b", score.Wrong)))
	assert.Equal(t, []string{decision.Reading, decision.Expected, decision.KnownWrong}, decisions(attempt("a/b", score.Lucky)))
	assert.Equal(t, []string{decision.KnownWrong}, decisions(record.Attempt{Verdict: score.Failed}))
	assert.Equal(t, []string{decision.Right, decision.Wrong, decision.AsksBack, decision.Declines, decision.KnownWrong},
		decisions(doubtful("a/b")))
	assert.Empty(t, decisions(attempt("a/b", score.Right)))
	keys := map[string]bool{}
	of := func(a record.Attempt) []review.Choice { return review.Item{Attempt: a}.Choices() }
	for _, c := range append(of(doubtful("a/b")), of(attempt("a/b", score.Wrong))[:2]...) {
		assert.False(t, keys[c.Key], "the key %s is taken", c.Key)
		keys[c.Key] = true
	}
}
