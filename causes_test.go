package main_test

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/engine"
	"tovrel/runner"
	"tovrel/workspace"
)

// cause is one case of testdata/causes.txt.
type cause struct{ dataset, reference, answer, want string }

func readCauses(t *testing.T) []cause {
	t.Helper()
	body, err := os.ReadFile("testdata/causes.txt")
	require.NoError(t, err)
	var all []cause
	var now cause
	for _, line := range strings.Split(string(body), "\n") {
		switch {
		case line == "" || strings.HasPrefix(line, "#"):
		case strings.HasPrefix(line, "@ "):
			now.dataset = line[2:]
		case strings.HasPrefix(line, "= "):
			now.reference = line[2:]
		default:
			want, answer, ok := strings.Cut(line, " | ")
			require.True(t, ok, line)
			c := now
			c.want, c.answer = want, answer
			all = append(all, c)
		}
	}
	return all
}

// TestCauses: on the labelled answers the main fault is right, most are proved, a proof is hardly ever wrong, and a right answer has
// no fault. It prints the figures that docs/measurements.md keeps.
func TestCauses(t *testing.T) {
	dir := t.TempDir()
	demo := filepath.Join(dir, "demo")
	require.Zero(t, tovrel(t, dir, "demo", demo, "--quiet").code)
	w, err := workspace.Open(demo)
	require.NoError(t, err)
	pools := map[string]*engine.Pool{}
	tables := map[string][]engine.Table{}
	for _, d := range w.Datasets {
		f, _, err := w.Freeze(context.Background(), d, "test")
		require.NoError(t, err)
		pools[d.Name] = engine.NewPool(program(t), engine.Setup{Engine: "duckdb", File: f.Path, AsOf: f.AsOf, Limits: d.Limits}, 1)
		t.Cleanup(pools[d.Name].Close)
		tables[d.Name] = f.Tables
	}
	wrong, named, proved, falsely, rightly, rights := 0, 0, 0, 0, 0, 0
	var took []time.Duration
	for _, c := range readCauses(t) {
		start := time.Now()
		got, err := runner.Explain(context.Background(), pools[c.dataset], tables[c.dataset], runner.Why{Answer: c.answer, Reference: c.reference, Limit: 2 * time.Second})
		require.NoError(t, err, c.answer)
		if c.want == "right" {
			rights++
			if got.Match.Matched && len(got.Faults) == 0 {
				rightly++
			} else {
				t.Logf("called wrong: %s: %s", c.answer, got.Match.Why)
			}
			continue
		}
		took = append(took, time.Since(start))
		require.Nil(t, got.Failure, "%s: %v", c.answer, got.Failure)
		require.False(t, got.Match.Matched, "the answer coincides with the right one: %s", c.answer)
		wrong++
		main := fault.Fault{Code: fault.Unexplained}
		if len(got.Faults) > 0 {
			main = got.Faults[0]
		}
		isRight := strings.Contains("+"+c.want+"+", "+"+string(main.Code)+"+")
		if isRight {
			named++
		}
		switch {
		case main.Certainty == fault.Proved && isRight:
			proved++
		case main.Certainty == fault.Proved:
			falsely++
		}
		if !isRight {
			t.Logf("%s, %s for %s: %s\n    %s", main.Code, main.Certainty, c.want, c.answer, main.Evidence)
		}
	}
	t.Logf("%d wrong answers: main fault right %.0f %%, proved %.0f %%, falsely proved %.0f %%; %d of %d right answers without a fault; median %s, slowest %s",
		wrong, share(named, wrong), share(proved, wrong), share(falsely, wrong), rightly, rights, middle(took), longest(took))
	require.Equal(t, rights, rightly, "right answers without a fault")
	require.GreaterOrEqual(t, share(named, wrong), 90.0)
	require.GreaterOrEqual(t, share(proved, wrong), 60.0)
	require.LessOrEqual(t, share(falsely, wrong), 2.0)
}

func share(n, of int) float64 { return 100 * float64(n) / float64(max(of, 1)) }

func middle(all []time.Duration) time.Duration {
	sorted := append([]time.Duration(nil), all...)
	for i := range sorted {
		for j := i; j > 0 && sorted[j] < sorted[j-1]; j-- {
			sorted[j], sorted[j-1] = sorted[j-1], sorted[j]
		}
	}
	return sorted[len(sorted)/2].Round(time.Millisecond)
}

func longest(all []time.Duration) time.Duration {
	most := time.Duration(0)
	for _, d := range all {
		most = max(most, d)
	}
	return most.Round(time.Millisecond)
}
