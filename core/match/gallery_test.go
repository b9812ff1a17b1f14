package match_test

import (
	"flag"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/match"
	"tovrel/core/table"
	"tovrel/gallerytest"
)

var update = flag.Bool("update", false, "rewrite what is held; read what changed")

// galleryRules are the rules under which every pair of tables is matched.
var galleryRules = []string{"", "order=strict", "order=any", "order=ranked:n desc", "order=ranked:n", "columns=name", "columns=position",
	"extra-columns=wrong", "numbers=exact", "numbers=rel:0.01", "numbers=abs:0.5", "numbers=digits:2", "n.numbers=abs:1", "scale=fraction",
	"share.scale=percent", "scale=strict", "text=fold", "format=strict", "null=zero", "null=blank", "rows=contains", "layout=any",
	"ties=strict"}

// galleryTables are an expected table and what came in its place: one thing is other than in the first in each.
func galleryTables(t *testing.T) (expected *table.Table, answers [][2]string) {
	t.Helper()
	const base = "town,day,n,share\nAske,2031-01-01,12,0.125\nBrill,2031-01-02,7,0.5\nCole,2031-01-03,7,∅\nDune,∅,0,0.25"
	change := func(name string, pairs ...string) {
		answers = append(answers, [2]string{name, strings.NewReplacer(pairs...).Replace(base)})
	}
	lines := strings.Split(base, "\n")
	put := func(name string, rows ...string) {
		answers = append(answers, [2]string{name, strings.Join(rows, "\n")})
	}
	change("the same")
	change("another number", "12", "13")
	change("another name of a column", "share", "part")
	change("names of two columns exchanged", "n,share", "share,n")
	change("another case", "Aske", "ASKE")
	change("padded", "Brill", " Brill ")
	change("an accent", "Cole", "Colé")
	change("another dash", "Dune", "Dune-")
	change("a null for a number", ",12,", ",∅,")
	change("zero for null", "7,∅", "7,0")
	change("a blank for null", "Dune,∅", "Dune,")
	change("percent", "0.125", "12.5", "0.5", "50", "0.25", "25")
	change("a sign of percent", "0.125", "12.5%", "0.5", "50%", "0.25", "25%")
	change("rounded", "0.125", "0.13", "0.5", "0.5", "0.25", "0.25")
	change("rounded down", "0.125", "0.12")
	change("rounded far", "0.125", "0.1", "0.25", "0.2")
	change("nearly", "0.125", "0.1251")
	change("noise", "0.125", "0.12500000000001")
	change("moments for days", "2031-01-01", "2031-01-01 00:00:00", "2031-01-02", "2031-01-02 00:00:00", "2031-01-03",
		"2031-01-03 00:00:00")
	change("another writing of days", "2031-01-01", "01.01.2031", "2031-01-02", "02.01.2031", "2031-01-03", "03.01.2031")
	change("a moment that is none", "2031-01-01", "2031-01-01 00:00:01")
	change("another day", "2031-01-02", "2031-01-05")
	change("grouped digits", ",12,", ",1 2,")
	change("a word for a number", ",12,", ",twelve,")
	put("other order", lines[0], lines[2], lines[1], lines[3], lines[4])
	put("ties exchanged", lines[0], lines[1], lines[3], lines[2], lines[4])
	put("turned round", lines[0], lines[4], lines[3], lines[2], lines[1])
	put("a row short", lines[0], lines[1], lines[2], lines[4])
	put("a row too many", append(append([]string{}, lines...), "Elm,2031-01-05,1,0.1")...)
	put("a row twice", append(append([]string{}, lines...), lines[2])...)
	put("two rows for two others", lines[0], lines[1], lines[2], "Elm,2031-01-05,1,0.1", "Fern,2031-01-06,2,0.2")
	put("no rows", lines[0])
	put("a column short", "town,day,n", "Aske,2031-01-01,12", "Brill,2031-01-02,7", "Cole,2031-01-03,7", "Dune,∅,0")
	put("a column too many", "town,day,n,share,id", "Aske,2031-01-01,12,0.125,1", "Brill,2031-01-02,7,0.5,2", "Cole,2031-01-03,7,∅,3",
		"Dune,∅,0,0.25,4")
	put("columns turned round", "share,n,day,town", "0.125,12,2031-01-01,Aske", "0.5,7,2031-01-02,Brill", "∅,7,2031-01-03,Cole",
		"0.25,0,∅,Dune")
	put("no names", "a,b,c,d", lines[1], lines[2], lines[3], lines[4])
	put("one cell", "n", "12")
	put("a blank row more", append(append([]string{}, lines...), "∅,∅,∅,∅")...)
	put("long", "town,what,n", "Aske,n,12", "Brill,n,7", "Cole,n,7", "Dune,n,0")
	return csvTable(t, base), answers
}

func csvTable(t *testing.T, text string) *table.Table {
	t.Helper()
	return gallerytest.Table(t, strings.Split(text, "\n"))
}

// TestGallery holds what is said of each answer under each rule, and with and without what is known of an order: a judgement that changes
// anywhere is seen. What was said of an answer before is left out.
func TestGallery(t *testing.T) {
	expected, answers := galleryTables(t)
	known := map[string]match.Known{"": {}, "ranked": {Ranking: []match.Key{{Column: 2, Name: "n", Descending: true}}},
		"rounded": {Rounded: []bool{false, false, false, true}}}
	var got strings.Builder
	for _, a := range answers {
		fmt.Fprintf(&got, "%s\n", a[0])
		answer := csvTable(t, a[1])
		told := map[string]bool{}
		for _, text := range galleryRules {
			var rules match.Rules
			if text != "" {
				require.NoError(t, rules.ParseRule(text))
			}
			for _, k := range []string{"", "ranked", "rounded"} {
				said := judged(match.Match(expected, answer, rules, known[k]))
				if !told[said] {
					told[said] = true
					fmt.Fprintf(&got, "  %s %s: %s\n", text, k, said)
				}
			}
		}
	}
	gallerytest.Holds(t, "matches.txt", got.String(), *update)
}

func judged(r match.Result) string {
	out := fmt.Sprintf("%t, %s", r.Matched, r.Why)
	if r.Closeness != nil {
		out += fmt.Sprintf(", %.3f", *r.Closeness)
	}
	for _, f := range r.Faults {
		out += fmt.Sprintf("; %s: %s", f.Code, f.Evidence)
	}
	pairs := ""
	for _, p := range r.Columns {
		pairs += fmt.Sprintf(" %d-%d %v", p.Expected, p.Answer, p.How)
	}
	out += fmt.Sprintf("; %v%s; rows %v, cells %d, missing %v, extra %v", r.Remarks, pairs, r.AnswerOf, len(r.Cells), r.Missing,
		r.ExtraRows)
	if len(r.Notes) > 0 {
		out += fmt.Sprintf("; notes %q", r.Notes)
	}
	return out
}
