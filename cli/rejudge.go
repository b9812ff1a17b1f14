package cli

import (
	"context"
	"fmt"
	"sort"

	"tovrel/attempt"
	"tovrel/core/briefing"
	"tovrel/core/record"
	"tovrel/dataset"
	"tovrel/engine"
	"tovrel/history"
	"tovrel/trouble"
	"tovrel/workspace"
)

// bench is what the stored replies of a run are judged on once more: its own frozen data, and the golden sets of today.
type judging struct {
	plan  attempt.Plan
	stale map[string]bool // datasets whose files have moved since the run
	close func()
}

// bench opens a run's own frozen data.
func (a *app) bench(ctx context.Context, w *workspace.Workspace, r record.Run) (*judging, error) {
	b := &judging{stale: map[string]bool{}}
	questions, err := a.questions(w, record.Options{})
	if err != nil {
		return nil, err
	}
	b.plan = attempt.Plan{Tool: version, Translator: r.Translator, Options: r.Options, Judges: workers(), Places: map[string]*attempt.Place{}, Rules: w.Rules, Diagnose: w.Run.Diagnose}
	if t, err := w.Translator(r.Translator); err == nil {
		b.plan.Score = t.Score
	}
	var pools []*engine.Pool
	b.close = func() {
		for _, p := range pools {
			p.Close()
		}
	}
	for _, name := range datasetsOf(r) {
		d, err := w.Dataset(name)
		if err != nil {
			b.close()
			return nil, err
		}
		frozen, isStale, err := a.frozenAs(ctx, w, d, r)
		if err != nil {
			b.close()
			return nil, err
		}
		b.stale[name] = isStale
		pool := a.pool(frozen, d.Limits, workers())
		pools = append(pools, pool)
		ground, err := a.ground(ctx, w, d, frozen, pool, briefing.Level(r.Options.Brief))
		if err != nil {
			b.close()
			return nil, err
		}
		place := attempt.NewPlace(ground, pool, expectedFiles(w))
		twins, twinPools := a.twinPlaces(w, d, ground.Briefing, a.twinsOf(w, r, name))
		place.Twins = twins
		pools = append(pools, twinPools...)
		b.plan.Places[name] = place
	}
	for _, c := range questions {
		if b.plan.Places[c.Set.Dataset] != nil {
			b.plan.Questions = append(b.plan.Questions, c)
		}
	}
	return b, nil
}

func datasetsOf(r record.Run) []string {
	var names []string
	for name := range r.Datasets {
		names = append(names, name)
	}
	sort.Strings(names)
	return names
}

// frozenAs is the frozen copy that a run was made on, and whether the dataset's files have moved since.
func (a *app) frozenAs(ctx context.Context, w *workspace.Workspace, d *workspace.Dataset, r record.Run) (*dataset.Frozen, bool, error) {
	copies, err := a.data(w).Copies(d.Name)
	if err != nil {
		return nil, false, err
	}
	state, present, err := a.data(w).FreezeState(d)
	if err != nil {
		return nil, false, err
	}
	isStale := state != dataset.IsFrozen || present.Fingerprint != r.Datasets[d.Name]
	for _, f := range copies {
		if f.Fingerprint == r.Datasets[d.Name] {
			return f, isStale, nil
		}
	}
	frozen, err := a.freeze(ctx, w, d) // the files may still be the same: then the copy is too
	if err != nil {
		return nil, false, err
	}
	if frozen.Fingerprint != r.Datasets[d.Name] {
		return nil, false, trouble.New(trouble.Usage, "the frozen copy of %s that run %d was made on is gone, and the files have changed since; ask again with `tovrel run -t %s`", d.Name, r.ID, r.Translator)
	}
	return frozen, false, nil
}

// rejudge judges the chosen attempts of a run once more.
func (a *app) rejudge(ctx context.Context, b *judging, what string, stored []history.Placed, choose func(record.Attempt) bool) ([]history.Scored, error) {
	total := 0
	for _, p := range stored {
		if choose(p.Attempt) {
			total++
		}
	}
	bar := a.progress(what)
	done := 0
	scored, err := attempt.Rejudge(ctx, b.plan, stored, choose, func() {
		done++
		bar.step(done, total)
	})
	bar.finish()
	if err != nil {
		return nil, trouble.As(trouble.Unreachable, fmt.Errorf("%s: %w", what, err))
	}
	return scored, nil
}
