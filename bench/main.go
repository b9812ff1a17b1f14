// Command bench measures Tovrel beside the raw engine, in turn, as ratios.
//
//	go run -tags duckdb_arrow ./bench PART… ./tovrel
//
// Without a part, all are measured.
package main

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"

	"tovrel/bench/held"
	"tovrel/bench/imports"
	"tovrel/bench/keeping"
	"tovrel/bench/matching"
	"tovrel/bench/pages"
	"tovrel/bench/runs"
	"tovrel/bench/slice"
	"tovrel/bench/team"
	"tovrel/bench/versus"
	"tovrel/bench/warehouse"
	"tovrel/bench/why"
)

// part is a measurement.
type part struct {
	name    string
	measure func(program string) error
}

var parts = []part{{"slice", slice.Measure}, {"run", runs.Measure}, {"import", imports.Measure}, {"why", why.Measure},
	{"match", matching.Measure},
	{"keeping", keeping.Measure}, {"versus", versus.Measure}, {"page", pages.Measure}, {"warehouse", warehouse.Measure},
	{"team", team.Measure}}

func main() {
	if err := measure(os.Args[1:]); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

// measure makes the named measurements of the program named last.
func measure(args []string) error {
	if len(args) == 3 && args[0] == matching.BaselineCommand {
		return matching.Baseline(args[1], args[2])
	}
	if len(args) > 1 && args[0] == held.Command {
		return held.Between(args[1:])
	}
	if len(args) == 0 {
		return fmt.Errorf("name the program to measure: bench [PART…] ./tovrel")
	}
	program, err := filepath.Abs(args[len(args)-1])
	if err != nil {
		return err
	}
	wanted := args[:len(args)-1]
	for _, name := range wanted {
		if !slices.ContainsFunc(parts, func(p part) bool { return p.name == name }) {
			return fmt.Errorf("there is no measurement %q", name)
		}
	}
	for _, p := range parts {
		if len(wanted) > 0 && !slices.Contains(wanted, p.name) {
			continue
		}
		if err := p.measure(program); err != nil {
			return fmt.Errorf("%s: %w", p.name, err)
		}
	}
	return nil
}
