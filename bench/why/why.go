// Package why measures the search for causes over a table of 600,000 rows: how long one diagnosis takes, and what it costs a run of
// which one answer in ten is wrong.
package why

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"sort"
	"strings"
	"time"
)

const (
	rows      = 600_000
	questions = 300
	rounds    = 3
)

// mistake is a right query and a wrong one; %d stands for a month.
type mistake struct{ right, wrong string }

var mistakes = []mistake{
	{"SELECT count(*) AS n FROM orders WHERE month(day) = %d AND status = 'done'",
		"SELECT count(*) AS n FROM orders WHERE month(day) = %d"},
	{"SELECT s.town, sum(o.amount) AS amount FROM orders o JOIN shops s USING (shop_id) WHERE month(o.day) = %d GROUP BY 1",
		"SELECT s.town, avg(o.amount) AS amount FROM orders o JOIN shops s USING (shop_id) WHERE month(o.day) = %d GROUP BY 1"},
	{"SELECT s.town, count(o.order_id) AS n FROM shops s LEFT JOIN orders o ON o.shop_id = s.shop_id AND o.amount > 899 AND " +
		"month(o.day) = %d GROUP BY 1", "SELECT town, count(order_id) AS n FROM shops JOIN orders USING (shop_id) WHERE " +
		"amount > 899 AND month(day) = %d GROUP BY town"},
	{"SELECT status, sum(amount - coalesce(discount, 0)) AS net FROM orders WHERE month(day) >= %d GROUP BY 1",
		"SELECT status, sum(amount - discount) AS net FROM orders WHERE month(day) >= %d GROUP BY status"},
	{"SELECT shop_id, sum(amount) AS amount FROM orders WHERE month(day) <= %d GROUP BY 1 ORDER BY 2 DESC LIMIT 5",
		"SELECT shop_id, sum(amount) AS amount FROM orders WHERE month(day) < %d GROUP BY 1 ORDER BY 2 DESC LIMIT 5"},
	{"SELECT s.size, count(DISTINCT o.shop_id) AS shops FROM orders o JOIN shops s ON s.shop_id = o.shop_id WHERE " +
		"month(o.day) = %d GROUP BY 1", "SELECT size, count(shop_id) AS shops FROM orders JOIN shops USING (shop_id) WHERE " +
		"month(day) = %d GROUP BY 1"},
	{"WITH per AS (SELECT shop_id, sum(amount) AS a FROM orders WHERE month(day) = %d GROUP BY 1) SELECT town, avg(a) AS " +
		"mean FROM per JOIN shops USING (shop_id) GROUP BY 1",
		"WITH per AS (SELECT shop_id, sum(discount) AS a FROM orders WHERE month(day) = %d GROUP BY 1) SELECT town, avg(a) " +
			"AS mean FROM per JOIN shops USING (shop_id) GROUP BY 1"},
	{"SELECT date_trunc('month', day) AS m, sum(amount) / sum(discount) AS r FROM orders WHERE month(day) > %d GROUP BY 1",
		"SELECT date_trunc('month', day) AS m, avg(amount / discount) AS r FROM orders WHERE month(day) > %d GROUP BY 1"},
	{"SELECT town, sum(amount) AS amount FROM orders JOIN shops USING (shop_id) WHERE status IN ('done', 'paid') AND " +
		"month(day) = %d GROUP BY 1", "SELECT town, size, sum(amount) AS amount FROM orders JOIN shops USING (shop_id) WHERE " +
		"status = 'done' AND month(day) = %d GROUP BY 1, 2"},
	{"SELECT s.town, sum(o.amount) AS amount FROM orders o JOIN shops s USING (shop_id) WHERE month(o.day) = %d GROUP BY 1",
		"SELECT status AS town, max(discount) AS amount FROM orders WHERE day > '2031-0%d-15' GROUP BY 1"},
}

// Measure measures a program and prints what it saw.
func Measure(program string) error {
	dir, err := os.MkdirTemp("", "bench-why-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir) //nolint:errcheck // a temporary folder
	if err := write(dir); err != nil {
		return err
	}
	if _, err := tovrel(program, dir, "data", "freeze"); err != nil {
		return err
	}
	if err := each(program, dir); err != nil {
		return err
	}
	return whole(program, dir)
}

func tovrel(program, dir string, args ...string) ([]byte, error) {
	out, err := exec.Command(program, append(args, "--workspace", dir, "--quiet")...).Output()
	var exit *exec.ExitError
	if errors.As(err, &exit) && exit.ExitCode() > 1 { // 1: a fault was found
		return nil, fmt.Errorf("%v: %w %.500s", args, err, exit.Stderr)
	}
	return out, nil
}

// each explains wrong answers one by one.
func each(program, dir string) error {
	var took []float64
	codes := map[string]int{}
	for i := range 4 * len(mistakes) {
		m := mistakes[i%len(mistakes)]
		for name, sql := range map[string]string{"right.sql": m.right, "wrong.sql": m.wrong} {
			if err := os.WriteFile(filepath.Join(dir, name), fmt.Appendf(nil, sql, 2+i/len(mistakes)), 0o644); err != nil {
				return err
			}
		}
		out, err := tovrel(program, dir, "why", "--dataset", "big", "--reference", filepath.Join(dir, "right.sql"), "--answer",
			filepath.Join(dir, "wrong.sql"), "--output", "json")
		if err != nil {
			return err
		}
		var got struct {
			Faults []struct {
				Code, Certainty string
			}
			Milliseconds float64 `json:"duration_ms"`
		}
		if err := json.Unmarshal(out, &got); err != nil {
			return err
		}
		took = append(took, got.Milliseconds)
		if len(got.Faults) > 0 {
			codes[got.Faults[0].Certainty]++
		}
	}
	sort.Float64s(took)
	n := len(took)
	fmt.Printf("%d diagnoses over %d rows: median %.0f ms (limit 400), nine in ten within %.0f ms (limit 1000), slowest %.0f "+
		"ms (limit 2000 and a query); %v\n",
		n, rows, took[n/2], took[n*9/10], took[n-1], codes)
	return nil
}

// whole runs many questions, one in ten of them wrong, with diagnosis and without, by turns.
func whole(program, dir string) error {
	var ratios []float64
	for round := range rounds + 1 {
		var took [2]time.Duration
		for i, more := range [][]string{{}, {"--no-diagnosis"}} {
			start := time.Now()
			if _, err := tovrel(program, dir, append([]string{"run", "-t", "recorded@1"}, more...)...); err != nil {
				return err
			}
			took[i] = time.Since(start)
		}
		if round > 0 { // the first warms up
			ratios = append(ratios, took[0].Seconds()/took[1].Seconds())
			fmt.Printf("round %d: with diagnosis %.2f s, without %.2f s, ratio %.2f\n", round, took[0].Seconds(),
				took[1].Seconds(), ratios[len(ratios)-1])
		}
	}
	sort.Float64s(ratios)
	fmt.Printf("median ratio %.2f (limit 1.5) over %d questions, one in ten wrong\n", ratios[len(ratios)/2], questions)
	return nil
}

func write(dir string) error {
	if err := writeTables(dir); err != nil {
		return err
	}
	var set, replies strings.Builder
	set.WriteString("---\ngolden-set: many\ndataset: big\n---\n")
	for i := range questions {
		m := mistakes[i%len(mistakes)]
		month := 1 + i%12
		answer := strings.Replace(fmt.Sprintf(m.right, month), "SELECT ", "SELECT  ", 1)
		if i%10 == 0 {
			m = mistakes[i/10%(len(mistakes)-1)]
			answer = fmt.Sprintf(m.wrong, month)
		}
		fmt.Fprintf(&set, "\n## Question %d? {#q%d}\n\n```sql\n%s\n```\n", i, i, fmt.Sprintf(m.right, month))
		fmt.Fprintf(&replies, "{\"id\": \"many/q%d\", \"reply\": {\"query\": %q}}\n", i, answer)
	}
	if err := os.MkdirAll(filepath.Join(dir, "golden"), 0o755); err != nil {
		return err
	}
	config := "tovrel: 1\ndatasets: {big: {tables: {orders: orders.csv, shops: shops.csv}}}\ntranslators:\n  recorded@1: " +
		"{kind: recorded, file: r.jsonl}\n"
	for path, text := range map[string]string{"tovrel.yaml": config, "golden/many.md": set.String(), "r.jsonl": replies.String()} {
		if err := os.WriteFile(filepath.Join(dir, path), []byte(text), 0o644); err != nil {
			return err
		}
	}
	return nil
}

func writeTables(dir string) error {
	state := uint64(7)
	next := func(n uint64) uint64 {
		state = state*6364136223846793005 + 1442695040888963407
		return (state >> 33) % n
	}
	err := writeTable(dir, "shops", "shop_id,town,size", 400, func(out *bufio.Writer, i int) {
		fmt.Fprintf(out, "%d,town %d,%s\n", i, next(12), []string{"small", "large"}[next(2)])
	})
	if err != nil {
		return err
	}
	return writeTable(dir, "orders", "order_id,shop_id,day,amount,discount,status", rows, func(out *bufio.Writer, i int) {
		discount := ""
		if next(4) > 0 {
			discount = fmt.Sprint(1 + next(50))
		}
		fmt.Fprintf(out, "%d,%d,2031-%02d-%02d,%d.%02d,%s,%s\n", i, next(390), 1+next(12), 1+next(28), next(900), next(100),
			discount, []string{"done", "paid", "open"}[next(3)])
	})
}

func writeTable(dir, name, header string, rows int, row func(out *bufio.Writer, i int)) error {
	f, err := os.Create(filepath.Join(dir, name+".csv"))
	if err != nil {
		return err
	}
	out := bufio.NewWriter(f)
	fmt.Fprintln(out, header)
	for i := range rows {
		row(out, i)
	}
	if err := out.Flush(); err != nil {
		return err
	}
	return f.Close()
}
