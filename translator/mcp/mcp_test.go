package mcp_test

import (
	"context"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/translator"
	"tovrel/translator/mcp"
)

// silent is a server that starts, leaves a child and says nothing.
func silent(t *testing.T) (asker translator.Asker, pids func() []string) {
	t.Helper()
	dir := t.TempDir()
	asker = mcp.New(mcp.Settings{Run: []string{"sh", "-c",
		"sleep 60 & echo $! >>pids; echo $$ >>pids; trap '' INT TERM; cat >/dev/null; sleep 60"}, Dir: dir,
		Timeout: 400 * time.Millisecond})
	return asker, func() []string {
		body, _ := os.ReadFile(filepath.Join(dir, "pids"))
		return strings.Fields(string(body))
	}
}

// alive tells whether a process is there.
func alive(pid string) bool {
	state, err := os.ReadFile("/proc/" + pid + "/stat")
	return err == nil && !strings.Contains(string(state), ") Z")
}

// TestSilentServer: connecting ends with the time limit, for all asks at once, and the server with what it started is gone afterwards.
func TestSilentServer(t *testing.T) {
	asker, pids := silent(t)
	start := time.Now()
	var group sync.WaitGroup
	for range 8 {
		group.Go(func() {
			_, err := asker.Ask(context.Background(), translator.Request{ID: "s/q"})
			require.ErrorContains(t, err, "400ms")
		})
	}
	group.Wait()
	require.Less(t, time.Since(start), 3*time.Second)
	require.NoError(t, asker.Close())
	require.NotEmpty(t, pids())
	require.Eventually(t, func() bool {
		return !slices.ContainsFunc(pids(), alive)
	}, 3*time.Second, 20*time.Millisecond)
}

// TestInterruptedConnect: an ask that is given up does not wait for the server, and neither does closing.
func TestInterruptedConnect(t *testing.T) {
	asker, _ := silent(t)
	ctx, cancel := context.WithTimeout(context.Background(), 50*time.Millisecond)
	defer cancel()
	start := time.Now()
	_, err := asker.Ask(ctx, translator.Request{ID: "s/q"})
	require.ErrorIs(t, err, context.DeadlineExceeded)
	require.Less(t, time.Since(start), 300*time.Millisecond)
	require.NoError(t, asker.Close())
	require.Less(t, time.Since(start), 2*time.Second)
}
