package versus

import (
	"slices"

	"tovrel/core/record"
	"tovrel/core/score"
)

// onSharedTwins takes a lucky attempt as right where it was missed only on twins that the other run did not have: there the two cannot
// be compared.
func onSharedTwins(a, b prepared) (prepared, prepared) {
	shared := map[string]bool{record.MadeRows: hasTwins(a.Run) && hasTwins(b.Run)}
	for _, twins := range a.Run.Twins {
		for _, fingerprint := range twins {
			shared[fingerprint] = has(b.Run.Twins, fingerprint)
		}
	}
	return a.with(asSeenOn(a.Lights, shared)), b.with(asSeenOn(b.Lights, shared))
}

// hasTwins tells whether a run's right answers were tried on twins, and then with rows made for their questions too.
func hasTwins(r record.Run) bool {
	for _, twins := range r.Twins {
		if len(twins) > 0 {
			return true
		}
	}
	return false
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
func asSeenOn(attempts []record.Light, twins map[string]bool) []record.Light {
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
