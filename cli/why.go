package cli

import (
	"context"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"tovrel/attempt"
	"tovrel/cause"
	"tovrel/core/diagnose"
	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/dataset"
	"tovrel/files"
	"tovrel/history"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

type whyOptions struct {
	dataset, reference, answer, expected string
	limit                                time.Duration
	all                                  bool
}

func newWhyCmd(a *app) *cobra.Command {
	var o whyOptions
	cmd := &cobra.Command{
		Use:   "why RUN [QUESTION], or why --dataset D --answer FILE.sql --reference FILE.sql",
		Short: "Find the cause of a wrong answer, with every edit tried", Args: usage(cobra.MaximumNArgs(2)),
		ValidArgsFunction: a.completeRuns,
		Long: "Edit the reference query as a translator would have got it wrong, and the answer's query to mend " +
			"it, and look which edit gives the\nvery answer. For a run, the causes that were not searched when it was made " +
			"are found and stored beside it. Without a run: --dataset with --answer and --reference (a file each), or " +
			"--expected (a table file) for want of a\nreference. Exits 1 when a fault was found, 0 when there is nothing to explain.",
		RunE: func(cmd *cobra.Command, args []string) error {
			if len(args) > 0 {
				if len(args) < 2 {
					return a.whyRun(cmd.Context(), o, args[0])
				}
				return a.whyOf(cmd.Context(), o, args[0], args[1])
			}
			return a.whyFiles(cmd.Context(), o)
		},
	}
	f := cmd.Flags()
	f.StringVar(&o.dataset, "dataset", "", "the dataset that the queries are about")
	f.StringVar(&o.reference, "reference", "", "a file with the right query")
	f.StringVar(&o.answer, "answer", "",
		"a file with the wrong query, or with the table of an answer without one (CSV, JSON, Parquet, XLSX)")
	f.StringVar(&o.expected, "expected", "", "a file with the right table, for want of a reference query")
	f.BoolVar(&o.all, "all", false, "list also the edits and the changes of the data that showed nothing")
	f.DurationVar(&o.limit, "limit", 0, "give a search up after this time (default: ten times what is expected)")
	_ = cmd.RegisterFlagCompletionFunc("dataset", a.completeDatasets)
	return cmd
}

// budget bounds a search by hand: as many queries as in a run, and --limit.
func (o whyOptions) budget() diagnose.Budget {
	return diagnose.Budget{Runs: diagnose.DefaultRuns, Net: o.limit}
}

func (a *app) whyFiles(ctx context.Context, o whyOptions) error {
	if o.dataset == "" || o.answer == "" || o.reference == "" && o.expected == "" {
		return trouble.New(trouble.Usage, "name a run and a question, or --dataset, --answer and --reference (or --expected)")
	}
	w, err := a.open()
	if err != nil {
		return err
	}
	why := cause.Why{Rules: w.Rules, Budget: o.budget()}
	if isTableFile(o.answer) {
		why.Given, err = a.readAny(ctx, o.answer)
	} else {
		why.Answer, err = readText(o.answer)
	}
	if err != nil {
		return err
	}
	if o.reference != "" {
		if why.Reference, err = readText(o.reference); err != nil {
			return err
		}
	} else if why.Expected, err = a.readAny(ctx, o.expected); err != nil {
		return err
	}
	return a.why(ctx, w, o, why)
}

// isTableFile tells a file of a table from one of a query by its ending.
func isTableFile(path string) bool {
	return slices.Contains([]string{".csv", ".tsv", ".json", ".jsonl", ".parquet", ".xlsx"}, strings.ToLower(filepath.Ext(path)))
}

func readText(path string) (string, error) {
	body, err := files.Read(path, files.Document)
	if err != nil {
		return "", trouble.New(trouble.Unreadable, "%s cannot be read: %w", path, err)
	}
	return string(body), nil
}

// whyRun finds the causes of all wrong answers of a run that have none yet, and shows them all.
func (a *app) whyRun(ctx context.Context, o whyOptions, name string) error {
	source, err := a.runSource()
	if err != nil {
		return err
	}
	defer source.close()
	r, err := source.whole(name)
	if err != nil {
		return err
	}
	if r.file == "" {
		if r, err = a.diagnoseLater(ctx, source, r, o.budget(), func(record.Attempt) bool { return true }); err != nil {
			return err
		}
	}
	screen, found := view.Causes(r.Run, r.attempts)
	if err := a.show(screen); err != nil {
		return err
	}
	if found {
		return trouble.ErrFound
	}
	return nil
}

// diagnoseLater searches the causes of chosen wrong answers that none was searched for, stores them beside the run, and gives the run
// with them.
func (a *app) diagnoseLater(ctx context.Context, source *runSource, r stored, budget diagnose.Budget,
	choose func(record.Attempt) bool) (stored, error) {
	wanted := func(at record.Attempt) bool { return attempt.Unsearched(at) && choose(at) }
	if !slices.ContainsFunc(r.attempts, wanted) {
		return r, nil
	}
	stored, scored, err := a.judgedAgain(ctx, source, r, judgingAgain{what: "causes", choose: wanted, diagnose: &budget})
	if err != nil {
		return r, err
	}
	all, err := source.store.Diagnosed(r.ID)
	if err != nil {
		return r, err
	}
	judged := map[int]record.Attempt{}
	for _, p := range stored {
		judged[p.Place] = p.Attempt
	}
	for _, one := range scored {
		with := judged[one.Place]
		if one.Attempt.Verdict != score.Wrong || one.Attempt.Expected != with.Expected {
			continue // the golden set has changed since: that is for a rescoring
		}
		all = slices.DeleteFunc(all, func(s history.Scored) bool { return s.Place == one.Place })
		with.Faults, with.Searched = one.Attempt.Faults, one.Attempt.Searched
		all = append(all, history.Scored{Placed: history.Placed{Place: one.Place, Attempt: with}})
	}
	if len(all) == 0 {
		return r, nil
	}
	if _, err := source.store.AddScoring(history.Scoring{Run: r.ID, Kind: history.Diagnosis, Made: history.Now(),
		Tool: version}, all); err != nil {
		return r, err
	}
	r.attempts, err = source.store.Attempts(r.ID)
	return r, err
}

// whyOf diagnoses the first attempt at a question in a run that is not right.
func (a *app) whyOf(ctx context.Context, o whyOptions, runName, question string) error {
	source, err := a.runSource()
	if err != nil {
		return err
	}
	defer source.close()
	r, err := source.whole(runName)
	if err != nil {
		return err
	}
	at, others, err := ofQuestion(r.attempts, question)
	if err != nil {
		return err
	}
	if r.file == "" {
		if r, err = a.diagnoseLater(ctx, source, r, o.budget(),
			func(x record.Attempt) bool { return x.Question == at.Question }); err != nil {
			return err
		}
		if at, others, err = ofQuestion(r.attempts, question); err != nil {
			return err
		}
	}
	tables, err := r.tables(at)
	if err != nil {
		return err
	}
	form, ended := view.WhyForm{Matched: at.Verdict == score.Right, Faults: at.Faults}, ""
	whole := tables.Answer != nil && tables.Answer.Rows() == tables.AnswerRows // large ones are kept in part
	if (at.Query != "" || whole) && at.Verdict == score.Wrong && !at.Stance {
		if form, ended, err = a.searched(ctx, source.w, r.Run, at, tables, o); err != nil {
			return err
		}
	}
	if err := a.show(view.WhyQuestion(view.Question(r.Run, at, tables, others), form, ended)); err != nil {
		return err
	}
	if !form.Matched {
		return trouble.ErrFound
	}
	return nil
}

// searched looks for the cause of one wrong answer once more, on the data of its run, to tell which edits were tried.
func (a *app) searched(ctx context.Context, w *workspace.Workspace, r record.Run, at record.Attempt, tables view.Tables,
	o whyOptions) (view.WhyForm, string, error) {
	chosen, err := a.questions(w, runOptionsFor(at.Question))
	if err != nil {
		return view.WhyForm{}, "", err
	}
	set := chosen[0].Set
	why := cause.Why{Answer: at.Query, Reference: at.Reference, Rules: chosen[0].Question.Rules.Over(set.Rules.Over(w.Rules)),
		Budget: o.budget()}
	if at.Query == "" {
		why.Given = tables.Answer
	}
	if at.Reference == "" {
		why.Expected = tables.Expected
	}
	d, err := w.Dataset(set.Dataset)
	if err != nil {
		return view.WhyForm{}, "", err
	}
	frozen, _, err := a.frozenAs(ctx, w, d, r)
	if err != nil {
		return view.WhyForm{}, "", err
	}
	form, ended, err := a.explain(ctx, w, d, frozen, why)
	form.All = o.all
	return form, ended, err
}

func (a *app) why(ctx context.Context, w *workspace.Workspace, o whyOptions, why cause.Why) error {
	d, err := w.Dataset(o.dataset)
	if err != nil {
		return err
	}
	frozen, err := a.freeze(ctx, w, d)
	if err != nil {
		return err
	}
	form, ended, err := a.explain(ctx, w, d, frozen, why)
	if err != nil {
		return err
	}
	form.All = o.all
	if err := a.show(view.Why(form, ended)); err != nil {
		return err
	}
	if !form.Matched {
		return trouble.ErrFound
	}
	return nil
}

// explain searches for a cause on a frozen dataset; it says why the search ended early, if it did.
func (a *app) explain(ctx context.Context, w *workspace.Workspace, d *workspace.Dataset, frozen *dataset.Frozen,
	why cause.Why) (view.WhyForm, string, error) {
	on, err := a.openedCopy(ctx, w, d, frozen, 1)
	if err != nil {
		return view.WhyForm{}, "", err
	}
	defer on.Close()
	why.Engine, why.Dialect, why.Live = frozen.Dialect(), d.Dialect(), d.Live()
	start := time.Now()
	got, err := cause.Explain(ctx, on, frozen.Tables, why)
	if err != nil {
		return view.WhyForm{}, "", trouble.As(trouble.Usage, err)
	}
	form := view.WhyForm{Matched: got.Match.Matched, Faults: got.Faults, Tried: len(got.Tried), Edits: got.Tried,
		Alterations: got.Altered, Notes: got.Unread,
		DurationMS: time.Since(start).Milliseconds()}
	if f := got.Failure; f != nil {
		form.Faults = []fault.Fault{cause.FailureFault(why.Answer, f)}
	}
	if !form.Matched && len(form.Faults) == 0 {
		form.Faults = []fault.Fault{{Code: fault.Unexplained, Certainty: fault.Possible, Evidence: got.Match.Why + "; " + got.TriedWords()}}
	}
	return form, got.Ended, nil
}
