package cli

import (
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"tovrel/core/near"
	"tovrel/core/record"
	"tovrel/core/versus"
	"tovrel/history"
	"tovrel/render"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

type historyOptions struct {
	translator, since, state, chart string
	drift                           string
	last                            int
}

func newHistoryCmd(a *app) *cobra.Command {
	var o historyOptions
	cmd := &cobra.Command{
		Use: "history", Short: "Runs over time; runs out to and in from files", Args: usage(cobra.NoArgs),
		Long: "Lists the runs with their state, accuracy, regressions against the complete run before (of any version of the " +
			"translator), and cost.\n--chart draws the accuracy over runs to a file (.svg or .png). --drift shows how far a " +
			"translator's answers, right or wrong, are those of\nthe run before, and where its model changed.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			if o.drift != "" {
				return a.showDrift(cmd.Context(), o.drift, o.last)
			}
			return a.listRuns(o)
		},
	}
	f := cmd.Flags()
	f.StringVarP(&o.translator, "translator", "t", "", "only runs of this translator: a name, or name@version")
	f.StringVar(&o.since, "since", "", "only runs from this day on (2031-06-30)")
	f.StringVar(&o.state, "state", "", "only runs in this state: complete, partial, stopped or running")
	f.IntVar(&o.last, "last", 0, "only so many of the newest")
	f.StringVar(&o.chart, "chart", "", "also draw the accuracy over runs to this file (.svg or .png)")
	f.StringVar(&o.drift, "drift", "", "how far the answers of this translator (a name, or name@version) stay the same")
	_ = cmd.RegisterFlagCompletionFunc("translator", a.completeTranslators)
	_ = cmd.RegisterFlagCompletionFunc("drift", a.completeTranslators)
	_ = cmd.RegisterFlagCompletionFunc("state", cobra.FixedCompletions([]string{"complete", "partial", "stopped", "running"},
		cobra.ShellCompDirectiveNoFileComp))
	cmd.AddCommand(newHistoryExportCmd(a), newHistoryImportCmd(a), newHistoryTidyCmd(a))
	return cmd
}

func (a *app) listRuns(o historyOptions) error {
	collectLate(2)
	keep, err := o.filter()
	if err != nil {
		return err
	}
	draw, err := o.chartForm()
	if err != nil {
		return err
	}
	w, store, err := a.openStore()
	if err != nil {
		return err
	}
	defer store.Close() //nolint:errcheck // only read
	all, err := store.List()
	if err != nil {
		return err
	}
	listed := slices.DeleteFunc(listedOf(all), func(l view.Listed) bool { return !keep(l) })
	if o.last > 0 && len(listed) > o.last {
		listed = listed[len(listed)-o.last:]
	}
	limit := accuracyLimit(w)
	if draw != nil {
		if err := writeFile(o.chart, func(f io.Writer) error { return draw(f, view.HistoryChart(listed, limit)) }); err != nil {
			return err
		}
		a.say("Wrote %s.", o.chart)
	}
	return a.show(view.History(listed, limit))
}

// listedOf are runs as a list shows them.
func listedOf(all []history.Listed) []view.Listed {
	out := make([]view.Listed, len(all))
	for i, l := range all {
		out[i] = view.Listed{Run: l.Run, Summary: l.Summary, Marks: l.Marks, Regressions: l.Regressions}
	}
	return out
}

// accuracyLimit is the accuracy that the workspace's gate asks for; nil for none.
func accuracyLimit(w *workspace.Workspace) *float64 {
	for _, c := range w.Gate.Conditions {
		if c.Name == versus.GateAccuracy {
			return &c.Limit
		}
	}
	return nil
}

// chartForm is what draws the wanted chart; nil for none.
func (o historyOptions) chartForm() (func(io.Writer, view.Chart) error, error) {
	switch ending := strings.ToLower(filepath.Ext(o.chart)); {
	case o.chart == "":
		return nil, nil
	case ending == ".svg":
		return render.ChartSVG, nil
	case ending == ".png":
		return render.ChartPNG, nil
	}
	return nil, trouble.New(trouble.Usage, "%s: a chart ends in .svg or .png", o.chart)
}

// filter tells which runs are listed.
func (o historyOptions) filter() (func(view.Listed) bool, error) {
	var since time.Time
	if o.since != "" {
		var err error
		if since, err = dayFlag("since", o.since); err != nil {
			return nil, err
		}
	}
	states := []string{string(record.Complete), string(record.Partial), string(record.Stopped), string(record.Running)}
	if o.state != "" && !slices.Contains(states, o.state) {
		return nil, trouble.New(trouble.Usage, "there is no state %q; %s", o.state, near.Hint(o.state, states))
	}
	return func(l view.Listed) bool {
		return (o.translator == "" || l.Run.Translator == o.translator || versus.BaseName(l.Run.Translator) == o.translator) &&
			(o.state == "" || string(l.Run.State) == o.state) && !l.Run.Started.Before(since)
	}, nil
}

// writeFile writes a file whole or not at all, with the folders that it lies in.
func writeFile(path string, write func(io.Writer) error) error {
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		return trouble.New(trouble.Unreadable, "%s cannot be written: %w", path, err)
	}
	scratch := path + ".part"
	f, err := os.Create(scratch)
	if err != nil {
		return trouble.New(trouble.Unreadable, "%s cannot be written: %w", path, err)
	}
	err = write(f)
	if closed := f.Close(); err == nil {
		err = closed
	}
	if err == nil {
		err = os.Rename(scratch, path)
	}
	if err != nil {
		_ = os.Remove(scratch)
		return trouble.New(trouble.Unreadable, "%s cannot be written: %w", path, err)
	}
	return nil
}
