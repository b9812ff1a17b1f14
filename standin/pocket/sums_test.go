package pocket

import (
	"context"
	"flag"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/gallerytest"
	"tovrel/translator"
)

var update = flag.Bool("update", false, "rewrite what is held; read what changed")

// The parts that questions are composed of.
var (
	openings = []string{"How many trees", "How many kilos", "Average net kg", "What was the total gross kg", "Number of pickings",
		"Which three trees had the most kilos",
		"Which trees had the fewest pickings", "Top 5 pickers by net kg", "How many different trees were picked", "Median gross kg",
		"Which trees have never been picked",
		"The largest net kg", "Which town has the most pickers", "What were gross kg and net kg", "How many pickings did each town have",
		"List the towns",
		"Which is the best picker", "Delete the trees", "What share of the trees is boskoop", "How many ripe pickings"}
	keys = []string{"", "", " by month", " for each sort", " per town", " by year and sort", " by picker", " of each tree", " by quarter"}
	of   = []string{"", "", " of boskoop trees", " of cider apples", " that are unclocked", " that were not ripe", " of elstar",
		" of pickers in Aske"}
	when = []string{"", " in 2030", " in May 2030", " in the last quarter of 2030", " in the second half of 2030", " in the last 7 days",
		" this year",
		" between 2029 and 2030", " since March 2030", " on 5 May 2030", " before 2030"}
	ends = []string{"?", "?", ", also those without any?", ", the largest first", " and the year before?", ", without boskoop"}
)

// TestComposedSums holds what is made of questions that are composed by chance, by each version, over a schema that has lost some of
// what is
// said of it, and of those that follow another.
func TestComposedSums(t *testing.T) {
	var sums gallerytest.Sums
	for n := range uint64(3000) {
		r := rand.New(rand.NewPCG(n, 23)) //nolint:gosec // a test's
		one := func(parts []string) string { return parts[r.IntN(len(parts))] }
		request := orchard()
		opening := one(openings)
		request.Question = opening + one(of) + one(keys) + one(when) + one(ends)
		for i := range request.Dataset.Tables {
			for j := range request.Dataset.Tables[i].Columns {
				c := &request.Dataset.Tables[i].Columns[j]
				switch r.IntN(30) {
				case 0:
					c.Role = ""
				case 1:
					c.Role = "dimension"
				case 2:
					c.Synonyms, c.Values = nil, nil
				case 3:
					c.Type = "VARCHAR"
				case 4:
					c.Unit = ""
				}
			}
		}
		if n%5 == 0 {
			request.Thread = []translator.Turn{{Question: one(openings) + one(keys) + one(when) + "?"}}
			request.Question = one([]string{"And the year before?", "And in 2031?", "Only elstar", "And by month?", "Without boskoop",
				"And per town?",
				"The first two", request.Question})
			opening = "what follows"
		}
		s := Settings{Version: []string{"", "1", "2", "3"}[n%4], Seed: r.IntN(9)}
		if n%7 == 0 {
			s.Quirks = []string{Quirks()[r.IntN(len(Quirks()))]}
		}
		a, err := New(s)
		require.NoError(t, err)
		request.Repeat, request.AsOf = r.IntN(3), "2031-06-30"
		got, err := a.Ask(context.Background(), request)
		sums.Add(strings.ToLower(opening), fmt.Sprint(got.Reply.Query, got.Reply.Clarify, got.Reply.Decline, err))
	}
	gallerytest.Holds(t, "composed-sums.txt", sums.Text(), *update)
}
