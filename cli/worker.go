package cli

import (
	"runtime/debug"

	"github.com/spf13/cobra"

	"tovrel/engine"
	"tovrel/engine/duckdb"
	"tovrel/engine/sqlite"
)

// lazyCollection lets the heap of a run and of its workers grow to five times what is live before it is collected: both are
// small, and short of processor time rather than of memory.
const lazyCollection = 400

// newWorkerCmd is the hidden command under which the program starts itself to run queries.
func newWorkerCmd(a *app) *cobra.Command {
	return &cobra.Command{
		Use: engine.WorkerCommand, Hidden: true, Args: usage(cobra.NoArgs),
		RunE: func(*cobra.Command, []string) error {
			debug.SetGCPercent(lazyCollection)
			return engine.Serve(a.In, a.Out, func(s engine.Setup) (engine.Database, error) {
				if err := engine.LimitMemory(s.Limits.Memory); err != nil {
					return nil, err
				}
				if s.Engine == sqlite.Name {
					return sqlite.Open(s, func() (sqlite.Parser, error) { return duckdb.NewParser() })
				}
				return duckdb.Open(s)
			})
		},
	}
}
