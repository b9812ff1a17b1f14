package cli

import (
	"bufio"
	"context"
	"fmt"
	"os/user"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"tovrel/attempt"
	"tovrel/core/golden"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/table"
	"tovrel/engine"
	"tovrel/expect"
	"tovrel/files"
	"tovrel/history"
	"tovrel/trouble"
	"tovrel/upkeep"
	"tovrel/view"
	"tovrel/workspace"
)

type acceptOptions struct {
	replace bool
	yes     bool
	title   string
	by      string
}

func newAcceptCmd(a *app) *cobra.Command {
	var o acceptOptions
	cmd := &cobra.Command{
		Use: "accept RUN QUESTION", Short: "Make an answer another accepted reading, or the expected one",
		Args: usage(cobra.ExactArgs(2)), ValidArgsFunction: a.completeRuns,
		Long: "Shows how the answer differs from what is expected, and asks before it writes (--yes where nobody can be " +
			"asked). The answer becomes\nanother reading of the question; with --replace it becomes the expected answer. " +
			"Nothing else of the golden set's file changes. Who\naccepted it, when and from which run is noted in the file.",
		RunE: func(cmd *cobra.Command, args []string) error { return a.accept(cmd.Context(), o, args[0], args[1]) },
	}
	f := cmd.Flags()
	f.BoolVar(&o.replace, "replace", false, "make it the expected answer, in place of the present one")
	f.BoolVar(&o.yes, "yes", false, "write without asking")
	f.StringVar(&o.title, "title", "", "title of the new reading: how the question is read")
	f.StringVar(&o.by, "by", "", "who accepts it (default: the user)")
	return cmd
}

func (a *app) accept(ctx context.Context, o acceptOptions, runName, name string) error {
	source, err := a.runSource()
	if err != nil {
		return err
	}
	defer source.close()
	r, err := source.whole(runName)
	if err != nil {
		return err
	}
	if r, err = a.asOfToday(ctx, source, r, name); err != nil {
		return err
	}
	at, _, err := ofQuestion(r.attempts, name)
	if err != nil {
		return err
	}
	switch {
	case at.Verdict == score.Right:
		a.say("The answer is right already, as answers are judged today; there is nothing to accept.")
		return nil
	case at.Answer == "":
		return trouble.New(trouble.Usage, "the attempt at %s is %s and gave no answer table; there is nothing to accept",
			at.Question, at.Verdict)
	}
	c, err := a.chosenNow(source.w, at.Question)
	if err != nil {
		return err
	}
	for _, known := range append([]golden.Answer{c.Question.Answer}, answersOf(c.Question.Readings)...) {
		if at.Query != "" && strings.TrimSpace(known.Query) == strings.TrimSpace(at.Query) {
			a.say("The golden set accepts this query already; score the run again with `tovrel rescore %s`.", runName)
			return nil
		}
	}
	change, err := a.acceptance(ctx, source.w, r, at, c, o)
	if err != nil {
		return err
	}
	tables, err := r.tables(at)
	if err != nil {
		return err
	}
	if err := a.show(view.Acceptance(view.Question(r.Run, at, tables, nil), acceptForm(change, c))); err != nil {
		return err
	}
	if ok, err := a.confirmed(o.yes, "Write this to "+c.Set.File+"?"); err != nil || !ok {
		return err
	}
	changes, err := change.Changes(source.w, c.Set)
	if err != nil {
		return err
	}
	if err := files.WriteAll(changes); err != nil {
		return err
	}
	a.say("Wrote %s. Score the run again with `tovrel rescore %s`.", c.Set.File, runName)
	return nil
}

// asOfToday is a run with its attempts at a question alone, judged by the rules and readings of today.
func (a *app) asOfToday(ctx context.Context, source *runSource, r stored, name string) (stored, error) {
	chosen, _, err := ofQuestion(r.attempts, name)
	if err != nil || r.file != "" {
		return r, err
	}
	_, scored, err := a.judgedAgain(ctx, source, r, judgingAgain{what: "scoring " + chosen.Question,
		choose: func(at record.Attempt) bool { return at.Question == chosen.Question }})
	if err != nil {
		return r, err
	}
	var attempts []record.Attempt
	tables := map[string]history.Stored{}
	for _, s := range scored {
		if s.Attempt.Question == chosen.Question {
			attempts = append(attempts, s.Attempt)
		}
		for _, t := range s.Tables {
			tables[t.Digest] = t
		}
	}
	if len(attempts) == 0 {
		return r, nil // the question is not in the golden sets any more
	}
	then := r.table
	r.attempts, r.table = attempts, func(digest string) (history.Stored, error) {
		if t, known := tables[digest]; known {
			return t, nil
		}
		return then(digest)
	}
	return r, nil
}

func answersOf(readings []*golden.Reading) []golden.Answer {
	var out []golden.Answer
	for _, r := range readings {
		out = append(out, r.Answer)
	}
	return out
}

// chosenNow finds a question in the golden sets of today, by its present or an earlier name.
func (a *app) chosenNow(w *workspace.Workspace, name string) (workspace.Chosen, error) {
	all, err := a.questions(w, record.Options{})
	if err != nil {
		return workspace.Chosen{}, err
	}
	for _, c := range all {
		if slices.Contains(attempt.NamesOf(c), name) {
			return c, nil
		}
	}
	return workspace.Chosen{}, trouble.New(trouble.Usage,
		"the golden sets have no question %s any more; if it was renamed, name it under formerly:", name)
}

// acceptance computes the answer on the present data and writes it into a copy of the document.
func (a *app) acceptance(ctx context.Context, w *workspace.Workspace, r stored, at record.Attempt, c workspace.Chosen,
	o acceptOptions) (upkeep.Acceptance, error) {
	rows, err := a.answerNow(ctx, w, r, at, c)
	if err != nil {
		return upkeep.Acceptance{}, err
	}
	what := upkeep.Accepting{Query: at.Query, Rows: rows, Run: r.ID, Translator: r.Translator, Title: o.title, By: o.by,
		On: time.Now().Format(time.DateOnly), Replace: o.replace}
	if what.By == "" {
		what.By = userName()
	}
	return upkeep.Accept(c, what)
}

// answerNow is the answer on the data of today: that of its query, else the table that came.
func (a *app) answerNow(ctx context.Context, w *workspace.Workspace, r stored, at record.Attempt,
	c workspace.Chosen) (*table.Table, error) {
	if at.Query == "" {
		stored, err := r.table(at.Answer)
		return stored.Table, err
	}
	on, err := a.opened(ctx, w, c.Set.Dataset, 1)
	if err != nil {
		return nil, err
	}
	defer on.Close()
	result, err := on.Query(ctx, engine.Request{SQL: at.Query})
	if err != nil {
		return nil, trouble.As(trouble.Usage, expect.Placed(at.Query, err))
	}
	if on.frozen.Fingerprint != r.Datasets[c.Set.Dataset] {
		a.say("The data of %s has moved since the run; this is the answer on the data of today.", c.Set.Dataset)
	}
	return result.Table, nil
}

func userName() string {
	if u, err := user.Current(); err == nil {
		if u.Name != "" {
			return u.Name
		}
		return u.Username
	}
	return "unknown"
}

// acceptForm says what is written where.
func acceptForm(accepted upkeep.Acceptance, chosen workspace.Chosen) view.AcceptForm {
	return view.AcceptForm{Question: chosen.Name(), File: chosen.Set.File, Reading: accepted.Title,
		Replaced: accepted.Title == "", Query: accepted.Answered.Query,
		Table: accepted.Rows, AnswerFile: accepted.File, Accepted: accepted.Answered.Accepted}
}

// confirmed asks before something is written. Where nobody can be asked, it takes --yes.
func (a *app) confirmed(yes bool, question string) (bool, error) {
	if yes {
		return true, nil
	}
	if !a.Asks {
		return false, trouble.New(trouble.Usage, "nothing was written: nobody can be asked here; say --yes to write")
	}
	fmt.Fprintf(a.Err, "%s [y/N] ", question)
	line, err := bufio.NewReader(a.In).ReadString('\n')
	if err != nil && line == "" {
		return false, nil
	}
	switch strings.ToLower(strings.TrimSpace(line)) {
	case "y", "yes":
		return true, nil
	}
	a.say("Nothing was written.")
	return false, nil
}
