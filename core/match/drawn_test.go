package match_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/match"
	"tovrel/gallerytest"
)

// TestDrawnGallery holds what is said of drawn answers: a drawn table after one or two changes, under one or two rules.
func TestDrawnGallery(t *testing.T) {
	var got strings.Builder
	for n := range uint64(150) {
		r := rand.New(rand.NewPCG(n, 41)) //nolint:gosec // a test's
		lines := gallerytest.Lines(r)
		expected := gallerytest.Table(t, lines)
		var named []string
		answer := slices.Clone(lines)
		for range 1 + r.IntN(2) {
			if change := gallerytest.Changes[r.IntN(len(gallerytest.Changes))]; len(answer) > 2 && strings.Contains(answer[0], ",") {
				answer, named = change.Make(r, answer), append(named, change.Name)
			}
		}
		var rules match.Rules
		for range r.IntN(3) {
			rule := galleryRules[1+r.IntN(len(galleryRules)-1)]
			if column, _, has := strings.Cut(rule, "."); has && column != "numbers" && !strings.Contains(lines[0], column) {
				continue
			}
			require.NoError(t, rules.ParseRule(rule))
		}
		known := match.Known{}
		if r.IntN(3) == 0 {
			known.Ranking = []match.Key{{Column: r.IntN(len(expected.Columns)), Descending: r.IntN(2) == 0}}
		}
		came := gallerytest.Table(t, answer)
		result := match.Match(expected, came, rules, known)
		fmt.Fprintf(&got, "%d %s; %s; %v\n  %s; same digest %t, may tie %t\n", n, strings.Join(named, ", "), rules, known.Ranking,
			judged(result), match.Digest(expected, rules) == match.Digest(came, rules), match.MayTie(result, rules, known))
	}
	gallerytest.Holds(t, "matches-drawn.txt", got.String(), *update)
}

// galleryReplies are replies in words, some of them right for some of the tables.
var galleryReplies = []string{"Alder had the most: 1250 litres.", "Alder had 1,250 litres in 2031.",
	"It was Alder with 1.250,0 l, of 12 farms", "Not Alder, but Birch Hill with 1250.", "Alder: 1250. Birch Hill: 900.5.",
	"Alder 1250 and Birch Hill 900",
	"Birch Hill 1250, Alder 900.5", "1. Alder, 1250\n2. Birch Hill, 900.5", "About 1300 litres at Alder",
	"Alder, 1250 litres, 17 % more than the year before", "None.", "There were none: 0 litres", "There is no such farm, 3 were asked",
	"1 250 000.25 litres", "1.25 million litres", "On 2031-05-01, yes", "On 1 May 2031 it is true", "It is false on May 1, 2031",
	"Alder has no litres", "", "Cole", "twelve", "1,250", "Alder\n1250", "| Alder | 1250 |", "alder had 1250", "Alderman had 1250",
	"Alder didn't have 1250", "Alder: 1250 L; Birch Hill: 900.50 L"}

// TestTextGallery holds what is said of replies in words: each of some sentences with the asked numbers, or others, put in.
func TestTextGallery(t *testing.T) {
	const question = "Which farm of the 12 had the most litres in 2031, and how many?"
	domain := [][]string{{"Alder", "Birch Hill", "Cole"}, nil}
	var got strings.Builder
	for _, lines := range []string{"farm,litres\nAlder,1250", "farm,litres\nAlder,1250\nBirch Hill,900.5", "litres\n0",
		"litres\n1250000.25", "farm,litres", "day,ok\n2031-05-01,true", "farm,litres\nAlder,∅"} {
		expected := csvTable(t, lines)
		fmt.Fprintf(&got, "# %s\n", strings.ReplaceAll(lines, "\n", " / "))
		for _, reply := range galleryReplies {
			r := match.Text(expected, reply, question, domain)
			fmt.Fprintf(&got, "  %q: %t %t %s\n", reply, r.Matched, r.TooLong, r.Why)
		}
	}
	gallerytest.Holds(t, "words.txt", got.String(), *update)
}
