package cli

import (
	"github.com/spf13/cobra"

	"tovrel/dataset/sample"
	"tovrel/files"
	"tovrel/trouble"
	"tovrel/upkeep"
	"tovrel/view"
	"tovrel/workspace"
)

func newSetImportCmd(a *app) *cobra.Command {
	var dryRun bool
	cmd := &cobra.Command{
		Use: "import FILE", Short: "Take changes and new questions over from a spreadsheet that `set export` wrote",
		Args: usage(cobra.ExactArgs(1)),
		Long: "Reads an .xlsx or .csv file in the form of `tovrel set export`: what differs from the golden sets is written " +
			"into them, and nothing\nelse; a file that was not changed changes nothing. A row whose question is a set's " +
			"name, or a name that the set does not have, is a\nnew question; without a reference query and a table it is a " +
			"draft. A question that the file lacks stays.",
		RunE: func(_ *cobra.Command, args []string) error {
			w, err := a.open()
			if err != nil {
				return err
			}
			return a.setImport(w, args[0], dryRun)
		},
	}
	cmd.Flags().BoolVar(&dryRun, "dry-run", false, "only show what would change")
	return cmd
}

func (a *app) setImport(w *workspace.Workspace, path string, dryRun bool) error {
	sheets, err := sample.WorkbookSheets(path)
	if err != nil {
		return trouble.New(trouble.Unreadable, "%s cannot be read: %w", path, err)
	}
	sets, err := a.sets(w, nil)
	if err != nil {
		return err
	}
	after, changed, err := upkeep.FromSheets(path, sheets, sets, expectedFiles(w))
	if err != nil {
		return err
	}
	if !dryRun {
		var changes []files.Change
		for i, s := range sets {
			if string(after[i].Text()) != string(s.Text()) {
				changes = append(changes, w.SetFile(s, after[i].Text()))
			}
		}
		if err := files.WriteAll(changes); err != nil {
			return err
		}
	}
	forms := make([]view.ImportChange, len(changed))
	for i, c := range changed {
		forms[i] = view.ImportChange(c)
	}
	return a.show(view.Imported(forms, dryRun))
}
