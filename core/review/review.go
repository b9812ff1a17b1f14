// Package review chooses what a person looks at after a run: what is wrong, lucky or doubtful, and on request some right answers, to audit
// the judge. It reads nothing and writes nothing.
package review

import (
	"cmp"
	"hash/fnv"
	"slices"
	"strconv"
	"strings"

	"tovrel/core/decision"
	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
)

// Item is a question of a run that a person looks at, with the attempt that shows most.
type Item struct {
	Question string
	Attempt  record.Attempt
	At       int  // of the attempt in its run
	IsNew    bool // it was right in the run before, or not asked there
	Sampled  bool // it is right, and looked at all the same
}

// Items lists what is to be looked at: first what was right in the run before, then by verdict and name. Before are the attempts of that
// run, nil for none; sample right ones are added, drawn by the seed.
func Items(attempts, before []record.Attempt, sample int, seed uint64) []Item {
	was := map[string]bool{} // what was not right before
	for _, a := range before {
		if a.Verdict != score.Right {
			was[a.Question] = true
		}
	}
	var items, right []Item
	at := map[string]int{} // of a question among its items
	for i, a := range attempts {
		item := Item{Question: a.Question, Attempt: a, At: i, IsNew: before != nil && !was[a.Question]}
		if a.Verdict == score.Right {
			right = append(right, item)
			continue
		}
		if known, has := at[a.Question]; has {
			if doubtful(a) && !doubtful(items[known].Attempt) { // it waits for a person
				items[known] = item
			}
			continue
		}
		at[a.Question] = len(items)
		items = append(items, item)
	}
	slices.SortStableFunc(items, func(a, b Item) int {
		return cmp.Or(-compareBools(a.IsNew, b.IsNew), cmp.Compare(rank(a.Attempt), rank(b.Attempt)),
			strings.Compare(a.Question, b.Question))
	})
	right = slices.DeleteFunc(right, func(r Item) bool { _, has := at[r.Question]; return has })
	return append(items, sampled(right, sample, seed)...)
}

func compareBools(a, b bool) int {
	switch {
	case a == b:
		return 0
	case a:
		return 1
	}
	return -1
}

func doubtful(a record.Attempt) bool {
	return a.Verdict == score.Unscored && a.Reason == fault.ReasonNeedsALook
}

// rank orders attempts: what a person must decide first, then what is wrong.
func rank(a record.Attempt) int {
	if doubtful(a) {
		return 0
	}
	return 1 + slices.Index([]score.Verdict{score.Wrong, score.Lucky, score.Failed, score.Unscored}, a.Verdict)
}

// sampled draws right ones, each question once: those whose names hash lowest with the seed.
func sampled(right []Item, n int, seed uint64) []Item {
	draw := func(i Item) uint64 {
		h := fnv.New64a()
		_, _ = h.Write([]byte(strconv.FormatUint(seed, 10) + "\x00" + i.Question)) // a hash never errs
		return h.Sum64()
	}
	seen := map[string]bool{}
	right = slices.DeleteFunc(right, func(i Item) bool { again := seen[i.Question]; seen[i.Question] = true; return again })
	slices.SortFunc(right, func(a, b Item) int { return cmp.Compare(draw(a), draw(b)) })
	right = right[:min(max(0, n), len(right))]
	for i := range right {
		right[i].Sampled, right[i].IsNew = true, false
	}
	slices.SortFunc(right, func(a, b Item) int { return strings.Compare(a.Question, b.Question) })
	return right
}

// Choice is what a person may decide about an item.
type Choice struct {
	Decision string // as in a file of decisions
	Key      string // that chooses it on a screen
	Words    string
	Asks     string // what else must be said; "" for nothing
	Needed   bool   // it cannot be left empty
}

// Choices lists what may be decided about the item.
func (i Item) Choices() []Choice {
	var out []Choice
	if doubtful(i.Attempt) && i.Attempt.Look != nil {
		out = append(out,
			Choice{decision.Right, "y", "right", "why (may be empty)", false},
			Choice{decision.Wrong, "n", "wrong", "why (may be empty)", false},
			Choice{decision.AsksBack, "b", "asks back", "why (may be empty)", false},
			Choice{decision.Declines, "d", "declines", "why (may be empty)", false})
	}
	if i.Attempt.Verdict != score.Right && i.Attempt.Answer != "" && i.Attempt.Look == nil {
		out = append(out,
			Choice{decision.Reading, "r", "another reading", "how the question is read (may be empty)", false},
			Choice{decision.Expected, "e", "the expected answer", "", false})
	}
	if i.Attempt.Verdict != score.Right {
		out = append(out, Choice{decision.KnownWrong, "k", "known wrong", "the reason", true})
	}
	return out
}
