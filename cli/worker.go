package cli

import (
	"github.com/spf13/cobra"

	"tovrel/engine"
	"tovrel/engine/duckdb"
)

// newWorkerCmd is the hidden command under which the program starts itself to run queries.
func newWorkerCmd(a *app) *cobra.Command {
	return &cobra.Command{
		Use: engine.WorkerCommand, Hidden: true, Args: usage(cobra.NoArgs),
		RunE: func(*cobra.Command, []string) error {
			return engine.Serve(a.In, a.Out, func(s engine.Setup) (engine.Database, error) {
				if err := engine.LimitMemory(s.Limits.Memory); err != nil {
					return nil, err
				}
				return duckdb.Open(s)
			})
		},
	}
}
