package cli

import (
	"context"
	"os"
	"os/signal"
	"runtime/debug"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"tovrel/engine"
	"tovrel/engine/clickhouse"
	"tovrel/engine/duckdb"
	"tovrel/engine/mysql"
	"tovrel/engine/postgres"
	"tovrel/engine/server"
	"tovrel/engine/sqlite"
	"tovrel/engine/trino"
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
			ctx, stop := signal.NotifyContext(context.Background(), syscall.SIGTERM)
			defer stop()
			context.AfterFunc(ctx, func() {
				time.Sleep(farewell)
				os.Exit(1)
			})
			return engine.Serve(ctx, a.In, a.Out, openDatabase)
		},
	}
}

// farewell is how long a worker that is to end takes to have a server stop its query.
const farewell = 500 * time.Millisecond

func openDatabase(s engine.Setup) (engine.Database, error) {
	if err := engine.LimitMemory(s.Limits.Memory); err != nil {
		return nil, err
	}
	parser := func() (server.Parser, error) { return duckdb.NewParser() }
	switch s.Engine {
	case sqlite.Name:
		return sqlite.Open(s, func() (sqlite.Parser, error) { return duckdb.NewParser() })
	case postgres.Name:
		return postgres.Open(s, parser)
	case clickhouse.Name:
		return clickhouse.Open(s, parser)
	case mysql.Name:
		return mysql.Open(s, parser)
	case trino.Name:
		return trino.Open(s, parser)
	}
	return duckdb.Open(s)
}
