package cli

import (
	"context"
	"math/rand/v2"
	"runtime/debug"

	"github.com/spf13/cobra"
	"golang.org/x/sync/errgroup"

	"tovrel/core/record"
	"tovrel/core/versus"
	"tovrel/trouble"
	"tovrel/view"
)

type compareOptions struct {
	rescore bool
	queries bool
	parts   bool
	seed    uint64
	detect  float64
}

// defaultSeed starts the random draws of comparisons, so that the same runs give the same figures.
const defaultSeed = 1

func newCompareCmd(a *app) *cobra.Command {
	var o compareOptions
	cmd := &cobra.Command{
		Use: "compare RUN RUN…", Short: "Hold runs against each other: better, worse, or only noise",
		Args: usage(cobra.MinimumNArgs(2)), ValidArgsFunction: a.completeEveryRun,
		Long: "The first run is the earlier one. Questions whose text, expected answer, rules, data, briefing or engine " +
			"differ between the runs\nare moved ground: they are listed apart and not counted. --rescore judges the stored " +
			"replies of both under today's golden sets\nfirst. With more than two runs there is a ranking, and every pair is tested.",
		RunE: func(cmd *cobra.Command, args []string) error {
			if cmd.Flags().Changed("detect") && (o.detect <= 0 || o.detect >= 1) {
				return trouble.New(trouble.Usage, "--detect is a difference of accuracy between 0 and 1, such as 0.05 for five points")
			}
			screen, err := a.compare(cmd.Context(), o, args)
			if err != nil {
				return err
			}
			return a.show(screen)
		},
	}
	f := cmd.Flags()
	f.BoolVar(&o.rescore, "rescore", false, "judge the stored replies under today's golden sets first")
	f.BoolVar(&o.queries, "queries", false, "show both queries of each question that changed")
	f.BoolVar(&o.parts, "parts", false, "show accuracy for every tag and query feature, not only where it got worse")
	f.Uint64Var(&o.seed, "seed", defaultSeed, "start of the random draws")
	f.Float64Var(&o.detect, "detect", 0, "say how many questions or repeats it takes to find this difference (0.05 is five points)")
	return cmd
}

// compare makes the comparison of runs, as a screen.
func (a *app) compare(ctx context.Context, o compareOptions, names []string) (view.Screen, error) {
	collectLate()
	source, err := a.runSource()
	if err != nil {
		return view.Screen{}, err
	}
	defer source.close()
	sides, records, err := a.sides(ctx, source, o.rescore, names)
	if err != nil {
		return view.Screen{}, err
	}
	shown := view.CompareOptions{Seed: o.seed, Queries: o.queries, Parts: o.parts}
	if len(sides) > 2 {
		return view.CompareSeveral(versus.CompareAll(sides, seeded(o.seed)), shown), nil
	}
	c := versus.Compare(sides[0], sides[1], seeded(o.seed))
	if o.detect > 0 {
		s := c.Differences
		shown.Planning = &view.Planning{Difference: o.detect, Have: s.Questions, Questions: versus.QuestionsNeeded(o.detect, s.Regresses),
			Repeats: versus.RepeatsNeeded(s.Questions, o.detect, s.Between, s.Within)}
	}
	if err := withEvidence(source, records, &c); err != nil {
		return view.Screen{}, err
	}
	return view.Compare(c, shown), nil
}

func seeded(seed uint64) *rand.Rand { return rand.New(rand.NewPCG(seed, 0)) }

// sides reads runs for a comparison, judged once more where that is asked.
func (a *app) sides(ctx context.Context, source *runSource, rescored bool, names []string) ([]versus.Side, []stored, error) {
	records := make([]stored, len(names))
	var g errgroup.Group
	for i, name := range names {
		if !isFile(name) {
			if _, err := source.history(); err != nil { // opened before the readers start
				return nil, nil, err
			}
		}
		g.Go(trouble.Safe(func() (err error) {
			records[i], err = source.light(name)
			return err
		}))
	}
	if err := g.Wait(); err != nil {
		return nil, nil, err
	}
	sides := make([]versus.Side, len(names))
	for i := range records {
		r := &records[i]
		sides[i] = versus.Side{Run: r.Run, Attempts: r.attempts}
		if !rescored {
			continue
		}
		if r.file != "" {
			return nil, nil, trouble.New(trouble.Usage,
				"%s is a file; read it with `tovrel history import %s` to score it again", r.file, r.file)
		}
		judged, err := a.rescoreRun(ctx, source, r.Run)
		if err != nil {
			return nil, nil, err
		}
		sides[i].Attempts, sides[i].Grounds = judged.attempts, judged.scoring.Grounds
		r.attempts, r.isWhole = judged.attempts, true
	}
	return sides, records, nil
}

// collectLate lets garbage lie until there is much of it: a comparison reads a lot and is soon over.
func collectLate() {
	const enough = 300 << 20
	debug.SetGCPercent(-1)
	debug.SetMemoryLimit(enough)
}

// withEvidence puts whole attempts, with queries and evidence, in place of those that a comparison was made of.
func withEvidence(source *runSource, records []stored, c *versus.Comparison) error {
	for side, r := range records {
		if r.isWhole || r.file != "" {
			continue
		}
		at := map[int]*record.Attempt{} // by place
		var places []int
		for i := range c.Flips {
			f := &c.Flips[i]
			place := r.places[f.At[side]]
			at[place] = []*record.Attempt{&f.Before, &f.After}[side]
			places = append(places, place)
		}
		whole, err := source.store.AttemptsAt(r.ID, places)
		if err != nil {
			return err
		}
		for _, p := range whole {
			*at[p.Place] = p.Attempt
		}
	}
	return nil
}
