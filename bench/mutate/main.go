// Command mutate plants one-line defects in a copy of the code, one at a time, and counts how many make a test fail.
//
// All of them are compiled into one copy, each behind a switch, so that the code is built once. A first round without a defect tells
// which tests reach which places; then each defect is switched on and the tests that reach it run, until one fails: first those of its
// package, then those that most often told of a defect in the time they take. A test that fails without the defect too counts for nothing,
// and tests that take longer than a defect is given are left out: the count is a lower bound.
package main

import (
	"context"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"os/signal"
	"slices"
	"time"
)

func main() {
	seed := flag.Uint64("seed", uint64(time.Now().UnixNano()%1_000_000), "which places are chosen")
	count := flag.Int("count", 100, "how many places")
	in := flag.String("in", "", "only in this folder and below")
	within := flag.Duration("within", 3*time.Minute, "how long the tests of one place may take; what they do not see by then survives")
	own := flag.Bool("own", false, "with the tests of that folder alone: a first look, within minutes, at what they leave to others")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt)
	defer stop()
	if err := mutate(ctx, *seed, *count, *in, *within, *own); err != nil {
		fmt.Fprintln(os.Stderr, "mutate:", err)
		os.Exit(1)
	}
}

func mutate(ctx context.Context, seed uint64, count int, in string, within time.Duration, own bool) error {
	packages, err := load(ctx)
	if err != nil {
		return err
	}
	sites, err := findAll(packages, in)
	if err != nil {
		return err
	}
	chosen := choose(sites, count, rand.New(rand.NewPCG(seed, seed)))
	fmt.Printf("seed %d: %d of %d places\n", seed, len(chosen), len(sites))
	tests := ""
	if own {
		tests = in
	}
	w, err := newWorkshop(ctx, packages, chosen, tests)
	if err != nil {
		return err
	}
	defer w.close()
	w.within = within
	if err := w.reach(ctx); err != nil {
		return err
	}
	verdicts, err := w.tryAll(ctx)
	if err != nil {
		return err
	}
	report(chosen, verdicts)
	return nil
}

// choose picks places that do not overlap.
func choose(sites []site, count int, random *rand.Rand) []site {
	random.Shuffle(len(sites), func(i, j int) { sites[i], sites[j] = sites[j], sites[i] })
	var chosen []site
	for _, s := range sites {
		if len(chosen) == count {
			break
		}
		if !slices.ContainsFunc(chosen, s.overlaps) {
			chosen = append(chosen, s)
		}
	}
	return chosen
}

func report(chosen []site, verdicts []string) {
	byKind := map[string][2]int{}
	caught := 0
	for i, s := range chosen {
		n := byKind[s.kind]
		n[1]++
		if verdicts[i] == "" {
			fmt.Printf("survived  %s:%d  %s  %s\n", s.file, s.line, s.kind, s.text)
		} else {
			n[0]++
			caught++
		}
		byKind[s.kind] = n
	}
	for _, kind := range kinds {
		fmt.Printf("%-18s %d of %d\n", kind, byKind[kind][0], byKind[kind][1])
	}
	fmt.Printf("%d of %d defects make a test fail\n", caught, len(chosen))
}
