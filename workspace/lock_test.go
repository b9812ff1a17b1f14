package workspace

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// TestLocks: of many that want a run at once, one has it at a time, also while its file is being removed.
func TestLocks(t *testing.T) {
	w := &Workspace{Root: t.TempDir()}
	held := make(chan struct{}, 1)
	done := make(chan int)
	for range 8 {
		go func() {
			times := 0
			for start := time.Now(); time.Since(start) < 400*time.Millisecond; {
				unlock, err := w.LockRun("r")
				if err != nil {
					continue
				}
				select {
				case held <- struct{}{}:
				default:
					t.Error("two hold the run")
				}
				times++
				<-held
				unlock()
			}
			done <- times
		}()
	}
	total := 0
	for range 8 {
		total += <-done
	}
	require.Greater(t, total, 8)
}
