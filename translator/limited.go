package translator

import (
	"context"
	"errors"
	"time"

	"github.com/cenkalti/backoff/v5"
	"golang.org/x/time/rate"
)

// Limits bound how a translator is asked.
type Limits struct {
	Rate    float64 // asks a second; 0 for no bound
	Retries int     // further tries after one that could not get through
	Price   Price
	First   time.Duration // the wait before the second try; later ones wait longer, each with some chance in it
	Pace    Pace          // of the machines that ask together; nil for Rate's own
}

// Pace spaces asks out.
type Pace interface {
	// Wait waits for the turn of one ask. It errs where the context ends before.
	Wait(ctx context.Context) error
}

// Price is what tokens cost, per million.
type Price struct{ Input, Output float64 }

// of is what a usage costs: what the reply says, else its tokens at the price.
func (p Price) of(u Usage) float64 {
	if u.Cost > 0 {
		return u.Cost
	}
	return (float64(u.InputTokens)*p.Input + float64(u.OutputTokens)*p.Output) / 1e6
}

// firstWait is the wait before a second try where no other is set.
const firstWait = 500 * time.Millisecond

// longestWait bounds every wait, also one that a service asks for.
const longestWait = 60 * time.Second

// Limit makes an asker that keeps to limits: it spaces asks out, tries again what could not get through (waiting as long as the
// service asks, else exponentially longer with jitter), records every try, and prices the usage.
func Limit(a Asker, l Limits) Asker {
	out := &limited{asker: a, limits: l}
	if l.Pace != nil {
		out.limiter = l.Pace
	} else if l.Rate > 0 {
		out.limiter = rate.NewLimiter(rate.Limit(l.Rate), 1)
	}
	return out
}

type limited struct {
	asker   Asker
	limits  Limits
	limiter Pace
}

func (l *limited) Close() error { return l.asker.Close() }

// Ask asks until a reply comes, nothing more can be hoped for, or the tries are used up.
func (l *limited) Ask(ctx context.Context, r Request) (Answered, error) {
	waits := backoff.NewExponentialBackOff()
	waits.InitialInterval = l.limits.First
	if waits.InitialInterval <= 0 {
		waits.InitialInterval = firstWait
	}
	waits.MaxInterval = longestWait
	waits.Reset()
	var tries []Try
	for {
		answered, err := l.once(ctx, r)
		var f *Failure
		failed := errors.As(err, &f)
		if err != nil && !failed {
			return answered, err
		}
		try := Try{Latency: answered.Latency}
		if failed {
			try.Problem = f.Message
		}
		tries = append(tries, try)
		if !failed || !f.Again || len(tries) > l.limits.Retries {
			answered.Tries = tries
			answered.Latency = tries[0].Latency
			answered.Reply.Usage = answered.Reply.Usage.Believable()
			answered.Reply.Usage.Cost = l.limits.Price.of(answered.Reply.Usage)
			return answered, err
		}
		wait := waits.NextBackOff()
		if f.Wait > 0 {
			wait = min(f.Wait, longestWait)
		}
		if err := pause(ctx, wait); err != nil {
			return answered, err
		}
	}
}

func (l *limited) once(ctx context.Context, r Request) (Answered, error) {
	if l.limiter != nil {
		if err := l.limiter.Wait(ctx); err != nil {
			if ctx.Err() != nil {
				err = ctx.Err()
			}
			return Answered{}, err
		}
	}
	answered, err := l.asker.Ask(ctx, r)
	if err == nil {
		answered.Reply, err = Accept(answered.Reply, r)
	}
	return answered, err
}

func pause(ctx context.Context, d time.Duration) error {
	timer := time.NewTimer(d)
	defer timer.Stop()
	select {
	case <-timer.C:
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}
