// Command shapes measures the search for causes on answers that nobody thought of: from a seed it draws businesses, their data and
// questions, writes each reference query in every equivalent shape, plants mistakes in the shapes, and has the program say why they are
// wrong. Nothing of it is shared with the catalogue of edits that the program searches.
//
//	go run -tags duckdb_arrow ./bench/shapes [-seed N] ./tovrel
package main

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"time"
)

var verbose = flag.Bool("verbose", false, "say what the generator drops")

// complain tells what was dropped.
func complain(format string, args ...any) {
	if *verbose {
		fmt.Fprintf(os.Stderr, format+"\n", args...)
	}
}

func main() {
	seed := flag.Uint64("seed", uint64(time.Now().UnixNano()%1_000_000_007), "what is drawn")
	worlds := flag.Int("worlds", 24, "how many schemas")
	questions := flag.Int("questions", 28, "how many questions on each")
	keep := flag.String("keep", "", "keep the workspaces in this folder; where it has some, they are judged again")
	tables := flag.Bool("tables", false, "give the answers as tables, without their queries")
	twins := flag.Int("twins", 0, "try right answers on so many twins, and look for no causes")
	list := flag.Bool("list", false, "list every answer that was misnamed")
	flag.Parse()
	if flag.NArg() != 1 {
		fmt.Fprintln(os.Stderr, "name the program: shapes [-seed N] ./tovrel")
		os.Exit(2)
	}
	if err := judge(flag.Arg(0), *seed, *worlds, *questions, *keep, *list, *tables, *twins); err != nil {
		fmt.Fprintln(os.Stderr, "shapes:", err)
		os.Exit(1)
	}
}

func judge(program string, seed uint64, worlds, questions int, dir string, list, tables bool, twins int) error {
	program, err := filepath.Abs(program)
	if err != nil {
		return err
	}
	if dir == "" {
		if dir, err = os.MkdirTemp("", "shapes-"); err != nil {
			return err
		}
		defer os.RemoveAll(dir) //nolint:errcheck // a temporary folder
	}
	lots, err := kept(dir)
	if err != nil {
		return err
	}
	if len(lots) == 0 {
		if lots, err = plantAll(seed, worlds, questions, dir); err != nil {
			return err
		}
	}
	t := newTally()
	for _, l := range lots {
		t.lot(l)
	}
	fmt.Printf("%d schemas, %d questions; %d right replies, %d wrong ones (%d with two mistakes), %d right by luck\n", len(lots),
		t.questions,
		t.rights, t.wrongs, t.twos, t.lucky)
	for _, l := range lots {
		if tables {
			if err := l.asTables(filepath.Join(dir, l.Name)); err != nil {
				return fmt.Errorf("%s: %w", l.Name, err)
			}
		}
		verdicts, err := askAll(program, filepath.Join(dir, l.Name), twins)
		if err != nil {
			return fmt.Errorf("%s: %w", l.Name, err)
		}
		t.hold(l, verdicts, list, twins > 0)
		fmt.Fprintf(os.Stderr, "%s: %s\n", l.Name, t.sofar())
	}
	if twins > 0 {
		fmt.Printf("on %d twins: %d of %d right answers called lucky or wrong; %d of %d that are right by luck caught\n", twins, t.accused,
			t.rights, t.caught, t.lucky)
		return nil
	}
	t.print()
	return nil
}

// plantAll makes the lots of a seed, and writes their workspaces.
func plantAll(seed uint64, worlds, questions int, dir string) ([]lot, error) {
	lots, dropped, err := newLots(seed, worlds, questions)
	if err != nil {
		return nil, err
	}
	fmt.Printf("seed %d; dropped: %d that do not run, %d right ones not equal to their reference, %d that hold no mistake\n",
		seed, dropped.fails,
		dropped.unequal, dropped.same)
	for _, l := range lots {
		if err := l.workspace(filepath.Join(dir, l.Name)); err != nil {
			return nil, err
		}
	}
	return lots, nil
}
