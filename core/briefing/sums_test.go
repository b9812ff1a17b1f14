package briefing_test

import (
	"flag"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"tovrel/core/briefing"
	"tovrel/core/profile"
	"tovrel/gallerytest"
)

var update = flag.Bool("update", false, "rewrite what is held; read what changed")

// spoiled are ways in which a briefing's text may be changed by hand.
var spoiled = []gallerytest.Change{
	{Name: "as it is", Make: func(_ *rand.Rand, l []string) []string { return l }},
	{Name: "a line short", Make: func(r *rand.Rand, l []string) []string { at := r.IntN(len(l)); return slices.Delete(l, at, at+1) }},
	{Name: "a line twice", Make: func(r *rand.Rand, l []string) []string { at := r.IntN(len(l)); return slices.Insert(l, at, l[at]) }},
	{Name: "another word", Make: func(r *rand.Rand, l []string) []string {
		at := r.IntN(len(l))
		words := strings.Fields(l[at])
		if len(words) > 0 {
			l[at] = strings.Replace(l[at], words[r.IntN(len(words))], []string{"farm:", "key", "{", "x: y", "[a, b]", "measure}",
				"id"}[r.IntN(7)], 1)
		}
		return l
	}},
	{Name: "further out", Make: func(r *rand.Rand, l []string) []string {
		at := r.IntN(len(l))
		l[at] = strings.TrimPrefix(l[at], "  ")
		return l
	}},
	{Name: "more below", Make: func(r *rand.Rand, l []string) []string {
		return append(l, []string{"terms: {farm: farms that deliver}", "facts: [\"farms: id > 0\"]", "joins: [farms.id = loads.farm_id]",
			"examples: [{question: How many farms are there?, query: SELECT count(*) FROM farms}]", "notes: [one, two]",
			"not-facts: [\"stones: x\"]"}[r.IntN(6)])
	}},
}

// TestBriefingSums holds what is made of drawn datasets, what is said of briefings that were changed by hand, what translators are told,
// and
// what is added to them.
func TestBriefingSums(t *testing.T) {
	var sums gallerytest.Sums
	golden := []briefing.Golden{{Name: "s/q", Wordings: []string{"How many farms are there?"}, Reference: "SELECT count(*) FROM farms"}}
	for n := range 240 {
		r := rand.New(rand.NewPCG(uint64(n), 17)) //nolint:gosec // a test's
		d := gallerytest.Dataset(r)
		d.Links = profile.Candidates(d)
		text, err := briefing.Extend("b.yaml", nil, d)
		sums.Add("made", fmt.Sprint(string(text), err))
		change := spoiled[n%len(spoiled)]
		changed := []byte(strings.Join(change.Make(r, strings.Split(string(text), "\n")), "\n"))
		b, problems := briefing.Parse("b.yaml", changed)
		sums.Add(change.Name, fmt.Sprint(problems))
		if len(problems) > 0 {
			continue
		}
		other := gallerytest.Dataset(r)
		for _, data := range []*profile.Dataset{d, other} {
			found := briefing.Check(b, data, golden)
			sums.Add(change.Name+": checked", fmt.Sprintf("%+v %d", found, len(briefing.Settled(b, profile.Inspect(data)))))
			more, err := briefing.Extend("b.yaml", changed, data)
			sums.Add(change.Name+": extended", fmt.Sprint(string(more), err))
		}
		schema := briefing.Dataset{Name: d.Name}
		for _, table := range d.Tables {
			told := briefing.ToldTable{Name: table.Name, Rows: table.Rows}
			for _, c := range table.Columns {
				told.Columns = append(told.Columns, briefing.ToldColumn{Name: c.Name, Type: c.Type})
			}
			schema.Tables = append(schema.Tables, told)
		}
		values := func(profile.Place) []string { return []string{"a", "b"} }
		for _, level := range briefing.Levels() {
			told, beyond := briefing.Tell(schema, b, briefing.Level(level), n%2 == 0, values)
			sums.Add("told "+level, fmt.Sprintf("%+v %+v", told, beyond))
		}
	}
	gallerytest.Holds(t, "briefing-sums.txt", sums.Text(), *update)
}
