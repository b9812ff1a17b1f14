package attempt

import (
	"context"
	"errors"
	"fmt"
	"time"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/trouble"
)

// errPatience says that a stage of an attempt did not end.
var errPatience = errors.New("it did not end")

// stageOf does one stage of an attempt in a goroutine of its own: one that panics, does not end within its time (0 for no bound) or
// does not listen to the context is left behind. The error is then of the kind trouble.Internal, errPatience or the context's.
func stageOf[T any](ctx context.Context, within time.Duration, do func(context.Context) (T, error)) (T, error) {
	type outcome struct {
		value T
		err   error
	}
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	outcomes := make(chan outcome, 1)
	go func() {
		var o outcome
		o.err = trouble.Safe(func() (err error) {
			o.value, err = do(ctx)
			return err
		})()
		outcomes <- o
	}()
	var late <-chan time.Time
	if within > 0 {
		timer := time.NewTimer(within)
		defer timer.Stop()
		late = timer.C
	}
	var none T
	select {
	case o := <-outcomes:
		return o.value, o.err
	case <-late:
		return none, fmt.Errorf("internal error: a stage of the attempt took longer than %s: %w", within, errPatience)
	case <-ctx.Done():
		return none, ctx.Err()
	}
}

// own tells an error that is a defect of this program and costs one attempt.
func own(err error) bool {
	var p *trouble.Panic
	return errors.As(err, &p) || errors.Is(err, errPatience)
}

// spoiled is an attempt that a defect of this program cost: the reply is kept, and the run goes on.
func (t *task) spoiled(out replied, err error) judged {
	return unscored(t.record(out), fault.ReasonInternalError, err.Error())
}

// Defects lists the attempts that a defect of this program cost.
func Defects(attempts []record.Attempt) []record.Attempt {
	var out []record.Attempt
	for _, a := range attempts {
		if a.Reason == fault.ReasonInternalError {
			out = append(out, a)
		}
	}
	return out
}
