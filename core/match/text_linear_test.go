package match_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/match"
	"tovrel/core/table"
)

// TestTextIsLinear: replies of all kinds are judged in a time that grows with their length and no faster.
func TestTextIsLinear(t *testing.T) {
	domain := make([]string, 1000)
	for i := range domain {
		domain[i] = fmt.Sprintf("North %d Vale", i)
	}
	expected := &table.Table{Columns: []*table.Column{table.FromCells("farm", []table.Cell{{Text: "North 7 Vale"}}),
		table.FromCells("litres", []table.Cell{{Text: "12.5"}})}}
	for name, piece := range map[string]string{
		"numbers": "12 ", "numbers and words": "the 3 of 45 farms, ", "sentences": "It was 12. ", "negations": "not 3, never ",
		"dates": "2031-05-01 ", "months": "May 2031 and ",
		"lines": "1. 12\n", "names": "North 5 Vale ", "letters": "a", "signs": "- ", "dots": ". ", "digits": "1",
		"groups": "1,234", "percent": "5 % ", "the answer": "North 7 Vale 12.5 ", "spaces": "  ", "years": "in 2031 ",
	} {
		took := func(size int) time.Duration {
			reply := strings.Repeat(piece, size/len(piece))
			start := time.Now()
			match.Text(expected, reply, "How many litres came from North 7 Vale?", [][]string{domain, nil})
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
