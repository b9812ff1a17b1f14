package cli

import (
	"context"
	"maps"
	"os"
	"slices"

	"github.com/spf13/cobra"

	"tovrel/core/record"
	"tovrel/core/versus"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

type gateOptions struct {
	against string
	out     []string
	seed    uint64
}

func newGateCmd(a *app) *cobra.Command {
	var o gateOptions
	cmd := &cobra.Command{
		Use: "gate RUN [--against RUN]", Short: "Tell whether a run meets the conditions of gate: in tovrel.yaml",
		Args: usage(cobra.ExactArgs(1)), ValidArgsFunction: a.completeRuns,
		Long: "Exits 0 when the gate is passed and 1 when it is not. --against names a run, a mark, or the path of an " +
			"exported run, such as one that\nis kept under version control in baselines/. Without conditions in tovrel.yaml, " +
			"--against alone allows no regressions and nothing\nunscored. -o writes the same judgement to files as well, by " +
			"their endings: .json, .md, .xml (JUnit), .csv, .xlsx.",
		RunE: func(cmd *cobra.Command, args []string) error {
			for _, path := range o.out {
				if err := checkEnding(path, false); err != nil {
					return err
				}
			}
			source, err := a.runSource()
			if err != nil {
				return err
			}
			defer source.close()
			j, err := a.gate(cmd.Context(), source, o, args[0])
			if err != nil {
				return err
			}
			if err := a.writeGate(source, o, j); err != nil {
				return err
			}
			if err := a.show(j.screen); err != nil {
				return err
			}
			if !j.passed {
				return trouble.ErrFound
			}
			return nil
		},
	}
	f := cmd.Flags()
	f.StringVar(&o.against, "against", "", "the run to compare with: a number, a mark, a translator, or an exported file")
	f.StringArrayVarP(&o.out, "file", "o", nil, "also write the judgement to this file; repeatable")
	f.Uint64Var(&o.seed, "seed", defaultSeed, "start of the random draws")
	_ = cmd.RegisterFlagCompletionFunc("against", a.completeRuns)
	return cmd
}

// gated is a gate's judgement as a screen, and what it was made of.
type gated struct {
	compared
	names  []string // of the runs: the one that was compared with first
	passed bool
}

// writeGate writes a judgement to the files that are asked for.
func (a *app) writeGate(source *runSource, o gateOptions, j gated) error {
	if len(o.out) == 0 {
		return nil
	}
	told := reported{screen: j.screen}
	told.page = func() (view.Page, error) {
		for i := range j.records {
			var err error
			if j.records[i], err = source.judged(j.records[i], j.sides[i], j.names[i]); err != nil {
				return view.Page{}, err
			}
		}
		whole, err := source.reported(j.screen, j.records, j.changes, false)
		if err != nil {
			return view.Page{}, err
		}
		return whole.page()
	}
	for _, path := range o.out {
		if err := a.writeReport(path, told); err != nil {
			return err
		}
	}
	return nil
}

func (a *app) gate(ctx context.Context, source *runSource, o gateOptions, name string) (gated, error) {
	collectLate(2)
	gate, err := gateOf(source.w, o.against)
	if err != nil {
		return gated{}, err
	}
	if o.against == "" && gate.NeedsOther() { // a condition on drift is held against the run before
		r, err := source.light(name)
		if err != nil {
			return gated{}, err
		}
		if o.against, err = runBefore(source, r.Run); err != nil {
			return gated{}, err
		}
	}
	names := []string{name}
	if o.against != "" {
		names = []string{o.against, name}
	}
	sides, records, err := a.sides(ctx, source, false, names)
	if err != nil {
		return gated{}, baseline(err, o.against)
	}
	out := gated{compared: compared{sides: sides, records: records}, names: names}
	in := versus.GateInput{Side: sides[len(sides)-1]}
	if len(sides) > 1 {
		c := versus.CompareWith(sides[0], sides[1], versus.Options{Random: seeded(o.seed), Alike: a.alike(source, records[0], records[1])})
		in.Comparison, out.changes = &c, changesOf(c)
	}
	if gate.NeedsStrength() {
		if in.Strength, err = a.strengthOf(ctx, source.w, in.Side.Run); err != nil {
			return gated{}, err
		}
	}
	passed, judged, err := gate.Judge(in)
	if err != nil {
		return gated{}, trouble.New(trouble.Usage, "gate: %w", err)
	}
	out.passed, out.screen = passed, view.Gate(in.Side.Run, o.against, passed, judged)
	return out, nil
}

// strengthOf measures the strength of the questions that a run asked, as the golden sets are today; nil where none could be measured.
func (a *app) strengthOf(ctx context.Context, w *workspace.Workspace, r record.Run) (*float64, error) {
	names := slices.Sorted(maps.Keys(r.Weights))
	measured, err := a.strengths(ctx, w, names, false)
	if err != nil {
		return nil, err
	}
	edits, told := 0, 0
	for _, s := range measured {
		edits, told = edits+s.Edits, told+s.ToldApart
	}
	if edits == 0 {
		return nil, nil
	}
	share := float64(told) / float64(edits)
	return &share, nil
}

// gateOf is the workspace's gate; with a run to compare with and no conditions, nothing may regress and nothing be unscored.
func gateOf(w *workspace.Workspace, against string) (versus.Gate, error) {
	g := w.Gate
	if len(g.Conditions) == 0 {
		if against == "" {
			return g, trouble.New(trouble.Usage,
				"the gate has no conditions; add some under gate: in tovrel.yaml, such as accuracy: {at-least: 0.9}, or "+
					"compare with --against RUN")
		}
		g.Conditions = []versus.Condition{{Name: versus.GateRegressions}}
	}
	if against == "" && g.NeedsNamed() {
		return g, trouble.New(trouble.Usage, "the gate has conditions on a comparison (drop, regressions or unstable); name "+
			"the run to compare with, as in --against baseline or --against baselines/main.jsonl")
	}
	for _, c := range g.Conditions {
		if c.Name == versus.GateUnscored {
			return g, nil
		}
	}
	g.Conditions = append(append([]versus.Condition(nil), g.Conditions...), versus.Condition{Name: versus.GateUnscored})
	return g, nil
}

// baseline says how to get what a gate compares with.
func baseline(err error, name string) error {
	if name != "" && isFile(name) {
		if _, missing := os.Stat(name); missing != nil {
			return trouble.New(trouble.Usage, "the baseline %s is missing; write it with `tovrel history export RUN -o %s` "+
				"and keep it under version control", name, name)
		}
	}
	return err
}
