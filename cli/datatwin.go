package cli

import (
	"context"

	"github.com/spf13/cobra"

	"tovrel/attempt"
	"tovrel/core/briefing"
	"tovrel/core/record"
	"tovrel/core/twin"
	"tovrel/dataset"
	"tovrel/dataset/survey"
	"tovrel/engine"
	"tovrel/engine/duckdb"
	"tovrel/expect"
	"tovrel/trouble"
	"tovrel/upkeep"
	"tovrel/view"
	"tovrel/workspace"
)

func newDataTwinCmd(a *app) *cobra.Command {
	count, facts := 1, false
	cmd := &cobra.Command{
		Use: "twin NAME --count N", Short: "Make perturbed copies of a dataset: the same schema and facts, other rows",
		ValidArgsFunction: a.completeDatasets, Args: usage(cobra.ExactArgs(1)),
		Long: "Make the first N twins of a frozen dataset, as far as they are not there. A twin keeps the schema, keys and " +
			"references, what is\nunique or never null, the domains of values and what depends on what; its rows are others, " +
			"also on and beside every boundary that\nthe golden sets' reference queries mention. `tovrel run --twins N` " +
			"tries right answers on them. The same N gives the same twins.",
		RunE: func(cmd *cobra.Command, args []string) error {
			w, err := a.open()
			if err != nil {
				return err
			}
			d, err := w.Dataset(args[0])
			if err != nil {
				return err
			}
			if count < 1 {
				return trouble.New(trouble.Usage, "--count must be at least 1")
			}
			frozen, err := a.freeze(cmd.Context(), w, d)
			if err != nil {
				return err
			}
			if facts {
				return a.showFacts(cmd.Context(), w, d, frozen)
			}
			twins, err := a.twins(cmd.Context(), w, d, frozen, count)
			if err != nil {
				return err
			}
			return a.show(view.Twins(d.Name, twinForms(frozen, twins)))
		},
	}
	cmd.Flags().IntVar(&count, "count", 1, "how many")
	cmd.Flags().BoolVar(&facts, "facts", false, "only list the facts that twins keep, and on how many rows each was seen; make none")
	return cmd
}

// showFacts lists what twins of a dataset keep.
func (a *app) showFacts(ctx context.Context, w *workspace.Workspace, d *workspace.Dataset, frozen *dataset.Frozen) error {
	if err := a.mayTwin(d, frozen); err != nil {
		return err
	}
	said, err := w.ReadBriefing(d)
	if err != nil {
		return err
	}
	on := a.openedCopy(d, frozen, workers())
	defer on.Close()
	a.say("Finding what twins of %s must keep …", d.Name)
	found, err := survey.Facts(ctx, on, d.Name, frozen.Tables, said, workers())
	if err != nil {
		return trouble.As(trouble.Unreadable, err)
	}
	forms := []view.FactForm{}
	for _, l := range found.Laws {
		form := view.FactForm{Fact: l.Words(), Table: l.Table, Rows: l.Rows, Broken: l.Broken, Source: "found"}
		if l.Said {
			form.Source = "briefing"
		}
		forms = append(forms, form)
	}
	file := ""
	if said != nil {
		file = said.File
	}
	return a.show(view.Facts(d.Name, file, forms))
}

// mayTwin refuses datasets of which no twins are built.
func (a *app) mayTwin(d *workspace.Dataset, frozen *dataset.Frozen) error {
	if frozen.Dialect() == duckdb.Name {
		return nil
	}
	return trouble.New(trouble.Usage, "twins of datasets on %s are not built yet; import %s as tables: to have twins of it",
		frozen.Dialect(), d.Name)
}

func twinForms(f *dataset.Frozen, twins []*dataset.Twin) []view.TwinForm {
	forms := make([]view.TwinForm, len(twins))
	for i, t := range twins {
		forms[i] = view.TwinForm{Number: t.Number, Fingerprint: t.Fingerprint, Kept: view.TwinFacts(t.Kept), Tables: []view.TwinTable{}}
		for j, table := range t.Tables {
			forms[i].Tables = append(forms[i].Tables, view.TwinTable{Name: table.Name, Rows: table.Rows, Was: f.Tables[j].Rows})
		}
	}
	return forms
}

// twins gives the first twins of a dataset, making those that are missing.
func (a *app) twins(ctx context.Context, w *workspace.Workspace, d *workspace.Dataset, frozen *dataset.Frozen,
	count int) ([]*dataset.Twin, error) {
	if err := a.mayTwin(d, frozen); err != nil {
		return nil, err
	}
	said, err := w.ReadBriefing(d)
	if err != nil {
		return nil, err
	}
	on := a.openedCopy(d, frozen, workers())
	defer on.Close()
	bounds, err := a.boundaries(ctx, w, d, on.Pool)
	if err != nil {
		return nil, err
	}
	var facts *twin.Facts
	var out []*dataset.Twin
	for number := 1; number <= count; number++ {
		fingerprint := dataset.TwinFingerprint(frozen, number, bounds, said)
		t := a.data(w).Twin(d.Name, fingerprint)
		if t == nil {
			if facts == nil {
				a.say("Finding what twins of %s must keep …", d.Name)
				if facts, err = survey.Facts(ctx, on, d.Name, frozen.Tables, said, workers()); err != nil {
					return nil, trouble.As(trouble.Unreadable, err)
				}
			}
			a.say("Making twin %d of %d of %s …", number, count, d.Name)
			if t, err = a.data(w).MakeTwin(ctx, frozen, fingerprint, facts, bounds, number); err != nil {
				return nil, err
			}
		}
		out = append(out, t)
	}
	return out, nil
}

// boundaries are what the reference queries of all golden sets compare a dataset's columns with.
func (a *app) boundaries(ctx context.Context, w *workspace.Workspace, d *workspace.Dataset, pool *engine.Pool) ([]twin.Boundary, error) {
	files, err := w.SetFiles()
	if err != nil || len(files) == 0 {
		return nil, err
	}
	sets, err := a.sets(w, nil)
	if err != nil {
		return nil, err
	}
	return expect.Boundaries(ctx, pool, sets, d.Name)
}

// countedTwins are the first twins of a dataset for a run; none for 0, and none, which it says, where they are not built.
func (a *app) countedTwins(ctx context.Context, w *workspace.Workspace, d *workspace.Dataset, frozen *dataset.Frozen,
	count int) ([]*dataset.Twin, error) {
	if count == 0 {
		return nil, nil
	}
	if frozen.Dialect() != duckdb.Name {
		a.say("Twins of datasets on %s are not built yet: right answers on %s are not tried again.", frozen.Dialect(), d.Name)
		return nil, nil
	}
	return a.twins(ctx, w, d, frozen, count)
}

// twinsOf are the twins that a run had, as far as they are kept.
func (a *app) twinsOf(w *workspace.Workspace, r record.Run, name string) []*dataset.Twin {
	var out []*dataset.Twin
	for _, fingerprint := range r.Twins[name] {
		if t := a.data(w).Twin(name, fingerprint); t != nil {
			out = append(out, t)
		} else {
			a.say("A twin of %s that run %d was tried on is gone (%s): it is left out.", name, r.ID, fingerprint[:8])
		}
	}
	return out
}

// twinPlaces opens twins.
func (a *app) twinPlaces(w *workspace.Workspace, d *workspace.Dataset, said *briefing.Briefing,
	twins []*dataset.Twin) (places []*attempt.Twin, pools []*engine.Pool) {
	for _, t := range twins {
		pool := engine.NewPool(a.program, engine.Setup{Engine: duckdb.Name, File: t.Path, AsOf: t.AsOf, Limits: d.Limits}, workers())
		pools = append(pools, pool)
		ground := attempt.Ground{Briefing: said, Tables: t.Tables, Dialect: duckdb.Name, AsOf: t.AsOf, Fingerprint: t.Fingerprint}
		places = append(places, &attempt.Twin{Number: t.Number, Place: attempt.NewPlace(ground, pool, expectedFiles(w))})
	}
	return places, pools
}

// keptTwins opens the twins of a copy that are kept, by number.
func (a *app) keptTwins(w *workspace.Workspace, d *workspace.Dataset, frozen *dataset.Frozen) (open []upkeep.Twin, done func(), err error) {
	all, err := a.data(w).Twins(d.Name)
	var pools []*engine.Pool
	for _, t := range all {
		if t.Of == frozen.Fingerprint {
			pool := engine.NewPool(a.program, engine.Setup{Engine: duckdb.Name, File: t.Path, AsOf: t.AsOf, Limits: d.Limits}, 1)
			pools, open = append(pools, pool), append(open, upkeep.Twin{Number: t.Number, Queries: pool})
		}
	}
	return open, func() {
		for _, p := range pools {
			p.Close()
		}
	}, err
}
