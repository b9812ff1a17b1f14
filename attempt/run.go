// Package attempt runs golden sets: it asks a translator, runs its queries, has the answers judged and stores every attempt.
// Attempts flow through stages (ask, judge, store), each with its own parallelism, so that a slow one holds up no other.
package attempt

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"slices"
	"time"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/history"
)

// Event tells of one attempt that was stored.
type Event struct {
	Done, Total int
	Attempt     record.Attempt
}

// running is a run under way.
type running struct {
	plan    Plan
	store   Store
	run     record.Run
	purse   Purse
	replies map[int]history.Reply // stored, not yet judged
	report  func(Event)
	total   int
	made    map[int]record.Attempt // by place
}

// Run makes a run. It is stored as it goes; when the context ends or the plan is stopped, what is done stays and the run is stopped.
// Report is called after each stored attempt, one call at a time. The error is of the store, the context or a defect of this program;
// what a translator or a query does is in the attempts.
func Run(ctx context.Context, p Plan, store Store, report func(Event)) (record.Run, []record.Attempt, error) {
	all := tasks(p)
	r, err := begin(p, store, all)
	if err != nil {
		return r, nil, err
	}
	return carryOut(ctx, p, store, report, Earlier{Run: r}, all)
}

// begin stores a new run.
func begin(p Plan, store Store, all []*task) (record.Run, error) {
	r := record.Run{Translator: p.Translator, State: record.Running, Started: history.Now(), Tool: p.Tool, Planned: len(all), UID: p.UID,
		Options: p.Options, Settings: p.Settings, Protocol: p.Protocol, By: p.By}
	remember(&r, p, all)
	told := under(&r, p)
	var err error
	r.ID, err = store.Begin(r, told...)
	return r, err
}

// Resume goes on with a run: what was answered is not asked again, what was not, or could not be reached, is. What the run did not plan is
// not asked (see SinceOf). It errs as Run does.
func Resume(ctx context.Context, p Plan, store Store, report func(Event), e Earlier) (record.Run, []record.Attempt, error) {
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

func carryOut(ctx context.Context, p Plan, store Store, report func(Event), e Earlier, all []*task) (record.Run, []record.Attempt, error) {
	start := time.Now()
	w := &running{plan: p, store: store, run: e.Run, report: report, total: len(all), replies: map[int]history.Reply{},
		made: map[int]record.Attempt{}}
	open := w.settleEarlier(e, all)
	stopped, err := len(open) > 0, error(nil)
	if !p.ended {
		stopped, err = w.flow(ctx, open)
	}
	r := w.run
	r.Duration += time.Since(start).Round(time.Millisecond)
	switch {
	case err != nil || stopped || w.cutByBudget():
		r.State = record.Stopped
	case p.Options.Narrowed() || len(w.made) < r.Planned:
		r.State = record.Partial
	default:
		r.State = record.Complete
	}
	if settleErr := w.settle(&r, all); err == nil {
		err = settleErr
	}
	var attempts []record.Attempt
	for _, t := range all {
		if a, ok := w.made[t.order]; ok {
			attempts = append(attempts, a)
		}
	}
	r.Replies(attempts)
	if finishErr := store.Finish(r); err == nil {
		err = finishErr
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

// Reached tells whether any ask of a run got through.
func Reached(attempts []record.Attempt) bool {
	for _, a := range attempts {
		if a.Verdict != score.Unscored || a.Reason != fault.ReasonTransport {
			return true
		}
	}
	return len(attempts) == 0
}
