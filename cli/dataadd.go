package cli

import (
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"tovrel/workspace"
)

func newDataAddCmd(a *app) *cobra.Command {
	return &cobra.Command{
		Use: "add NAME FILE…", Short: "Add sample files to a dataset, a table each, and freeze it",
		ValidArgsFunction: a.completeDatasets, Args: usage(cobra.MinimumNArgs(2)),
		Long: "Add CSV or Parquet files to a dataset, new or known, a table each. The files are imported and frozen first; " +
			"only when all\nof them can be read is tovrel.yaml changed, with everything else in it left as it was.",
		RunE: func(cmd *cobra.Command, args []string) error {
			w, err := a.open()
			if err != nil {
				return err
			}
			a.say("Freezing %s …", args[0])
			known := 0
			if before, err := w.Dataset(args[0]); err == nil {
				known = len(before.Tables)
			}
			w, d, err := a.data(w).AddTables(cmd.Context(), args[0], args[1:], version)
			if err != nil {
				return err
			}
			for _, t := range d.Tables[known:] {
				a.tellWriting(t)
			}
			return a.listDatasets(cmd.Context(), w, []*workspace.Dataset{d})
		},
	}
}

// tellWriting says how a table's file was found to be written; also when the rest is quiet, where rows are left out.
func (a *app) tellWriting(t workspace.Table) {
	found := t.Options.Entries()
	if len(found) == 0 {
		return
	}
	left := ""
	if n := t.Options.SkipLast; n > 0 {
		left = fmt.Sprintf("; its last %s left out as a sum or a note",
			map[bool]string{true: "row is", false: fmt.Sprintf("%d rows are", n)}[n == 1])
	}
	line := fmt.Sprintf("%s is read with %s, which stands in tovrel.yaml now%s.", t.File, strings.Join(found, ", "), left)
	if left != "" {
		a.tell("%s", line)
		return
	}
	a.say("%s", line)
}
