package cli

import (
	"context"
	"os"
	"time"

	"github.com/spf13/cobra"

	"tovrel/core/fault"
	"tovrel/core/score"
	"tovrel/runner"
	"tovrel/tablefile"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

type whyOptions struct {
	dataset, reference, answer, expected string
	limit                                time.Duration
}

func newWhyCmd(a *app) *cobra.Command {
	var o whyOptions
	cmd := &cobra.Command{
		Use: "why RUN QUESTION, or why --dataset D --answer FILE.sql --reference FILE.sql", Short: "Find the cause of a wrong answer, with every edit tried", Args: usage(cobra.MaximumNArgs(2)), ValidArgsFunction: a.completeRuns,
		Long: "Edit the reference query as a translator would have got it wrong, and the answer's query to mend it, and look which edit gives the\nvery answer. Without a run: --dataset with --answer and --reference (a file each), or --expected (a table file) for want of a\nreference. Exits 1 when a fault was found, 0 when there is nothing to explain.",
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(args) > 0 {
				if len(args) < 2 {
					return trouble.New(trouble.Usage, "name the question too, as in `tovrel why %s SET/QUESTION`; `tovrel show %s` lists them", args[0], args[0])
				}
				return a.whyOf(cmd.Context(), o, args[0], args[1])
			}
			return a.whyFiles(cmd.Context(), o)
		},
	}
	f := cmd.Flags()
	f.StringVar(&o.dataset, "dataset", "", "the dataset that the queries are about")
	f.StringVar(&o.reference, "reference", "", "a file with the right query")
	f.StringVar(&o.answer, "answer", "", "a file with the wrong query")
	f.StringVar(&o.expected, "expected", "", "a file with the right table, for want of a reference query")
	f.DurationVar(&o.limit, "limit", defaultDiagnosis, "how long to search")
	_ = cmd.RegisterFlagCompletionFunc("dataset", a.completeDatasets)
	return cmd
}

// defaultDiagnosis is how long the cause of a wrong answer is searched.
const defaultDiagnosis = 2 * time.Second

func (a *app) whyFiles(ctx context.Context, o whyOptions) error {
	if o.dataset == "" || o.answer == "" || o.reference == "" && o.expected == "" {
		return trouble.New(trouble.Usage, "name a run and a question, or --dataset, --answer and --reference (or --expected)")
	}
	w, err := a.open()
	if err != nil {
		return err
	}
	why := runner.Why{Rules: w.Rules, Limit: o.limit}
	if why.Answer, err = readText(o.answer); err != nil {
		return err
	}
	if o.reference != "" {
		if why.Reference, err = readText(o.reference); err != nil {
			return err
		}
	} else if why.Expected, err = tablefile.Read(ctx, o.expected); err != nil {
		return err
	}
	return a.why(ctx, w, o.dataset, why)
}

func readText(path string) (string, error) {
	body, err := os.ReadFile(path)
	if err != nil {
		return "", trouble.New(trouble.Unreadable, "%s cannot be read: %w", path, err)
	}
	return string(body), nil
}

// whyOf diagnoses the first attempt at a question in a run that is not right.
func (a *app) whyOf(ctx context.Context, o whyOptions, runName, question string) error {
	w, store, err := a.openStore()
	if err != nil {
		return err
	}
	defer store.Close() //nolint:errcheck // only read
	r, err := store.Find(runName)
	if err != nil {
		return err
	}
	attempts, err := store.Attempts(r.ID)
	if err != nil {
		return err
	}
	at, _, err := ofQuestion(attempts, question)
	if err != nil {
		return err
	}
	chosen, err := a.questions(w, runOptionsFor(at.Question))
	if err != nil {
		return err
	}
	set := chosen[0].Set
	why := runner.Why{Answer: at.Query, Reference: at.Reference, Rules: chosen[0].Question.Rules.Over(set.Rules.Over(w.Rules)), Limit: o.limit}
	switch {
	case at.Verdict == score.Right:
		return a.show(view.Why(view.WhyForm{Matched: true}, ""))
	case at.Query == "" || at.Verdict == score.Unscored || at.Verdict == score.Failed:
		if err := a.show(view.Why(view.WhyForm{Faults: at.Faults}, "")); err != nil {
			return err
		}
		return trouble.ErrFound
	case at.Reference == "":
		stored, err := store.Table(at.Expected)
		if err != nil {
			return err
		}
		why.Expected = stored.Table
	}
	return a.why(ctx, w, set.Dataset, why)
}

func (a *app) why(ctx context.Context, w *workspace.Workspace, dataset string, why runner.Why) error {
	d, err := w.Dataset(dataset)
	if err != nil {
		return err
	}
	frozen, err := a.freeze(ctx, w, d)
	if err != nil {
		return err
	}
	pool := a.pool(frozen, d.Limits, 1)
	defer pool.Close()
	start := time.Now()
	got, err := runner.Explain(ctx, pool, frozen.Tables, why)
	if err != nil {
		return trouble.As(trouble.Usage, err)
	}
	form := view.WhyForm{Matched: got.Match.Matched, Faults: got.Faults, Tried: len(got.Tried), Edits: got.Tried, DurationMS: time.Since(start).Milliseconds()}
	if f := got.Failure; f != nil {
		form.Faults = []fault.Fault{runner.FailureFault(why.Answer, f)}
	}
	if !form.Matched && len(form.Faults) == 0 {
		form.Faults = []fault.Fault{{Code: fault.Unexplained, Certainty: fault.Possible, Evidence: got.Match.Why + "; " + got.TriedWords()}}
	}
	if err := a.show(view.Why(form, got.Ended)); err != nil {
		return err
	}
	if !form.Matched {
		return trouble.ErrFound
	}
	return nil
}
