package render

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestClauses(t *testing.T) {
	for _, c := range []struct {
		line  string
		width int
		want  []string
	}{
		{"SELECT a FROM t", 40, []string{"SELECT a FROM t"}},
		{"SELECT a, b FROM t LEFT OUTER JOIN u USING (k) WHERE a > 1", 30,
			[]string{"SELECT a, b", "FROM t", "LEFT OUTER JOIN u USING (k)", "WHERE a > 1"}},
		{"SELECT (SELECT max(b) FROM u WHERE c) FROM t", 40, []string{"SELECT (SELECT max(b) FROM u WHERE c)", "FROM t"}},
		{"  SELECT 'from  where' AS x FROM t ORDER BY 1", 30, []string{"  SELECT 'from  where' AS x", "  FROM t", "  ORDER BY 1"}},
		{"SELECT a ‹LEFT JOIN› u USING (k)", 20, []string{"SELECT a", "‹LEFT JOIN› u USING", "    (k)"}},
	} {
		require.Equal(t, c.want, clauses(c.line, c.width), c.line)
	}
}

// TestClausesKeepTheQuery: whatever a query is, breaking it changes white space alone, and none inside quotes.
func TestClausesKeepTheQuery(t *testing.T) {
	pieces := []string{"SELECT", "FROM", "t", "WHERE", "(", ")", "'a  b'", `"x  y"`, "AND", "LEFT", "JOIN", ",", "'it''s'",
		"GROUP", "BY", "über", "1"}
	rapid.Check(t, func(r *rapid.T) {
		line := strings.Join(rapid.SliceOfN(rapid.SampledFrom(pieces), 1, 40).Draw(r, "words"), " ")
		lines := clauses(line, rapid.IntRange(5, 60).Draw(r, "width"))
		joined := strings.Builder{}
		for i, l := range lines {
			if i > 0 {
				joined.WriteByte(' ')
			}
			joined.WriteString(strings.TrimLeft(l, " "))
		}
		require.Equal(r, line, joined.String())
	})
}
