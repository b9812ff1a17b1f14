package cli

import (
	"context"
	"strings"

	"github.com/spf13/cobra"

	"tovrel/core/near"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/versus"
	"tovrel/history"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

func newShowCmd(a *app) *cobra.Command {
	rescored := false
	cmd := &cobra.Command{
		ValidArgsFunction: a.completeRuns,
		Use:               "show RUN [RUN…] [QUESTION]", Short: "Show a run's scoreboard, or one question side by side",
		Args: usage(cobra.RangeArgs(1, mostAbreast+1)),
		Long: "RUN is a number, a mark, latest, a translator's name for its latest complete run (scribe@2; scribe@2~1 is the " +
			"one before), or the\npath of an exported run. With several runs, what is expected and every run's answer to the question " +
			"stand " +
			"beside each other.",
		RunE: func(_ *cobra.Command, args []string) error {
			if len(args) > 2 {
				return a.showAbreast(rescored, args[:len(args)-1], args[len(args)-1])
			}
			return a.showRun(rescored, args[0], args[1:]...)
		},
	}
	cmd.Flags().BoolVar(&rescored, "rescored", false, "as it was judged by the newest rescore")
	return cmd
}

// mostAbreast is how many runs can be laid beside each other.
const mostAbreast = 8

// showAbreast shows the answers of several runs to a question beside each other.
func (a *app) showAbreast(rescored bool, names []string, question string) error {
	source, err := a.runSource()
	if err != nil {
		return err
	}
	defer source.close()
	var all []view.Answerer
	var sides []versus.Side
	for _, name := range names {
		r, err := source.shown(name, rescored)
		if err != nil {
			return err
		}
		one := view.Answerer{Run: r.Run}
		if one.Attempt, one.Others, err = ofQuestion(r.attempts, question); err != nil {
			return err
		}
		if one.Tables, err = r.tables(one.Attempt); err != nil {
			return err
		}
		all, sides = append(all, one), append(sides, versus.Side{Run: r.Run})
	}
	for i, name := range versus.Names(sides) {
		all[i].Name = name
	}
	return a.show(view.Abreast(all))
}

// showRun shows a run, or one of its questions where one is named.
func (a *app) showRun(rescored bool, name string, question ...string) error {
	source, err := a.runSource()
	if err != nil {
		return err
	}
	defer source.close()
	r, err := source.shown(name, rescored)
	if err != nil {
		return err
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

// shown is a run with its whole attempts: as it was made, or as it was judged last.
func (s *runSource) shown(name string, rescored bool) (stored, error) {
	r, err := s.whole(name)
	if err == nil && rescored {
		r.attempts, err = s.rescored(r)
	}
	return r, err
}

// rescored are a run's attempts as they were judged last; it errs where it was judged once.
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
	if !w.HasHistory() {
		return nil, trouble.New(trouble.Usage, "the workspace has no runs yet; make one with `tovrel run`")
	}
	at, err := w.HistoryAt()
	if err != nil {
		return nil, err
	}
	return history.OpenToRead(ctx, at)
}

// makeHistory opens the history to write in, making it where there is none.
func makeHistory(ctx context.Context, w *workspace.Workspace) (*history.Store, error) {
	at, err := w.HistoryAt()
	if err != nil {
		return nil, err
	}
	return history.Open(ctx, at)
}

// ofQuestion finds a question's attempts, by its whole name or its id alone: the first that is not right, and the others.
func ofQuestion(attempts []record.Attempt, name string) (record.Attempt, []record.Attempt, error) {
	var found []record.Attempt
	var names []string
	for _, at := range attempts {
		base, _, _ := strings.Cut(at.Question, "@") // a question with roles is meant by its name without them, too
		if at.Question == name || idOf(at.Question) == name || base == name || idOf(base) == name {
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
