package cli

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"runtime"
	"runtime/debug"

	"github.com/spf13/cobra"

	"tovrel/core/briefing"
	"tovrel/core/run"
	"tovrel/engine"
	"tovrel/history"
	"tovrel/runner"
	"tovrel/translator"
	"tovrel/translator/command"
	"tovrel/translator/recorded"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

type runOptions struct {
	translators []string
	names       []string
	brief       levelFlag
}

func newRunCmd(a *app) *cobra.Command {
	var o runOptions
	cmd := &cobra.Command{
		Use: "run [-t NAME@VERSION…] [SET or QUESTION…]", Short: "Ask translators the golden questions and judge their answers",
		Long: "Make a run for each translator (default: all) over the named sets and questions (default: all). Datasets are frozen\nfirst where they are not. Exits 0 whatever the verdicts.",
		RunE: func(cmd *cobra.Command, args []string) error {
			o.names = args
			return a.run(cmd.Context(), o)
		},
	}
	cmd.Flags().StringArrayVarP(&o.translators, "translator", "t", nil, "a translator of tovrel.yaml; repeatable")
	cmd.Flags().Var(&o.brief, "brief", "how much of the briefing is told: full, schema or none (default: run: brief in tovrel.yaml)")
	_ = cmd.RegisterFlagCompletionFunc("translator", a.completeTranslators)
	_ = cmd.RegisterFlagCompletionFunc("brief", cobra.FixedCompletions(briefing.Levels(), cobra.ShellCompDirectiveNoFileComp))
	return cmd
}

func (a *app) completeTranslators(*cobra.Command, []string, string) ([]string, cobra.ShellCompDirective) {
	w, err := a.open()
	if err != nil {
		return nil, cobra.ShellCompDirectiveError
	}
	var names []string
	for _, t := range w.Translators {
		names = append(names, t.Name)
	}
	return names, cobra.ShellCompDirectiveNoFileComp
}

func (a *app) run(ctx context.Context, o runOptions) error {
	debug.SetGCPercent(lazyCollection)
	w, err := a.open()
	if err != nil {
		return err
	}
	translators, err := chooseTranslators(w, o.translators)
	if err != nil {
		return err
	}
	sets, err := a.sets(w, nil)
	if err != nil {
		return err
	}
	level := w.Run.Brief
	if o.brief != "" {
		level = briefing.Level(o.brief)
	}
	questions, err := workspace.Choose(sets, o.names)
	if err != nil {
		return err
	}
	if len(questions) == 0 {
		return trouble.New(trouble.Usage, "there is nothing to ask: every chosen question is a draft")
	}
	places, closePlaces, err := a.places(ctx, w, questions, level)
	if err != nil {
		return err
	}
	defer closePlaces()
	store, err := history.Open(w.Path(w.History))
	if err != nil {
		return err
	}
	defer store.Close() //nolint:errcheck // every attempt is committed by itself
	plan := runner.Plan{Tool: version, Partial: len(o.names) > 0, Judges: workers(), Questions: questions, Places: places, Rules: w.Rules}
	return a.runEach(ctx, w, translators, plan, store)
}

func chooseTranslators(w *workspace.Workspace, names []string) ([]*workspace.Translator, error) {
	if len(names) == 0 {
		if len(w.Translators) == 0 {
			return nil, trouble.New(trouble.Unreadable, "tovrel.yaml has no translators; add one under translators:")
		}
		return w.Translators, nil
	}
	var chosen []*workspace.Translator
	for _, name := range names {
		t, err := w.Translator(name)
		if err != nil {
			return nil, err
		}
		chosen = append(chosen, t)
	}
	return chosen, nil
}

// places freezes the datasets of the questions and opens their workers.
func (a *app) places(ctx context.Context, w *workspace.Workspace, questions []workspace.Chosen, level briefing.Level) (map[string]*runner.Place, func(), error) {
	places := map[string]*runner.Place{}
	var pools []*engine.Pool
	closeAll := func() {
		for _, p := range pools {
			p.Close()
		}
	}
	for _, q := range questions {
		name := q.Set.Dataset
		if places[name] != nil {
			continue
		}
		d, err := w.Dataset(name)
		if err != nil {
			return nil, closeAll, err
		}
		frozen, err := a.freeze(ctx, w, d)
		if err != nil {
			return nil, closeAll, err
		}
		pool := a.pool(frozen, d.Limits, workers())
		pools = append(pools, pool)
		ground, err := a.ground(ctx, w, d, frozen, pool, level)
		if err != nil {
			return nil, closeAll, err
		}
		places[name] = runner.NewPlace(ground, pool, expectedFiles(w))
	}
	return places, closeAll, nil
}

// runEach makes a run for each translator and shows them.
func (a *app) runEach(ctx context.Context, w *workspace.Workspace, translators []*workspace.Translator, plan runner.Plan, store *history.Store) error {
	var summaries []run.Summary
	reached := true
	for _, t := range translators {
		asker, err := newAsker(w, t)
		if err != nil {
			return trouble.As(trouble.Unreachable, fmt.Errorf("translator %s: %w", t.Name, err))
		}
		plan.Translator, plan.Asker, plan.Parallel = t.Name, asker, t.Parallel
		bar := a.progress(t.Name)
		r, attempts, err := runner.Run(ctx, plan, store, bar.event)
		bar.finish()
		err = errors.Join(err, asker.Close())
		if err != nil {
			if ctx.Err() != nil {
				return trouble.New(trouble.Interrupted, "interrupted; %d of %d attempts are kept, see `tovrel show %d`", len(attempts), r.Planned, r.ID)
			}
			return trouble.As(trouble.Unreachable, err)
		}
		reached = reached && runner.Reached(attempts)
		summaries = append(summaries, run.Summarise(r, attempts))
	}
	if err := a.show(view.Runs(summaries)); err != nil {
		return err
	}
	if !reached {
		return trouble.New(trouble.Unreachable, "no question got through to the translator; `tovrel show latest` tells why")
	}
	return nil
}

func newAsker(w *workspace.Workspace, t *workspace.Translator) (translator.Asker, error) {
	if t.Kind == "recorded" {
		asker, err := recorded.New(t.File, w.Path(t.File))
		return asker, trouble.As(trouble.Unreadable, err)
	}
	dir := w.Root
	if t.Dir != "" {
		dir = w.Path(t.Dir)
	}
	absolute, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	return command.New(command.Settings{Run: t.Run, Dir: absolute, Env: t.Env, Timeout: t.Timeout})
}

// workers is how many queries run at once: one for each processor core.
func workers() int { return runtime.GOMAXPROCS(0) }
