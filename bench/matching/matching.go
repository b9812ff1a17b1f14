// Package matching measures `tovrel match` on two CSV files of 1,000,000 rows by 8 columns (integers, doubles with noise, decimals,
// dates, strings; rows shuffled) beside a plain Go program that reads both with encoding/csv and counts row hashes, in turn,
// as ratios; and how the cost grows from ten thousand rows on.
package matching

import (
	"bufio"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"hash/maphash"
	"io"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"sort"
	"strings"
	"syscall"
	"time"
)

const rounds = 5

// BaselineCommand is what the program of measurements is called with for the limit, in a process of its own.
const BaselineCommand = "baseline"

// Baseline is the limit: both files read with encoding/csv, the hashes of their rows counted.
func Baseline(paths ...string) error {
	seed := maphash.MakeSeed()
	counts := map[uint64]int{}
	for sign, path := range map[int]string{1: paths[0], -1: paths[1]} {
		f, err := os.Open(path)
		if err != nil {
			return err
		}
		r := csv.NewReader(bufio.NewReaderSize(f, 1<<20))
		r.ReuseRecord = true
		for {
			record, err := r.Read()
			if errors.Is(err, io.EOF) {
				break
			}
			if err != nil {
				return err
			}
			counts[maphash.String(seed, strings.Join(record, "\x00"))] += sign
		}
		if err := f.Close(); err != nil {
			return err
		}
	}
	left := 0
	for _, n := range counts {
		if n != 0 {
			left++
		}
	}
	fmt.Println(left, "row hashes are left")
	return nil
}

// Measure measures a program and prints what it saw.
func Measure(program string) error {
	dir, err := os.MkdirTemp("", "bench-match-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir) //nolint:errcheck // a temporary folder
	self, err := os.Executable()
	if err != nil {
		return err
	}
	expected := filepath.Join(dir, "expected.csv")
	for _, rows := range []int{1_000_000} {
		rng := rand.New(rand.NewPCG(1, 2))
		table := makeRows(rng, rows)
		if err := writeCSV(expected, names, table, nil); err != nil {
			return err
		}
		for _, variant := range []struct {
			name    string
			limit   float64
			differs int
			change  func()
			columns []int
			names   []string
		}{
			{"same names, rows shuffled", 1.5, 0, func() { shuffle(rng, table); noise(rng, table) }, nil, names},
			{"columns renamed and permuted", 2, 0, func() {}, []int{3, 7, 0, 5, 1, 6, 2, 4},
				[]string{"p", "q", "r", "s", "t", "u", "v", "w"}},
			{"10 changed cells", 0, 10, func() { changeCells(table) }, nil, names},
		} {
			variant.change()
			answer := filepath.Join(dir, "answer.csv")
			if err := writeCSV(answer, variant.names, table, variant.columns); err != nil {
				return err
			}
			if err := compare(program, self, expected, answer, variant.name, variant.limit, variant.differs); err != nil {
				return err
			}
		}
	}
	return growth(program, dir)
}

var names = []string{"id", "district", "name", "loaded_on", "litres", "price", "amount", "tank"}

type row []string

func makeRows(rng *rand.Rand, n int) []row {
	rows := make([]row, n)
	for i := range rows {
		day := time.Date(2029, 1, 1, 0, 0, 0, 0, time.UTC).AddDate(0, 0, rng.IntN(900))
		rows[i] = row{fmt.Sprint(i + 1), []string{"North Vale", "South Vale", "Old Lock"}[rng.IntN(3)],
			fmt.Sprintf("farm %d", rng.IntN(5000)),
			day.Format("2006-01-02"), fmt.Sprintf("%.*f", 1+rng.IntN(6), rng.Float64()*10000), fmt.Sprintf("%.17g", rng.Float64()),
			fmt.Sprintf("%d.%02d", rng.IntN(100000), rng.IntN(100)), fmt.Sprint(rng.IntN(40))}
	}
	return rows
}

func shuffle(rng *rand.Rand, rows []row) {
	rng.Shuffle(len(rows), func(i, j int) { rows[i], rows[j] = rows[j], rows[i] })
}

// noise moves the doubles by up to a billionth.
func noise(rng *rand.Rand, rows []row) {
	for i, r := range rows {
		moved := append(row(nil), r...)
		for _, c := range []int{4, 5} {
			var f float64
			if _, err := fmt.Sscan(r[c], &f); err == nil {
				moved[c] = fmt.Sprintf("%.17g", f*(1+(rng.Float64()-0.5)*1e-10))
			}
		}
		rows[i] = moved
	}
}

func changeCells(rows []row) {
	for n := range 10 {
		changed := append(row(nil), rows[n*9973]...)
		changed[4+n%4] = fmt.Sprint(1000000 + n)
		if c := 4 + n%4; c == 6 {
			changed[c] += ".25"
		}
		rows[n*9973] = changed
	}
}

func writeCSV(path string, header []string, rows []row, order []int) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	b := bufio.NewWriterSize(f, 1<<20)
	w := csv.NewWriter(b)
	if err := w.Write(header); err != nil {
		return err
	}
	out := make([]string, len(header))
	for _, r := range rows {
		copy(out, r)
		for i, from := range order {
			out[i] = r[from]
		}
		if err := w.Write(out); err != nil {
			return err
		}
	}
	w.Flush()
	return errors.Join(w.Error(), b.Flush(), f.Close())
}

func compare(program, self, expected, answer, name string, limit float64, differs int) error {
	var ratios []float64
	var peak int64
	for round := range rounds + 1 {
		whole, memory, err := matched(program, expected, answer, differs)
		if err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
		start := time.Now()
		if err := exec.Command(self, BaselineCommand, expected, answer).Run(); err != nil {
			return err
		}
		plain := time.Since(start)
		if round > 0 { // the first is to warm up
			ratios = append(ratios, whole.Seconds()/plain.Seconds())
			peak = max(peak, memory)
			fmt.Printf("  %.2f s beside %.2f s\n", whole.Seconds(), plain.Seconds())
		}
	}
	sort.Float64s(ratios)
	fmt.Printf("%s: median ratio %.2f (limit %.1f), peak memory %d MB\n", name, ratios[len(ratios)/2], limit, peak>>10)
	return nil
}

// matched runs the program and checks what it reports.
func matched(program, expected, answer string, differs int) (time.Duration, int64, error) {
	cmd := exec.Command(program, "match", expected, answer, "--output", "json")
	start := time.Now()
	out, err := cmd.Output()
	took := time.Since(start)
	var exit *exec.ExitError
	if err != nil && !(errors.As(err, &exit) && exit.ExitCode() == 1) {
		return 0, 0, err
	}
	var result struct {
		Matched bool              `json:"matched"`
		Cells   []json.RawMessage `json:"cells"`
		Missing int               `json:"missing_rows"`
		Extra   int               `json:"extra_rows"`
	}
	if err := json.Unmarshal(out, &result); err != nil {
		return 0, 0, err
	}
	if result.Matched != (differs == 0) || len(result.Cells) != differs || result.Missing+result.Extra > 0 {
		return 0, 0, fmt.Errorf("%d differing cells are expected: matched %t, %d cells, %d missing, %d extra", differs,
			result.Matched, len(result.Cells), result.Missing, result.Extra)
	}
	usage, _ := cmd.ProcessState.SysUsage().(*syscall.Rusage)
	return took, usage.Maxrss, nil
}

// growth prints the cost of matching from ten thousand to a million rows, and of large groups under tolerance.
func growth(program, dir string) error {
	expected, answer := filepath.Join(dir, "e.csv"), filepath.Join(dir, "a.csv")
	for _, rows := range []int{10_000, 30_000, 100_000, 300_000, 1_000_000} {
		rng := rand.New(rand.NewPCG(3, uint64(rows)))
		table := makeRows(rng, rows)
		if err := writeCSV(expected, names, table, nil); err != nil {
			return err
		}
		shuffle(rng, table)
		noise(rng, table)
		if err := writeCSV(answer, names, table, nil); err != nil {
			return err
		}
		took, memory, err := matched(program, expected, answer, 0)
		if err != nil {
			return err
		}
		fmt.Printf("%d rows: %.3f s, %.2f microseconds a cell, %d MB\n", rows, took.Seconds(),
			took.Seconds()*1e6/float64(rows*8), memory>>10)
	}
	for _, group := range []struct {
		name         string
		rows, shared int
		columns      []string
	}{
		{"100,000 rows under one key, one tolerance column", 100_000, 100_000, []string{"key", "x"}},
		{"100,000 rows in groups of 5,000, two tolerance columns", 100_000, 5_000, []string{"key", "x", "y"}},
	} {
		rng := rand.New(rand.NewPCG(5, 6))
		var table []row
		for i := range group.rows {
			r := row{fmt.Sprint("k", i/group.shared)}
			for range group.columns[1:] {
				r = append(r, fmt.Sprintf("%.9g", rng.Float64()*1000))
			}
			table = append(table, r)
		}
		if err := writeCSV(expected, group.columns, table, nil); err != nil {
			return err
		}
		for i, r := range table {
			moved := append(row(nil), r...)
			for c := 1; c < len(r); c++ {
				moved[c] = r[c] + "000001"
			}
			table[i] = moved
		}
		shuffle(rng, table)
		if err := writeCSV(answer, group.columns, table, nil); err != nil {
			return err
		}
		took, memory, err := matched(program, expected, answer, 0)
		if err != nil {
			return err
		}
		fmt.Printf("%s: %.2f s, %d MB\n", group.name, took.Seconds(), memory>>10)
	}
	return nil
}
