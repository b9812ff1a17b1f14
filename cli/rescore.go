package cli

import (
	"context"
	"maps"
	"slices"

	"github.com/spf13/cobra"

	"tovrel/attempt"
	"tovrel/core/record"
	"tovrel/history"
	"tovrel/view"
)

func newRescoreCmd(a *app) *cobra.Command {
	return &cobra.Command{
		Use: "rescore RUN…", Short: "Judge stored replies again under today's expected answers and rules",
		Args: usage(cobra.MinimumNArgs(1)), ValidArgsFunction: a.completeEveryRun,
		Long: "Nothing is asked: the replies of each run are judged once more, on the run's own frozen data and as-of, under " +
			"the golden sets of\ntoday. The run itself stays as it is; the new judgement is kept beside it.",
		RunE: func(cmd *cobra.Command, args []string) error {
			source, err := a.runSource()
			if err != nil {
				return err
			}
			defer source.close()
			store, err := source.history()
			if err != nil {
				return err
			}
			var all []view.Rescored
			for _, name := range args {
				r, err := store.Find(name)
				if err != nil {
					return err
				}
				judged, err := a.rescoreRun(cmd.Context(), source, r)
				if err != nil {
					return err
				}
				all = append(all, view.Rescored{Run: r, Before: judged.before, After: judged.attempts, AskAgain: judged.scoring.Stale})
			}
			return a.show(view.Rescore(all))
		},
	}
}

// rescored is a run that was judged again.
type rescored struct {
	scoring          history.Scoring
	before, attempts []record.Attempt // in the same order
}

// rescoreRun judges a run's replies under today's golden sets, and keeps that beside the run.
func (a *app) rescoreRun(ctx context.Context, source *runSource, r record.Run) (rescored, error) {
	store, err := source.history()
	if err != nil {
		return rescored{}, err
	}
	stored, err := store.Judged(r.ID)
	if err != nil {
		return rescored{}, err
	}
	b, err := a.judging(ctx, source.w, r)
	if err != nil {
		return rescored{}, err
	}
	defer b.close()
	scored, err := a.rejudge(ctx, b, "scoring "+r.Translator, stored, func(record.Attempt) bool { return true })
	if err != nil {
		return rescored{}, err
	}
	out := rescored{scoring: history.Scoring{Run: r.ID, Kind: history.Rescoring, Made: history.Now(), Tool: version,
		Grounds: map[string]record.Ground{}}}
	maps.Copy(out.scoring.Grounds, r.Grounds)
	for _, c := range b.plan.Questions {
		ground := attempt.GroundOf(b.plan, c)
		ground.Tables = b.plan.Places[c.Set.Dataset].TablesOf(c.Name()) // runs of earlier versions know only the dataset
		wasAsked := false
		for _, name := range attempt.NamesOf(c) {
			if before, asked := r.Grounds[name]; asked {
				ground.Question, ground.Briefing = before.Question, before.Briefing // what was asked and told then
				out.scoring.Grounds[name] = ground
				wasAsked = true
			}
		}
		if wasAsked && b.stale[c.Set.Dataset] {
			out.scoring.Stale = append(out.scoring.Stale, c.Name())
		}
	}
	slices.Sort(out.scoring.Stale)
	if out.scoring.ID, err = store.AddScoring(out.scoring, scored); err != nil {
		return rescored{}, err
	}
	at := map[int]int{}
	for i, s := range scored {
		at[s.Place] = i
	}
	for _, p := range stored {
		out.before = append(out.before, p.Attempt)
		now := p.Attempt
		if i, judged := at[p.Place]; judged {
			now = scored[i].Attempt
		}
		out.attempts = append(out.attempts, now)
	}
	return out, nil
}
