package cause

import (
	"context"
	"errors"

	"tovrel/core/match"
	"tovrel/engine"
	"tovrel/expect"
)

// TwinVerdict tries a query on twins by hand: on how many it is not what the reference query gives. The error is of the reference query
// on the sample, a worker or the context.
func TwinVerdict(ctx context.Context, twins []expect.Queries, reference, answer string, rules match.Rules) (missed int, err error) {
	for _, q := range twins {
		e, err := expect.FromReference(ctx, q, reference, nil)
		if _, failed := expect.Failure(errors.Unwrap(err)); failed {
			continue
		}
		if err != nil {
			return missed, err
		}
		result, err := q.Query(ctx, engine.Request{SQL: answer})
		if _, failed := expect.Failure(err); failed {
			missed++
			continue
		}
		if err != nil {
			return missed, err
		}
		r, err := e.Meets(ctx, result.Table, rules)
		if err != nil {
			return missed, err
		}
		if !r.Matched {
			missed++
		}
	}
	return missed, nil
}
