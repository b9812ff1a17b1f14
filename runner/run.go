// Package runner runs golden sets: it asks a translator, runs its queries, has the answers judged and stores every attempt.
// Attempts flow through stages (ask, judge, store), each with its own parallelism, so that a slow one holds up no other.
package runner

import (
	"context"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"tovrel/core/briefing"
	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/run"
	"tovrel/core/score"
	"tovrel/history"
	"tovrel/translator"
	"tovrel/workspace"
)

// Ground is what attempts on a dataset rest on.
type Ground struct {
	Told        briefing.Dataset   // what translators are told of it
	Beyond      *briefing.Beyond   // and beyond its tables; nil for nothing
	Briefing    *briefing.Briefing // what matching knows of its columns; nil for nothing
	Dialect     string
	AsOf        string
	Fingerprint string
}

// Place is a dataset that questions are asked of, with its workers.
type Place struct {
	Ground
	pool     Queries
	read     Tables
	mu       sync.Mutex
	expected map[string]*expecting
}

// expecting is what a question accepts, found once and shared by its attempts.
type expecting struct {
	once         sync.Once
	expectations []Expectation
	err          error
}

// NewPlace makes a place.
func NewPlace(g Ground, pool Queries, read Tables) *Place {
	return &Place{Ground: g, pool: pool, read: read, expected: map[string]*expecting{}}
}

func (p *Place) expectations(ctx context.Context, c workspace.Chosen) ([]Expectation, error) {
	p.mu.Lock()
	e := p.expected[c.Name()]
	if e == nil {
		e = &expecting{}
		p.expected[c.Name()] = e
	}
	p.mu.Unlock()
	e.once.Do(func() { e.expectations, e.err = Expect(ctx, p.pool, p.read, p.Briefing, c.Set, c.Question) })
	return e.expectations, e.err
}

// Plan is what a run asks.
type Plan struct {
	Translator string
	Tool       string
	Partial    bool // narrowed to some questions
	Asker      translator.Asker
	Parallel   int // asks at once
	Judges     int // answers judged at once
	Questions  []workspace.Chosen
	Places     map[string]*Place // by dataset
	Rules      match.Rules       // the workspace's
}

// Store is where a run is kept. It is *history.Store.
type Store interface {
	Begin(r run.Run) (int, error)
	Save(runID, place int, a run.Attempt, tables ...history.Stored) error
	Finish(r run.Run) error
}

// Event tells of one attempt that was stored.
type Event struct {
	Done, Total int
	Attempt     run.Attempt
}

// task is one attempt to make.
type task struct {
	place   *Place
	order   int
	name    string
	wording string
	chosen  workspace.Chosen
	rules   match.Rules
	hidden  []string // columns that the answer's query reads and the briefing hides
}

func (t *task) request() translator.Request {
	return translator.Request{Protocol: translator.Protocol, ID: t.name, Question: t.wording, Thread: []translator.Turn{},
		Dialect: t.place.Dialect, AsOf: t.place.AsOf, Dataset: t.place.Told, Briefing: t.place.Beyond}
}

// tasks lists the attempts of a plan: every question in all its wordings.
func tasks(p Plan) []*task {
	var all []*task
	for _, c := range p.Questions {
		rules := c.Question.Rules.Over(c.Set.Rules.Over(p.Rules))
		for _, wording := range c.Question.Wordings() {
			all = append(all, &task{place: p.Places[c.Set.Dataset], order: len(all), name: c.Name(), wording: wording, chosen: c, rules: rules})
		}
	}
	return all
}

// Run makes a run. It is stored as it goes; when the context ends, what is done stays and the run is stopped. Report is
// called after each stored attempt, one call at a time.
func Run(ctx context.Context, p Plan, store Store, report func(Event)) (run.Run, []run.Attempt, error) {
	all := tasks(p)
	start := time.Now()
	r := run.Run{Translator: p.Translator, State: run.Running, Started: history.Now(), Tool: p.Tool, Planned: len(all),
		Datasets: map[string]string{}, Weights: map[string]float64{}}
	for _, t := range all {
		r.Datasets[t.chosen.Set.Dataset] = t.place.Fingerprint
		r.Weights[t.name] = t.chosen.Question.Weight
	}
	id, err := store.Begin(r)
	if err != nil {
		return r, nil, err
	}
	r.ID = id
	attempts, err := flow(ctx, p, all, func(t *task, j judged, done int) error {
		if err := store.Save(r.ID, t.order, j.attempt, j.tables...); err != nil {
			return err
		}
		report(Event{done, len(all), j.attempt})
		return nil
	})
	r.Duration = elapsed(start)
	switch {
	case err != nil:
		r.State = run.Stopped
	case p.Partial:
		r.State = run.Partial
	default:
		r.State = run.Complete
	}
	if finishErr := store.Finish(r); err == nil {
		err = finishErr
	}
	return r, attempts, err
}

// finished is a judged attempt on its way to the store.
type finished struct {
	task   *task
	judged judged
}

// answer is a reply on its way to being judged.
type answer struct {
	task     *task
	answered translator.Answered
}

// flow moves tasks through the stages and gives the stored attempts in the plan's order.
func flow(ctx context.Context, p Plan, all []*task, keep func(*task, judged, int) error) ([]run.Attempt, error) {
	g, ctx := errgroup.WithContext(ctx)
	todo, answers, results := make(chan *task), make(chan answer, p.Parallel), make(chan finished, p.Judges)
	g.Go(func() error { return feed(ctx, all, todo) })
	stage(g, p.Parallel, func() { close(answers) }, func() error { return askAll(ctx, p.Asker, todo, answers, results) })
	stage(g, p.Judges, func() { close(results) }, func() error { return judgeAll(ctx, answers, results) })
	byOrder := make(map[int]run.Attempt, len(all))
	g.Go(func() error {
		for f := range results {
			byOrder[f.task.order] = f.judged.attempt
			if err := keep(f.task, f.judged, len(byOrder)); err != nil {
				delete(byOrder, f.task.order)
				return err
			}
		}
		return nil
	})
	err := g.Wait()
	var attempts []run.Attempt
	for i := range all {
		if a, ok := byOrder[i]; ok {
			attempts = append(attempts, a)
		}
	}
	return attempts, err
}

// stage runs a number of workers and calls after when all have ended.
func stage(g *errgroup.Group, n int, after func(), work func() error) {
	var wg sync.WaitGroup
	wg.Add(n)
	for range n {
		g.Go(func() error {
			defer wg.Done()
			return work()
		})
	}
	go func() {
		wg.Wait()
		after()
	}()
}

func feed(ctx context.Context, all []*task, todo chan<- *task) error {
	defer close(todo)
	for _, t := range all {
		select {
		case todo <- t:
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	return nil
}

func askAll(ctx context.Context, asker translator.Asker, todo <-chan *task, answers chan<- answer, results chan<- finished) error {
	for t := range todo {
		if why := notBuilt(t.chosen.Question); why != "" {
			j := unscored(run.Attempt{Question: t.name, Wording: t.wording}, fault.ReasonNotBuilt, why)
			if err := send(ctx, results, finished{t, j}); err != nil {
				return err
			}
			continue
		}
		answered, verdict, err := t.ask(ctx, asker)
		if err != nil {
			return err
		}
		if verdict != nil {
			err = send(ctx, results, finished{t, *verdict})
		} else {
			err = send(ctx, answers, answer{t, answered})
		}
		if err != nil {
			return err
		}
	}
	return nil
}

func judgeAll(ctx context.Context, answers <-chan answer, results chan<- finished) error {
	for a := range answers {
		j, err := a.task.judge(ctx, a.answered)
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
