package cli

import (
	"io"
	"os"

	"github.com/spf13/cobra"

	"tovrel/core/run"
	"tovrel/history"
	"tovrel/trouble"
	"tovrel/view"
)

func newHistoryCmd(a *app) *cobra.Command {
	cmd := &cobra.Command{
		Use: "history", Short: "Runs over time; runs out to and in from files", Args: usage(cobra.NoArgs),
		RunE: func(*cobra.Command, []string) error { return a.listRuns() },
	}
	cmd.AddCommand(newHistoryExportCmd(a), newHistoryImportCmd(a))
	return cmd
}

func (a *app) listRuns() error {
	_, store, err := a.openStore()
	if err != nil {
		return err
	}
	defer store.Close() //nolint:errcheck // only read
	runs, err := store.List()
	if err != nil {
		return err
	}
	listed := make([]view.Listed, len(runs))
	for i, l := range runs {
		listed[i] = view.Listed(l)
	}
	return a.show(view.History(listed))
}

func newHistoryExportCmd(a *app) *cobra.Command {
	var out string
	cmd := &cobra.Command{
		Use: "export RUN -o FILE", Short: "Write a run with its attempts and tables as JSON Lines", Args: usage(cobra.ExactArgs(1)), ValidArgsFunction: a.completeRuns,
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

// writeFile writes a file whole or not at all.
func writeFile(path string, write func(io.Writer) error) error {
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
			store, err := history.Open(w.Path(w.History))
			if err != nil {
				return err
			}
			defer store.Close() //nolint:errcheck // every attempt is committed by itself
			var summaries []run.Summary
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
				summaries = append(summaries, run.Summarise(in.Run, attempts))
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
		f, err := os.Open(path)
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
