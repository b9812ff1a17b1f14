package cli

import (
	"context"
	"runtime"
	"slices"

	"github.com/spf13/cobra"
	"github.com/spf13/pflag"

	"tovrel/core/briefing"
	"tovrel/trouble"
	"tovrel/workspace"
)

type runOptions struct {
	translators []string
	names       []string
	tags        []string
	wordings    string
	repeats     int
	brief       levelFlag
	budget      float64
	shard       string
	resume      string
	from        string
	verdicts    []string
	dryRun      bool
	noDiagnosis bool
	twins       int
	team        bool
	flags       *pflag.FlagSet
}

// given tells whether a flag stands on the command line.
func (o runOptions) given(flag string) bool { return o.flags != nil && o.flags.Changed(flag) }

func newRunCmd(a *app) *cobra.Command {
	var o runOptions
	cmd := &cobra.Command{
		Use: "run [-t NAME@VERSION…] [SET or QUESTION…]", Short: "Ask translators the golden questions and judge their answers",
		Long: "Make a run for each translator (default: all) over the named sets and questions (default: all). Datasets are " +
			"frozen\nfirst where they are not. Exits 0 whatever the verdicts. A run that broke off is gone on with by " +
			"--resume: what was\nanswered is not asked again.",
		RunE: func(cmd *cobra.Command, args []string) error {
			o.names, o.flags = args, cmd.Flags()
			if o.resume != "" {
				return a.resume(cmd.Context(), o)
			}
			return a.run(cmd.Context(), o)
		},
	}
	f := cmd.Flags()
	f.StringArrayVarP(&o.translators, "translator", "t", nil, "a translator of tovrel.yaml; repeatable")
	f.StringArrayVar(&o.tags, "tag", nil, "only questions with this tag; repeatable")
	f.StringVar(&o.wordings, "wordings", "", "all, first or a number of each question's wordings")
	f.IntVar(&o.repeats, "repeats", 0, "how often each wording is asked")
	f.Var(&o.brief, "brief", "how much of the briefing is told: full, schema or none (default: run: brief in tovrel.yaml)")
	f.Float64Var(&o.budget, "budget", 0, "stop asking before this much money is spent")
	f.StringVar(&o.shard, "shard", "", "only the I-th of N parts of the questions, as I/N")
	f.StringVar(&o.resume, "resume", "", "go on with a run that broke off")
	f.StringVar(&o.from, "from", "", "only questions of this run, with --verdict those that were so")
	f.StringSliceVar(&o.verdicts, "verdict", nil, "with --from: wrong, failed, lucky, unscored or right")
	f.IntVar(&o.twins, "twins", -1, "try right answers also on the first N twins of the dataset, making those that are missing")
	f.BoolVar(&o.noDiagnosis, "no-diagnosis", false, "do not search for the causes of wrong answers")
	f.BoolVar(&o.team, "team", false, "have the questions asked by the workers of the team (tovrel work)")
	f.BoolVar(&o.dryRun, "dry-run", false, "only say what would be asked, and what that would cost")
	_ = cmd.RegisterFlagCompletionFunc("translator", a.completeTranslators)
	_ = cmd.RegisterFlagCompletionFunc("tag", a.completeTags)
	_ = cmd.RegisterFlagCompletionFunc("resume", a.completeEveryRun)
	_ = cmd.RegisterFlagCompletionFunc("from", a.completeEveryRun)
	fixed(cmd, "verdict", "", verdictNames())
	fixed(cmd, "brief", "", briefing.Levels())
	cmd.ValidArgsFunction = a.completeQuestions
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
		if slices.Contains(chosen, t) {
			return nil, trouble.New(trouble.Usage, "%s is named twice", t.Name)
		}
		chosen = append(chosen, t)
	}
	return chosen, nil
}

// places opens the datasets of the questions.
func (a *app) places(ctx context.Context, w *workspace.Workspace, questions []workspace.Chosen, level briefing.Level,
	twins int) (*session, error) {
	s := a.session(w, level)
	for _, q := range questions {
		if s.places[q.Set.Dataset] != nil {
			continue
		}
		on, err := a.opened(ctx, w, q.Set.Dataset, workers())
		if err != nil {
			return s, err
		}
		kept, err := a.twins(ctx, w, on.dataset, on.frozen, twins)
		if err != nil {
			on.Close()
			return s, err
		}
		if err := s.add(ctx, on, kept); err != nil {
			return s, err
		}
	}
	return s, nil
}

// workers is how many queries run at once: one for each processor core.
func workers() int { return runtime.GOMAXPROCS(0) }
