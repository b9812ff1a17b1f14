package cli

import (
	"context"

	"github.com/spf13/cobra"

	"tovrel/core/briefing"
	"tovrel/core/record"
	"tovrel/trouble"
	"tovrel/upkeep"
	"tovrel/view"
)

func newSetCoverageCmd(a *app) *cobra.Command {
	faults := false
	cmd := &cobra.Command{
		Use: "coverage [SET or QUESTION…]", Short: "What of the data, the business terms and the query features the " +
			"questions exercise", ValidArgsFunction: a.completeQuestions,
		RunE: func(cmd *cobra.Command, args []string) error { return a.setCoverage(cmd.Context(), args, faults) },
	}
	cmd.Flags().BoolVar(&faults, "faults", false, "also count which faults the answers would notice; takes as long as set strength")
	return cmd
}

func (a *app) setCoverage(ctx context.Context, names []string, faults bool) error {
	w, err := a.open()
	if err != nil {
		return err
	}
	questions, err := a.questions(w, record.Options{Names: names})
	if err != nil {
		return err
	}
	plan, done, err := a.plan(ctx, w, record.Options{Names: names, Brief: string(briefing.None)}, questions)
	if err != nil {
		return err
	}
	defer done()
	covered, err := upkeep.Coverage(ctx, plan)
	if err != nil {
		return trouble.As(trouble.Unreachable, err)
	}
	if faults {
		measured, err := a.strengths(ctx, w, names, false)
		if err != nil {
			return err
		}
		covered = append(covered, upkeep.FaultCoverage(measured)...)
	}
	forms := make([]view.CoveredForm, len(covered))
	for i, c := range covered {
		forms[i] = view.CoveredForm(c)
	}
	return a.show(view.Coverage(len(questions), forms))
}
