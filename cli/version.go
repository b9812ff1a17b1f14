package cli

import (
	"github.com/spf13/cobra"

	"tovrel/view"
)

func newVersionCmd(a *app) *cobra.Command {
	return &cobra.Command{
		Use: "version", Short: "Print the version", Args: usage(cobra.NoArgs),
		RunE: func(*cobra.Command, []string) error { return a.show(view.Version(version, commit)) },
	}
}
