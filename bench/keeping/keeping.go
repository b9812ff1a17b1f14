// Package keeping measures what keeping golden sets costs: one twin of a dataset of 1,000,000 rows, beside a plain copy of its rows in the
// raw engine; and checking 1,000 questions, beside their reference queries through the raw driver.
package keeping

import (
	"bufio"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"time"

	_ "github.com/duckdb/duckdb-go/v2" // the raw engine, as the limit
)

const (
	shops  = 400
	orders = 1_000_000
)

// Measure measures a program and prints what it saw.
func Measure(program string) error {
	for _, part := range []func(program, dir string) error{checking, twins} {
		dir, err := os.MkdirTemp("", "bench-keeping-")
		if err != nil {
			return err
		}
		if err := errors.Join(part(program, dir), os.RemoveAll(dir)); err != nil {
			return err
		}
	}
	return nil
}

// twins measures one twin.
func twins(program, dir string) error {
	if err := write(dir, orders); err != nil {
		return err
	}
	if _, err := timed(program, dir, "data", "freeze"); err != nil {
		return err
	}
	first, err := timed(program, dir, "data", "twin", "shop", "--count", "1")
	if err != nil {
		return err
	}
	three, err := timed(program, dir, "data", "twin", "shop", "--count", "3")
	if err != nil {
		return err
	}
	raw, err := rawCopy(dir)
	if err != nil {
		return err
	}
	fmt.Printf("one twin of %d orders, with the search for what it must keep: %.1f s (limit 8 s); each further one %.1f s (limit 4 s); "+
		"a plain copy in the raw engine %.2f s, ratio %.0f\n",
		orders, first.Seconds(), (three - first).Seconds(), raw.Seconds(), first.Seconds()/raw.Seconds())
	return nil
}

func timed(program, dir string, args ...string) (time.Duration, error) {
	start := time.Now()
	out, err := exec.Command(program, append(args, "--workspace", dir, "--quiet")...).CombinedOutput()
	if err != nil {
		return 0, fmt.Errorf("%v: %w %.500s", args, err, out)
	}
	return time.Since(start), nil
}

// rawCopy copies the frozen tables into a new file.
func rawCopy(dir string) (took time.Duration, err error) {
	frozen, err := filepath.Glob(filepath.Join(dir, ".tovrel", "frozen", "*.duckdb"))
	if err != nil || len(frozen) != 1 {
		return 0, errors.Join(err, fmt.Errorf("%d frozen copies", len(frozen)))
	}
	db, err := sql.Open("duckdb", filepath.Join(dir, "copy.duckdb"))
	if err != nil {
		return 0, err
	}
	defer func() { err = errors.Join(err, db.Close()) }()
	db.SetMaxOpenConns(1)
	if _, err := db.ExecContext(context.Background(), "ATTACH '"+frozen[0]+"' AS o (READ_ONLY)"); err != nil {
		return 0, err
	}
	start := time.Now()
	_, err = db.ExecContext(context.Background(),
		"CREATE TABLE shops AS SELECT * FROM o.main.shops; CREATE TABLE orders AS SELECT * FROM o.main.orders; CHECKPOINT")
	return time.Since(start), err
}

const set = `---
golden-set: shop
dataset: shop
---

## What did the shops of each town take with done orders in May? {#take}

` + "```sql" + `
SELECT s.town, sum(o.amount) AS amount FROM orders o JOIN shops s USING (shop_id)
WHERE o.status = 'done' AND o.day >= DATE '2031-05-01' AND o.day < DATE '2031-06-01' GROUP BY 1 ORDER BY 1
` + "```" + `

## How many orders were above 900? {#large}

` + "```sql" + `
SELECT count(*) AS orders FROM orders WHERE amount > 900
` + "```" + `

## Which shops had no order on the web in 2031? {#no-web}

` + "```sql" + `
SELECT name FROM shops WHERE shop_id NOT IN (SELECT shop_id FROM orders WHERE channel = 'web' AND year(day) = 2031)
` + "```" + `
`

func write(dir string, orders int) error {
	random := rand.New(rand.NewPCG(1, 1))
	if err := file(dir, "shops.csv", func(w *bufio.Writer) {
		fmt.Fprintln(w, "shop_id,name,town,size,opened")
		for i := range shops {
			fmt.Fprintf(w, "%d,Shop %d,Town %d,%d,20%02d-%02d-01\n", i+1, i+1, i%12, 10+random.IntN(200), 10+i%20, 1+i%12)
		}
	}); err != nil {
		return err
	}
	if err := file(dir, "orders.csv", func(w *bufio.Writer) {
		fmt.Fprintln(w, "order_id,shop_id,day,status,channel,amount,discount")
		start := time.Date(2029, 1, 1, 0, 0, 0, 0, time.UTC)
		for i := range orders {
			discount := ""
			if random.IntN(4) == 0 {
				discount = fmt.Sprintf("%d.%02d", random.IntN(40), random.IntN(100))
			}
			fmt.Fprintf(w, "%d,%d,%s,%s,%s,%d.%02d,%s\n", i+1, 1+random.IntN(shops-5),
				start.AddDate(0, 0, i*1000/orders).Format("2006-01-02"), []string{"done", "done", "done", "void", "open"}[random.IntN(5)],
				[]string{"web", "desk"}[random.IntN(2)], random.IntN(1000), random.IntN(100), discount)
		}
	}); err != nil {
		return err
	}
	if err := file(dir, "golden/shop.md", func(w *bufio.Writer) { _, _ = w.WriteString(set) }); err != nil {
		return err
	}
	return file(dir, "tovrel.yaml", func(w *bufio.Writer) {
		_, _ = w.WriteString("tovrel: 1\ndatasets: {shop: {as-of: 2031-09-30, tables: {shops: shops.csv, orders: orders.csv}}}\n")
	})
}

func file(dir, name string, fill func(w *bufio.Writer)) (err error) {
	path := filepath.Join(dir, name)
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		return err
	}
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	w := bufio.NewWriter(f)
	fill(w)
	return w.Flush()
}
