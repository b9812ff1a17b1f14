package cli

import (
	"github.com/spf13/cobra"

	"tovrel/core/golden"
	"tovrel/core/table"
	"tovrel/trouble"
	"tovrel/upkeep"
	"tovrel/view"
)

func newSetExportCmd(a *app) *cobra.Command {
	var out []string
	cmd := &cobra.Command{
		Use: "export [FILE…] -o FILE", Short: "Write golden sets as a spreadsheet for business people, read back by `set import`",
		Long: "The form goes by the file's ending: .xlsx has a sheet of all questions and a sheet for each expected table; " +
			".csv has the questions;\n.md and .json have both.",
		RunE: func(_ *cobra.Command, args []string) error {
			if len(out) == 0 {
				return trouble.New(trouble.Usage, "name the file to write with -o, such as -o golden.xlsx")
			}
			for _, path := range out {
				if err := checkForm(path); err != nil {
					return err
				}
			}
			w, err := a.open()
			if err != nil {
				return err
			}
			sets, err := a.sets(w, args)
			if err != nil {
				return err
			}
			read := expectedFiles(w)
			screen, err := view.SetSheets(sets, func(s *golden.Set, answer golden.Answer) (*table.Table, error) {
				return upkeep.WrittenTable(read, s, answer)
			})
			if err != nil {
				return trouble.As(trouble.Unreadable, err)
			}
			for _, path := range out {
				if err := a.writeReport(path, reported{screen: screen}); err != nil {
					return err
				}
			}
			return nil
		},
	}
	cmd.Flags().StringArrayVarP(&out, "file", "o", nil, "the file to write; repeatable")
	return cmd
}
