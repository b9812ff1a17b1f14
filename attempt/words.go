package attempt

import (
	"context"
	"encoding/json"
	"slices"
	"strings"

	"tovrel/core/claim"
	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/wording"
	"tovrel/expect"
	"tovrel/history"
)

// verbatim keeps a reply as it is where it is JSON, else as a JSON string.
func verbatim(raw []byte) json.RawMessage {
	if len(raw) == 0 {
		return nil
	}
	if json.Valid(raw) {
		return append(json.RawMessage(nil), raw...)
	}
	b, _ := json.Marshal(strings.ToValidUTF8(string(raw), "�")) // a string always encodes
	return b
}

// uncheckedFigures remarks that a right reply in words has numbers that are tied to nothing that is expected.
const uncheckedFigures = match.Remark("unchecked-figures")

// words judges a reply in words by the first accepted answer that it states; else by the nearest.
func (t *task) words(ctx context.Context, a record.Attempt, reply string, expectations []expect.Expectation) (judged, error) {
	var best claim.Finding
	chosen := -1
	for i, e := range expectations {
		said, err := e.Said(ctx, t.place.Pool, t.wording, t.rules)
		if err != nil {
			return judged{}, err
		}
		f := claim.Judge(reply, said)
		if chosen < 0 || better(f, best) {
			best, chosen = f, i
		}
		if f.Verdict == claim.Right {
			break
		}
	}
	e := expectations[chosen]
	a.Reference = e.Reference
	switch {
	case best.TooLong:
		return unscored(a, fault.ReasonTextTooLong, best.Why), nil
	case best.Verdict == claim.Unsure:
		a.Judge(record.Seen{Unscored: fault.ReasonNeedsALook, Why: best.Why})
	default:
		a.Judge(record.Seen{Fits: best.Verdict == claim.Right, Why: best.Why})
		a.Closeness = &best.Closeness
	}
	if best.Verdict == claim.Right {
		a.Reading = e.Reading
		a.Remarks = wordRemarks(best)
	}
	if len(best.Unchecked) > 0 {
		a.Notes = append(a.Notes, "numbers that were not checked: "+strings.Join(best.Unchecked, ", "))
	}
	if best.Verdict == claim.Wrong && t.saidBefore(reply) {
		a.Notes = append(a.Notes, rejectedBefore)
	}
	expected := history.Keep(e.Table)
	a.Expected = expected.Digest
	return judged{a, []history.Stored{expected}}, nil
}

// saidBefore tells whether users rated the same words down before.
func (t *task) saidBefore(reply string) bool {
	return slices.ContainsFunc(t.chosen.Question.Rejected, func(r string) bool { return wording.Fold(r) == wording.Fold(reply) })
}

// better tells whether a finding is nearer to an accepted answer than another: right, then doubtful, then by closeness.
func better(f, than claim.Finding) bool {
	rank := map[claim.Verdict]int{claim.Right: 2, claim.Unsure: 1, claim.Wrong: 0}
	if rank[f.Verdict] != rank[than.Verdict] {
		return rank[f.Verdict] > rank[than.Verdict]
	}
	return f.Closeness > than.Closeness
}

func wordRemarks(f claim.Finding) []match.Remark {
	var out []match.Remark
	if f.Rounded {
		out = append(out, match.Rounded)
	}
	if f.Tied {
		out = append(out, match.Tied)
	}
	if len(f.Unchecked) > 0 {
		out = append(out, uncheckedFigures)
	}
	return out
}
