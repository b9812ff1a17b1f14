package attempt

import (
	"context"
	"sync"
	"sync/atomic"

	"tovrel/apart"
	"tovrel/cause"
	"tovrel/core/briefing"
	"tovrel/core/table"
	"tovrel/core/value"
	"tovrel/engine"
	"tovrel/expect"
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
	OfTables    map[string]string // fingerprints of the tables, by their names in lower case; nil where they are not known
	Engine      string            // with its version
	Hides       []string          // tables that computed ones stand for, in lower case
	Live        bool              // a server's database as it is
	Beside      bool              // queries that are asked for there run on a server that holds the same rows
	Edits       int               // how many queries a diagnosis may run on a connected server; below 0 for no bound
}

// Place is a dataset that questions are asked of, with its workers.
type Place struct {
	Ground
	Twins    []*Twin // places of other rows, on which right answers are tried again
	Facts    FactsOf // within which rows are made for a question; nil where none are to be made
	Pool     expect.Queries
	read     expect.Tables
	mu       sync.Mutex
	expected map[string]*expecting
	Search   *cause.Search // shared by all diagnoses

	ratedDown map[string][]*table.Table // by question
	base      *apart.Base               // on which queries see tables changed; made when it is first asked for
	made      map[string]*madeRows      // by question and query
	cells     map[string]value.Value    // first cells of the queries of facts
}

// expecting is what a question accepts, found once and shared by its attempts.
type expecting struct {
	once         sync.Once
	found        atomic.Bool
	expectations []expect.Expectation
	err          error
}

// NewPlace makes a place.
func NewPlace(g Ground, pool expect.Queries, read expect.Tables) *Place {
	return &Place{Ground: g, Pool: pool, read: read, expected: map[string]*expecting{}, Search: cause.NewSearch(pool, g.Tables, g.Dialect,
		g.Live),
		ratedDown: map[string][]*table.Table{}}
}

// Expectations are what a question accepts, found once for all its attempts. The error is of its reference query, a worker or the context.
func (p *Place) Expectations(ctx context.Context, c workspace.Chosen) ([]expect.Expectation, error) {
	p.mu.Lock()
	e := p.expected[c.Name()]
	if e == nil {
		e = &expecting{}
		p.expected[c.Name()] = e
	}
	p.mu.Unlock()
	e.once.Do(func() {
		e.expectations, e.err = expect.Answers(ctx, expect.On(p.Pool, c.Question, p.Told), p.read, p.Briefing, c.Set, c.Question)
		e.found.Store(true)
	})
	return e.expectations, e.err
}
