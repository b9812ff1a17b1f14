package versus

import (
	"slices"

	"tovrel/core/record"
	"tovrel/core/score"
)

// onSharedTwins takes a lucky attempt as right where it was missed only on twins that the other run did not have: there the two cannot
// be compared.
func onSharedTwins(a, b Side) (Side, Side) {
	shared := map[string]bool{}
	for _, twins := range a.Run.Twins {
		for _, fingerprint := range twins {
			shared[fingerprint] = has(b.Run.Twins, fingerprint)
		}
	}
	a.Attempts, b.Attempts = asSeenOn(a.Attempts, shared), asSeenOn(b.Attempts, shared)
	return a, b
}

func has(twins map[string][]string, fingerprint string) bool {
	for _, all := range twins {
		if slices.Contains(all, fingerprint) {
			return true
		}
	}
	return false
}

// asSeenOn are attempts as they would be on some twins alone.
func asSeenOn(attempts []record.Attempt, twins map[string]bool) []record.Attempt {
	out := attempts
	for i, a := range attempts {
		if a.Verdict != score.Lucky || slices.ContainsFunc(a.MissedOn, func(fingerprint string) bool { return twins[fingerprint] }) {
			continue
		}
		if &out[0] == &attempts[0] {
			out = slices.Clone(attempts)
		}
		out[i].Verdict, out[i].Faults = score.Right, nil
	}
	return out
}
