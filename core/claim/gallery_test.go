package claim_test

import (
	"flag"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/claimtest"
	"tovrel/core/claim"
	"tovrel/core/table"
	"tovrel/gallerytest"
)

var update = flag.Bool("update", false, "rewrite what is held; read what changed")

// galleryReplies are replies in words, some of them right for some of the tables.
var galleryReplies = []string{"Alder had the most: 1250 litres.", "Alder had 1,250 litres in 2031.",
	"It was Alder with 1.250,0 l, of 12 farms", "Not Alder, but Birch Hill with 1250.", "Alder: 1250. Birch Hill: 900.5.",
	"Alder 1250 and Birch Hill 900",
	"Birch Hill 1250, Alder 900.5", "1. Alder, 1250\n2. Birch Hill, 900.5", "About 1300 litres at Alder",
	"Alder, 1250 litres, 17 % more than the year before", "None.", "There were none: 0 litres", "There is no such farm, 3 were asked",
	"1 250 000.25 litres", "1.25 million litres", "On 2031-05-01, yes", "On 1 May 2031 it is true", "It is false on May 1, 2031",
	"Alder has no litres", "", "Cole", "twelve", "1,250", "Alder\n1250", "| Alder | 1250 |", "alder had 1250", "Alderman had 1250",
	"Alder didn't have 1250", "Alder: 1250 L; Birch Hill: 900.50 L"}

var verdictWords = map[claim.Verdict]string{claim.Right: "right", claim.Wrong: "wrong", claim.Unsure: "unsure"}

// TestTextGallery holds what is said of replies in words: each of some sentences with the asked numbers, or others, put in.
func TestTextGallery(t *testing.T) {
	const question = "Which farm of the 12 had the most litres in 2031, and how many?"
	domain := [][]string{{"Alder", "Birch Hill", "Cole"}, nil}
	var got strings.Builder
	for _, lines := range []string{"farm litres/Alder 1250", "farm litres/Alder 1250/Birch_Hill 900.5", "litres/0",
		"litres/1250000.25", "farm litres", "day ok/2031-05-01 true", "farm litres/Alder -"} {
		fmt.Fprintf(&got, "# %s\n", lines)
		for _, reply := range galleryReplies {
			r := claim.Judge(reply, claim.Expected{Table: tableOf(lines), Question: question, Domain: domain})
			fmt.Fprintf(&got, "  %q: %s %s\n", reply, verdictWords[r.Verdict], r.Why)
		}
	}
	gallerytest.Holds(t, "words.txt", got.String(), *update)
}

// TestDrawnSums holds what is said of drawn replies, a line for each kind and way in which they were made.
func TestDrawnSums(t *testing.T) {
	var sums gallerytest.Sums
	for _, r := range claimtest.Draw(77, 4000) {
		f := claim.Judge(r.Text, r.Expected)
		sums.Add(r.Kind+", "+r.Made, fmt.Sprintf("%q %d %.4f %s %v %t", r.Text, f.Verdict, f.Closeness, f.Why, f.Unchecked, f.Rounded))
	}
	gallerytest.Holds(t, "word-sums.txt", sums.Text(), *update)
}

// TestJudgeIsLinear: replies of all kinds are judged in a time that grows with their length and no faster.
func TestJudgeIsLinear(t *testing.T) {
	domain := make([]string, 1000)
	for i := range domain {
		domain[i] = fmt.Sprintf("North %d Vale", i)
	}
	expected := claim.Expected{Table: &table.Table{Columns: []*table.Column{table.FromCells("farm", []table.Cell{{Text: "North 7 Vale"}}),
		table.FromCells("litres", []table.Cell{{Text: "12.5"}})}}, Question: "How many litres came from North 7 Vale?",
		Domain: [][]string{domain, nil}}
	for name, piece := range map[string]string{
		"numbers": "12 ", "numbers and words": "the 3 of 45 farms, ", "sentences": "It was 12. ", "negations": "not 3, never ",
		"dates": "2031-05-01 ", "months": "May 2031 and ", "rows": "| 1 | 2 |\n", "est": "the largest ", "brackets": "(",
		"colons": "a: 1\n",
		"lines":  "1. 12\n", "names": "North 5 Vale ", "letters": "a", "signs": "- ", "dots": ". ", "digits": "1", "stars": "*",
		"hundreds": "one hundred and ",
		"groups":   "1,234", "percent": "5 % ", "the answer": "North 7 Vale 12.5 ", "spaces": "  ", "years": "in 2031 ",
	} {
		took := func(size int) time.Duration {
			reply := strings.Repeat(piece, size/len(piece))
			start := time.Now()
			claim.Judge(reply, expected)
			claim.StanceOf(reply, []string{"litres"})
			return time.Since(start)
		}
		took(1 << 12)
		small, large := took(1<<13), took(1<<16) // eight times as long
		// on a busy machine: what is slow of itself is so again
		for again := 0; again < 3 && large >= 32*small+500*time.Millisecond; again++ {
			small, large = max(small, took(1<<13)), min(large, took(1<<16))
		}
		require.Less(t, large, 32*small+500*time.Millisecond, "%s: %s for 8 KB, %s for 64 KB", name, small, large)
	}
}

// FuzzJudge: no text ends the program, each is judged the same each time, and every judgement says why.
func FuzzJudge(f *testing.F) {
	for _, reply := range galleryReplies {
		f.Add(reply, "Which farm had the most litres in 2031?")
	}
	for _, r := range claimtest.Draw(5, 40) {
		f.Add(r.Text, r.Expected.Question)
	}
	f.Fuzz(func(t *testing.T, reply, question string) {
		for _, lines := range []string{"farm litres/Alder 1250/Birch_Hill 900.5", "day share/2031-05-01 0.25", "n/0", "farm"} {
			e := claim.Expected{Table: tableOf(lines), Question: question}
			first := claim.Judge(reply, e)
			require.NotEmpty(t, first.Why)
			require.Equal(t, first, claim.Judge(reply, e))
		}
		claim.StanceOf(reply, []string{question})
	})
}
