package attempt

import (
	"context"
	"strings"

	"tovrel/core/golden"
	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/table"
	"tovrel/engine"
	"tovrel/expect"
	"tovrel/workspace"
)

// rejectedBefore is what an attempt says whose answer users have rated down.
const rejectedBefore = "users rated this answer down before (rejected: in the question's settings)"

// namedRejected notes that a wrong answer is one that users have rated down.
func (t *task) namedRejected(ctx context.Context, a *record.Attempt, answer *table.Table) error {
	known, err := t.place.rejected(ctx, t.chosen)
	for _, r := range known {
		if match.Match(r, answer, expect.AsWritten, match.Known{}).Matched {
			a.Notes = append(a.Notes, rejectedBefore)
			return nil
		}
	}
	return err
}

// rejected are the tables that users rated down, found once; what does not run any more is left out.
func (p *Place) rejected(ctx context.Context, c workspace.Chosen) ([]*table.Table, error) {
	if len(c.Question.Rejected) == 0 {
		return nil, nil
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	if known, ok := p.ratedDown[c.Name()]; ok {
		return known, nil
	}
	var out []*table.Table
	for _, text := range c.Question.Rejected {
		if strings.HasPrefix(strings.TrimSpace(text), "|") {
			if t, err := golden.TableOf(text); err == nil {
				out = append(out, t)
			}
			continue
		}
		result, err := p.Pool.Query(ctx, engine.Request{SQL: text})
		if _, failed := expect.Failure(err); failed {
			continue
		}
		if err != nil {
			return nil, err
		}
		out = append(out, result.Table)
	}
	p.ratedDown[c.Name()] = out
	return out, nil
}
