package engine

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"tovrel/core/fault"
)

// Pool runs queries on one dataset in a number of workers, each one query at a time. Workers start when first needed and
// are replaced when they die.
type Pool struct {
	program string
	setup   Setup
	slots   chan *worker // nil entries are workers not started yet
	size    int
	closing sync.Once
	there   *Pool // of the server on which the dataset's sample is loaded; nil for none
}

// Beside has queries that are asked for there, and those of another dialect, run on a server that holds the same rows. It is closed with
// the pool.
func (p *Pool) Beside(there *Pool) { p.there = there }

// placed is the pool that a request runs in, and the request as that is asked.
func (p *Pool) placed(r Request) (*Pool, Request) {
	if p.there != nil && (r.There || r.Dialect != "" && r.Dialect != DuckDB) {
		p = p.there
	}
	if form := r.Forms[p.setup.Engine]; form != "" && r.Dialect == "" {
		r.SQL, r.Dialect = form, p.setup.Engine
	}
	return p, r
}

// NewPool makes a pool of a dataset's workers; program is Tovrel's own executable.
func NewPool(program string, setup Setup, size int) *Pool {
	p := &Pool{program: program, setup: setup, slots: make(chan *worker, size), size: size}
	for range size {
		p.slots <- nil
	}
	return p
}

// Query runs one query. The error is *Failure when the query is at fault, the context's error when it was cancelled, and
// another one when no worker could be started.
func (p *Pool) Query(ctx context.Context, request Request) (Result, error) {
	p, request = p.placed(request)
	var w *worker
	select {
	case w = <-p.slots:
	case <-ctx.Done():
		return Result{}, ctx.Err()
	}
	if ctx.Err() != nil { // both may have been so: no worker is started for what is given up
		p.slots <- w
		return Result{}, ctx.Err()
	}
	used, start := w != nil, time.Now()
	result, w, err := p.run(ctx, w, request, p.setup)
	var failure *Failure
	if used && errors.As(err, &failure) && doubtful(failure, p.setup.Limits) {
		w.stop()
		result, w, err = p.afresh(ctx, request, failure, time.Since(start))
	}
	var broken *Broken
	switch is := errors.As(err, &broken); {
	case is && p.setup.Server.DSN != "": // a connection that is cut costs its query, but for one that was gone before it
		if used && time.Since(start) < stale {
			result, w, err = p.afresh(ctx, request, broken.Failure, time.Since(start))
		}
		if errors.As(err, &broken) {
			err = broken.Failure
		}
	case is: // the database died of the query; once more without the optimiser known for that
		careful := p.setup
		careful.Careful = true
		var again *worker
		result, again, err = p.run(ctx, nil, request, careful)
		again.stop()
		if errors.As(err, &broken) {
			err = broken.Failure
		}
	}
	p.slots <- w
	return result, err
}

// stale is within which time a session that waited for its next query turns out to be gone.
const stale = time.Second

// afresh runs a query that failed in a used worker once more in a fresh one, in what is left of its time: an innocent query must not
// pay for what ran before it. Where it fails again, the failure that says more counts.
func (p *Pool) afresh(ctx context.Context, request Request, before *Failure, took time.Duration) (Result, *worker, error) {
	setup := p.setup
	if setup.Limits.Time -= took; setup.Limits.Time <= 0 {
		return Result{}, nil, before
	}
	result, w, err := p.run(ctx, nil, request, setup)
	w.stop() // it knows the shorter time
	var again *Failure
	if errors.As(err, &again) && (before.Code != fault.EngineError || again.Code == fault.TooSlow) {
		err = before
	}
	return result, nil, err
}

// run asks a worker, starting one where there is none. It gives the worker back, nil when it is gone.
func (p *Pool) run(ctx context.Context, w *worker, request Request, setup Setup) (Result, *worker, error) {
	if w == nil {
		var err error
		if w, err = startWorker(p.program, setup); err != nil {
			return Result{}, nil, err
		}
	}
	result, err := w.ask(ctx, request, setup.Limits)
	if w.gone {
		w.stop()
		return result, nil, err
	}
	return result, w, err
}

// Close stops all workers. Queries must have ended.
func (p *Pool) Close() {
	p.closing.Do(func() {
		for range p.size {
			w := <-p.slots
			w.stop()
		}
		if p.there != nil {
			p.there.Close()
		}
	})
}

func tooSlow(limits Limits) *Failure {
	return &Failure{Code: fault.TooSlow, Message: fmt.Sprintf("the query ran longer than %s (limits: time)", limits.Time), Position: -1}
}

func tooBig(limits Limits) *Failure {
	return &Failure{Code: fault.TooBig, Message: fmt.Sprintf("the query needed more memory than %d MB (limits: memory)",
		limits.Memory>>20), Position: -1}
}
