package enginetest

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/engine"
)

// least is how many hostile statements a corpus must have.
const least = 80

// timed runs a statement.
func timed(pool *engine.Pool, request engine.Request) (time.Duration, error) {
	start := time.Now()
	_, err := pool.Query(context.Background(), request)
	return time.Since(start), err
}

// hostile runs the corpus: each statement ends within its deadline and a second as it may, the worker stays within a
// tenth of its memory limit, and the next query is answered.
func hostile(t *testing.T, pool *engine.Pool, e Engine) {
	statements := corpus(t, e.Hostile)
	require.GreaterOrEqual(t, len(statements), least)
	watch := watchWorkers()
	slowest := time.Duration(0)
	for _, s := range statements {
		took, err := timed(pool, e.asked(s.sql))
		// on a busy machine: what is slow of itself is so again
		for again := 0; again < 2 && (took >= Limits.Time+time.Second || !s.as(err)); again++ {
			took, err = timed(pool, e.asked(s.sql))
		}
		slowest = max(slowest, took)
		assert.True(t, s.as(err), "%.100s: %s, not %v: %v", s.sql, outcomeOf(err), s.outcomes, err)
		assert.Less(t, took, Limits.Time+time.Second, "%.100s", s.sql)
		require.Equal(t, "3000", ask(t, pool, e, "SELECT count(*) FROM t"), "after %.100s", s.sql)
	}
	peak := watch()
	t.Logf("%s: %d statements, the slowest took %.1f s, a worker's memory rose to %d MB", e.Name, len(statements),
		slowest.Seconds(), peak>>20)
	require.LessOrEqual(t, peak, Limits.Memory*11/10, "resident memory of a worker")
}

// as is whether a statement ended as it may. What is to break a limit may break that of time first: how far a statement comes
// in three seconds is the machine's affair.
func (s statement) as(err error) bool {
	outcome := outcomeOf(err)
	return slices.Contains(s.outcomes, outcome) ||
		outcome == string(fault.TooSlow) && slices.Contains(s.outcomes, string(fault.TooBig))
}

// outcomeOf is a failure's code, or that there was none.
func outcomeOf(err error) string {
	var f *engine.Failure
	switch {
	case err == nil:
		return "answered"
	case errors.As(err, &f):
		return string(f.Code)
	}
	return "no failure of a query"
}

// watchWorkers follows the resident memory of this process's children until it is stopped, and then gives the most that one had.
func watchWorkers() func() int64 {
	var peak atomic.Int64
	stop, done := make(chan struct{}), make(chan struct{})
	go func() {
		defer close(done)
		for {
			select {
			case <-stop:
				return
			case <-time.After(3 * time.Millisecond):
				peak.Store(max(peak.Load(), largestChild()))
			}
		}
	}()
	return func() int64 {
		close(stop)
		<-done
		return peak.Load()
	}
}

// largestChild is the resident memory, in bytes, of the child with the most.
func largestChild() int64 {
	most := int64(0)
	threads, _ := filepath.Glob(fmt.Sprintf("/proc/%d/task/*/children", os.Getpid()))
	for _, path := range threads {
		body, _ := os.ReadFile(path) // a thread that ended has none
		for pid := range strings.FieldsSeq(string(body)) {
			statm, _ := os.ReadFile("/proc/" + pid + "/statm")
			if fields := bytes.Fields(statm); len(fields) > 1 {
				pages, _ := strconv.ParseInt(string(fields[1]), 10, 64)
				most = max(most, pages*int64(os.Getpagesize()))
			}
		}
	}
	return most
}
