package cli

import (
	"bufio"
	"io"
	"slices"

	"github.com/spf13/cobra"

	"tovrel/answers"
	"tovrel/core/record"
	"tovrel/files"
	"tovrel/history"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

func newHistoryExportCmd(a *app) *cobra.Command {
	out, all := "", false
	cmd := &cobra.Command{
		Use: "export RUN -o FILE", Short: "Write a run, or the whole history, as JSON Lines",
		Long: "Writes a run with its attempts and tables, with the causes that were found later. With --all it writes every run with all " +
			"that was\njudged later and the marks: what moves a history from a file to a server, or back. `history import` reads both.",
		Args: usage(cobra.MaximumNArgs(1)), ValidArgsFunction: a.completeRuns,
		RunE: func(_ *cobra.Command, args []string) error {
			if all == (len(args) == 1) {
				return trouble.New(trouble.Usage, "name a run, or --all for the whole history")
			}
			_, store, err := a.openStore()
			if err != nil {
				return err
			}
			defer store.Close() //nolint:errcheck // only read
			write := func(w io.Writer) error {
				bar := a.progress("exporting")
				defer bar.finish()
				return store.ExportAll(w, bar.step)
			}
			if !all {
				r, err := store.Find(args[0])
				if err != nil {
					return err
				}
				write = func(w io.Writer) error { return store.Export(w, r) }
			}
			if out == "" {
				return write(a.Out)
			}
			return writeFile(out, write)
		},
	}
	cmd.Flags().StringVarP(&out, "file", "o", "", "the file to write (default: standard output)")
	cmd.Flags().BoolVar(&all, "all", false, "the whole history, with what was judged later and the marks")
	return cmd
}

func newHistoryImportCmd(a *app) *cobra.Command {
	translator := ""
	cmd := &cobra.Command{
		Use: "import FILE…", Short: "Read exported runs, or a whole history; the shards of a run become one",
		Args: usage(cobra.MinimumNArgs(1)),
		Long: "Without --translator the files are exported runs. With it they are answers that somebody copied from a tool that " +
			"cannot be connected:\na CSV file or a spreadsheet with the columns question (id or wording), query or table (a sheet, a " +
			"range " +
			"such as Sheet1!A3:D20, or a\nfile beside it) or text, latency_ms, cost, model; or a spreadsheet with a sheet for each " +
			"answer, " +
			"named after its question.",
		RunE: func(cmd *cobra.Command, args []string) error {
			if translator != "" {
				return a.importCopied(cmd.Context(), translator, args)
			}
			w, err := a.open()
			if err != nil {
				return err
			}
			if whole, err := isWhole(args); err != nil {
				return err
			} else if whole {
				return a.importWhole(w, args[0])
			}
			read, err := readExports(args)
			if err != nil {
				return err
			}
			store, err := makeHistory(a.signals.ctx, w)
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
	cmd.Flags().StringVar(&translator, "translator", "", "make a run of copied answers, of this tool with its version: rival@2031-06")
	return cmd
}

// isWhole tells whether the one file that is named is an exported history.
func isWhole(paths []string) (bool, error) {
	for _, path := range paths {
		f, err := files.Open(path)
		if err != nil {
			return false, trouble.New(trouble.Unreadable, "%s cannot be read: %w", path, err)
		}
		whole := history.IsWhole(bufio.NewReader(f))
		_ = f.Close() // opened for reading only
		if whole && len(paths) > 1 {
			return false, trouble.New(trouble.Usage, "%s is a whole history: import it alone", path)
		}
		if whole {
			return true, nil
		}
	}
	return false, nil
}

// importWhole reads an exported history.
func (a *app) importWhole(w *workspace.Workspace, path string) error {
	f, err := files.Open(path)
	if err != nil {
		return trouble.New(trouble.Unreadable, "%s cannot be read: %w", path, err)
	}
	defer f.Close() //nolint:errcheck // opened for reading only
	store, err := makeHistory(a.signals.ctx, w)
	if err != nil {
		return err
	}
	defer store.Close() //nolint:errcheck // every run is committed by itself
	isNew := map[int]bool{}
	known := 0
	if err := store.ImportAll(path, bufio.NewReader(f), func(r record.Run, fresh bool) {
		if fresh {
			isNew[r.ID] = true
		} else {
			known++
		}
	}); err != nil {
		return err
	}
	if known > 0 {
		a.say("%d runs were here already; what was judged later and marks of theirs that were not are added.", known)
	}
	all, err := store.List()
	if err != nil {
		return err
	}
	listed := slices.DeleteFunc(listedOf(all), func(l view.Listed) bool { return !isNew[l.Run.ID] })
	return a.show(view.History(listed, accuracyLimit(w)))
}

// readExports reads files; where all are shards, they are joined.
func readExports(paths []string) ([]history.Imported, error) {
	var read []history.Imported
	shards := 0
	for _, path := range paths {
		if answers.Readable(path) {
			return nil, trouble.New(trouble.Usage, "%s: answers that were copied from a tool are imported with --translator NAME@VERSION, "+
				"such as --translator rival@2031-06", path)
		}
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
