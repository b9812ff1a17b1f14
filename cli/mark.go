package cli

import (
	"github.com/spf13/cobra"

	"tovrel/core/pattern"
	"tovrel/trouble"
	"tovrel/view"
)

// markName is what a mark may be called: it must not be taken for a number, a translator, a file or "latest".
var markName = pattern.Of(`^[A-Za-z][A-Za-z0-9_-]*$`)

func newMarkCmd(a *app) *cobra.Command {
	return &cobra.Command{
		Use: "mark RUN NAME", Short: "Name a run, such as baseline", Args: usage(cobra.ExactArgs(2)), ValidArgsFunction: a.completeRuns,
		RunE: func(_ *cobra.Command, args []string) error {
			if !markName.MatchString(args[1]) || args[1] == "latest" {
				return trouble.New(trouble.Usage,
					"%q cannot be a mark; use a word such as baseline or release-4 (letters, digits, - and _, a letter "+
						"first; not latest)", args[1])
			}
			_, store, err := a.openStore()
			if err != nil {
				return err
			}
			defer store.Close() //nolint:errcheck // the mark is committed
			r, err := store.Find(args[0])
			if err != nil {
				return err
			}
			before, err := store.Mark(r.ID, args[1])
			if err != nil {
				return err
			}
			return a.show(view.Marked(r, args[1], before))
		},
	}
}
