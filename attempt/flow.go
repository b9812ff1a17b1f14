package attempt

import (
	"context"
	"sync"

	"golang.org/x/sync/errgroup"

	"tovrel/trouble"
)

// finished is a judged attempt on its way to the store.
type finished struct {
	task   *task
	judged judged
}

// answer is a reply on its way to being judged.
type answer struct {
	task    *task
	replied replied
}

// flow moves tasks through the stages; stopped tells that some were left because the plan was stopped.
func (w *running) flow(ctx context.Context, open []*task) (stopped bool, err error) {
	g, ctx := errgroup.WithContext(ctx)
	q := newQueue(open)
	ended := make(chan struct{})
	go func() {
		select {
		case <-w.plan.Stop:
		case <-ctx.Done():
		case <-ended:
		}
		q.stop()
		w.purse.Wake()
	}()
	answers, results := make(chan answer, w.plan.Parallel), make(chan finished, w.plan.Judges)
	stage(g, w.plan.Parallel, func() { close(answers) }, func() error { return w.askAll(ctx, q, answers, results) })
	stage(g, w.plan.Judges, func() { close(results) }, func() error { return w.judgeAll(ctx, answers, results) })
	left := 0
	g.Go(trouble.Safe(func() error {
		for f := range results {
			if err := w.keep(f); err != nil {
				return err
			}
			q.done(openChildren(w, f.task))
		}
		return nil
	}))
	err = g.Wait()
	close(ended)
	q.mu.Lock()
	left = q.open
	q.mu.Unlock()
	return left > 0, err
}

// openChildren are the follow-ups of a task that are not made yet.
func openChildren(w *running, t *task) []*task {
	var open []*task
	for _, c := range t.children {
		if !w.isMade(c) {
			open = append(open, c)
		}
	}
	return open
}

// stage runs a number of workers and calls after when all have ended.
func stage(g *errgroup.Group, n int, after func(), work func() error) {
	var wg sync.WaitGroup
	wg.Add(n)
	for range n {
		g.Go(trouble.Safe(func() error {
			defer wg.Done()
			return work()
		}))
	}
	go func() {
		wg.Wait()
		after()
	}()
}

func (w *running) askAll(ctx context.Context, q *queue, answers chan<- answer, results chan<- finished) error {
	for t := q.next(); t != nil; t = q.next() {
		out, err := stageOf(ctx, 0, func(ctx context.Context) (replied, error) { return w.replyOf(ctx, t) })
		if own(err) {
			if err := send(ctx, results, finished{t, t.spoiled(out, err)}); err != nil {
				return err
			}
			continue
		}
		if err != nil {
			return err
		}
		if out.refused || out.failure != nil {
			err = send(ctx, results, finished{t, t.undelivered(out)})
		} else {
			err = send(ctx, answers, answer{t, out})
		}
		if err != nil {
			return err
		}
	}
	return ctx.Err()
}

func (w *running) judgeAll(ctx context.Context, answers <-chan answer, results chan<- finished) error {
	for a := range answers {
		j, err := stageOf(ctx, w.plan.Patience, func(ctx context.Context) (judged, error) { return w.judge(ctx, a.task, a.replied) })
		if own(err) {
			j, err = a.task.spoiled(a.replied, err), nil
		}
		if err != nil {
			return err
		}
		if err := send(ctx, results, finished{a.task, j}); err != nil {
			return err
		}
	}
	return nil
}

func send[T any](ctx context.Context, to chan<- T, item T) error {
	select {
	case to <- item:
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}
