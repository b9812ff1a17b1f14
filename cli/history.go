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
	"tovrel/files"
	"tovrel/history"
	"tovrel/render"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

type historyOptions struct {
	translator, since, state, chart string
	last                            int
}

func newHistoryCmd(a *app) *cobra.Command {
	var o historyOptions
	cmd := &cobra.Command{
		Use: "history", Short: "Runs over time; runs out to and in from files", Args: usage(cobra.NoArgs),
		Long: "Lists the runs with their state, accuracy, regressions against the complete run before (of any version of the " +
			"translator), and cost.\n--chart draws the accuracy over runs to a file (.svg or .png).",
		RunE: func(*cobra.Command, []string) error { return a.listRuns(o) },
	}
	f := cmd.Flags()
	f.StringVarP(&o.translator, "translator", "t", "", "only runs of this translator: a name, or name@version")
	f.StringVar(&o.since, "since", "", "only runs from this day on (2031-06-30)")
	f.StringVar(&o.state, "state", "", "only runs in this state: complete, partial, stopped or running")
	f.IntVar(&o.last, "last", 0, "only so many of the newest")
	f.StringVar(&o.chart, "chart", "", "also draw the accuracy over runs to this file (.svg or .png)")
	_ = cmd.RegisterFlagCompletionFunc("translator", a.completeTranslators)
	_ = cmd.RegisterFlagCompletionFunc("state", cobra.FixedCompletions([]string{"complete", "partial", "stopped", "running"},
		cobra.ShellCompDirectiveNoFileComp))
	cmd.AddCommand(newHistoryExportCmd(a), newHistoryImportCmd(a), newHistoryTidyCmd(a))
	return cmd
}

func (a *app) listRuns(o historyOptions) error {
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
	var listed []view.Listed
	for _, l := range listedOf(all) {
		if keep(l) {
			listed = append(listed, l)
		}
	}
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

// listedOf counts what regressed from run to run.
func listedOf(all []history.Listed) []view.Listed {
	past := make([]versus.Past, len(all))
	for i, l := range all {
		past[i] = versus.Past{Run: l.Run, Standings: l.Standings}
	}
	regressed := versus.Regressions(past)
	out := make([]view.Listed, len(all))
	for i, l := range all {
		out[i] = view.Listed{Run: l.Run, Summary: l.Summary, Marks: l.Marks, Regressions: regressed[i]}
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
		if since, err = time.Parse(time.DateOnly, o.since); err != nil {
			return nil, trouble.New(trouble.Usage, "--since %q is no day; write it as 2031-06-30", o.since)
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

func newHistoryTidyCmd(a *app) *cobra.Command {
	keep, dryRun := 10, false
	cmd := &cobra.Command{
		Use: "tidy", Short: "Remove old runs, but for the newest of each translator and those with a mark", Args: usage(cobra.NoArgs),
		Long: "Keeps the newest runs of each translator (--keep), every run with a mark, and runs that are under way. " +
			"--dry-run only lists what would\ngo. What is removed is gone: export it first where it may be needed (`tovrel " +
			"history export`).",
		RunE: func(*cobra.Command, []string) error {
			if keep < 1 {
				return trouble.New(trouble.Usage, "--keep must be at least 1")
			}
			_, store, err := a.openStore()
			if err != nil {
				return err
			}
			defer store.Close() //nolint:errcheck // what is removed is committed
			all, err := store.List()
			if err != nil {
				return err
			}
			var gone []view.Listed
			var ids []int
			for _, l := range spareRuns(listedOf(all), keep) {
				gone, ids = append(gone, l), append(ids, l.Run.ID)
			}
			if !dryRun && len(ids) > 0 {
				if err := store.Remove(ids); err != nil {
					return err
				}
			}
			return a.show(view.RunsTidied(gone, len(all)-len(ids), dryRun))
		},
	}
	cmd.Flags().IntVar(&keep, "keep", keep, "how many of the newest runs of each translator stay")
	cmd.Flags().BoolVar(&dryRun, "dry-run", false, "only list what would be removed")
	return cmd
}

// spareRuns are the runs that nothing keeps, the oldest first.
func spareRuns(all []view.Listed, keep int) []view.Listed {
	newest := map[string]int{}
	var spare []view.Listed
	for i := len(all) - 1; i >= 0; i-- {
		l := all[i]
		newest[l.Run.Translator]++
		if newest[l.Run.Translator] > keep && len(l.Marks) == 0 && l.Run.State != record.Running {
			spare = append(spare, l)
		}
	}
	slices.Reverse(spare)
	return spare
}

func newHistoryExportCmd(a *app) *cobra.Command {
	var out string
	cmd := &cobra.Command{
		Use: "export RUN -o FILE", Short: "Write a run with its attempts and tables as JSON Lines",
		Args: usage(cobra.ExactArgs(1)), ValidArgsFunction: a.completeRuns,
		RunE: func(_ *cobra.Command, args []string) error {
			_, store, err := a.openStore()
			if err != nil {
				return err
			}
			defer store.Close() //nolint:errcheck // only read
			r, err := store.Find(args[0])
			if err != nil {
				return err
			}
			if out == "" {
				return store.Export(a.Out, r)
			}
			return writeFile(out, func(f io.Writer) error { return store.Export(f, r) })
		},
	}
	cmd.Flags().StringVarP(&out, "file", "o", "", "the file to write (default: standard output)")
	return cmd
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

func newHistoryImportCmd(a *app) *cobra.Command {
	return &cobra.Command{
		Use: "import FILE…", Short: "Read exported runs; the shards of a run become one", Args: usage(cobra.MinimumNArgs(1)),
		RunE: func(_ *cobra.Command, args []string) error {
			w, err := a.open()
			if err != nil {
				return err
			}
			read, err := readExports(args)
			if err != nil {
				return err
			}
			store, err := history.Open(a.signals.ctx, w.Path(w.History))
			if err != nil {
				return err
			}
			defer store.Close() //nolint:errcheck // every attempt is committed by itself
			var summaries []record.Summary
			for _, in := range read {
				id, isNew, err := store.Import(in)
				if err != nil {
					return err
				}
				if !isNew {
					a.say("Run %d is this one already.", id)
				}
				in.Run.ID = id
				attempts, err := store.Attempts(id)
				if err != nil {
					return err
				}
				summaries = append(summaries, record.Summarise(in.Run, attempts))
			}
			return a.show(view.Runs(summaries))
		},
	}
}

// readExports reads files; where all are shards, they are joined.
func readExports(paths []string) ([]history.Imported, error) {
	var read []history.Imported
	shards := 0
	for _, path := range paths {
		f, err := files.Open(path)
		if err != nil {
			return nil, trouble.New(trouble.Unreadable, "%s cannot be read: %w", path, err)
		}
		in, err := history.ReadExport(path, f)
		_ = f.Close() // opened for reading only
		if err != nil {
			return nil, err
		}
		if in.Run.Options.Shard[1] > 0 {
			shards++
		}
		read = append(read, in)
	}
	if shards == 0 || len(read) == 1 {
		return read, nil
	}
	joined, err := history.Join(read)
	if err != nil {
		return nil, trouble.New(trouble.Usage, "the files cannot be joined: %w", err)
	}
	return []history.Imported{joined}, nil
}
