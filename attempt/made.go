package attempt

import (
	"context"
	"sync"

	"tovrel/apart"
	"tovrel/core/record"
	"tovrel/core/sql"
	"tovrel/core/twin"
	"tovrel/expect"
)

// FactsOf gives what twins of a dataset keep. The error is of a query, a worker or the context.
type FactsOf func(ctx context.Context) (*twin.Facts, error)

// madeRows are the rows that were made for a question and a query, looked for once for all attempts that gave it.
type madeRows struct {
	once  sync.Once
	found *apart.Found
	err   error
}

// onMade tries a right answer's query with rows that are made to tell it from the reference query, in the sample and within its facts.
// Where it is not right with these, the answer was lucky.
func (w *running) onMade(ctx context.Context, again trial, j *judged) error {
	place := again.place
	expectations, err := place.Expectations(ctx, again.chosen)
	if err != nil {
		return err
	}
	expectations = again.counting(expect.References(expectations))
	if again.tree == nil || len(expectations) == 0 || expectations[0].Tree == nil || expectations[0].Tree.SameFeatures(again.tree) {
		return nil
	}
	rows := place.madeFor(again.chosen.Name() + "\x00" + j.attempt.Reading + "\x00" + again.query)
	rows.once.Do(func() { rows.found, rows.err = again.make(ctx, expectations) })
	if rows.err != nil || rows.found == nil {
		return rows.err
	}
	changed := NewPlace(place.Ground, place.changed().With(rows.found.Changes), place.read)
	m, err := again.missed(ctx, changed.Pool)
	if err != nil || m == nil {
		return err
	}
	with := "with " + rows.found.Words
	on := seenOn{changed, "right on the sample, but not " + with + ": ", with, evidence{words: "; " + m.says(), rows: rows.found.Rows}}
	if err := w.lucky(ctx, again, on, j, m); err != nil {
		return err
	}
	j.attempt.MissedOn = []string{record.MadeRows}
	return nil
}

// make looks for the rows.
func (t trial) make(ctx context.Context, expectations []expect.Expectation) (*apart.Found, error) {
	facts, err := t.place.Facts(ctx)
	if err != nil {
		return nil, err
	}
	trees := []*sql.Tree{t.tree}
	for _, e := range expectations {
		trees = append(trees, e.Tree)
	}
	bounds, err := expect.BoundariesOf(ctx, t.place.Pool, trees)
	if err != nil {
		return nil, err
	}
	return t.place.changed().Make(ctx, apart.Making{Facts: facts, Bounds: bounds, Trees: trees,
		Differs: func(ctx context.Context, q expect.Queries) (bool, error) {
			m, err := t.missed(ctx, q)
			return m != nil, err
		}})
}

// madeFor are the rows of a key, to be looked for where they are not there yet.
func (p *Place) madeFor(key string) *madeRows {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.made == nil {
		p.made = map[string]*madeRows{}
	}
	if p.made[key] == nil {
		p.made[key] = &madeRows{}
	}
	return p.made[key]
}
