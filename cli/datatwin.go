package cli

import (
	"context"
	"encoding/json"
	"sync"

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
	said, err := w.ReadBriefing(d)
	if err != nil {
		return err
	}
	a.say("Finding what twins of %s must keep …", d.Name)
	found, err := a.facts(ctx, w, d, frozen, said)
	if err != nil {
		return err
	}
	forms := []view.FactForm{}
	for _, l := range found.Laws {
		form := view.FactForm{Fact: l.Words(), Table: l.Table, Rows: l.Rows, Broken: l.Broken, Source: "found"}
		if l.Said {
			form.Source = "briefing"
		}
		forms = append(forms, form)
	}
	for _, d := range found.Found() {
		forms = append(forms, view.FactForm{Fact: d.Words(), Table: d.Table, Rows: int64(d.Rows), Broken: int64(d.Broken),
			Source: "sample"})
	}
	file := ""
	if said != nil {
		file = said.File
	}
	return a.show(view.Facts(d.Name, file, forms))
}

// facts finds what twins of a dataset keep, on its tables as DuckDB holds them.
func (a *app) facts(ctx context.Context, w *workspace.Workspace, d *workspace.Dataset, frozen *dataset.Frozen,
	said *briefing.Briefing) (*twin.Facts, error) {
	path, tables, done, err := a.data(w).AsTables(ctx, frozen)
	if err != nil {
		return nil, err
	}
	defer done()
	pool := engine.NewPool(a.program, engine.Setup{Engine: duckdb.Name, File: path, AsOf: frozen.AsOf, Limits: d.Limits}, workers())
	defer pool.Close()
	found, err := survey.Facts(ctx, pool, d.Name, tables, said, workers())
	if err != nil {
		return nil, trouble.As(trouble.Unreadable, err)
	}
	return found, nil
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

// twins gives the first twins of a dataset, none for 0, and makes those that are missing.
func (a *app) twins(ctx context.Context, w *workspace.Workspace, d *workspace.Dataset, frozen *dataset.Frozen,
	count int) ([]*dataset.Twin, error) {
	if count == 0 {
		return nil, nil
	}
	if d.Live() {
		return nil, trouble.New(trouble.Usage,
			"%s: a database as it is on a server has no twins; they are made of frozen samples (tables:)", d.Name)
	}
	said, err := w.ReadBriefing(d)
	if err != nil {
		return nil, err
	}
	on, err := a.openedCopy(ctx, w, d, frozen, workers())
	if err != nil {
		return nil, err
	}
	defer on.Close()
	bounds, err := a.boundaries(ctx, w, d, on.Pool)
	if err != nil {
		return nil, err
	}
	out, missing := make([]*dataset.Twin, count), 0
	prints := make([]string, count)
	for i := range out {
		prints[i] = dataset.TwinFingerprint(frozen, i+1, bounds, said)
		if out[i] = a.data(w).Twin(d.Name, prints[i]); out[i] == nil {
			missing++
		}
	}
	if missing == 0 {
		return out, nil
	}
	a.say("%s", twinCost(d.Name, frozen, missing))
	facts, err := a.facts(ctx, w, d, frozen, said)
	if err != nil {
		return nil, err
	}
	made := a.progress("twins of " + d.Name)
	defer made.finish()
	const parts = 100 // of the bar, for each twin
	before := 0
	for i, t := range out {
		if t != nil {
			continue
		}
		out[i], err = a.data(w).MakeTwin(ctx, frozen, prints[i], dataset.RecipeOf(frozen, facts, bounds, i+1), func(done, total int) {
			made.step(before+parts*done/total, parts*missing)
		})
		if err != nil {
			return nil, err
		}
		before += parts
	}
	return out, nil
}

// cellsASecond is how many cells of a table are read and changed in a second, by `make bench PART=keeping` on two cores: twice of them to
// find what must be kept, once for each twin.
const cellsASecond = 2_000_000

// twinCost is what making twins takes, in words.
func twinCost(name string, frozen *dataset.Frozen, missing int) string {
	rows, cells := int64(0), int64(0)
	for _, t := range frozen.Tables {
		rows += t.Rows
		cells += t.Rows * int64(len(t.Columns))
	}
	return view.TwinCost(name, missing, rows, 1+float64(cells)*float64(2+missing)/cellsASecond)
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

// twinsOf are the twins that a run had: those that are kept, and those that its recipes make again from the same copy.
func (a *app) twinsOf(ctx context.Context, w *workspace.Workspace, r record.Run, frozen *dataset.Frozen) ([]*dataset.Twin, error) {
	var out []*dataset.Twin
	for _, fingerprint := range r.Twins[frozen.Dataset] {
		t := a.data(w).Twin(frozen.Dataset, fingerprint)
		var recipe dataset.Recipe
		if t == nil && json.Unmarshal(r.Recipes[fingerprint], &recipe) == nil && recipe.Of == frozen.Fingerprint {
			a.say("Making twin %d of %s as run %d had it …", recipe.Number, frozen.Dataset, r.ID)
			var err error
			if t, err = a.data(w).MakeTwin(ctx, frozen, fingerprint, recipe, func(int, int) {}); err != nil {
				return nil, err
			}
		}
		if t == nil {
			a.say("A twin of %s that run %d was tried on is gone (%s), and cannot be made from this copy: it is left out.", frozen.Dataset,
				r.ID, fingerprint[:8])
			continue
		}
		out = append(out, t)
	}
	return out, nil
}

// twinPlaces opens twins.
func (a *app) twinPlaces(w *workspace.Workspace, d *workspace.Dataset, said *briefing.Briefing,
	twins []*dataset.Twin) (places []*attempt.Twin, pools []*engine.Pool) {
	for _, t := range twins {
		pool := engine.NewPool(a.program, engine.Setup{Engine: t.Dialect(), File: t.Path, AsOf: t.AsOf, Limits: d.Limits}, workers())
		pools = append(pools, pool)
		recipe, _ := json.Marshal(t.Recipe()) // it was read from JSON
		ground := attempt.Ground{Briefing: said, Tables: t.Tables, Dialect: t.Dialect(), AsOf: t.AsOf, Fingerprint: t.Fingerprint}
		places = append(places, &attempt.Twin{Number: t.Number, Laws: t.Plan.Laws, Recipe: recipe, Place: attempt.NewPlace(ground, pool,
			expectedFiles(w))})
	}
	return places, pools
}

// factsOf finds what twins of a dataset keep when it is first asked for.
func (a *app) factsOf(w *workspace.Workspace, on *opened, said *briefing.Briefing) attempt.FactsOf {
	var mu sync.Mutex
	var found *twin.Facts
	return func(ctx context.Context) (_ *twin.Facts, err error) {
		mu.Lock()
		defer mu.Unlock()
		if found == nil {
			found, err = a.facts(ctx, w, on.dataset, on.frozen, said)
		}
		return found, err
	}
}

// keptTwins opens the twins of a copy that are kept, by number.
func (a *app) keptTwins(w *workspace.Workspace, d *workspace.Dataset, frozen *dataset.Frozen) (open []upkeep.Twin, done func(), err error) {
	all, err := a.data(w).Twins(d.Name)
	var pools []*engine.Pool
	for _, t := range all {
		if t.Of == frozen.Fingerprint {
			pool := engine.NewPool(a.program, engine.Setup{Engine: t.Dialect(), File: t.Path, AsOf: t.AsOf, Limits: d.Limits}, 1)
			pools, open = append(pools, pool), append(open, upkeep.Twin{Number: t.Number, Queries: pool})
		}
	}
	return open, func() {
		for _, p := range pools {
			p.Close()
		}
	}, err
}
