package cli

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"tovrel/core/near"
	"tovrel/standin"
	"tovrel/standin/pocket"
	"tovrel/standin/trino"
	"tovrel/trouble"
)

type standInOptions struct {
	port    int
	stdio   bool
	version string
	quirks  []string
	seed    int
	latency time.Duration
	faults  []string
	trino   string
}

func newStandInCmd(a *app) *cobra.Command {
	var o standInOptions
	cmd := &cobra.Command{
		Use: "stand-in", Short: "Serve a simulated translator, with faults to order", Args: usage(cobra.NoArgs),
		Long: "Serve the pocket translator on loopback: the protocol over HTTP at " + standin.TranslatePath +
			", chat completions at " + standin.ChatPath + "\n(for the default prompt), and MCP at " + standin.MCPPath +
			" with the tool " + standin.ToolName + ", or MCP over standard input and output.\nQuirks: " +
			strings.Join(pocket.Quirks(), ", ") + ".\nFaults: " + strings.Join(standin.Faults(), ", ") + ".",
		RunE: func(cmd *cobra.Command, _ []string) error { return a.standIn(cmd.Context(), o) },
	}
	f := cmd.Flags()
	f.IntVar(&o.port, "port", 8099, "the port on 127.0.0.1; 0 for any free one")
	f.BoolVar(&o.stdio, "stdio", false, "serve MCP over standard input and output instead")
	f.StringVar(&o.version, "version", "", "which pocket translator: 1, 2 or 3")
	f.StringSliceVar(&o.quirks, "quirk", nil, "a mistake that it makes; repeatable")
	f.IntVar(&o.seed, "seed", 0, "of what is random")
	f.DurationVar(&o.latency, "latency", 0, "how long each reply takes")
	f.StringSliceVar(&o.faults, "fault", nil, "a fault with the share of asks that have it, such as busy=0.1; repeatable")
	f.StringVar(&o.trino, "trino", "", "serve a dataset as a Trino server would, instead of a translator")
	fixed(cmd, "quirk", "", pocket.Quirks())
	fixed(cmd, "fault", "=", standin.Faults())
	return cmd
}

func (a *app) standIn(ctx context.Context, o standInOptions) error {
	if o.trino != "" {
		return a.standInServer(ctx, o)
	}
	asker, err := pocket.New(pocket.Settings{Version: o.version, Quirks: o.quirks, Seed: o.seed})
	if err != nil {
		return trouble.As(trouble.Usage, err)
	}
	faults, err := parseFaults(o.faults)
	if err != nil {
		return err
	}
	settings := standin.Settings{Latency: o.latency, Faults: faults, Seed: o.seed}
	if o.stdio {
		return standin.ServeMCP(ctx, asker, settings)
	}
	listener, err := listen(o.port)
	if err != nil {
		return err
	}
	fmt.Fprintf(a.Out, "serving on http://%s (stop with Ctrl-C)\n", listener.Addr())
	return serve(ctx, listener, standin.Handler(asker, settings))
}

func listen(port int) (net.Listener, error) {
	listener, err := net.Listen("tcp", "127.0.0.1:"+strconv.Itoa(port))
	if err != nil {
		return nil, trouble.New(trouble.Unreachable, "the port cannot be used: %w; choose another with --port", err)
	}
	return listener, nil
}

// standInServer serves a dataset by Trino's protocol.
func (a *app) standInServer(ctx context.Context, o standInOptions) error {
	w, err := a.open()
	if err != nil {
		return err
	}
	on, err := a.opened(ctx, w, o.trino, workers())
	if err != nil {
		return err
	}
	defer on.Close()
	listener, err := listen(o.port)
	if err != nil {
		return err
	}
	fmt.Fprintf(a.Out, "dataset %s is at trino://anyone@%s/%s/%s (stop with Ctrl-C)\n",
		o.trino, listener.Addr(), trino.Catalog, trino.Schema)
	return serve(ctx, listener, trino.New(on.Pool, on.frozen.Tables))
}

// serve serves until the context ends.
func serve(ctx context.Context, listener net.Listener, handler http.Handler) error {
	server := &http.Server{Handler: handler, ReadHeaderTimeout: 10 * time.Second}
	go func() {
		<-ctx.Done()
		_ = server.Close() // the asks that are open have ended with the context
	}()
	if err := server.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}

// parseFaults reads NAME=SHARE.
func parseFaults(written []string) (map[string]float64, error) {
	faults := map[string]float64{}
	for _, w := range written {
		name, number, ok := strings.Cut(w, "=")
		share, err := strconv.ParseFloat(number, 64)
		switch {
		case near.Name(name, standin.Faults()) != name:
			return nil, trouble.New(trouble.Usage, "there is no fault %q; %s", name, near.Hint(name, standin.Faults()))
		case !ok || err != nil || share < 0 || share > 1:
			return nil, trouble.New(trouble.Usage, "--fault %s: write NAME=SHARE with a share from 0 to 1, such as busy=0.1", w)
		}
		faults[name] = share
	}
	return faults, nil
}
