package main_test

import (
	"context"
	"encoding/json"
	"fmt"
	"hash/fnv"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"tovrel/cause"
	"tovrel/core/diagnose"
	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/dataset"
	"tovrel/engine"
	"tovrel/gallerytest"
	"tovrel/workspace"
)

// label is one case of testdata/causes.txt.
type label struct {
	dataset, reference, answer, want string
	rules                            match.Rules
}

func readCauses(t *testing.T) []label {
	t.Helper()
	body, err := os.ReadFile("testdata/causes.txt")
	require.NoError(t, err)
	var all []label
	var now label
	for line := range strings.SplitSeq(string(body), "\n") {
		switch {
		case line == "" || strings.HasPrefix(line, "#"):
		case strings.HasPrefix(line, "@ "):
			now.dataset = line[2:]
		case strings.HasPrefix(line, "= "):
			now.reference, now.rules = line[2:], match.Rules{}
		case strings.HasPrefix(line, "% "):
			var rules match.Rules
			require.NoError(t, rules.ParseRule(line[2:]))
			now.rules = rules
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

var theDemo = sync.OnceValue(func() string {
	dir, err := os.MkdirTemp("", "tovrel-demo-") // kept for all tests of the process
	if err != nil {
		return ""
	}
	return filepath.Join(dir, "demo")
})

// demoWorkspace is the demo workspace, made once for all tests that only read its data.
func demoWorkspace(t *testing.T) string {
	if os.Getenv("QUICK") != "" {
		return os.Getenv("QUICK")
	}
	t.Helper()
	makingDemo.Lock() // for tests beside each other
	defer makingDemo.Unlock()
	if _, err := os.Stat(theDemo()); err != nil {
		require.Zero(t, tovrel(t, filepath.Dir(theDemo()), "demo", theDemo(), "--quiet", "--write-only").code)
	}
	return theDemo()
}

var makingDemo, makingTried sync.Mutex

// TestMain removes the demo workspace in the end. As the program of renderForms it runs no test.
func TestMain(m *testing.M) {
	if dir := os.Getenv(renderTo); dir != "" {
		os.Exit(renderForms(dir))
	}
	code := m.Run()
	_ = os.RemoveAll(filepath.Dir(theDemo()))
	os.Exit(code)
}

// foundText is what was found of an answer, with how many edits and changes of the data were tried; of them all, and of the queries that
// show faults, it has a checksum.
func foundText(c label, got cause.WhyResult) string {
	var out strings.Builder
	fmt.Fprintf(&out, "%s, %s: %s\n", c.dataset, c.want, oneLine(c.answer))
	if why := got.Match.Why; why != "" {
		fmt.Fprintf(&out, "  %s\n", why)
	}
	for _, f := range got.Faults {
		fmt.Fprintf(&out, "  %s %s: %s\n", f.Certainty, f.Code, f.Evidence)
	}
	sum := fnv.New32a()
	_ = json.NewEncoder(sum).Encode([]any{got.Faults, got.Tried, got.Altered, got.Ended}) // a checksum takes everything
	fmt.Fprintf(&out, "  %d edits, %d changes of data: %08x %s\n", len(got.Tried), len(got.Altered), sum.Sum32(), got.Ended)
	return out.String()
}

// TestCauses: on the labelled answers the main fault is right and proved, and a right answer has no fault, but for the cases that are
// known to fail; what is said of each, and what was tried, is as approved. It prints the figures that docs/measurements.md keeps.
func TestCauses(t *testing.T) {
	t.Parallel()
	var mu sync.Mutex
	pools, tables := causePools(t)
	wrong, named, proved, falsely, rightly, rights := 0, 0, 0, 0, 0, 0
	var failing []string
	var took []time.Duration
	cases := readCauses(t)
	found := make([]string, len(cases))
	judge := func(i int, c label) {
		start := time.Now()
		got, err := cause.Explain(context.Background(), pools[c.dataset], tables[c.dataset],
			cause.Why{Answer: c.answer, Reference: c.reference, Rules: c.rules, Budget: diagnose.Budget{Runs: diagnose.DefaultRuns}})
		mu.Lock()
		defer mu.Unlock()
		if err != nil || got.Failure != nil {
			t.Errorf("%s: %v %v", c.answer, err, got.Failure)
			return
		}
		found[i] = foundText(c, got)
		if c.want == "right" {
			rights++
			if got.Match.Matched && len(got.Faults) == 0 {
				rightly++
			} else {
				t.Logf("called wrong: %s: %s", c.answer, got.Match.Why)
				failing = append(failing, "called wrong | "+c.dataset+" | "+oneLine(c.answer))
			}
			return
		}
		took = append(took, time.Since(start))
		assert.False(t, got.Match.Matched, "the answer coincides with the right one: %s", c.answer)
		wrong++
		main := fault.Fault{Code: fault.Unexplained}
		if len(got.Faults) > 0 {
			main = got.Faults[0]
		}
		isRight := strings.Contains("+"+c.want+"+", "+"+string(main.Code)+"+")
		switch {
		case isRight && main.Certainty == fault.Proved:
			named, proved = named+1, proved+1
		case isRight:
			named++
			failing = append(failing, "not proved | "+c.dataset+" | "+c.want+" | "+oneLine(c.answer))
		case main.Certainty == fault.Proved:
			falsely++
		}
		if !isRight {
			failing = append(failing, "not named | "+c.dataset+" | "+c.want+" | "+oneLine(c.answer))
			t.Logf("%s, %s for %s: %s\n    %s", main.Code, main.Certainty, c.want, c.answer, main.Evidence)
		}
	}
	twoAtATime(len(cases), func(i int) { judge(i, cases[i]) })
	t.Logf("%d wrong answers: main fault right %.0f %%, proved %.0f %%, falsely proved %.0f %%; %d of %d right answers "+
		"without a fault; median %s, slowest %s",
		wrong, share(named, wrong), share(proved, wrong), share(falsely, wrong), rightly, rights, middle(took), longest(took))
	onlyKnown(t, "causes-known.txt", failing)
	gallerytest.Holds(t, "causes.txt", strings.Join(found, ""), *update)
}

// twoAtATime does something so many times, two at a time.
func twoAtATime(n int, do func(i int)) {
	var g errgroup.Group
	g.SetLimit(2)
	for i := range n {
		g.Go(func() error { do(i); return nil })
	}
	_ = g.Wait() // nothing errs
}

func oneLine(text string) string { return strings.Join(strings.Fields(text), " ") }

// onlyKnown holds the cases of a corpus that fail against a list of those that are known to: no other may, and one that does not fail any
// more is taken off the list, which so can only shrink.
func onlyKnown(t *testing.T, list string, failing []string) {
	t.Helper()
	path := filepath.Join("testdata", list)
	body, err := os.ReadFile(path)
	require.NoError(t, err)
	var heading string
	known := map[string]bool{}
	for line := range strings.Lines(string(body)) {
		if strings.HasPrefix(line, "#") {
			heading += line
		} else {
			known[strings.TrimSuffix(line, "\n")] = true
		}
	}
	var still []string
	for _, f := range failing {
		if known[f] {
			still = append(still, f)
		} else {
			t.Errorf("this case was right before: %s", f)
		}
		delete(known, f)
	}
	if *update {
		slices.Sort(still)
		require.NoError(t, os.WriteFile(path, []byte(heading+strings.Join(still, "\n")+"\n"), 0o644))
		return
	}
	for f := range known {
		t.Errorf("this case is right now; take it off %s (-update does): %s", path, f)
	}
}

// TestCausesUnderLoad: on a busy machine, in another order, every search ends with the same causes, byte for byte.
func TestCausesUnderLoad(t *testing.T) {
	pools, tables := causePools(t)
	var all []label
	for i, c := range readCauses(t) {
		if i%3 == 0 { // a third of them, of every kind: TestCauses searches them all
			all = append(all, c)
		}
	}
	search := func(order func(i int) int) []string {
		out := make([]string, len(all))
		var g errgroup.Group
		g.SetLimit(2)
		for i := range all {
			at := order(i)
			c := all[at]
			g.Go(func() error {
				got, err := cause.Explain(context.Background(), pools[c.dataset], tables[c.dataset],
					cause.Why{Answer: c.answer, Reference: c.reference, Rules: c.rules,
						Budget: diagnose.Budget{Runs: diagnose.DefaultRuns}})
				if err != nil {
					return err
				}
				body, err := json.Marshal([]any{got.Faults, got.Tried, got.Ended})
				out[at] = string(body)
				return err
			})
		}
		require.NoError(t, g.Wait())
		return out
	}
	idle := search(func(i int) int { return i })
	for range 2 * runtime.NumCPU() {
		busy := exec.Command("sh", "-c", "while :; do :; done")
		require.NoError(t, busy.Start())
		t.Cleanup(func() {
			_ = busy.Process.Kill()
			_ = busy.Wait()
		})
	}
	for i, was := range search(func(i int) int { return len(all) - 1 - i }) {
		require.Equal(t, idle[i], was, all[i].answer)
	}
}

// causePools opens the workers of all datasets that the corpus is about.
func causePools(t *testing.T) (map[string]*engine.Pool, map[string][]engine.Table) {
	t.Helper()
	w, err := workspace.Open(demoWorkspace(t))
	require.NoError(t, err)
	pools, tables := map[string]*engine.Pool{}, map[string][]engine.Table{}
	for _, d := range w.Datasets {
		f, _, err := dataset.Of(w).Freeze(context.Background(), d, "test")
		require.NoError(t, err)
		pools[d.Name] = engine.NewPool(program(t), engine.Setup{Engine: "duckdb", File: f.Path, AsOf: f.AsOf, Limits: d.Limits}, 2)
		t.Cleanup(pools[d.Name].Close)
		tables[d.Name] = f.Tables
	}
	pools["shop"], tables["shop"] = shopPool(t)
	return pools, tables
}

// shopPool opens the workers of a third schema, which only this test knows: shops, their orders, and the lines of these.
func shopPool(t *testing.T) (*engine.Pool, []engine.Table) {
	t.Helper()
	dir := t.TempDir()
	var shops, orders, lines strings.Builder
	shops.WriteString("shop_id,name,town\n")
	for i, name := range []string{"Quay", "Mill", "Gate", "Lane", "Hill", "Pond"} {
		fmt.Fprintf(&shops, "%d,%s,%s\n", i+1, name, []string{"Ferry", "Stone", "Wold"}[i%3])
	}
	orders.WriteString("order_id,shop_id,ordered_on,channel\n")
	lines.WriteString("line_id,order_id,product,qty,price,discount\n")
	state := uint64(31)
	next := func(n int) int {
		state = state*6364136223846793005 + 1442695040888963407
		return int(state>>33) % n
	}
	line := 0
	for i := range 600 {
		channel := []string{"web", "desk", "desk"}[next(3)]
		shop := 1 + next(5) // the sixth has none
		if shop == 5 {
			channel = "desk"
		}
		fmt.Fprintf(&orders, "%d,%d,%d-%02d-%02d,%s\n", i+1, shop, 2030+next(2), 1+next(12), 1+next(28), channel)
		if i%40 == 0 {
			fmt.Fprintf(&orders, "%d,%d,2031-07-01,%s\n", 1000+i, 1+next(4), "web")
			fmt.Fprintf(&lines, "%d,%d,rye,%d,4.35,\n", 10000+i, 1000+i, 1+next(5))
		}
		for range 1 + next(3) {
			line++
			discount := ""
			if next(3) > 0 {
				discount = fmt.Sprintf("0.%02d", next(12))
			}
			fmt.Fprintf(&lines, "%d,%d,%s,%d,%d.%02d,%s\n", line, i+1,
				[]string{"rye", "bun", "oat", "spelt", "tart"}[min(next(6), 4)], 1+next(6), 1+next(9), next(100), discount)
		}
	}
	write(t, dir, "shops.csv", []byte(shops.String()))
	write(t, dir, "orders.csv", []byte(orders.String()))
	write(t, dir, "lines.csv", []byte(lines.String()))
	write(t, dir, "tovrel.yaml", []byte("tovrel: 1\ndatasets: {shop: {tables: {shops: shops.csv, orders: orders.csv, lines: "+
		"lines.csv}}}\n"))
	w, err := workspace.Open(dir)
	require.NoError(t, err)
	f, _, err := dataset.Of(w).Freeze(context.Background(), w.Datasets[0], "test")
	require.NoError(t, err)
	pool := engine.NewPool(program(t), engine.Setup{Engine: "duckdb", File: f.Path, Limits: engine.DefaultLimits()}, 2)
	t.Cleanup(pool.Close)
	return pool, f.Tables
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
