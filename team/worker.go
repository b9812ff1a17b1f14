package team

import (
	"context"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivertype"

	"tovrel/attempt"
	"tovrel/trouble"
)

// Worker takes parts of the runs that it has and makes them.
type Worker struct {
	desk   *Desk
	client *river.Client[pgx.Tx]
	stop   context.CancelFunc
	ended  sync.WaitGroup
	mu     sync.Mutex
	crews  map[int]Make // by run
}

// Make makes a part of a run.
type Make func(ctx context.Context, part attempt.Part) error

// NewWorker starts a worker without runs. Stop it.
func (d *Desk) NewWorker(ctx context.Context) (*Worker, error) {
	w := &Worker{desk: d, crews: map[int]Make{}}
	workers := river.NewWorkers()
	river.AddWorker(workers, &parts{w: w})
	const forever = 365 * 24 * time.Hour // how long a part takes is for its limits; dead workers are noticed by the desk
	var err error
	w.client, err = river.NewClient(riverpgxv5.New(d.pool), &river.Config{ID: d.name, Schema: d.schema, Logger: silent, Workers: workers,
		Queues: map[string]river.QueueConfig{"tovrel": {MaxWorkers: 1}}, FetchCooldown: 5 * time.Millisecond,
		FetchPollInterval: 250 * time.Millisecond, JobTimeout: -1, RescueStuckJobsAfter: forever, RetryPolicy: soon{},
		CompletedJobRetentionPeriod: time.Hour})
	if err != nil {
		return nil, err
	}
	if err := w.sign(ctx); err != nil {
		return nil, err
	}
	beating, stop := context.WithCancel(context.WithoutCancel(ctx))
	w.stop = stop
	w.ended.Go(func() { w.beat(beating) })
	if err := w.client.Start(context.WithoutCancel(ctx)); err != nil {
		stop()
		return nil, unreachable(err)
	}
	return w, nil
}

// Add has the worker take parts of a run, so many at once.
func (w *Worker) Add(run, parallel int, crew Make) error {
	w.mu.Lock()
	w.crews[run] = crew
	w.mu.Unlock()
	return w.client.Queues().Add(queueOf(run), river.QueueConfig{MaxWorkers: parallel})
}

// Remove has the worker take no more parts of a run; those that it has are made first.
func (w *Worker) Remove(ctx context.Context, run int) error {
	err := w.client.Queues().Remove(ctx, queueOf(run))
	w.mu.Lock()
	delete(w.crews, run)
	w.mu.Unlock()
	return err
}

// Stop makes the parts that the worker has, and ends it; where the context ends first, they go back.
func (w *Worker) Stop(ctx context.Context) error {
	err := w.client.Stop(ctx)
	if err != nil {
		hard, cancel := context.WithTimeout(context.WithoutCancel(ctx), beat)
		defer cancel()
		_ = w.client.StopAndCancel(hard) // what it does not end goes back with the lease
	}
	w.stop()
	w.ended.Wait()
	gone, cancel := context.WithTimeout(context.WithoutCancel(ctx), beat)
	defer cancel()
	_, _ = w.desk.pool.Exec(gone, "DELETE FROM worker WHERE name = $1", w.desk.name) // else its lease runs out
	return err
}

// beat gives signs of the worker, and gives back what others left, until the context ends.
func (w *Worker) beat(ctx context.Context) {
	tick := time.NewTicker(beat)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
			if w.sign(ctx) == nil { // a database that is away is signed to when it is back
				_ = w.desk.giveBack(ctx)
			}
		}
	}
}

// sign notes that the worker is alive.
func (w *Worker) sign(ctx context.Context) error {
	return w.desk.exec(ctx, "INSERT INTO worker (name, seen) VALUES ($1, now()) ON CONFLICT (name) DO UPDATE SET seen = now()",
		w.desk.name)
}

// parts makes the queue's jobs.
type parts struct {
	river.WorkerDefaults[partArgs]
	w *Worker
}

// Work makes one part. One that errs is made again by somebody.
func (p *parts) Work(ctx context.Context, job *river.Job[partArgs]) error {
	p.w.mu.Lock()
	crew := p.w.crews[job.Args.Run]
	p.w.mu.Unlock()
	if crew == nil {
		return errUnknown
	}
	part := job.Args.Part
	part.IsNew = part.IsNew && job.Attempt == 1
	return trouble.Safe(func() error { return crew(ctx, part) })()
}

// soon has a part that erred made again after a second.
type soon struct{}

// NextRetry is when.
func (soon) NextRetry(*rivertype.JobRow) time.Time { return time.Now().Add(time.Second) }
