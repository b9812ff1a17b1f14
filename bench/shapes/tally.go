package main

import (
	"fmt"
	"maps"
	"slices"
	"strings"
)

// tally counts verdicts and causes against the labels.
type tally struct {
	questions, rights, wrongs, twos, lucky int
	accused, missed                        int // right ones called wrong; wrong ones called right
	caught                                 int // of those that are right by luck
	one, two                               counts
	certainties                            map[string]*counts
	byMistake, byShape, byCode             map[string]*counts
	pairs                                  map[string]int
}

// counts are how many were named rightly, of how many.
type counts struct{ all, named, unexplained int }

func (c *counts) add(named, unexplained bool) {
	c.all++
	if named {
		c.named++
	}
	if unexplained {
		c.unexplained++
	}
}

func (c counts) String() string {
	return fmt.Sprintf("%d of %d (%.1f %%), misnamed %d (%.1f %%), unexplained %d", c.named, c.all, share(c.named, c.all),
		c.all-c.named-c.unexplained, share(c.all-c.named-c.unexplained, c.all), c.unexplained)
}

func share(n, of int) float64 { return 100 * float64(n) / float64(max(1, of)) }

func newTally() *tally {
	return &tally{certainties: map[string]*counts{}, byMistake: map[string]*counts{}, byShape: map[string]*counts{},
		byCode: map[string]*counts{},
		pairs:  map[string]int{}}
}

func (t *tally) lot(l lot) {
	t.questions += len(l.Questions)
	for _, q := range l.Questions {
		for _, r := range q.Replies {
			switch {
			case len(r.Codes) == 0:
				t.rights++
			case r.Lucky:
				t.lucky++
			default:
				t.wrongs++
				if r.Two {
					t.twos++
				}
			}
		}
	}
}

func counted(in map[string]*counts, key string) *counts {
	if in[key] == nil {
		in[key] = &counts{}
	}
	return in[key]
}

// hold holds the verdicts on a lot against its labels, the causes too but where answers were tried on twins.
func (t *tally) hold(l lot, verdicts map[string]verdict, list, onTwins bool) {
	for _, q := range l.Questions {
		for _, r := range q.Replies {
			v := verdicts[r.ID]
			switch {
			case len(r.Codes) == 0:
				if v.Verdict != "right" {
					t.accused++
					fmt.Printf("%s %s: a right answer (%s) is %s: %s\n    of %s\n", l.Name, r.ID, r.Shape, v.Verdict, r.SQL, q.SQL)
				}
			case r.Lucky:
				if v.Verdict == "lucky" {
					t.caught++
				} else if list {
					fmt.Printf("%s %s: %s (%s) is not caught: %s\n    of %s\n", l.Name, r.ID, r.Mistake, r.Shape, r.SQL, q.SQL)
				}
			case onTwins:
			case v.Verdict != "wrong":
				t.missed++
				fmt.Printf("%s %s: %s (%s) is %q: %s\n", l.Name, r.ID, r.Mistake, r.Shape, v.Verdict, r.SQL)
			default:
				t.cause(l, q, r, v, list)
			}
		}
	}
}

func (t *tally) cause(l lot, q question, r reply, v verdict, list bool) {
	code, certainty, evidence := "unexplained", "possible", ""
	if len(v.Faults) > 0 {
		code, certainty, evidence = v.Faults[0].Code, v.Faults[0].Certainty, v.Faults[0].Evidence
	}
	named, unexplained := slices.Contains(r.Codes, code), code == "unexplained"
	if r.Two {
		t.two.add(named, unexplained)
	} else {
		t.one.add(named, unexplained)
		counted(t.byMistake, r.Mistake).add(named, unexplained)
		counted(t.byShape, r.Shape).add(named, unexplained)
	}
	if !unexplained {
		counted(t.certainties, certainty).add(named, false)
		counted(t.byCode, certainty+" "+code).add(named, false)
	}
	if !named {
		t.pairs[r.Codes[0]+" as "+code]++
		if list {
			fmt.Printf("%s %s: %s (%s) named %s (%s): %.300s\n    reference %s\n    answer    %s\n", l.Name, r.ID, r.Mistake,
				r.Shape, code,
				certainty, evidence, q.SQL, r.SQL)
		}
	}
}

func (t *tally) sofar() string {
	return fmt.Sprintf("one mistake %d of %d, two %d of %d, accused %d", t.one.named, t.one.all, t.two.named, t.two.all, t.accused)
}

func (t *tally) print() {
	fmt.Printf("one mistake:  %s\ntwo mistakes: %s\n", t.one, t.two)
	for _, c := range []string{"proved", "likely", "possible"} {
		fmt.Printf("%-9s %s\n", c, counted(t.certainties, c))
	}
	fmt.Printf("right answers called wrong: %d of %d; wrong ones called right: %d\n", t.accused, t.rights, t.missed)
	printCounts("by mistake", t.byMistake)
	printCounts("by shape", t.byShape)
	printCounts("by what was said", t.byCode)
	fmt.Println("most often:")
	keys := slices.SortedFunc(maps.Keys(t.pairs), func(a, b string) int {
		if t.pairs[a] != t.pairs[b] {
			return t.pairs[b] - t.pairs[a]
		}
		return strings.Compare(a, b)
	})
	for _, k := range keys[:min(20, len(keys))] {
		fmt.Printf("  %4d %s\n", t.pairs[k], k)
	}
}

func printCounts(title string, all map[string]*counts) {
	fmt.Println(title + ":")
	for _, k := range slices.Sorted(maps.Keys(all)) {
		c := all[k]
		fmt.Printf("  %-36s %4d of %4d named, %3d misnamed, %3d unexplained\n", k, c.named, c.all, c.all-c.named-c.unexplained,
			c.unexplained)
	}
}
