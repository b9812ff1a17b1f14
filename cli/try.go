package cli

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"tovrel/attempt"
	"tovrel/core/briefing"
	"tovrel/core/near"
	"tovrel/core/record"
	"tovrel/core/source"
	"tovrel/core/versus"
	"tovrel/dataset"
	"tovrel/files"
	"tovrel/history"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

type tryOptions struct {
	briefing, translator string
	names                []string
	each, fresh          bool
	budget               float64
	repeats              int
	seed                 uint64
	brief                levelFlag
}

// newest is how old an answer may be that is used again.
const newest = 7 * 24 * time.Hour

func newTryCmd(a *app) *cobra.Command {
	var o tryOptions
	cmd := &cobra.Command{
		Use: "try --briefing FILE [-t NAME@VERSION] [SET or QUESTION…]", Short: "Tell what a change of the briefing is worth",
		Long: "Asks the questions of the briefing's dataset under the present briefing and under the proposed one, and compares the " +
			"two. What is judged\nis judged by the present briefing on both sides: only what is told differs. An answer that the history " +
			"has under the same\ncircumstances, of the same model and not older than seven days, is used again. --each also tries each " +
			"changed entry for itself.",
		Args: cobra.ArbitraryArgs,
		RunE: func(cmd *cobra.Command, args []string) error {
			o.names = args
			if o.briefing == "" {
				return trouble.New(trouble.Usage, "name the proposed briefing, as in tovrel try --briefing briefings/next.yaml")
			}
			if o.budget < 0 || o.budget == 0 && cmd.Flags().Changed("budget") {
				return trouble.New(trouble.Usage, "--budget %g: name an amount of money above 0, or leave it out for none", o.budget)
			}
			if o.repeats < 0 || o.repeats == 0 && cmd.Flags().Changed("repeats") {
				return trouble.New(trouble.Usage, "--repeats %d: a question is asked at least once", o.repeats)
			}
			return a.try(cmd.Context(), o)
		},
	}
	f := cmd.Flags()
	f.StringVar(&o.briefing, "briefing", "", "the proposed briefing")
	f.StringVarP(&o.translator, "translator", "t", "", "the translator to ask (default: the only one)")
	f.BoolVar(&o.each, "each", false, "also try each changed entry for itself, while the budget lasts")
	f.BoolVar(&o.fresh, "fresh", false, "ask everything again, also what the history knows")
	f.Float64Var(&o.budget, "budget", 0, "stop asking before this much money is spent")
	f.IntVar(&o.repeats, "repeats", 0, "how often each wording is asked")
	f.Var(&o.brief, "brief", "how much of the briefing is told: full, schema or none (default: run: brief in tovrel.yaml)")
	f.Uint64Var(&o.seed, "seed", defaultSeed, "start of the random draws")
	_ = cmd.RegisterFlagCompletionFunc("translator", a.completeTranslators)
	_ = cmd.MarkFlagFilename("briefing", "yaml", "yml")
	fixed(cmd, "brief", "", briefing.Levels())
	cmd.ValidArgsFunction = a.completeQuestions
	return cmd
}

// trial is a change of the briefing under way: what is asked, of whom, and how much may still be spent.
type trial struct {
	app        *app
	w          *workspace.Workspace
	store      *history.Store
	translator *workspace.Translator
	dataset    string
	plan       attempt.Plan
	options    tryOptions
	left       float64 // of the budget
	asked      int
	reused     int
}

// try tells what a proposed briefing is worth.
func (a *app) try(ctx context.Context, o tryOptions) error {
	w, err := a.open()
	if err != nil {
		return err
	}
	proposed, err := a.proposed(w, o.briefing)
	if err != nil {
		return err
	}
	d, err := w.Dataset(proposed.Dataset)
	if err != nil {
		return err
	}
	t := &trial{app: a, w: w, dataset: d.Name, options: o, left: o.budget}
	if t.translator, err = onlyTranslator(w, o.translator); err != nil {
		return err
	}
	done, err := t.prepare(ctx)
	if err != nil {
		return err
	}
	defer done()
	before, after, err := t.tellings(ctx, d, proposed)
	if err != nil {
		return err
	}
	shown, err := t.all(ctx, before, after)
	if err != nil {
		return err
	}
	shown.File, shown.Dataset, shown.Present = o.briefing, d.Name, d.Briefing
	return a.show(view.TrialScreen(shown))
}

// proposed reads a proposed briefing. Its path is from where the command is given.
func (a *app) proposed(w *workspace.Workspace, path string) (*briefing.Briefing, error) {
	body, err := files.Read(path, files.Document)
	if err != nil && !filepath.IsAbs(path) {
		if inside, insideErr := files.Read(w.Path(path), files.Document); insideErr == nil {
			body, err = inside, nil
		}
	}
	if os.IsNotExist(err) {
		return nil, trouble.New(trouble.Unreadable, "there is no briefing %s; begin with a copy of the present one", path)
	}
	if err != nil {
		return nil, trouble.New(trouble.Unreadable, "the briefing %s cannot be read: %w", path, err)
	}
	b, problems := briefing.Parse(path, body)
	if len(problems) > 0 {
		return nil, trouble.As(trouble.Unreadable, problems)
	}
	return b, nil
}

// prepare opens the dataset and plans its questions.
func (t *trial) prepare(ctx context.Context) (done func(), err error) {
	options, err := t.app.runSettings(t.w, runOptions{names: t.options.names, twins: -1, repeats: t.options.repeats,
		brief: t.options.brief})
	if err != nil {
		return nil, err
	}
	questions, err := t.app.questions(t.w, options)
	if err != nil {
		return nil, err
	}
	questions = slices.DeleteFunc(questions, func(c workspace.Chosen) bool { return c.Set.Dataset != t.dataset })
	if len(questions) == 0 {
		return nil, trouble.New(trouble.Usage, "no chosen question is about %s, which the briefing is of", t.dataset)
	}
	if t.store, err = makeHistory(ctx, t.w); err != nil {
		return nil, err
	}
	plan, closePlan, err := t.app.plan(ctx, t.w, options, questions)
	if err != nil {
		_ = t.store.Close() // nothing was written
		return nil, err
	}
	t.plan = plan
	return func() {
		closePlan()
		_ = t.store.Close() // every attempt is committed by itself
	}, nil
}

// tellings are what is told under the present briefing and under the proposed one.
func (t *trial) tellings(ctx context.Context, d *workspace.Dataset, proposed *briefing.Briefing) (before, after briefing.Told, err error) {
	place := t.plan.Places[t.dataset]
	before = briefing.Told{Dataset: place.Told, Beyond: place.Beyond}
	on, err := t.app.opened(ctx, t.w, t.dataset, 1)
	if err != nil {
		return before, after, err
	}
	defer on.Close()
	if problems := unknownNames(proposed, on.frozen); len(problems) > 0 {
		return before, after, trouble.As(trouble.Unreadable, problems)
	}
	shared := sharing{ctx: ctx, pool: on.Pool}
	after.Dataset, after.Beyond = briefing.Tell(schemaOf(on.frozen), proposed, briefing.Level(t.plan.Options.Brief), d.ShareValues,
		shared.values)
	return before, after, shared.err
}

// unknownNames are the tables and columns of a briefing that the dataset does not have: what is said of them would be told to nobody.
func unknownNames(b *briefing.Briefing, f *dataset.Frozen) source.Problems {
	var problems source.Problems
	report := func(at source.Position, what, name string, known []string) {
		problems = append(problems, source.Problem{Position: at, Code: "unknown-name", Severity: source.Error,
			Message: fmt.Sprintf("the dataset has no %s %q", what, name), Remedy: near.Hint(name, known)})
	}
	columns := map[string][]string{}
	var tables []string
	for _, t := range f.Tables {
		tables = append(tables, t.Name)
		for _, c := range t.Columns {
			columns[strings.ToLower(t.Name)] = append(columns[strings.ToLower(t.Name)], c.Name)
		}
	}
	has := func(names []string, name string) bool {
		return slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(n, name) })
	}
	for _, t := range b.Tables {
		if !has(tables, t.Name) {
			report(t.At, "table", t.Name, tables)
			continue
		}
		for _, c := range t.Columns {
			if known := columns[strings.ToLower(t.Name)]; !has(known, c.Name) {
				report(c.At, "column", t.Name+"."+c.Name, known)
			}
		}
	}
	return problems
}

// all makes the runs that are needed, and compares each with the one under the present briefing.
func (t *trial) all(ctx context.Context, before, after briefing.Told) (view.Trial, error) {
	out := view.Trial{Translator: t.translator.Name, Seed: t.options.seed}
	entries := briefing.Entries(before, after)
	if len(entries) == 0 {
		return out, trouble.New(trouble.Usage, "%s tells the translator nothing else than the present briefing does at the level %s: "+
			"there "+
			"is nothing to try", t.options.briefing, t.plan.Options.Brief)
	}
	present, err := t.run(ctx, before, "the present briefing")
	if err != nil {
		return out, err
	}
	next, err := t.run(ctx, after, t.options.briefing)
	if err != nil {
		return out, err
	}
	out.Comparison = t.compare(present, next)
	for _, e := range entries {
		one := view.TrialEntry{Name: e.Name, Changed: e.Changed}
		switch {
		case !t.options.each:
		case len(entries) == 1:
			one.Comparison = &out.Comparison
		case t.spent():
			one.Skipped = true
		default:
			side, err := t.run(ctx, e.Told, e.Name)
			if err != nil {
				return out, err
			}
			c := t.compare(present, side)
			one.Comparison = &c
		}
		out.Entries = append(out.Entries, one)
	}
	out.Each, out.Asked, out.Reused = t.options.each, t.asked, t.reused
	return out, nil
}

func (t *trial) spent() bool { return t.options.budget > 0 && t.left <= 0 }

// run asks the questions where something is told, but for those whose answers the history has.
func (t *trial) run(ctx context.Context, told briefing.Told, what string) (versus.Side, error) {
	plan := t.plan
	plan.Options.Trial = what
	place := plan.Places[t.dataset]
	ground := place.Ground
	ground.Told, ground.Beyond = told.Dataset, told.Beyond
	plan.Places = map[string]*attempt.Place{t.dataset: place.Telling(ground)}
	if t.options.budget > 0 {
		plan.Budget = attempt.Budget{Money: max(t.left, 1e-9)}
	}
	if !t.options.fresh {
		past, err := t.past(told)
		if err != nil {
			return versus.Side{}, err
		}
		plan.Protocol = t.translator.Protocol
		if r, has := attempt.Same(plan, past); has {
			t.reused += len(r.Attempts)
			return versus.Side{Run: r.Run, Attempts: r.Attempts, Told: map[string][]string{t.dataset: told.Lines()}}, nil
		}
		plan.Known = attempt.Remembered(plan, past)
	}
	t.app.say("Under %s …", what)
	r, attempts, err := t.app.runOne(ctx, t.w, t.translator, plan, t.store, nil)
	if err != nil {
		return versus.Side{}, err
	}
	for _, at := range attempts {
		if at.Reused > 0 {
			t.reused++
			continue
		}
		t.asked++
		t.left -= at.Cost
	}
	if t.app.signals.interrupted() {
		return versus.Side{}, stoppedEarly(r, len(attempts))
	}
	return versus.Side{Run: r, Attempts: attempts, Told: map[string][]string{t.dataset: told.Lines()}}, nil
}

// past are the runs of the last days that were made under the same circumstances, the newest first.
func (t *trial) past(told briefing.Told) ([]attempt.Past, error) {
	runs, err := t.store.RunsSince(t.translator.Name, history.Now().Add(-newest))
	if err != nil {
		return nil, err
	}
	lines := history.KeepLines(told.Lines()).Digest
	place := t.plan.Places[t.dataset]
	var out []attempt.Past
	for _, r := range slices.Backward(runs) {
		if r.Settings != settingsDigest(t.translator) || r.Datasets[t.dataset] != place.Fingerprint ||
			r.Under[t.dataset].Told != lines || r.Options.Brief != t.plan.Options.Brief {
			continue
		}
		attempts, err := t.store.Attempts(r.ID)
		if err != nil {
			return nil, err
		}
		out = append(out, attempt.Past{Run: r, Attempts: attempts})
	}
	return out, nil
}

func (t *trial) compare(before, after versus.Side) versus.Comparison {
	named := func(id int) stored { return stored{Run: record.Run{ID: id}, table: t.store.Table} }
	source := &runSource{ctx: t.app.signals.ctx, w: t.w, store: t.store}
	return versus.CompareWith(before, after, versus.Options{Random: seeded(t.options.seed),
		Alike: t.app.alike(source, named(before.Run.ID), named(after.Run.ID))})
}
