package keeping

import (
	"bufio"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"path/filepath"
	"sync"
	"sync/atomic"
	"time"
)

const (
	questions = 1000
	checkRows = 100_000
	workers   = 2 // as many as there are cores
)

// shapes are the reference queries; the first %d stands for a month, the second for a shop.
var shapes = []string{
	"SELECT s.town, sum(o.amount) AS amount FROM orders o JOIN shops s USING (shop_id) WHERE month(o.day) = %d AND o.shop_id " +
		"<> %d GROUP BY 1 ORDER BY 1",
	"SELECT status, count(*) AS n FROM orders WHERE month(day) = %d AND shop_id <> %d GROUP BY 1",
	"SELECT s.name, sum(o.amount) AS amount FROM orders o JOIN shops s USING (shop_id) WHERE month(o.day) = %d AND o.shop_id " +
		"<> %d GROUP BY 1 ORDER BY 2 DESC LIMIT 5",
	"SELECT channel, avg(amount) AS mean FROM orders WHERE month(day) = %d AND shop_id <> %d GROUP BY 1",
	"SELECT count(DISTINCT shop_id) AS shops FROM orders WHERE month(day) = %d AND shop_id <> %d AND amount > 500",
}

// checking measures `set check` on many questions beside their reference queries through the raw driver, in as many connections.
func checking(program, dir string) error {
	if err := write(dir, checkRows); err != nil {
		return err
	}
	var references []string
	if err := file(dir, "golden/shop.md", func(w *bufio.Writer) {
		_, _ = w.WriteString("---\ngolden-set: shop\ndataset: shop\n---\n")
		for i := range questions {
			query := fmt.Sprintf(shapes[i%len(shapes)], 1+i%12, 1+i/len(shapes))
			references = append(references, query)
			fmt.Fprintf(w, "\n## Question number %d? {#q%d}\n\n```sql\n%s\n```\n", i, i, query)
		}
	}); err != nil {
		return err
	}
	if _, err := timed(program, dir, "set", "check"); err != nil { // the first one freezes
		return err
	}
	var ratios []float64
	var took, beside time.Duration
	for range 3 {
		raw, err := rawQueries(dir, references)
		if err != nil {
			return err
		}
		check, err := timed(program, dir, "set", "check")
		if err != nil {
			return err
		}
		took, beside = check, raw
		ratios = append(ratios, check.Seconds()/raw.Seconds())
	}
	fmt.Printf("checking %d questions on %d rows: %.2f s, their reference queries through the raw driver %.2f s; ratios %.2f "+
		"%.2f %.2f (limit 1.5)\n", questions, checkRows, took.Seconds(), beside.Seconds(), ratios[0], ratios[1], ratios[2])
	return nil
}

// rawQueries runs queries on the frozen copy, each connection with one thread as in a worker, and reads every row.
func rawQueries(dir string, queries []string) (took time.Duration, err error) {
	frozen, err := filepath.Glob(filepath.Join(dir, ".tovrel", "frozen", "*.duckdb"))
	if err != nil || len(frozen) != 1 {
		return 0, errors.Join(err, fmt.Errorf("%d frozen copies", len(frozen)))
	}
	start := time.Now()
	var next atomic.Int64
	errs := make([]error, workers)
	var wg sync.WaitGroup
	for i := range workers {
		wg.Go(func() { errs[i] = rawWorker(frozen[0], queries, &next) })
	}
	wg.Wait()
	return time.Since(start), errors.Join(errs...)
}

func rawWorker(path string, queries []string, next *atomic.Int64) (err error) {
	db, err := sql.Open("duckdb", path+"?access_mode=read_only&threads=1")
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, db.Close()) }()
	db.SetMaxOpenConns(1)
	for {
		i := int(next.Add(1)) - 1
		if i >= len(queries) {
			return nil
		}
		rows, err := db.QueryContext(context.Background(), queries[i])
		if err != nil {
			return err
		}
		columns, err := rows.Columns()
		if err != nil {
			return err
		}
		cells := make([]any, len(columns))
		for j := range cells {
			cells[j] = new(any)
		}
		for rows.Next() {
			if err := rows.Scan(cells...); err != nil {
				return err
			}
		}
		if err := errors.Join(rows.Err(), rows.Close()); err != nil {
			return err
		}
	}
}
