package attempt

import (
	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/history"
)

// Store is where a run is kept. It is *history.Store.
type Store interface {
	Begin(r record.Run, told ...history.Stored) (int, error)
	KeepReply(runID, place int, reply history.Reply) error
	Save(runID, place int, a record.Attempt, tables ...history.Stored) error
	Finish(r record.Run) error
	Table(digest string) (history.Stored, error)
}

// Earlier is what a run that is resumed has already.
type Earlier struct {
	Run      record.Run
	Attempts []history.Placed
	Replies  []history.Reply
	Final    bool // what was not answered is not asked again
}

// settleEarlier gives tasks their places in the store and takes over what an earlier start of the run has; it gives the tasks
// that can be begun with.
func (w *running) settleEarlier(e Earlier, all []*task) []*task {
	places := map[string]int{}
	next := 0
	kept := map[string]record.Attempt{}
	var spent Budget
	for _, p := range e.Attempts {
		k := Key(p.Attempt)
		places[k], next = p.Place, max(next, p.Place+1)
		if !e.Final && again(p.Attempt) {
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
func again(a record.Attempt) bool {
	unanswered := a.Reason == fault.ReasonInternalError && len(a.Raw) == 0
	return a.Verdict == score.Unscored && (unanswered || a.Reason == fault.ReasonTransport || a.Reason == fault.ReasonOverBudget)
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
