package cli

import (
	"context"
	"errors"
	"net"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"tovrel/demo"
	"tovrel/engine/duckdb"
	"tovrel/standin"
	"tovrel/standin/pocket"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

// demoFolder is where the demo goes when no folder is named.
const demoFolder = "tovrel-demo"

// demoAddress is where the demo's service is, as its tovrel.yaml says.
const demoAddress = "127.0.0.1:8099"

// demoQuestion is the one that the demo looks at side by side.
const demoQuestion = "milk-basics/loads-per-farm"

// demoWeak has an answer that would not notice a mistake, and demoLucky one that scribe@2 gives only on the sample.
const demoWeak, demoLucky = "toolshed/last-thirty-days", "toolshed/fees-of-members"

// demoBriefing is the proposal for the dairy's briefing.
const demoBriefing = "briefings/next.yaml"

// demoChart is a question that asks for a chart.
const demoChart = "desk/draw-districts"

func newDemoCmd(a *app) *cobra.Command {
	writeOnly := false
	cmd := &cobra.Command{
		Use: "demo [DIR]", Short: "Write the demo workspace and go through the whole job with it", Args: usage(cobra.MaximumNArgs(1)),
		Long: "Write a workspace with made-up data, golden sets and three versions of a translator into DIR (default: ./" +
			demoFolder + "), then\nimport, check, run the versions, show a scoreboard and one question, compare, gate, " +
			"run the built-in translator over its transports, and\nlist what waits for a person, and try a proposed briefing.",
		RunE: func(cmd *cobra.Command, args []string) error {
			dir := demoFolder
			if len(args) > 0 {
				dir = args[0]
			}
			return a.demo(cmd.Context(), dir, writeOnly)
		},
	}
	cmd.Flags().BoolVar(&writeOnly, "write-only", false, "only write the workspace, and run nothing")
	return cmd
}

func (a *app) demo(ctx context.Context, dir string, writeOnly bool) error {
	a.say("Writing the demo workspace to %s …", dir)
	if err := demo.Write(ctx, dir, duckdb.WriteParquet); err != nil {
		kind := trouble.Unreadable
		if errors.Is(err, demo.ErrNotEmpty) {
			kind = trouble.Usage
		}
		return trouble.New(kind, "the demo cannot be written to %s: %w", dir, err)
	}
	if writeOnly {
		return nil
	}
	a.workspace = dir
	w, err := a.open()
	if err != nil {
		return err
	}
	for _, step := range a.demoSteps(ctx, w, dir) {
		a.say("%s", step.says)
		if err := step.do(); err != nil {
			return err
		}
	}
	a.say("\nThe workspace is in %s. Go there and look at the third version with `tovrel show scribe@3`,\nread "+
		"golden/milk-basics.md, or ask the data something with `tovrel data query dairy \"SELECT …\"`.", filepath.Clean(dir))
	return nil
}

func (a *app) demoCompare(ctx context.Context, runs ...string) error {
	return a.fromRuns(func(source *runSource) (view.Screen, error) {
		c, err := a.compare(ctx, source, compareOptions{seed: defaultSeed}, runs)
		return c.screen, err
	})
}

// demoGates shows a version that does not pass the gate and one that does.
func (a *app) demoGates(ctx context.Context) error {
	for _, pair := range [][2]string{{"scribe@2", "scribe@1"}, {"scribe@3", "scribe@2"}} {
		if err := a.fromRuns(func(source *runSource) (view.Screen, error) {
			j, err := a.gate(ctx, source, gateOptions{against: pair[1], seed: defaultSeed}, pair[0])
			return j.screen, err
		}); err != nil {
			return err
		}
	}
	return nil
}

// overTheWire runs the built-in translator over MCP and over HTTP, the latter with faults; where the port is taken it says so.
func (a *app) overTheWire(ctx context.Context) error {
	if err := os.Setenv("PATH", filepath.Dir(a.program)+string(os.PathListSeparator)+os.Getenv("PATH")); err != nil {
		return err
	}
	translators := []string{"pocket-tool@3", "pocket-web@3"}
	serving, stop := context.WithCancel(ctx)
	defer stop()
	asker, err := pocket.New(pocket.Settings{Version: "3"})
	if err != nil {
		return err
	}
	listener, err := net.Listen("tcp", demoAddress)
	if err != nil {
		a.say("%s is taken, so the service is left out.", demoAddress)
		return a.run(ctx, runOptions{translators: translators[:1]})
	}
	settings := standin.Settings{Latency: 20 * time.Millisecond, Faults: map[string]float64{"busy": 0.03, "error": 0.05}, Seed: 2}
	go func() { _ = serve(serving, listener, standin.Handler(asker, settings)) }()
	return a.run(ctx, runOptions{translators: translators})
}

// demoStep is a part of the demo: what it says, and what it does.
type demoStep struct {
	says string
	do   func() error
}

// demoSteps are the whole job, from the sample data to a flaky service.
func (a *app) demoSteps(ctx context.Context, w *workspace.Workspace, dir string) []demoStep {
	return append(a.demoRuns(ctx, w, dir), a.demoFurther(ctx)...)
}

// demoRuns go as far as the comparison of three versions.
func (a *app) demoRuns(ctx context.Context, w *workspace.Workspace, dir string) []demoStep {
	return []demoStep{
		{"\n1. The sample data, frozen (`tovrel data list`)\n", func() error {
			for _, d := range w.Datasets {
				if _, err := a.freeze(ctx, w, d); err != nil {
					return err
				}
			}
			return a.listDatasets(ctx, w, w.Datasets)
		}},
		{"\n2. The golden sets, checked (`tovrel set check`)\n", func() error { return a.setCheck(ctx, setCheckOptions{}) }},
		{"\n3. The first version of the translator, run (`tovrel run -t scribe@1`)\n",
			func() error { return a.run(ctx, runOptions{translators: []string{"scribe@1"}}) }},
		{"\n4. The scoreboard (`tovrel show scribe@1`)\n", func() error { return a.showRun(false, "scribe@1") }},
		{"\n5. One question side by side (`tovrel show scribe@1 " + demoQuestion + "`)\n",
			func() error { return a.showRun(false, "scribe@1", demoQuestion) }},
		{"\n6. A golden answer is corrected (toolshed/late-share), and the second and third versions are run (`tovrel run -t " +
			"scribe@2 -t scribe@3`)\n", func() error {
			if err := demo.Revise(dir); err != nil {
				return trouble.New(trouble.Unreadable, "the golden set cannot be written: %w", err)
			}
			return a.run(ctx, runOptions{translators: []string{"scribe@2", "scribe@3"}})
		}},
		{"\n7. The second version against the first (`tovrel compare scribe@1 scribe@2`)\n",
			func() error { return a.demoCompare(ctx, "scribe@1", "scribe@2") }},
		{"\n8. A gate that is not passed, and one that is (`tovrel gate scribe@3 --against scribe@2`)\n",
			func() error { return a.demoGates(ctx) }},
		{"\n9. All three against each other (`tovrel compare scribe@1 scribe@2 scribe@3`)\n",
			func() error { return a.demoCompare(ctx, "scribe@1", "scribe@2", "scribe@3") }},
	}
}

// demoFurther show what a golden set, a twin, a briefing and a service are worth, and replies that are no tables.
func (a *app) demoFurther(ctx context.Context) []demoStep {
	return []demoStep{
		{"\n10. A weak question: mistakes that its answer would not notice, and a row that would tell (`tovrel set strength " +
			demoWeak + "`)\n", func() error {
			return a.setStrength(ctx, []string{demoWeak}, "")
		}},
		{"\n11. A lucky answer: right on the sample, wrong on a twin (`tovrel run -t scribe@2 --twins 3 " + demoLucky + "`)\n",
			func() error {
				if err := a.run(ctx, runOptions{translators: []string{"scribe@2"}, names: []string{demoLucky}, twins: 3}); err != nil {
					return err
				}
				return a.showRun(false, "latest", demoLucky)
			}},
		{"\n12. What a briefing is worth: the built-in translator, told everything and nothing (`tovrel run -t pocket@3 " +
			"--brief none`)\n", func() error {
			for _, level := range []levelFlag{"full", "none"} {
				a.say("--brief %s:", level)
				if err := a.run(ctx, runOptions{translators: []string{"pocket@3"}, brief: level}); err != nil {
					return err
				}
			}
			return nil
		}},
		{"\n13. The same translator as a tool of an MCP server, and as a flaky service (`tovrel stand-in --fault busy=0.05`)\n",
			func() error { return a.overTheWire(ctx) }},
		{"\n14. A chart: its data, and its form (`tovrel show scribe@2 " + demoChart + "`)\n",
			func() error { return a.showRun(false, "scribe@2", demoChart) }},
		{"\n15. What no rule could decide about the replies, a person decides once (`tovrel review`)\n",
			func() error { return a.review(ctx, reviewOptions{}, nil) }},
		{"\n16. A proposed briefing with two better lines and a harmful one, found out one by one (`tovrel try --briefing " +
			demoBriefing + " -t pocket@3 --each`)\n",
			func() error {
				return a.try(ctx, tryOptions{briefing: demoBriefing, translator: "pocket@3", each: true, seed: defaultSeed})
			}},
	}
}
