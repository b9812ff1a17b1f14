// Package runner runs golden sets: it asks a translator, runs its queries, has the answers judged and stores every attempt.
// Attempts flow through stages (ask, judge, store), each with its own parallelism, so that a slow one holds up no other.
package runner

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"slices"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"tovrel/core/fault"
	"tovrel/core/run"
	"tovrel/core/score"
	"tovrel/history"
	"tovrel/trouble"
)

// Store is where a run is kept. It is *history.Store.
type Store interface {
	Begin(r run.Run) (int, error)
	KeepReply(runID, place int, reply history.Reply) error
	Save(runID, place int, a run.Attempt, tables ...history.Stored) error
	Finish(r run.Run) error
	Table(digest string) (history.Stored, error)
}

// Earlier is what a run that is resumed has already.
type Earlier struct {
	Run      run.Run
	Attempts []history.Placed
	Replies  []history.Reply
}

// Event tells of one attempt that was stored.
type Event struct {
	Done, Total int
	Attempt     run.Attempt
}

// running is a run under way.
type running struct {
	plan    Plan
	store   Store
	run     run.Run
	purse   *purse
	replies map[int]history.Reply // stored, not yet judged
	report  func(Event)
	total   int
	made    map[int]run.Attempt // by place
}

// Run makes a run. It is stored as it goes; when the context ends or the plan is stopped, what is done stays and the run is
// stopped. Report is called after each stored attempt, one call at a time.
func Run(ctx context.Context, p Plan, store Store, report func(Event)) (run.Run, []run.Attempt, error) {
	all := tasks(p)
	r := run.Run{Translator: p.Translator, State: run.Running, Started: history.Now(), Tool: p.Tool, Planned: len(all), UID: p.UID,
		Options: p.Options, Settings: p.Settings}
	remember(&r, p, all)
	id, err := store.Begin(r)
	if err != nil {
		return r, nil, err
	}
	r.ID = id
	return carryOut(ctx, p, store, report, Earlier{Run: r}, all)
}

// Resume goes on with a run: what was answered is not asked again, what was not, or could not be reached, is. What the run did not plan is
// not asked (see SinceOf).
func Resume(ctx context.Context, p Plan, store Store, report func(Event), e Earlier) (run.Run, []run.Attempt, error) {
	all, _ := planned(e.Run, tasks(p))
	made := map[string]bool{}
	for _, a := range e.Attempts {
		made[a.Attempt.Question] = made[a.Attempt.Question] || !again(a.Attempt)
	}
	for _, t := range all {
		if _, known := e.Run.Grounds[t.name]; known && !made[t.name] { // none of it is judged yet: all will be by what holds now
			e.Run.Grounds[t.name] = GroundOf(p, t.chosen)
		}
		for i := len(t.children) - 1; i >= 0; i-- {
			if !slices.Contains(all, t.children[i]) {
				t.children = slices.Delete(t.children, i, i+1)
			}
		}
	}
	return carryOut(ctx, p, store, report, e, all)
}

// NewUID makes a name for a run that no other run has.
func NewUID() string {
	b := make([]byte, 8)
	_, _ = rand.Read(b) // never fails
	return hex.EncodeToString(b)
}

func carryOut(ctx context.Context, p Plan, store Store, report func(Event), e Earlier, all []*task) (run.Run, []run.Attempt, error) {
	start := time.Now()
	w := &running{plan: p, store: store, run: e.Run, report: report, total: len(all), replies: map[int]history.Reply{}, made: map[int]run.Attempt{}}
	open := w.settleEarlier(e, all)
	stopped, err := w.flow(ctx, open)
	r := w.run
	r.Duration += time.Since(start).Round(time.Millisecond)
	switch {
	case err != nil || stopped || w.cutByBudget():
		r.State = run.Stopped
	case p.Options.Narrowed() || len(w.made) < r.Planned:
		r.State = run.Partial
	default:
		r.State = run.Complete
	}
	if settleErr := w.settle(&r, all); err == nil {
		err = settleErr
	}
	if finishErr := store.Finish(r); err == nil {
		err = finishErr
	}
	var attempts []run.Attempt
	for _, t := range all {
		if a, ok := w.made[t.order]; ok {
			attempts = append(attempts, a)
		}
	}
	return r, attempts, err
}

// cutByBudget tells whether attempts were not asked because the budget was spent: such a run has not asked what it planned.
func (w *running) cutByBudget() bool {
	for _, a := range w.made {
		if a.Reason == fault.ReasonOverBudget {
			return true
		}
	}
	return false
}

// settleEarlier gives tasks their places in the store and takes over what an earlier start of the run has; it gives the tasks
// that can be begun with.
func (w *running) settleEarlier(e Earlier, all []*task) []*task {
	places := map[string]int{}
	next := 0
	kept := map[string]run.Attempt{}
	var spent Budget
	for _, p := range e.Attempts {
		k := Key(p.Attempt)
		places[k], next = p.Place, max(next, p.Place+1)
		if again(p.Attempt) {
			continue
		}
		kept[k] = p.Attempt
		spent.Money += p.Attempt.Cost
		spent.Tokens += p.Attempt.Tokens
	}
	for _, r := range e.Replies {
		places[r.Key], next = r.Place, max(next, r.Place+1)
	}
	w.purse = newPurse(w.plan.Budget, spent)
	for _, t := range all {
		k := key(t.name, t.wording, t.repeat)
		place, known := places[k]
		if !known && (len(places) > 0) {
			place = next
			next++
		} else if !known {
			place = t.order
		}
		t.order = place
	}
	for _, r := range e.Replies {
		w.replies[r.Place] = r
	}
	for _, t := range all {
		if a, ok := kept[key(t.name, t.wording, t.repeat)]; ok {
			t.made = a
			w.made[t.order] = a
		}
	}
	var open []*task
	for _, t := range all {
		if _, done := w.made[t.order]; done {
			continue
		}
		if t.parent == nil || w.isMade(t.parent) {
			open = append(open, t)
		}
	}
	return open
}

func (w *running) isMade(t *task) bool {
	_, made := w.made[t.order]
	return made
}

// again tells the attempts that a resumed run asks again: they were never answered.
func again(a run.Attempt) bool {
	unanswered := a.Reason == fault.ReasonInternalError && len(a.Raw) == 0
	return a.Verdict == score.Unscored && (unanswered || a.Reason == fault.ReasonTransport || a.Reason == fault.ReasonOverBudget)
}

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
		w.purse.wake()
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

// keep stores an attempt before anything forgets it.
func (w *running) keep(f finished) error {
	if err := w.store.Save(w.run.ID, f.task.order, f.judged.attempt, f.judged.tables...); err != nil {
		return err
	}
	f.task.made = f.judged.attempt
	w.made[f.task.order] = f.judged.attempt
	w.report(Event{len(w.made), w.total, f.judged.attempt})
	return nil
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

// Reached tells whether any ask of a run got through.
func Reached(attempts []run.Attempt) bool {
	for _, a := range attempts {
		if a.Verdict != score.Unscored || a.Reason != fault.ReasonTransport {
			return true
		}
	}
	return len(attempts) == 0
}
