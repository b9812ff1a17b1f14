package runner

import (
	"context"
	"sync"
	"sync/atomic"

	"tovrel/core/briefing"
	"tovrel/core/table"
	"tovrel/engine"
	"tovrel/workspace"
)

// Ground is what attempts on a dataset rest on.
type Ground struct {
	Told        briefing.Dataset   // what translators are told of it
	Beyond      *briefing.Beyond   // and beyond its tables; nil for nothing
	Briefing    *briefing.Briefing // what matching knows of its columns; nil for nothing
	Tables      []engine.Table
	Dialect     string
	AsOf        string
	Fingerprint string
	Engine      string // with its version
}

// Place is a dataset that questions are asked of, with its workers.
type Place struct {
	Ground
	Twins    []*Twin // places of other rows, on which right answers are tried again
	pool     Queries
	read     Tables
	mu       sync.Mutex
	expected map[string]*expecting
	edits    *edits // shared by all diagnoses

	ratedDown map[string][]*table.Table // by question
}

// expecting is what a question accepts, found once and shared by its attempts.
type expecting struct {
	once         sync.Once
	found        atomic.Bool
	expectations []Expectation
	err          error
}

// NewPlace makes a place.
func NewPlace(g Ground, pool Queries, read Tables) *Place {
	return &Place{Ground: g, pool: pool, read: read, expected: map[string]*expecting{}, edits: newEdits(pool, g.Tables), ratedDown: map[string][]*table.Table{}}
}

func (p *Place) expectations(ctx context.Context, c workspace.Chosen) ([]Expectation, error) {
	p.mu.Lock()
	e := p.expected[c.Name()]
	if e == nil {
		e = &expecting{}
		p.expected[c.Name()] = e
	}
	p.mu.Unlock()
	e.once.Do(func() {
		e.expectations, e.err = Expect(ctx, p.pool, p.read, p.Briefing, c.Set, c.Question)
		e.found.Store(true)
	})
	return e.expectations, e.err
}
