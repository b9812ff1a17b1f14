package main

import (
	"bytes"
	"cmp"
	"context"
	_ "embed"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"golang.org/x/sync/errgroup"
)

//go:embed switch.txt
var switchSource []byte

// split is the test whose parts are run one by one: it has most of what drives the built program.
const split = "TestScripts"

// unit is what is run at once: a test of a package, or a part of one.
type unit struct {
	dir, run string
	took     time.Duration
	reaches  []int // the numbers of the places
	// tried is how many defects it was run with, and caught how many of them made it fail.
	tried, caught int
}

// benches are how many copies work beside each other.
const benches = 2

// workshop is a folder with the copies of the code, all with all defects built in.
type workshop struct {
	dir    string
	chosen []site
	units  []*unit
	within time.Duration // for the tests of one defect
	mu     sync.Mutex    // guards what units have tried and caught
}

// newWorkshop copies what git knows of the code, plants the defects and builds the program and all tests, or those below a folder alone.
func newWorkshop(ctx context.Context, packages []listed, chosen []site, tests string) (*workshop, error) {
	dir, err := os.MkdirTemp("", "mutate-")
	if err != nil {
		return nil, err
	}
	w := &workshop{dir: dir, chosen: chosen}
	if err := w.copySources(ctx); err != nil {
		return nil, err
	}
	if err := w.plant(); err != nil {
		return nil, err
	}
	if err := w.build(ctx, packages, tests); err != nil {
		return nil, err
	}
	for i := 1; i < benches; i++ {
		if out, err := exec.CommandContext(ctx, "cp", "-a", w.bench(0), w.bench(i)).CombinedOutput(); err != nil {
			return nil, fmt.Errorf("cp: %w: %s", err, out)
		}
	}
	return w, nil
}

func (w *workshop) close() { _ = os.RemoveAll(w.dir) }

func (w *workshop) bench(i int) string { return filepath.Join(w.dir, strconv.Itoa(i)) }

func (w *workshop) copySources(ctx context.Context) error {
	out, err := exec.CommandContext(ctx, "git", "ls-files", "-z").Output()
	if err != nil {
		return fmt.Errorf("git ls-files: %w", err)
	}
	for name := range strings.SplitSeq(strings.TrimRight(string(out), "\x00"), "\x00") {
		info, err := os.Stat(name)
		if errors.Is(err, os.ErrNotExist) {
			continue // deleted, and not committed yet
		} else if err != nil {
			return err
		}
		text, err := os.ReadFile(name)
		if err != nil {
			return err
		}
		if err := write(filepath.Join(w.bench(0), name), text, info.Mode().Perm()); err != nil {
			return err
		}
	}
	return nil
}

func write(path string, text []byte, mode os.FileMode) error {
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		return err
	}
	return os.WriteFile(path, text, mode)
}

// plant writes all defects into the copy, and the package that switches them.
func (w *workshop) plant() error {
	byFile := map[string][]insertion{}
	for i, s := range w.chosen {
		for _, n := range s.insertions {
			n.text = strings.ReplaceAll(n.text, "§", strconv.Itoa(i+1))
			byFile[s.file] = append(byFile[s.file], n)
		}
	}
	for name, insertions := range byFile {
		path := filepath.Join(w.bench(0), name)
		text, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		if err := os.WriteFile(path, planted(text, insertions), 0o600); err != nil {
			return err
		}
	}
	if err := write(filepath.Join(w.bench(0), "mutant", "mutant.go"), switchSource, 0o600); err != nil {
		return err
	}
	return write(filepath.Join(w.bench(0), ".mutant", "reached", "none"), nil, 0o600)
}

// planted is a file with the insertions, and the import behind its package clause; no line moves.
func planted(text []byte, insertions []insertion) []byte {
	slices.SortStableFunc(insertions, func(a, b insertion) int { return b.at - a.at })
	for _, n := range insertions {
		text = slices.Concat(text[:n.at], []byte(n.text), text[n.at:])
	}
	at := bytes.Index(text, []byte("\npackage ")) + 1
	end := at + bytes.IndexByte(text[at:], '\n')
	return slices.Concat(text[:end], []byte(`; import "tovrel/mutant"`), text[end:])
}

// build builds a test program for each package that has tests, below a folder; and the program, where that is any folder.
func (w *workshop) build(ctx context.Context, packages []listed, tests string) error {
	root, err := os.Getwd()
	if err != nil {
		return err
	}
	if tests == "" {
		program := exec.CommandContext(ctx, "make", "build")
		program.Dir = w.bench(0)
		if out, err := program.CombinedOutput(); err != nil {
			return fmt.Errorf("make build: %w: %s", err, out)
		}
	}
	for _, p := range packages {
		dir, err := filepath.Rel(root, p.Dir)
		if err != nil || p.Module == nil || !p.Module.Main || len(p.TestGoFiles)+len(p.XTestGoFiles) == 0 || !strings.HasPrefix(dir+"/",
			tests) {
			continue
		}
		fmt.Fprintf(os.Stderr, "building the tests of %s\n", p.ImportPath)
		build := exec.CommandContext(ctx, "go", "test", "-c", "-vet=off", "-tags", tags, "-o", filepath.Join(dir, testProgram), "./"+dir)
		build.Dir = w.bench(0)
		if out, err := build.CombinedOutput(); err != nil {
			return fmt.Errorf("%s: %w: %s", p.ImportPath, err, out)
		}
		if err := w.list(ctx, dir); err != nil {
			return err
		}
	}
	return nil
}

const testProgram = "mutate.test"

// longestUnit is how long a unit may take without a defect.
const longestUnit = 5 * time.Minute

// list takes down the units of a package.
func (w *workshop) list(ctx context.Context, dir string) error {
	list := exec.CommandContext(ctx, "./"+testProgram, "-test.list", "^(Test|Fuzz|Example)")
	list.Dir = filepath.Join(w.bench(0), dir)
	out, err := list.Output()
	if err != nil {
		return fmt.Errorf("tests of %s: %w", dir, err)
	}
	for _, name := range strings.Fields(string(out)) {
		if name != split {
			w.units = append(w.units, &unit{dir: dir, run: "^" + name + "$"})
			continue
		}
		scripts, err := filepath.Glob(filepath.Join(w.bench(0), dir, "testdata", "script", "*.txtar"))
		if err != nil {
			return err
		}
		for _, s := range scripts {
			part := strings.TrimSuffix(filepath.Base(s), ".txtar")
			w.units = append(w.units, &unit{dir: dir, run: "^" + name + "$/^" + part + "$"})
		}
	}
	return nil
}

// run runs a unit in a copy with one defect on; 0 for none, and -1 for none and telling what is reached.
func (w *workshop) run(ctx context.Context, bench int, u *unit, defect int) (passed bool, took time.Duration, err error) {
	if err := os.WriteFile(filepath.Join(w.bench(bench), ".mutant", "on"), fmt.Append(nil, defect), 0o600); err != nil {
		return false, 0, err
	}
	limit := longestUnit
	if defect >= 0 {
		limit = 4*u.took + 20*time.Second
	}
	limited, cancel := context.WithTimeout(ctx, limit)
	defer cancel()
	start := time.Now()
	cmd := exec.CommandContext(limited, "./"+testProgram, "-test.run", u.run, "-test.failfast")
	cmd.Dir = filepath.Join(w.bench(bench), u.dir)
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true} // what it starts ends with it
	cmd.Cancel = func() error { return syscall.Kill(-cmd.Process.Pid, syscall.SIGKILL) }
	cmd.WaitDelay = time.Second
	defer func() {
		if cmd.Process != nil {
			_ = syscall.Kill(-cmd.Process.Pid, syscall.SIGKILL) // none is left where all have ended
		}
	}()
	out, err := cmd.CombinedOutput()
	if ctx.Err() != nil {
		return false, 0, ctx.Err()
	}
	if err != nil && defect <= 0 {
		fmt.Fprintf(os.Stderr, "%s %s fails or takes too long without a defect:\n%.2000s\n", u.dir, u.run, out)
	}
	return err == nil, time.Since(start), nil
}

// reach runs all units without a defect and takes down what each reaches and how long it takes. What fails is left out.
func (w *workshop) reach(ctx context.Context) error {
	units := make(chan *unit, len(w.units))
	for _, u := range w.units {
		units <- u
	}
	close(units)
	group, ctx := errgroup.WithContext(ctx)
	for bench := range benches {
		group.Go(func() error {
			for u := range units {
				if err := w.reachOne(ctx, bench, u); err != nil {
					return err
				}
			}
			return nil
		})
	}
	return group.Wait()
}

func (w *workshop) reachOne(ctx context.Context, bench int, u *unit) error {
	marks := filepath.Join(w.bench(bench), ".mutant", "reached")
	if err := errors.Join(os.RemoveAll(marks), os.Mkdir(marks, 0o755)); err != nil {
		return err
	}
	passed, took, err := w.run(ctx, bench, u, -1)
	if err != nil {
		return err
	}
	u.took = took
	entries, err := os.ReadDir(marks)
	if err != nil || !passed {
		return err
	}
	for _, e := range entries {
		n, err := strconv.Atoi(e.Name())
		if err != nil {
			return err
		}
		u.reaches = append(u.reaches, n)
	}
	return nil
}

// tryAll switches the defects on, one after another, and gives for each the test that fails; "" for none.
func (w *workshop) tryAll(ctx context.Context) ([]string, error) {
	verdicts := make([]string, len(w.chosen))
	numbers := make(chan int, len(w.chosen))
	for i := range w.chosen {
		numbers <- i + 1
	}
	close(numbers)
	group, ctx := errgroup.WithContext(ctx)
	for bench := range benches {
		group.Go(func() error {
			for n := range numbers {
				verdict, err := w.try(ctx, bench, n)
				if err != nil {
					return err
				}
				verdicts[n-1] = verdict
				s := w.chosen[n-1]
				fmt.Fprintf(os.Stderr, "%d %s:%d %s: %s\n", n, s.file, s.line, s.kind, max(verdict, "-"))
			}
			return nil
		})
	}
	return verdicts, group.Wait()
}

// ordered are the units that reach a place: those of its own package first, then those that most often tell for the time they take.
func (w *workshop) ordered(n int) []*unit {
	w.mu.Lock()
	defer w.mu.Unlock()
	const often, seldom = 1, 4 // what is thought of a unit that was not tried
	cost := func(u *unit) float64 {
		return u.took.Seconds() * float64(u.tried+seldom) / float64(u.caught+often)
	}
	reaching := slices.DeleteFunc(slices.Clone(w.units), func(u *unit) bool { return !slices.Contains(u.reaches, n) })
	own := func(u *unit) int {
		if u.dir == filepath.Dir(w.chosen[n-1].file) {
			return 0
		}
		return 1
	}
	slices.SortStableFunc(reaching, func(a, b *unit) int { return cmp.Or(own(a)-own(b), cmp.Compare(cost(a), cost(b))) })
	return reaching
}

func (w *workshop) took(u *unit, caught bool) {
	w.mu.Lock()
	defer w.mu.Unlock()
	u.tried++
	if caught {
		u.caught++
	}
}

// try runs the tests that reach a place with its defect on, until one fails that passes without it.
func (w *workshop) try(ctx context.Context, bench, n int) (string, error) {
	left := w.within
	for _, u := range w.ordered(n) {
		if left -= u.took; left < 0 {
			continue // a quicker one may still fit
		}
		passed, _, err := w.run(ctx, bench, u, n)
		if err != nil {
			return "", err
		}
		w.took(u, !passed)
		if passed {
			continue
		}
		if passed, _, err := w.run(ctx, bench, u, 0); err != nil {
			return "", err
		} else if passed {
			return u.dir + " " + u.run, nil
		}
	}
	return "", nil
}
