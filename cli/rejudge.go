package cli

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"time"

	"tovrel/attempt"
	"tovrel/core/briefing"
	"tovrel/core/diagnose"
	"tovrel/core/record"
	"tovrel/dataset"
	"tovrel/history"
	"tovrel/trouble"
	"tovrel/workspace"
)

// judging is what the stored replies of a run are judged on once more: its own frozen data, and the golden sets of today.
type judging struct {
	plan  attempt.Plan
	stale map[string]bool // datasets whose files have moved since the run
	close func()
}

// judging opens a run's own frozen data.
func (a *app) judging(ctx context.Context, w *workspace.Workspace, r record.Run) (*judging, error) {
	if r.Purged != nil {
		return nil, trouble.New(trouble.Usage, "the replies of run %d were purged on %s: they cannot be judged again; ask again with "+
			"`tovrel run -t %s`", r.ID, r.Purged.Format(time.DateOnly), r.Translator)
	}
	questions, err := a.questions(w, record.Options{})
	if err != nil {
		return nil, err
	}
	s := a.session(w, briefing.Level(r.Options.Brief))
	b := &judging{stale: map[string]bool{}, close: s.close,
		plan: attempt.Plan{Tool: version, Translator: r.Translator, Options: r.Options, Judges: workers(),
			Places: s.places, Rules: w.Rules, Diagnose: w.Run.Diagnose}}
	b.plan.Protocol = r.Protocol
	if b.plan.Decisions, _, err = w.Decisions(); err != nil {
		return nil, err
	}
	if t, err := w.Translator(r.Translator); err == nil {
		b.plan.Score, b.plan.Protocol = t.Score, t.Protocol
	}
	for _, name := range datasetsOf(r) {
		if b.stale[name], err = a.openAsRun(ctx, s, r, name); err != nil {
			s.close()
			return nil, err
		}
	}
	for _, c := range questions {
		if s.places[c.Set.Dataset] != nil {
			b.plan.Questions = append(b.plan.Questions, c)
		}
	}
	return b, nil
}

// openAsRun opens a dataset as a run saw it, with the run's twins; stale tells that its files have moved since.
func (a *app) openAsRun(ctx context.Context, s *session, r record.Run, name string) (stale bool, err error) {
	d, err := s.w.Dataset(name)
	if err != nil {
		return false, err
	}
	frozen, stale, err := a.frozenAs(ctx, s.w, d, r)
	if err != nil {
		return false, err
	}
	twins, err := a.twinsOf(ctx, s.w, r, frozen)
	if err != nil {
		return false, err
	}
	on, err := a.openedCopy(ctx, s.w, d, frozen, workers())
	if err != nil {
		return stale, err
	}
	return stale, s.add(ctx, on, twins)
}

func datasetsOf(r record.Run) []string {
	names := slices.Sorted(maps.Keys(r.Datasets))
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
	isStale := state != dataset.IsFrozen && state != dataset.IsLive || present.Fingerprint != r.Datasets[d.Name]
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
		return nil, false, trouble.New(trouble.Usage,
			"the frozen copy of %s that run %d was made on is gone, and the files have changed since; ask again with `tovrel "+
				"run -t %s`", d.Name, r.ID, r.Translator)
	}
	return frozen, false, nil
}

// judgingAgain says which attempts of a run are judged once more.
type judgingAgain struct {
	what     string // for the progress line
	choose   func(record.Attempt) bool
	diagnose *diagnose.Budget // of each search for a cause; nil for the workspace's
}

// judgedAgain judges chosen attempts of a run in the history once more, on the run's own data. It gives all attempts as they were
// judged when asked, and the chosen ones as they are judged now. Nothing is stored.
func (a *app) judgedAgain(ctx context.Context, source *runSource, r stored, j judgingAgain) ([]history.Placed, []history.Scored, error) {
	store, err := source.history()
	if err != nil {
		return nil, nil, err
	}
	before, err := store.Judged(r.ID)
	if err != nil {
		return nil, nil, err
	}
	b, err := a.judging(ctx, source.w, r.Run)
	if err != nil {
		return nil, nil, err
	}
	defer b.close()
	if j.diagnose != nil {
		b.plan.Diagnose = *j.diagnose
	}
	scored, err := a.rejudge(ctx, b, j.what, before, j.choose)
	return before, scored, err
}

// rejudge judges the chosen attempts of a run once more.
func (a *app) rejudge(ctx context.Context, b *judging, what string, stored []history.Placed,
	choose func(record.Attempt) bool) ([]history.Scored, error) {
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
