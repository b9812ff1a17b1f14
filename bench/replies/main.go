// Command replies counts how replies in words are judged that are drawn from a seed: right and wrong ones, known by how they were made.
//
//	go run ./bench/replies [-seed N] [-count N] [-list]
package main

import (
	"flag"
	"fmt"
	"maps"
	"slices"
	"time"

	"tovrel/claimtest"
	"tovrel/core/claim"
)

// tally is how replies of a kind were judged.
type tally struct{ right, rightWrong, rightOpen, wrong, wrongRight, wrongOpen int }

func (t *tally) add(r claimtest.Reply, v claim.Verdict) {
	if r.Right {
		t.right++
		switch v {
		case claim.Wrong:
			t.rightWrong++
		case claim.Unsure:
			t.rightOpen++
		}
		return
	}
	t.wrong++
	switch v {
	case claim.Right:
		t.wrongRight++
	case claim.Unsure:
		t.wrongOpen++
	}
}

func (t tally) String() string {
	return fmt.Sprintf("%5d right: %d called wrong, %d needs-a-look; %5d wrong: %d called right, %d needs-a-look", t.right, t.rightWrong,
		t.rightOpen,
		t.wrong, t.wrongRight, t.wrongOpen)
}

func main() {
	seed := flag.Uint64("seed", uint64(time.Now().UnixNano()%1_000_000_007), "what is drawn")
	count := flag.Int("count", 2000, "how many replies")
	list := flag.Bool("list", false, "list every reply that was judged otherwise than it was made")
	flag.Parse()
	kinds := map[string]*tally{}
	var all tally
	for _, r := range claimtest.Draw(*seed, *count) {
		f := claim.Judge(r.Text, r.Expected)
		if kinds[r.Kind] == nil {
			kinds[r.Kind] = &tally{}
		}
		kinds[r.Kind].add(r, f.Verdict)
		all.add(r, f.Verdict)
		if *list && (f.Verdict == claim.Unsure || (f.Verdict == claim.Right) != r.Right) {
			fmt.Printf("%s, %s, right %t: %s\n  %q\n", r.Kind, r.Made, r.Right, f.Why, r.Text)
		}
	}
	fmt.Printf("seed %d\n%-18s %s\n", *seed, "all", all)
	for _, name := range slices.Sorted(maps.Keys(kinds)) {
		fmt.Printf("%-18s %s\n", name, kinds[name])
	}
}
