package match_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/match"
	"tovrel/gallerytest"
)

// drawnLines are a header and rows with columns of many types, drawn.
func drawnLines(r *rand.Rand) []string {
	makers := []struct {
		name string
		cell func() string
	}{
		{"town", func() string { return []string{"Aske", "Brill", "Cole", "Dune", "Elm", "Fern"}[r.IntN(6)] }},
		{"kind", func() string { return []string{"a", "B", "c c", "ä"}[r.IntN(4)] }},
		{"day", func() string { return fmt.Sprintf("2031-0%d-%02d", 1+r.IntN(3), 1+r.IntN(28)) }},
		{"month", func() string { return []string{"2031-01", "2031-02", "2031-03"}[r.IntN(3)] }},
		{"at", func() string { return fmt.Sprintf("2031-01-%02d %02d:00:00", 1+r.IntN(28), r.IntN(24)) }},
		{"n", func() string { return strconv.Itoa(r.IntN(20)) }},
		{"share", func() string { return fmt.Sprintf("0.%03d", r.IntN(1000)) }},
		{"price", func() string { return fmt.Sprintf("%d.%02d", r.IntN(5000), r.IntN(100)) }},
		{"big", func() string { return strconv.Itoa(r.IntN(9_000_000) * 1000) }},
		{"flag", func() string { return strconv.FormatBool(r.IntN(2) == 0) }},
	}
	r.Shuffle(len(makers), func(i, j int) { makers[i], makers[j] = makers[j], makers[i] })
	makers = makers[:2+r.IntN(4)]
	var head []string
	for _, m := range makers {
		head = append(head, m.name)
	}
	lines := []string{strings.Join(head, ",")}
	for range 2 + r.IntN(7) {
		var row []string
		for _, m := range makers {
			if cell := m.cell(); r.IntN(12) == 0 {
				row = append(row, "∅")
			} else {
				row = append(row, cell)
			}
		}
		lines = append(lines, strings.Join(row, ","))
	}
	return lines
}

// eachCell is a table with a column's cells changed, but not its name.
func eachCell(lines []string, column int, change func(string) string) []string {
	out := slices.Clone(lines)
	for i := 1; i < len(out); i++ {
		cells := strings.Split(out[i], ",")
		if cells[column] != "∅" {
			cells[column] = change(cells[column])
		}
		out[i] = strings.Join(cells, ",")
	}
	return out
}

// changes are what may become of a table on its way to an answer: some harmless, some not, some only under a rule.
var changes = []struct {
	name string
	make func(r *rand.Rand, lines []string) []string
}{
	{"shuffled", func(r *rand.Rand, l []string) []string {
		r.Shuffle(len(l)-1, func(i, j int) { l[i+1], l[j+1] = l[j+1], l[i+1] })
		return l
	}},
	{"turned round", func(_ *rand.Rand, l []string) []string { slices.Reverse(l[1:]); return l }},
	{"a row short", func(r *rand.Rand, l []string) []string { return slices.Delete(l, len(l)-1-r.IntN(2), len(l)) }},
	{"a row twice", func(r *rand.Rand, l []string) []string { return append(l, l[1+r.IntN(len(l)-1)]) }},
	{"another name", func(r *rand.Rand, l []string) []string {
		head := strings.Split(l[0], ",")
		head[r.IntN(len(head))] = "value"
		l[0] = strings.Join(head, ",")
		return l
	}},
	{"columns turned round", func(_ *rand.Rand, l []string) []string {
		for i := range l {
			cells := strings.Split(l[i], ",")
			slices.Reverse(cells)
			l[i] = strings.Join(cells, ",")
		}
		return l
	}},
	{"a column more", func(_ *rand.Rand, l []string) []string {
		for i := range l {
			l[i] += "," + []string{"extra", strconv.Itoa(i)}[min(i, 1)]
		}
		return l
	}},
	{"a column short", func(_ *rand.Rand, l []string) []string {
		for i := range l {
			l[i] = l[i][:strings.LastIndex(l[i], ",")]
		}
		return l
	}},
	{"another cell", func(r *rand.Rand, l []string) []string {
		at := 1 + r.IntN(len(l)-1)
		cells := strings.Split(l[at], ",")
		cells[r.IntN(len(cells))] = []string{"7", "∅", "other", "2031-02-02", "0"}[r.IntN(5)]
		l[at] = strings.Join(cells, ",")
		return l
	}},
	{"upper case", func(r *rand.Rand, l []string) []string {
		return eachCell(l, r.IntN(strings.Count(l[0], ",")+1), strings.ToUpper)
	}},
	{"scaled", func(r *rand.Rand, l []string) []string {
		return eachCell(l, r.IntN(strings.Count(l[0], ",")+1), func(c string) string {
			if f, err := strconv.ParseFloat(c, 64); err == nil {
				return strconv.FormatFloat(f*100, 'f', -1, 64)
			}
			return c
		})
	}},
	{"rounded", func(r *rand.Rand, l []string) []string {
		return eachCell(l, r.IntN(strings.Count(l[0], ",")+1), func(c string) string {
			if f, err := strconv.ParseFloat(c, 64); err == nil && strings.Contains(c, ".") {
				return strconv.FormatFloat(f, 'f', 1, 64)
			}
			return c
		})
	}},
	{"as text", func(r *rand.Rand, l []string) []string {
		return eachCell(l, r.IntN(strings.Count(l[0], ",")+1), func(c string) string { return c + " EUR" })
	}},
	{"zeros for nulls", func(_ *rand.Rand, l []string) []string {
		for i := range l {
			l[i] = strings.ReplaceAll(l[i], "∅", "0")
		}
		return l
	}},
}

// TestDrawnGallery holds what is said of drawn answers: a drawn table after one or two changes, under one or two rules.
func TestDrawnGallery(t *testing.T) {
	var got strings.Builder
	for n := range uint64(260) {
		r := rand.New(rand.NewPCG(n, 41)) //nolint:gosec // a test's
		lines := drawnLines(r)
		expected := csvTable(t, strings.Join(lines, "\n"))
		var named []string
		answer := slices.Clone(lines)
		for range 1 + r.IntN(2) {
			if change := changes[r.IntN(len(changes))]; len(answer) > 2 && strings.Contains(answer[0], ",") {
				answer, named = change.make(r, answer), append(named, change.name)
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
		came := csvTable(t, strings.Join(answer, "\n"))
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
