package cli

import "github.com/spf13/cobra"

func newDemoCmd(a *app) *cobra.Command {
	return &cobra.Command{Use: "demo [DIR]", RunE: func(*cobra.Command, []string) error { return nil }}
}
