// Package team measures a history in PostgreSQL and runs that several workers make: a list, a comparison and a gate with 10,000 runs in the
// history, what an attempt takes there, and 5,000 asks of a translator that takes 100 ms, at 200 a second, by three workers, beside one
// machine with a file. It needs TOVREL_TEST_POSTGRES.
package team

import (
	"context"
	"database/sql"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync/atomic"
	"syscall"
	"time"

	_ "github.com/jackc/pgx/v5/stdlib" // the driver

	"tovrel/bench/versus"
	"tovrel/history"
)

const (
	manyRuns    = 10_000
	fewAttempts = 40
	asks        = 5_000
	takes       = 100 * time.Millisecond
	rate        = 200
	workers     = 3
	schema      = "tovrel_bench_team"
)

// Measure measures a program and prints what it saw.
func Measure(program string) error {
	dsn := os.Getenv("TOVREL_TEST_POSTGRES")
	if dsn == "" {
		fmt.Println("team: left out, PostgreSQL does not run (see .ci/servers)")
		return nil
	}
	db, err := sql.Open("pgx", dsn)
	if err != nil {
		return err
	}
	defer db.Close() //nolint:errcheck // the measurement is over
	drop := func() error { _, err := db.Exec("DROP SCHEMA IF EXISTS " + schema + " CASCADE"); return err }
	if err := drop(); err != nil {
		return err
	}
	at := dsn + "&search_path=" + schema
	if err := os.Setenv("TOVREL_HISTORY", at); err != nil {
		return err
	}
	if err := manyOnServer(program, at, db); err != nil {
		return err
	}
	if err := drop(); err != nil {
		return err
	}
	if err := together(program); err != nil {
		return err
	}
	return drop()
}

// manyOnServer measures a long history.
func manyOnServer(program, at string, db *sql.DB) error {
	dir, err := workspace("", nil)
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir) //nolint:errcheck // a scratch folder
	store, err := history.Open(context.Background(), at)
	if err != nil {
		return err
	}
	began := time.Now()
	for version := 1; version <= manyRuns; version++ {
		if err := versus.Fill(store, version, fewAttempts, 1); err != nil {
			return err
		}
	}
	filled := time.Since(began)
	if err := store.Close(); err != nil {
		return err
	}
	var bytes int64
	if err := db.QueryRow("SELECT sum(pg_total_relation_size(c.oid)) FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace "+
		"WHERE n.nspname = $1 AND c.relkind = 'r'", schema).Scan(&bytes); err != nil {
		return err
	}
	const attempts = manyRuns * fewAttempts
	fmt.Printf("history of %d runs with %d attempts each in PostgreSQL: stored in %.0f s (%.0f attempts a second), %d MB, "+
		"%d bytes an attempt\n", manyRuns, fewAttempts, filled.Seconds(), attempts/filled.Seconds(), bytes>>20, bytes/attempts)
	for _, args := range [][]string{{"history"}, {"history", "--output", "json"},
		{"compare", fmt.Sprint(manyRuns - 1), fmt.Sprint(manyRuns)},
		{"gate", "latest", "--against", fmt.Sprint(manyRuns - 1)}, {"show", "latest"}} {
		took, _, err := versus.Median(program, dir, args...)
		if err != nil {
			return err
		}
		fmt.Printf("  %s: %d ms (limit 1000)\n", strings.Join(args, " "), took.Milliseconds())
	}
	return nil
}

// together measures a run that workers make, and the same by one machine.
func together(program string) error {
	var asked atomic.Int64
	service := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		asked.Add(1)
		time.Sleep(takes)
		_, _ = fmt.Fprint(w, `{"query": "SELECT 1 AS n"}`)
	}))
	defer service.Close()
	dir, err := workspace(service.URL, questions(asks))
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir) //nolint:errcheck // a scratch folder
	command := func(args ...string) *exec.Cmd {
		c := exec.Command(program, args...)
		c.Dir = dir
		return c
	}
	if out, err := command("data", "freeze", "--quiet").CombinedOutput(); err != nil {
		return fmt.Errorf("%w: %s", err, out)
	}
	var crew []*exec.Cmd
	for range workers {
		w := command("work", "--quiet")
		if err := w.Start(); err != nil {
			return err
		}
		crew = append(crew, w)
	}
	time.Sleep(2 * time.Second) // they are there when the run begins
	began := time.Now()
	out, err := command("run", "--team", "--quiet", "--output", "json").CombinedOutput()
	took := time.Since(began)
	for _, w := range crew {
		_ = w.Process.Signal(syscall.SIGINT)
		_ = w.Wait()
	}
	if err != nil || !strings.Contains(string(out), fmt.Sprintf(`"right": %d,`, asks)) {
		return fmt.Errorf("the run of the team: %w: %.500s", err, out)
	}
	ideal := time.Duration(asks) * time.Second / rate
	fmt.Printf("%d asks of %s at %d a second by %d workers on this one machine: %.1f s, %.2f times the ideal %.0f s; asked %d times\n",
		asks, takes, rate, workers, took.Seconds(), float64(took)/float64(ideal), ideal.Seconds(), asked.Load())
	if err := os.Setenv("TOVREL_HISTORY", filepath.Join(dir, "alone.db")); err != nil {
		return err
	}
	began = time.Now()
	if out, err := command("run", "--quiet", "--output", "json").CombinedOutput(); err != nil {
		return fmt.Errorf("the run alone: %w: %.500s", err, out)
	}
	alone := time.Since(began)
	fmt.Printf("  the same by one process with a file: %.1f s; by the team %.2f times that\n", alone.Seconds(),
		float64(took)/float64(alone))
	return nil
}

func questions(n int) []byte {
	var b strings.Builder
	b.WriteString("---\ngolden-set: many\ndataset: one\n---\n")
	for i := range n {
		fmt.Fprintf(&b, "\n## Question number %d? {#q%d}\n\n| n |\n|--:|\n| 1 |\n", i, i)
	}
	return []byte(b.String())
}

func workspace(url string, golden []byte) (string, error) {
	dir, err := os.MkdirTemp("", "bench-team-")
	if err != nil {
		return "", err
	}
	config := "tovrel: 1\nhistory: ${TOVREL_HISTORY}\ndatasets: {one: {tables: {t: t.csv}}}\n" +
		"gate: {accuracy: {at-least: 0.1}, regressions: {at-most: 100000}}\n"
	if url != "" {
		config += fmt.Sprintf("translators:\n  web@1: {kind: http, url: %q, parallel: 32, rate: %d}\n", url, rate)
	}
	if err := os.Mkdir(filepath.Join(dir, "golden"), 0o755); err != nil {
		return "", err
	}
	for name, body := range map[string][]byte{"tovrel.yaml": []byte(config), "t.csv": []byte("a\n1\n"), "golden/many.md": golden} {
		if body == nil {
			continue
		}
		if err := os.WriteFile(filepath.Join(dir, name), body, 0o600); err != nil {
			return "", err
		}
	}
	return dir, nil
}
