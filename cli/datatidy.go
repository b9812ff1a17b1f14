package cli

import (
	"context"

	"github.com/spf13/cobra"

	"tovrel/dataset"
	"tovrel/view"
	"tovrel/workspace"
)

func newDataTidyCmd(a *app) *cobra.Command {
	var dryRun bool
	cmd := &cobra.Command{
		Use: "tidy", Short: "Remove frozen copies and twins that neither the present files nor a run needs", Args: usage(cobra.NoArgs),
		RunE: func(*cobra.Command, []string) error {
			w, err := a.open()
			if err != nil {
				return err
			}
			needed, err := neededCopies(a.signals.ctx, w)
			if err != nil {
				return err
			}
			spare, bytes, err := a.data(w).Spare(needed)
			if err != nil {
				return err
			}
			var removed []view.Copy
			for _, f := range spare {
				removed = append(removed, view.Copy{Dataset: f.Dataset, Fingerprint: f.Fingerprint})
				if dryRun {
					continue
				}
				if err := a.data(w).Unload(a.signals.ctx, f); err != nil {
					a.say("%s; its schema %s stays there.", err, dataset.SchemaOf(f))
				}
				if err := f.Remove(); err != nil {
					return err
				}
			}
			twins, twinBytes, err := a.data(w).SpareTwins(needed)
			if err != nil {
				return err
			}
			for _, t := range twins {
				removed = append(removed, view.Copy{Dataset: t.Dataset, Twin: t.Number, Fingerprint: t.Fingerprint})
				if dryRun {
					continue
				}
				if err := t.Remove(); err != nil {
					return err
				}
			}
			return a.show(view.Tidied(removed, bytes+twinBytes, dryRun))
		},
	}
	cmd.Flags().BoolVar(&dryRun, "dry-run", false, "only say what would be removed")
	return cmd
}

// neededCopies are the fingerprints of the data that the runs of the history were made on, twins included.
func neededCopies(ctx context.Context, w *workspace.Workspace) (map[string]bool, error) {
	needed := map[string]bool{}
	if !w.HasHistory() {
		return needed, nil
	}
	store, err := makeHistory(ctx, w)
	if err != nil {
		return nil, err
	}
	defer store.Close() //nolint:errcheck // only read
	runs, err := store.Runs()
	for _, r := range runs {
		for _, fingerprint := range r.Datasets {
			needed[fingerprint] = true
		}
		for _, twins := range r.Twins {
			for _, fingerprint := range twins {
				needed[fingerprint] = true
			}
		}
	}
	return needed, err
}
