package sql_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/sql"
)

// TestDiffering: what only one of two texts has is told in it, at its start, in the middle and at its end; case and space do not count.
func TestDiffering(t *testing.T) {
	parts := func(text string, ranges []sql.Range) []string {
		out := []string{}
		for _, r := range ranges {
			out = append(out, text[r.From:r.To])
		}
		return out
	}
	for _, c := range []struct {
		a, b     string
		inA, inB []string
	}{
		{"SELECT a, b FROM t", "SELECT b FROM t", []string{"a,"}, []string{}},
		{"SELECT b FROM t", "SELECT a, b FROM t", []string{}, []string{"a,"}},
		{"SELECT a FROM t", "select  A\nfrom T", []string{}, []string{}},
		{"SELECT a FROM t WHERE x", "SELECT a FROM t", []string{"WHERE x"}, []string{}},
		{"SELECT a FROM t", "SELECT a FROM t LIMIT 3", []string{}, []string{"LIMIT 3"}},
		{"SELECT sum(a) FROM t", "SELECT avg(b) FROM t", []string{"sum", "a"}, []string{"avg", "b"}},
		{"", "SELECT 1", []string{}, []string{"SELECT 1"}},
		{"a b c d", "a c b d", []string{"b"}, []string{"b"}},
	} {
		inA, inB := sql.Differing(c.a, c.b)
		require.Equal(t, c.inA, parts(c.a, inA), "%s | %s", c.a, c.b)
		require.Equal(t, c.inB, parts(c.b, inB), "%s | %s", c.a, c.b)
	}
}
