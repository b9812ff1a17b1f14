package cli

import (
	"context"
	"errors"
	"io/fs"
	"os"

	"github.com/spf13/cobra"

	"tovrel/core/near"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/history"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

func newShowCmd(a *app) *cobra.Command {
	rescored := false
	cmd := &cobra.Command{
		ValidArgsFunction: a.completeRuns,
		Use:               "show RUN [QUESTION]", Short: "Show a run's scoreboard, or one question side by side",
		Args: usage(cobra.RangeArgs(1, 2)),
		Long: "RUN is a number, a mark, latest, a translator's name for its latest complete run (scribe@2; scribe@2~1 is the " +
			"one before), or the\npath of an exported run.",
		RunE: func(_ *cobra.Command, args []string) error { return a.showRun(rescored, args[0], args[1:]...) },
	}
	cmd.Flags().BoolVar(&rescored, "rescored", false, "as it was judged by the newest rescore")
	return cmd
}

// showRun shows a run, or one of its questions where one is named.
func (a *app) showRun(rescored bool, name string, question ...string) error {
	source, err := a.runSource()
	if err != nil {
		return err
	}
	defer source.close()
	r, err := source.whole(name)
	if err != nil {
		return err
	}
	if rescored {
		if r.attempts, err = source.rescored(r); err != nil {
			return err
		}
	}
	if len(question) == 0 {
		return a.show(view.Scoreboard(r.Run, r.attempts))
	}
	chosen, others, err := ofQuestion(r.attempts, question[0])
	if err != nil {
		return err
	}
	tables, err := r.tables(chosen)
	if err != nil {
		return err
	}
	return a.show(view.Question(r.Run, chosen, tables, others))
}

// rescored are a run's attempts as they were judged last.
func (s *runSource) rescored(r stored) ([]record.Attempt, error) {
	if r.file == "" {
		_, attempts, has, err := s.store.LatestRescoring(r.ID)
		if err != nil || has {
			return attempts, err
		}
	}
	return nil, trouble.New(trouble.Usage, "run %d was not judged again; do so with `tovrel rescore %d`", r.ID, r.ID)
}

// tables reads the tables of an attempt.
func (r stored) tables(a record.Attempt) (view.Tables, error) {
	var out view.Tables
	if a.Expected != "" {
		stored, err := r.table(a.Expected)
		if err != nil {
			return out, err
		}
		out.Expected, out.ExpectedRows = stored.Table, stored.Rows
	}
	if a.Answer != "" {
		stored, err := r.table(a.Answer)
		if err != nil {
			return out, err
		}
		out.Answer, out.AnswerRows = stored.Table, stored.Rows
	}
	return out, nil
}

// openStore opens the workspace and its history; close the history.
func (a *app) openStore() (*workspace.Workspace, *history.Store, error) {
	w, err := a.open()
	if err != nil {
		return nil, nil, err
	}
	store, err := openHistory(a.signals.ctx, w)
	return w, store, err
}

// openHistory opens the history of earlier runs; it makes none where there is none.
func openHistory(ctx context.Context, w *workspace.Workspace) (*history.Store, error) {
	path := w.Path(w.History)
	if _, err := os.Stat(path); errors.Is(err, fs.ErrNotExist) {
		return nil, trouble.New(trouble.Usage, "the workspace has no runs yet; make one with `tovrel run`")
	}
	return history.OpenToRead(ctx, path)
}

// ofQuestion finds a question's attempts, by its whole name or its id alone: the first that is not right, and the others.
func ofQuestion(attempts []record.Attempt, name string) (record.Attempt, []record.Attempt, error) {
	var found []record.Attempt
	var names []string
	for _, at := range attempts {
		if at.Question == name || idOf(at.Question) == name {
			found = append(found, at)
		}
		if n := len(names); n == 0 || names[n-1] != at.Question {
			names = append(names, at.Question)
		}
	}
	if len(found) == 0 {
		return record.Attempt{}, nil, trouble.New(trouble.Usage, "the run has no question %q; %s", name, near.Hint(name, names))
	}
	first := 0
	for i, at := range found {
		if at.Verdict != score.Right {
			first = i
			break
		}
	}
	return found[first], append(append([]record.Attempt(nil), found[:first]...), found[first+1:]...), nil
}

func idOf(question string) string {
	for i := len(question) - 1; i >= 0; i-- {
		if question[i] == '/' {
			return question[i+1:]
		}
	}
	return question
}
