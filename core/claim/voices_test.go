package claim_test

import (
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/claim"
	"tovrel/core/table"
)

// voice is a question with what is expected, and its replies.
type voice struct {
	expected claim.Expected
	replies  [][2]string // what it is worth, the reply
}

// TestVoices holds replies that were written by hand, case by case.
func TestVoices(t *testing.T) {
	worth := map[string]claim.Verdict{"right": claim.Right, "wrong": claim.Wrong, "unsure": claim.Unsure}
	count := 0
	for _, v := range voices(t) {
		for _, r := range v.replies {
			count++
			t.Run(r[0]+" "+r[1], func(t *testing.T) {
				f := claim.Judge(strings.ReplaceAll(r[1], `\n`, "\n"), v.expected)
				require.Equal(t, worth[r[0]], f.Verdict, "%s: %+v", v.expected.Question, f)
			})
		}
	}
	require.GreaterOrEqual(t, count, 150)
}

func voices(t *testing.T) []*voice {
	t.Helper()
	body, err := os.ReadFile("testdata/voices.txt")
	require.NoError(t, err)
	var out []*voice
	var v *voice
	for _, l := range strings.Split(string(body), "\n") {
		key, text, found := strings.Cut(l, ":")
		text = strings.TrimSpace(text)
		switch {
		case !found || strings.HasPrefix(l, "#"):
		case key == "question":
			v = &voice{expected: claim.Expected{Question: text}}
			out = append(out, v)
		case key == "expected":
			v.expected.Table = rowsOf(t, text)
		case key == "full":
			v.expected.Full = rowsOf(t, text)
		case key == "ranked":
			v.expected.Ranked = true
		case key == "units":
			v.expected.Units = strings.Split(strings.ReplaceAll(text, " ", ""), "|")
		case key == "domain":
			v.expected.Domain = [][]string{strings.Split(text, ", ")}
		default:
			v.replies = append(v.replies, [2]string{key, text})
		}
	}
	return out
}

// rowsOf reads "a | b / x | 1".
func rowsOf(t *testing.T, text string) *table.Table {
	t.Helper()
	var rows [][]table.Cell
	for _, row := range strings.Split(text, " / ") {
		var cells []table.Cell
		for _, cell := range strings.Split(row, " | ") {
			cells = append(cells, table.Cell{Text: strings.TrimSpace(cell)})
		}
		rows = append(rows, cells)
	}
	var names []string
	for _, cell := range rows[0] {
		names = append(names, cell.Text)
	}
	out, err := table.FromRows(names, rows[1:])
	require.NoError(t, err)
	return out
}
