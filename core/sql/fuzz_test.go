package sql_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/sql"
)

// FuzzTokens: any text is taken apart into tokens that stand in it, in their order.
func FuzzTokens(f *testing.F) {
	for _, seed := range []string{"SELECT 'a''b', \"c\" -- d\nFROM [e] /* f */ WHERE 1.5e3 < `g`", "'", "/*", "--",
		"SELECT date('now') ; ;", "\xff\x00", "äöü1.2.3", "", "WITH a AS (FROM t) PIVOT a ON b, c IN (1) USING sum(d)",
		"PIVOT t ON PIVOT u ON v"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, query string) {
		end := 0
		tokens := sql.Tokens(query)
		for _, token := range tokens {
			require.GreaterOrEqual(t, token.Start, end)
			require.NotEmpty(t, token.Text)
			require.True(t, strings.HasPrefix(query[token.Start:], token.Text))
			end = token.Start + len(token.Text)
		}
		require.LessOrEqual(t, end, len(query))
		_ = sql.CheckTokens(tokens)
		_ = sql.CheckText(query)
		before := 0
		for _, l := range sql.PivotLists(query) {
			require.Greater(t, l.At, before, "in order, each behind the one before")
			require.LessOrEqual(t, l.At, len(query))
			before = l.At
		}
	})
}

// TestFeaturesAreBounded: queries whose parts refer to each other again and again are an error, in a moment.
func TestFeaturesAreBounded(t *testing.T) {
	column := func(name string) string {
		return `{"class":"COLUMN_REF","type":"COLUMN_REF","alias":"","column_names":["` + name + `"]}`
	}
	base := func(name string) string {
		return `{"type":"BASE_TABLE","alias":"","table_name":"` + name + `","qualified_name":{"path":["` + name + `"]}}`
	}
	selectOf := func(item, from string) string {
		return `{"type":"SELECT_NODE","modifiers":[],"cte_map":{"map":[]},"select_list":[` + item + `],"from_table":` + from +
			`,"group_expressions":[]}`
	}
	twice := func(name string) string {
		return `{"type":"JOIN","alias":"","join_type":"INNER","ref_type":"CROSS","left":` +
			strings.Replace(base(name), `"alias":""`, `"alias":"p"`, 1) + `,"right":` +
			strings.Replace(base(name), `"alias":""`, `"alias":"q"`, 1) + `}`
	}
	sum := `{"class":"FUNCTION","type":"FUNCTION","alias":"x","function_name":"+","is_operator":true,` +
		`"qualified_name":{"path":["+"]},"arguments":[{"name":"","expression":` + column("x") +
		`},{"name":"","expression":` + column("x") + `}]}`
	chain := func(links int, item, from func(i int) string) *sql.Tree {
		var ctes []string
		name := func(i int) string { return "c" + strings.Repeat("x", i) }
		for i := 1; i <= links; i++ {
			ctes = append(ctes, `{"key":"`+name(i)+`","value":{"aliases":[],"query_node":`+selectOf(item(i), from(i-1))+`}}`)
		}
		body := `{"error":false,"statements":[{"node":{"type":"SELECT_NODE","modifiers":[],"cte_map":{"map":[` +
			strings.Join(ctes, ",") + `]},"select_list":[` + column("x") + `],"from_table":` + base(name(links)) +
			`,"group_expressions":[]}}]}`
		tree, err := sql.Read([]byte(body))
		require.NoError(t, err)
		return tree
	}
	name := func(i int) string { return "c" + strings.Repeat("x", i) }
	for links, bounded := range map[int]bool{3: false, 40: true} {
		for what, tree := range map[string]*sql.Tree{
			"joined with itself": chain(links, func(int) string { return column("x") }, func(i int) string { return twice(name(i)) }),
			"doubled":            chain(links, func(int) string { return sum }, func(i int) string { return base(name(i)) }),
		} {
			readings := tree.Readings(map[string][]string{"c": {"x"}}) // which ends, too
			require.LessOrEqual(t, len(readings.Tables), 4000, what)
			_, err := tree.Features()
			if bounded {
				require.ErrorIs(t, err, sql.ErrTangled, what)
				require.False(t, tree.SameFeatures(tree), what)
			} else {
				require.NoError(t, err, what)
			}
		}
	}
	deep := strings.Repeat(`{"a":`, 4000) + "1" + strings.Repeat("}", 4000)
	_, err := sql.Read([]byte(`{"error":false,"statements":[{"node":` + deep + `}]}`))
	var refusal *sql.Refusal
	require.ErrorAs(t, err, &refusal)
}
