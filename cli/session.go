package cli

import (
	"context"

	"tovrel/attempt"
	"tovrel/core/briefing"
	"tovrel/dataset"
	"tovrel/engine"
	"tovrel/engine/duckdb"
	"tovrel/history"
	"tovrel/workspace"
)

// opened is a dataset with its frozen copy and the workers that run queries on it.
type opened struct {
	*engine.Pool
	dataset *workspace.Dataset
	frozen  *dataset.Frozen
}

// opened opens a dataset, freezing it first where it is not. Close it.
func (a *app) opened(ctx context.Context, w *workspace.Workspace, name string, workers int) (*opened, error) {
	d, err := w.Dataset(name)
	if err != nil {
		return nil, err
	}
	frozen, err := a.freeze(ctx, w, d)
	if err != nil {
		return nil, err
	}
	return a.openedCopy(ctx, w, d, frozen, workers)
}

// openedCopy opens a frozen copy of a dataset, with its server where it has one. Close it.
func (a *app) openedCopy(ctx context.Context, w *workspace.Workspace, d *workspace.Dataset, f *dataset.Frozen,
	workers int) (*opened, error) {
	setup := engine.Setup{Engine: f.Dialect(), File: f.Path, AsOf: f.AsOf, Limits: d.Limits}
	if d.Server == nil {
		return &opened{engine.NewPool(a.program, setup, workers), d, f}, nil
	}
	at, err := a.data(w).Loaded(ctx, d, f)
	if err != nil {
		return nil, err
	}
	served := setup
	served.Engine, served.File, served.Server = d.Server.Kind, "", at
	there := engine.NewPool(a.program, served, workers)
	if d.Live() {
		return &opened{there, d, f}, nil
	}
	local := engine.NewPool(a.program, setup, workers)
	local.Beside(there)
	return &opened{local, d, f}, nil
}

// session holds the places open that the questions of a run or a judgement are asked of. Close it, also after an error.
type session struct {
	app    *app
	w      *workspace.Workspace
	level  briefing.Level
	places map[string]*attempt.Place // by dataset
	pools  []*engine.Pool
}

func (a *app) session(w *workspace.Workspace, level briefing.Level) *session {
	return &session{app: a, w: w, level: level, places: map[string]*attempt.Place{}}
}

// add makes an opened dataset with its twins a place.
func (s *session) add(ctx context.Context, on *opened, twins []*dataset.Twin) error {
	s.pools = append(s.pools, on.Pool)
	ground, err := s.app.ground(ctx, s.w, on, s.level)
	if err != nil {
		return err
	}
	place := attempt.NewPlace(ground, on.Pool, expectedFiles(s.w))
	opened, pools := s.app.twinPlaces(s.w, on.dataset, ground.Briefing, twins)
	place.Twins = opened
	if on.frozen.Dialect() == duckdb.Name && len(on.frozen.Computed) == 0 { // rows that are made would not be in what is computed
		place.Facts = s.app.factsOf(s.w, on, ground.Briefing)
	}
	s.places[on.dataset.Name] = place
	s.pools = append(s.pools, pools...)
	return nil
}

func (s *session) close() {
	for _, p := range s.pools {
		p.Close()
	}
}

// freeze gives a dataset's frozen copy, saying so when it has to be made.
func (a *app) freeze(ctx context.Context, w *workspace.Workspace, d *workspace.Dataset) (*dataset.Frozen, error) {
	state, frozen, err := a.data(w).FreezeState(d)
	if err != nil || state == dataset.IsFrozen || state == dataset.IsLive {
		return frozen, err
	}
	for _, path := range a.data(w).Damaged(d.Name) {
		a.say("The frozen copy %s is not as it was made, and does not count any more.", path)
	}
	a.say("Freezing %s (%s) …", d.Name, dataset.CountTables(d))
	frozen, _, err = a.data(w).Freeze(ctx, d, version)
	return frozen, err
}

// lockRun makes sure that one process alone goes on with a run: in this workspace, and of all that share the history.
func lockRun(w *workspace.Workspace, store *history.Store, uid string) (unlock func(), err error) {
	here, err := w.LockRun(uid)
	if err != nil {
		return nil, err
	}
	there, err := store.Lock(uid)
	if err != nil {
		here()
		return nil, err
	}
	return func() {
		there()
		here()
	}, nil
}
