// Package runs measures whole runs: 1,000 recorded questions over four tables of 100,000 rows beside the same queries through the
// plain Go driver with the same parallelism; 2,000 questions against a stand-in that takes 200 ms a reply, beside the ideal; and
// the memory of a run of 20,000 attempts.
package runs

import (
	"bufio"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"sort"
	"strings"
	"syscall"
	"time"

	_ "github.com/duckdb/duckdb-go/v2" // the driver

	"tovrel/bench/raw"
)

const (
	questions = 1000
	parallel  = 8
	rounds    = 5
	rows      = 100_000
	port      = "18099"
)

// workspace is where the measurements are made.
type workspace struct {
	dir, program string
	queries      []string
}

// Measure measures a program and prints what it saw.
func Measure(program string) error {
	dir, err := os.MkdirTemp("", "bench-run-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir) //nolint:errcheck // a temporary folder
	w := &workspace{dir: dir, program: program}
	if err := w.write(); err != nil {
		return err
	}
	if _, err := w.tovrel("data", "freeze"); err != nil {
		return err
	}
	for _, part := range []func() error{w.besideEngine, w.besideIdeal, w.memory} {
		if err := part(); err != nil {
			return err
		}
	}
	return nil
}

// tovrel runs the program quietly and gives how long it took.
func (w *workspace) tovrel(args ...string) (time.Duration, error) {
	start := time.Now()
	out, err := exec.Command(w.program, append(args, "--workspace", w.dir, "--quiet")...).CombinedOutput()
	if err != nil {
		err = fmt.Errorf("%v: %w %.500s", args, err, out)
	}
	return time.Since(start), err
}

func (w *workspace) besideEngine() error {
	frozen, err := filepath.Glob(filepath.Join(w.dir, ".tovrel", "frozen", "*.duckdb"))
	if err != nil || len(frozen) != 1 {
		return fmt.Errorf("one frozen dataset is expected: %w", err)
	}
	for name, flags := range map[string][]string{"without causes": {"--no-diagnosis"}, "with causes": nil} {
		if err := w.rounds(frozen[0], name, flags); err != nil {
			return err
		}
	}
	return nil
}

// rounds measures runs with some flags beside the raw engine. Half of the recorded answers are wrong, so that searching their causes is
// most of the work of a run that does.
func (w *workspace) rounds(frozen, name string, flags []string) error {
	var ratios []float64
	for round := range rounds + 1 {
		whole, err := w.tovrel(append([]string{"run", "-t", "recorded@1", "many"}, flags...)...)
		if err != nil {
			return err
		}
		start := time.Now()
		if err := raw.Run(frozen, w.queries, parallel); err != nil {
			return err
		}
		raw := time.Since(start)
		if round > 0 { // the first warms up
			ratios = append(ratios, whole.Seconds()/raw.Seconds())
			fmt.Printf("%s, round %d: run %.2f s, raw engine %.2f s, ratio %.2f\n", name, round, whole.Seconds(), raw.Seconds(),
				ratios[len(ratios)-1])
		}
	}
	sort.Float64s(ratios)
	fmt.Printf("%s: median ratio %.2f (limit without causes 1.2) over %d questions, %d queries, parallelism %d\n", name,
		ratios[len(ratios)/2], questions, len(w.queries), parallel)
	return nil
}

func (w *workspace) besideIdeal() error {
	const asks, latency, together = 2000, 200 * time.Millisecond, 50
	server := exec.Command(w.program, "stand-in", "--port", port, "--latency", latency.String())
	if err := server.Start(); err != nil {
		return err
	}
	defer func() {
		_ = server.Process.Kill()
		_ = server.Wait()
	}()
	time.Sleep(500 * time.Millisecond)
	took, err := w.tovrel("run", "-t", "slow@1", "easy", "--repeats", fmt.Sprint(asks/100))
	if err != nil {
		return err
	}
	ideal := latency * asks / together
	fmt.Printf("%d asks at %s, %d at once: %.2f s, ideal %.2f s, ratio %.2f (limit 1.15)\n", asks, latency, together,
		took.Seconds(), ideal.Seconds(), took.Seconds()/ideal.Seconds())
	return nil
}

func (w *workspace) memory() error {
	cmd := exec.Command(w.program, "run", "-t", "recorded@1", "easy", "--repeats", "200", "--workspace", w.dir, "--quiet")
	start := time.Now()
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("20,000 attempts: %w %.500s", err, out)
	}
	usage, ok := cmd.ProcessState.SysUsage().(*syscall.Rusage)
	if !ok {
		return fmt.Errorf("the memory is not known")
	}
	fmt.Printf("20,000 attempts: %.1f s, %d MB at most (limit 300)\n", time.Since(start).Seconds(), usage.Maxrss>>10)
	return nil
}

// write writes four tables, a set of many questions with recorded replies, and one of easy ones.
func (w *workspace) write() error {
	for _, name := range []string{"north", "east", "south", "west"} {
		if err := w.writeTable(name); err != nil {
			return err
		}
	}
	var many, easy, replies strings.Builder
	many.WriteString("---\ngolden-set: many\ndataset: big\n---\n")
	easy.WriteString("---\ngolden-set: easy\ndataset: big\n---\n")
	for i := range questions {
		reference, answer := pair(i)
		w.queries = append(w.queries, reference, answer)
		fmt.Fprintf(&many, "\n## Question %d? {#q%d}\n\n```sql\n%s\n```\n", i, i, reference)
		fmt.Fprintf(&replies, "{\"id\": \"many/q%d\", \"reply\": {\"query\": %q}}\n", i, answer)
	}
	for i := range 100 {
		fmt.Fprintf(&easy, "\n## How many north %d? {#e%d}\n\n```sql\nSELECT %d AS n\n```\n", i, i, i)
		fmt.Fprintf(&replies, "{\"id\": \"easy/e%d\", \"reply\": {\"query\": \"SELECT %d AS n\"}}\n", i, i)
	}
	config := "tovrel: 1\ndatasets: {big: {tables: {north: north.csv, east: east.csv, south: south.csv, west: west.csv}}}\n" +
		"translators:\n  recorded@1: {kind: recorded, file: r.jsonl}\n" +
		"  slow@1: {kind: http, url: \"http://127.0.0.1:" + port + "/translate\", parallel: 50}\n"
	if err := os.MkdirAll(filepath.Join(w.dir, "golden"), 0o755); err != nil {
		return err
	}
	for path, text := range map[string]string{"tovrel.yaml": config, "golden/many.md": many.String(),
		"golden/easy.md": easy.String(), "r.jsonl": replies.String()} {
		if err := os.WriteFile(filepath.Join(w.dir, path), []byte(text), 0o644); err != nil {
			return err
		}
	}
	return nil
}

func (w *workspace) writeTable(name string) error {
	f, err := os.Create(filepath.Join(w.dir, name+".csv"))
	if err != nil {
		return err
	}
	out := bufio.NewWriter(f)
	fmt.Fprintln(out, "id,site,day,amount,kind")
	state := uint64(len(name))
	next := func(n uint64) uint64 {
		state = state*6364136223846793005 + 1442695040888963407
		return (state >> 33) % n
	}
	for i := range rows {
		fmt.Fprintf(out, "%d,%d,2031-%02d-%02d,%d.%02d,k%d\n", i, next(400), 1+next(12), 1+next(28), next(900), next(100), next(9))
	}
	if err := out.Flush(); err != nil {
		return err
	}
	return f.Close()
}

// pair makes the i-th reference query and answer; every second answer is wrong.
func pair(i int) (reference, answer string) {
	a, b := []string{"north", "east", "south", "west"}[i%4], []string{"east", "south", "west", "north"}[i%4]
	month := i%12 + 1
	switch i % 3 {
	case 0:
		reference = fmt.Sprintf("SELECT kind, sum(amount) AS amount FROM %s WHERE day >= DATE '2031-%02d-01' AND site <> %d "+
			"GROUP BY 1 ORDER BY 2 DESC", a, month, i%400)
	case 1:
		reference = fmt.Sprintf("SELECT x.kind, count(*) AS n, avg(y.amount) AS mean FROM %s x JOIN %s y USING (id) WHERE "+
			"x.day >= DATE '2031-%02d-01' AND y.site >= %d GROUP BY 1", a, b, month, i%300)
	default:
		reference = fmt.Sprintf("SELECT site, max(amount) AS most FROM %s WHERE day >= DATE '2031-%02d-01' AND kind <> 'k%d' "+
			"GROUP BY site ORDER BY most DESC, site LIMIT 20", a, month, i%9)
	}
	return reference, strings.Replace(reference, ">=", []string{">=", ">"}[i%2], 1) + strings.Repeat(" ", i%5)
}
