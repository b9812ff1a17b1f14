package attempt

import (
	"context"
	"errors"

	"tovrel/core/record"
	"tovrel/history"
)

// Part is a part of a run that is made on its own, maybe on another machine: a question with its follow-ups, in all wordings and repeats.
type Part struct {
	Root   string `json:"root"`   // the question
	Places []int  `json:"places"` // of its attempts in the store, in the plan's order
	IsNew  bool   `json:"new"`    // nothing of it can be stored yet
}

// Begin stores a new run, and gives the parts that it is made of.
func Begin(p Plan, store Store) (record.Run, []Part, error) {
	all := tasks(p)
	r, err := begin(p, store, all)
	parts := partsOf(all)
	for i := range parts {
		parts[i].IsNew = true
	}
	return r, parts, err
}

// Rest are the parts of a run that was broken off which have anything to ask still.
func Rest(p Plan, e Earlier) []Part {
	all, _ := planned(e.Run, tasks(p))
	w := &running{plan: p, replies: map[int]history.Reply{}, made: map[int]record.Attempt{}}
	w.settleEarlier(e, all)
	var open []Part
	for _, part := range partsOf(all) {
		for _, place := range part.Places {
			if _, made := w.made[place]; !made {
				open = append(open, part)
				break
			}
		}
	}
	return open
}

// root is the question that a task's conversation began with.
func (t *task) root() string {
	for t.parent != nil {
		t = t.parent
	}
	return t.name
}

func partsOf(all []*task) []Part {
	var parts []Part
	at := map[string]int{}
	for _, t := range all {
		i, known := at[t.root()]
		if !known {
			i = len(parts)
			at[t.root()] = i
			parts = append(parts, Part{Root: t.root()})
		}
		parts[i].Places = append(parts[i].Places, t.order)
	}
	return parts
}

// Crew makes parts of a run: it is what one machine of a team has of it.
type Crew struct {
	plan  Plan
	run   record.Run
	store Store
	roots map[string][]*task // in the plan's order
}

// NewCrew is a crew for a run whose questions it plans as the run did.
func NewCrew(p Plan, store Store, r record.Run) *Crew {
	c := &Crew{plan: p, run: r, store: store, roots: map[string][]*task{}}
	all, _ := planned(r, tasks(p))
	for _, t := range all {
		c.roots[t.root()] = append(c.roots[t.root()], t)
	}
	return c
}

// Make makes what is missing of a part: attempts that are stored are not made again, and stored replies are not asked for again. One
// part is made by one call at a time. It errs as Run does.
func (c *Crew) Make(ctx context.Context, part Part, made []history.Placed, replies []history.Reply, report func(Event)) error {
	own := c.roots[part.Root]
	w := &running{plan: c.plan, store: c.store, run: c.run, report: report, total: len(own), replies: map[int]history.Reply{},
		made: map[int]record.Attempt{}, purse: c.plan.Purse}
	if w.purse == nil {
		w.purse = newPurse(c.plan.Budget, Budget{})
	}
	for i, t := range own {
		if i < len(part.Places) {
			t.order = part.Places[i]
		}
	}
	for _, m := range made {
		w.made[m.Place] = m.Attempt
	}
	for _, r := range replies {
		w.replies[r.Place] = r
	}
	var open []*task
	for _, t := range own {
		if a, done := w.made[t.order]; done {
			t.made = a
		} else if t.parent == nil || w.isMade(t.parent) {
			open = append(open, t)
		}
	}
	stopped, err := w.flow(ctx, open)
	if err == nil && stopped {
		return errStopped
	}
	return err
}

// errStopped says that a part is not whole, because its machine was asked to end.
var errStopped = errors.New("stopped before all of the part was made")

// Conclude ends a run whose attempts a team has made: what is not made stays open, and nothing is asked. It errs as Run does.
func Conclude(p Plan, store Store, r record.Run, made []history.Placed) (record.Run, []record.Attempt, error) {
	all, _ := planned(r, tasks(p))
	p.ended = true
	return carryOut(context.Background(), p, store, func(Event) {}, Earlier{Run: r, Attempts: made, Final: true}, all)
}
