// Command count prints the lines of code and of tests by package, blank ones and comments among them.
//
// Tests are Go tests, suites that several packages pass (folders named …test), scripts and tables of cases. The golden screens, the
// galleries and the measurements are none of these, so they do not count.
package main

import (
	"bytes"
	"fmt"
	"maps"
	"os"
	"os/exec"
	"path"
	"slices"
	"strings"
)

type lines struct{ code, tests int }

func main() {
	out, err := exec.Command("git", "ls-files").Output()
	if err != nil {
		fmt.Fprintln(os.Stderr, "count: git ls-files:", err)
		os.Exit(1)
	}
	packages, all := map[string]lines{}, lines{}
	for name := range strings.Lines(string(out)) {
		name = strings.TrimSuffix(name, "\n")
		dir, test, counts := kind(name)
		text, err := os.ReadFile(name)
		if !counts || err != nil { // deleted, and not committed yet
			continue
		}
		n, p := bytes.Count(text, []byte("\n")), packages[dir]
		if test {
			p.tests, all.tests = p.tests+n, all.tests+n
		} else {
			p.code, all.code = p.code+n, all.code+n
		}
		packages[dir] = p
	}
	fmt.Printf("%-26s %7s %7s %6s\n", "package", "code", "tests", "share")
	for _, dir := range slices.Sorted(maps.Keys(packages)) {
		show(dir, packages[dir])
	}
	show("all", all)
}

func show(name string, l lines) {
	fmt.Printf("%-26s %7d %7d %4d %%\n", name, l.code, l.tests, 100*l.tests/max(l.code+l.tests, 1))
}

// kind tells the package that a file counts for, whether it is a test, and whether it counts.
func kind(name string) (dir string, test, counts bool) {
	dir = path.Dir(name)
	if before, _, found := strings.Cut(name, "testdata/"); found {
		cases := strings.HasSuffix(name, ".txtar") || strings.HasSuffix(name, ".txt") || strings.HasSuffix(name, ".sql") ||
			strings.HasSuffix(name, ".jsonl")
		output := strings.Contains(name, "testdata/screens/") || strings.Contains(name, "testdata/gallery/")
		return path.Clean(before), true, cases && !output
	}
	test = strings.HasSuffix(name, "_test.go") || strings.HasSuffix(dir, "test")
	return dir, test, strings.HasSuffix(name, ".go") && !strings.HasPrefix(dir, "bench")
}
