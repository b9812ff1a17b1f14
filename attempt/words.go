package attempt

import (
	"context"
	"encoding/json"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/record"
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

// words judges a reply in words by the first accepted answer that it states.
func (t *task) words(ctx context.Context, a record.Attempt, reply string, expectations []expect.Expectation) (judged, error) {
	var first match.TextResult
	for i, e := range expectations {
		e, err := e.Whole(ctx)
		if err != nil {
			return judged{}, err
		}
		domain, err := e.Domain(ctx, t.place.Pool)
		if err != nil {
			return judged{}, err
		}
		r := match.Text(e.Table, reply, t.wording, domain)
		if i == 0 || r.Matched {
			first, a.Reference = r, e.Reference
		}
		if r.Matched {
			a.Reading = e.Reading
			break
		}
	}
	if first.TooLong {
		return unscored(a, fault.ReasonTextTooLong, first.Why), nil
	}
	expected := history.Keep(expectations[0].Table)
	a.Judge(record.Seen{Fits: first.Matched, Why: first.Why})
	a.Expected = expected.Digest
	return judged{a, []history.Stored{expected}}, nil
}
