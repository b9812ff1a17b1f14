// Package imports measures freezing CSV files, one of 1,000,000 rows by 8 columns and some of very many columns, beside the raw
// engine's own import with known types into a database file, in turn, as ratios.
package imports

import (
	"bufio"
	"context"
	"database/sql"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"sort"
	"strings"
	"time"

	_ "github.com/duckdb/duckdb-go/v2" // the driver
)

const (
	rows     = 1_000_000
	wideRows = 9
	rounds   = 5
)

// shape is a file to import, with the types that the raw engine is told.
type shape struct {
	name, types string
	write       func(*bufio.Writer)
}

// Measure measures a program and prints what it saw.
func Measure(program string) error {
	shapes := []shape{{"1,000,000 rows by 8 columns", `'id': 'BIGINT', 'qty': 'BIGINT',
		'price': 'DECIMAL(18,2)', 'amount': 'DOUBLE', 'day': 'DATE', 'at': 'TIMESTAMP', 'name': 'VARCHAR', 'code': 'VARCHAR'`, writeTall}}
	for _, columns := range []int{2500, 5000, 10000} {
		shapes = append(shapes, wide(columns))
	}
	for _, s := range shapes {
		if err := measure(program, s); err != nil {
			return err
		}
	}
	return nil
}

func measure(program string, s shape) error {
	dir, err := os.MkdirTemp("", "bench-import-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir) //nolint:errcheck // a temporary folder
	if err := writeFile(filepath.Join(dir, "big.csv"), s.write); err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(dir, "tovrel.yaml"), []byte("tovrel: 1\ndatasets: {big: {tables: {big: big.csv}}}\n"),
		0o644); err != nil {
		return err
	}
	var ratios, wholes []float64
	for round := range rounds + 1 {
		start := time.Now()
		if out, err := exec.Command(program, "data", "freeze", "--workspace", dir, "--quiet").CombinedOutput(); err != nil {
			return fmt.Errorf("freeze: %w %s", err, out)
		}
		whole := time.Since(start)
		start = time.Now()
		if err := raw(dir, s.types); err != nil {
			return fmt.Errorf("raw: %w", err)
		}
		plain := time.Since(start)
		if err := os.RemoveAll(filepath.Join(dir, ".tovrel")); err != nil {
			return err
		}
		if round == 0 {
			continue // to warm up
		}
		ratios, wholes = append(ratios, whole.Seconds()/plain.Seconds()), append(wholes, whole.Seconds())
		fmt.Printf("round %d: freeze %.2f s, raw engine %.2f s, ratio %.2f\n", round, whole.Seconds(), plain.Seconds(),
			ratios[len(ratios)-1])
	}
	sort.Float64s(ratios)
	sort.Float64s(wholes)
	fmt.Printf("%s: median ratio %.2f (limit 2), median %.2f s\n", s.name, ratios[len(ratios)/2], wholes[len(wholes)/2])
	return nil
}

// raw imports with types that are known.
func raw(dir, types string) error {
	path := filepath.Join(dir, "raw.duckdb")
	defer os.Remove(path) //nolint:errcheck // made anew each time
	db, err := sql.Open("duckdb", path)
	if err != nil {
		return err
	}
	_, err = db.ExecContext(context.Background(), "CREATE TABLE big AS SELECT * FROM read_csv('"+filepath.Join(dir, "big.csv")+
		"', columns={"+types+"}, header=true, auto_detect=false)")
	if err != nil {
		return err
	}
	return db.Close()
}

func writeFile(path string, write func(*bufio.Writer)) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	w := bufio.NewWriter(f)
	write(w)
	if err := w.Flush(); err != nil {
		return err
	}
	return f.Close()
}

// numbers gives numbers below n, the same ones each time.
func numbers() func(n uint64) uint64 {
	state := uint64(7)
	return func(n uint64) uint64 {
		state = state*6364136223846793005 + 1442695040888963407
		return (state >> 33) % n
	}
}

func writeTall(w *bufio.Writer) {
	fmt.Fprintln(w, "id,qty,price,amount,day,at,name,code")
	next := numbers()
	for i := range rows {
		fmt.Fprintf(w, "%d,%d,%d.%02d,%v,2031-%02d-%02d,2031-01-%02d %02d:15:00,name %d,%s\n", i, next(500), next(100),
			next(100), float64(next(1<<30))/997, 1+next(12), 1+next(28),
			1+next(28), next(24), next(5000), []string{"acc", "rej", "pen"}[next(3)])
	}
}

// wide is a file of very many columns: whole numbers, prices and words in turn.
func wide(columns int) shape {
	types := make([]string, columns)
	for i := range types {
		types[i] = fmt.Sprintf("'c%d': '%s'", i, []string{"BIGINT", "DECIMAL(18,1)", "VARCHAR"}[i%3])
	}
	return shape{fmt.Sprintf("%d rows by %d columns", wideRows, columns), strings.Join(types, ", "), func(w *bufio.Writer) {
		next := numbers()
		for row := range wideRows + 1 {
			cells := make([]string, columns)
			for i := range cells {
				switch {
				case row == 0:
					cells[i] = fmt.Sprintf("c%d", i)
				case i%3 == 0:
					cells[i] = fmt.Sprint(next(1000))
				case i%3 == 1:
					cells[i] = fmt.Sprintf("%d.%d", next(100), next(10))
				default:
					cells[i] = fmt.Sprintf("w%d", next(100))
				}
			}
			fmt.Fprintln(w, strings.Join(cells, ","))
		}
	}}
}
