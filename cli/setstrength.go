package cli

import (
	"context"

	"github.com/spf13/cobra"

	"tovrel/core/briefing"
	"tovrel/core/run"
	"tovrel/runner"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

func newSetStrengthCmd(a *app) *cobra.Command {
	return &cobra.Command{
		Use: "strength [SET or QUESTION…]", Short: "Tell how many wrong queries the expected answers would notice", ValidArgsFunction: a.completeQuestions,
		Long: "Edits each reference query as a translator would have got it wrong, and looks whether the expected answer, under its rules and\nreadings, tells the edited query's result from the right one. Those that it cannot tell apart are survivors. Left out are edits that\nnever change what is expected: of the order where none was asked, and those that only write the same query in another form.",
		RunE: func(cmd *cobra.Command, args []string) error { return a.setStrength(cmd.Context(), args) },
	}
}

func (a *app) setStrength(ctx context.Context, names []string) error {
	w, err := a.open()
	if err != nil {
		return err
	}
	measured, err := a.strengths(ctx, w, names)
	if err != nil {
		return err
	}
	forms := make([]view.StrengthOf, len(measured))
	for i, s := range measured {
		forms[i] = view.StrengthOf{Question: s.Question, Edits: s.Edits, ToldApart: s.ToldApart, Why: s.Why, Survivors: []view.SurvivorForm{}}
		for _, v := range s.Survivors {
			forms[i].Survivors = append(forms[i].Survivors, view.SurvivorForm(v))
		}
	}
	return a.show(view.StrengthScreen(forms))
}

// strengths measures the strength of questions; none named for all.
func (a *app) strengths(ctx context.Context, w *workspace.Workspace, names []string) ([]runner.Strength, error) {
	options := run.Options{Names: names, Brief: string(briefing.None)}
	questions, err := a.questions(w, options)
	if err != nil {
		return nil, err
	}
	plan, done, err := a.plan(ctx, w, options, questions)
	if err != nil {
		return nil, err
	}
	defer done()
	bar := a.progress("strength")
	n := 0
	measured, err := runner.Strengths(ctx, plan, func() {
		n++
		bar.step(n, len(questions))
	})
	bar.finish()
	return measured, trouble.As(trouble.Unreachable, err)
}
