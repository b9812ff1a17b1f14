package cli

import (
	"github.com/spf13/cobra"

	"tovrel/workspace"
)

func newDataAddCmd(a *app) *cobra.Command {
	return &cobra.Command{
		Use: "add NAME FILE…", Short: "Add sample files to a dataset, a table each, and freeze it", Args: usage(cobra.MinimumNArgs(2)),
		Long: "Add CSV or Parquet files to a dataset, new or known, a table each. The files are imported and frozen first; only when all\nof them can be read is tovrel.yaml changed, with everything else in it left as it was.",
		RunE: func(cmd *cobra.Command, args []string) error {
			w, err := a.open()
			if err != nil {
				return err
			}
			a.say("Freezing %s …", args[0])
			w, d, err := w.AddTables(cmd.Context(), args[0], args[1:], version)
			if err != nil {
				return err
			}
			return a.listDatasets(cmd.Context(), w, []*workspace.Dataset{d})
		},
	}
}
