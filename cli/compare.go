package cli

import (
	"context"
	"math/rand/v2"
	"runtime/debug"
	"slices"

	"github.com/spf13/cobra"
	"golang.org/x/sync/errgroup"

	"tovrel/core/near"
	"tovrel/core/record"
	"tovrel/core/versus"
	"tovrel/trouble"
	"tovrel/view"
)

type compareOptions struct {
	rescore bool
	queries bool
	parts   bool
	all     bool
	hold    []string
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
		Long: "The first run is the earlier one. What differs between the runs is said first: translator, model, settings, what was " +
			"told, data. That is\nwhat is compared. Only questions whose text, expected answer, rules, engine, or the tables that " +
			"their reference reads, are others are\nmoved ground: listed apart and not counted. Both sides are judged by one judge. " +
			"--rescore judges the stored replies of both under\ntoday's golden sets first. With more than two runs there is a ranking, " +
			"every pair is tested, and the questions where they differ are laid\nbeside each other.",
		RunE: func(cmd *cobra.Command, args []string) error {
			if cmd.Flags().Changed("detect") && (o.detect <= 0 || o.detect >= 1) {
				return trouble.New(trouble.Usage, "--detect is a difference of accuracy between 0 and 1, such as 0.05 for five points")
			}
			for _, what := range o.hold {
				if !slices.Contains(versus.Holdable(), what) {
					return trouble.New(trouble.Usage, "--hold %s: %s", what, near.Hint(what, versus.Holdable()))
				}
			}
			return a.fromRuns(func(source *runSource) (view.Screen, error) {
				c, err := a.compare(cmd.Context(), source, o, args)
				return c.screen, err
			})
		},
	}
	f := cmd.Flags()
	f.BoolVar(&o.rescore, "rescore", false, "judge the stored replies under today's golden sets first")
	f.BoolVar(&o.queries, "queries", false, "show both queries of each question that changed")
	f.BoolVar(&o.parts, "parts", false, "show accuracy for every tag and query feature, not only where it got worse")
	f.BoolVar(&o.all, "all", false, "with more than two runs: every question, not only those where they differ")
	f.StringSliceVar(&o.hold, "hold", nil, "count questions only where this is the same in both: briefing, model or settings; repeatable")
	fixed(cmd, "hold", "", versus.Holdable())
	f.Uint64Var(&o.seed, "seed", defaultSeed, "start of the random draws")
	f.Float64Var(&o.detect, "detect", 0, "say how many questions or repeats it takes to find this difference (0.05 is five points)")
	return cmd
}

// compared is a comparison of runs as a screen, and what it was made of.
type compared struct {
	screen  view.Screen
	sides   []versus.Side
	records []stored
	changes map[string]versus.FlipKind // by question, between the first run and the last
}

// compare makes the comparison of runs.
func (a *app) compare(ctx context.Context, source *runSource, o compareOptions, names []string) (compared, error) {
	collectLate(len(names))
	var out compared
	var err error
	if out.sides, out.records, err = a.sides(ctx, source, o.rescore, names); err != nil {
		return out, err
	}
	shown := view.CompareOptions{Seed: o.seed, Queries: o.queries, Parts: o.parts, All: o.all}
	options := versus.Options{Random: seeded(o.seed), Hold: o.hold}
	if len(out.sides) > 2 {
		options.Draws = func(n int) versus.Random { return rand.New(rand.NewPCG(o.seed, uint64(n))) }
		several := versus.CompareAll(out.sides, options)
		out.changes = changesOf(several.Between(0, len(out.sides)-1))
		out.screen = view.CompareSeveral(several, shown)
		return out, nil
	}
	options.Alike = a.alike(source, out.records[0], out.records[1])
	c := versus.CompareWith(out.sides[0], out.sides[1], options)
	if o.detect > 0 {
		s := c.Differences
		shown.Planning = &view.Planning{Difference: o.detect, Have: s.Questions, Questions: versus.QuestionsNeeded(o.detect, s.Regresses),
			Repeats: versus.RepeatsNeeded(s.Questions, o.detect, s.Between, s.Within)}
	}
	if err := withEvidence(source, out.records, &c); err != nil {
		return out, err
	}
	out.changes, out.screen = changesOf(c), view.Compare(c, shown)
	return out, nil
}

// changesOf says how questions changed.
func changesOf(c versus.Comparison) map[string]versus.FlipKind {
	out := map[string]versus.FlipKind{}
	for _, f := range c.Flips {
		out[f.Question] = f.Kind
	}
	return out
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
		sides[i] = versus.Side{Run: r.Run, Attempts: r.attempts, Lights: r.lights}
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
		sides[i].Attempts, sides[i].Lights, sides[i].Grounds = judged.attempts, nil, judged.scoring.Grounds
		r.attempts, r.lights, r.isWhole = judged.attempts, nil, true
	}
	withTold(sides, records)
	if !rescored {
		if err := a.oneJudge(ctx, source, sides, records); err != nil {
			return nil, nil, err
		}
	}
	return sides, records, nil
}

// collectLate lets garbage lie until there is much of it for so many runs: a comparison reads a lot and is soon over.
func collectLate(runs int) {
	const enough = 60 << 20 // for a run
	debug.SetGCPercent(-1)
	debug.SetMemoryLimit(int64(max(2, runs)) * enough)
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
