// Package slice measures a whole run beside the raw engine: 1,000 recorded questions over the demo data, against the same
// 2,000 queries (answers and references) through the plain Go driver with the same parallelism, in turn, as ratios.
package slice

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"sort"
	"strings"
	"time"

	_ "github.com/duckdb/duckdb-go/v2" // the driver

	"tovrel/bench/raw"
)

const (
	questions = 1000
	parallel  = 8
	rounds    = 5
)

// Measure measures a program and prints what it saw.
func Measure(program string) error {
	dir, err := os.MkdirTemp("", "bench-slice-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir) //nolint:errcheck // a temporary folder
	if err := exec.Command(program, "demo", dir, "--quiet").Run(); err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	queries, err := writeSet(dir)
	if err != nil {
		return err
	}
	frozen, err := filepath.Glob(filepath.Join(dir, ".tovrel", "frozen", "dairy-*.duckdb"))
	if err != nil || len(frozen) != 1 {
		return fmt.Errorf("one frozen dataset is expected, there are %d: %w", len(frozen), err)
	}
	var ratios []float64
	for round := range rounds + 1 {
		whole, err := timed(func() error {
			return exec.Command(program, "run", "-t", "bench@1", "many", "--workspace", dir, "--quiet").Run()
		})
		if err != nil {
			return fmt.Errorf("run: %w", err)
		}
		raw, err := timed(func() error { return raw.Run(frozen[0], queries, parallel) })
		if err != nil {
			return fmt.Errorf("raw: %w", err)
		}
		if round == 0 {
			continue // to warm up
		}
		ratios = append(ratios, whole.Seconds()/raw.Seconds())
		fmt.Printf("round %d: run %.2f s, raw engine %.2f s, ratio %.2f\n", round, whole.Seconds(), raw.Seconds(), ratios[len(ratios)-1])
	}
	sort.Float64s(ratios)
	fmt.Printf("median ratio %.2f (limit 1.5) over %d questions, %d queries, parallelism %d\n", ratios[len(ratios)/2],
		questions, len(queries), parallel)
	return nil
}

func timed(do func() error) (time.Duration, error) {
	start := time.Now()
	err := do()
	return time.Since(start), err
}

// writeSet adds a golden set of many questions and a translator that answers half of them right.
func writeSet(dir string) ([]string, error) {
	var set, replies strings.Builder
	set.WriteString("---\ngolden-set: many\ndataset: dairy\n---\n")
	var queries []string
	for i := range questions {
		reference, answer := pair(i)
		queries = append(queries, reference, answer)
		fmt.Fprintf(&set, "\n## Question %d? {#q%d}\n\n```sql\n%s\n```\n", i, i, reference)
		line, err := json.Marshal(map[string]any{"id": fmt.Sprintf("many/q%d", i), "reply": map[string]string{"query": answer}})
		if err != nil {
			return nil, err
		}
		replies.Write(append(line, '\n'))
	}
	config := filepath.Join(dir, "tovrel.yaml")
	text, err := os.ReadFile(config)
	if err != nil {
		return nil, err
	}
	changed := strings.Replace(string(text), "translators:", "translators:\n  bench@1: {kind: recorded, file: replies/bench.jsonl}\n  #", 1)
	for path, body := range map[string]string{config: changed, filepath.Join(dir, "golden", "many.md"): set.String(),
		filepath.Join(dir, "replies", "bench.jsonl"): replies.String()} {
		if err := os.WriteFile(path, []byte(body), 0o644); err != nil {
			return nil, err
		}
	}
	return queries, nil
}

// pair makes the i-th reference query and answer, of the shapes that the demo's questions have.
func pair(i int) (reference, answer string) {
	month, year, farm := i%12+1, 2029+i%2, i%57+1
	boundary := []string{">=", ">"}[i%2]
	switch i % 4 {
	case 0:
		reference = fmt.Sprintf("SELECT f.district, sum(l.litres) AS litres FROM loads l JOIN farms f USING (farm_id) WHERE "+
			"l.status = 'acc' AND l.loaded_at >= TIMESTAMP '%d-%02d-01' AND l.farm_id <> %d GROUP BY 1 ORDER BY 2 DESC", year, month, farm)
	case 1:
		reference = fmt.Sprintf("SELECT f.name, count(*) AS n FROM loads l JOIN farms f USING (farm_id) WHERE l.loaded_at >= "+
			"TIMESTAMP '%d-%02d-01' AND l.litres >= %d GROUP BY f.name ORDER BY n DESC, f.name LIMIT 10", year, month, i)
	case 2:
		reference = fmt.Sprintf("SELECT month(t.tested_on) AS month, avg(t.fat_pct) AS fat FROM lab_tests t JOIN loads l "+
			"USING (load_id) WHERE t.tested_on >= DATE '%d-%02d-01' AND l.farm_id <> %d GROUP BY 1 ORDER BY 1", year, month, farm)
	default:
		reference = fmt.Sprintf("SELECT p.farm_id, p.month, p.net FROM payments p WHERE p.month >= DATE '%d-%02d-01' AND "+
			"p.farm_id <> %d", year, month, farm)
	}
	return reference, strings.Replace(reference, ">=", boundary, 1) + strings.Repeat(" ", i%3)
}
