package match_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/match"
	"tovrel/core/table"
	"tovrel/gallerytest"
)

// drawnPair is a drawn table, what one or two changes make of it, and one or two rules.
type drawnPair struct {
	named            []string
	expected, answer *table.Table
	rules            match.Rules
	known            match.Known
}

func drawPair(t *testing.T, r *rand.Rand, lines []string) drawnPair {
	t.Helper()
	p := drawnPair{expected: gallerytest.Table(t, lines)}
	answer := slices.Clone(lines)
	for range 1 + r.IntN(2) {
		if change := gallerytest.Changes[r.IntN(len(gallerytest.Changes))]; len(answer) > 2 && strings.Contains(answer[0], ",") {
			answer, p.named = change.Make(r, answer), append(p.named, change.Name)
		}
	}
	for range r.IntN(3) {
		rule := galleryRules[1+r.IntN(len(galleryRules)-1)]
		if column, _, has := strings.Cut(rule, "."); has && column != "numbers" && !strings.Contains(lines[0], column) {
			continue
		}
		require.NoError(t, p.rules.ParseRule(rule))
	}
	if r.IntN(3) == 0 {
		p.known.Ranking = []match.Key{{Column: r.IntN(len(p.expected.Columns)), Descending: r.IntN(2) == 0}}
	}
	p.answer = gallerytest.Table(t, answer)
	return p
}

// said is all that is said of a pair.
func (p drawnPair) said() string {
	return fmt.Sprintf("%s; same digest %t, may tie %t", judged(match.Match(p.expected, p.answer, p.rules, p.known)),
		match.Digest(p.expected, p.rules) == match.Digest(p.answer, p.rules), match.MayTie(match.Match(p.expected, p.answer, p.rules,
			p.known),
			p.rules, p.known))
}

// TestDrawnGallery holds what is said of drawn answers.
func TestDrawnGallery(t *testing.T) {
	var got strings.Builder
	for n := range uint64(150) {
		r := rand.New(rand.NewPCG(n, 41)) //nolint:gosec // a test's
		p := drawPair(t, r, gallerytest.Lines(r))
		fmt.Fprintf(&got, "%d %s; %s; %v\n  %s\n", n, strings.Join(p.named, ", "), p.rules, p.known.Ranking, p.said())
	}
	gallerytest.Holds(t, "matches-drawn.txt", got.String(), *update)
}

// TestMatchSums holds what is said of many drawn answers, by the changes: also of larger tables, of rows that are there several times,
// and of what is known of a table beyond its cells.
func TestMatchSums(t *testing.T) {
	var sums gallerytest.Sums
	for n := range uint64(6000) {
		r := rand.New(rand.NewPCG(n, 43)) //nolint:gosec // a test's
		lines := gallerytest.Lines(r)
		for range r.IntN(3) * r.IntN(30) {
			lines = append(lines, lines[1+r.IntN(len(lines)-1)])
		}
		p := drawPair(t, r, lines)
		columns, rows := len(p.expected.Columns), p.expected.Rows()
		switch n % 5 {
		case 1:
			for range columns {
				p.known.Rounded = append(p.known.Rounded, r.IntN(2) == 0)
			}
		case 2:
			p.known.Cut = &match.Cut{Full: p.expected, From: r.IntN(2), Keep: 1 + r.IntN(max(1, rows-1))}
			p.expected = p.expected.Rest(p.known.Cut.From).Head(p.known.Cut.Keep)
		case 3:
			for range columns {
				p.known.Units = append(p.known.Units, []string{"", "fraction", "%", "kg"}[r.IntN(4)])
			}
		case 4:
			p.known.Columns = r.Perm(max(columns, len(p.answer.Columns)))[:columns]
			for i, to := range p.known.Columns {
				if to >= len(p.answer.Columns) {
					p.known.Columns[i] = -1
				}
			}
		}
		name := "nothing"
		if len(p.named) > 0 {
			name = p.named[len(p.named)-1]
		}
		sums.Add(name, p.said())
	}
	gallerytest.Holds(t, "match-sums.txt", sums.Text(), *update)
}
