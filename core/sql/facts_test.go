package sql_test

import (
	"flag"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"
	"tovrel/core/sql"
	"tovrel/sqltest"

	"github.com/stretchr/testify/require"
)

var update = flag.Bool("update", false, "rewrite the facts; read what changed")

// shown is of one in how many queries the facts are written out, to be read; TestEditedSums tells that those of any changed.
const shown = 3

// TestFacts holds all that is read from the trees of queries: how they are written, what they show, read, compare, order, cut and do.
func TestFacts(t *testing.T) {
	queries, trees := sqltest.Known(t)
	var got strings.Builder
	for i := 0; i < len(trees); i += shown {
		fmt.Fprintf(&got, "%s\n%s\n", queries[i], strings.Join(facts(t, trees[i]), "\n"))
	}
	file := sqltest.File(t, "gallery/facts.txt")
	if *update {
		require.NoError(t, os.WriteFile(file, []byte(got.String()), 0o600))
	}
	want, err := os.ReadFile(file)
	require.NoError(t, err)
	wanted := blocks(string(want))
	for query, block := range blocks(got.String()) {
		require.Equal(t, wanted[query], block, query)
	}
	require.Len(t, wanted, (len(queries)+shown-1)/shown)
}

// blocks are the facts by their query: the lines behind it that are indented.
func blocks(text string) map[string]string {
	out, query := map[string]string{}, ""
	for line := range strings.Lines(text) {
		if !strings.HasPrefix(line, "  ") {
			query = line
			continue
		}
		out[query] += line
	}
	return out
}

func facts(t *testing.T, tree *sql.Tree) []string {
	t.Helper()
	var out []string
	tell := func(name, format string, args ...any) {
		if said := strings.TrimSpace(fmt.Sprintf(format, args...)); said != "" && said != "[]" {
			out = append(out, "  "+name+": "+said)
		}
	}
	text, ok := tree.Formatted()
	if !ok {
		text = "(no form)"
	}
	out = append(out, "  | "+strings.Join(strings.Fields(text), " ")) // its lines are held by the tests of format
	for _, item := range tree.Items() {
		tell("item", "%s.%s values=%t unit=%t", item.Table, item.Name, item.Values, item.Unit)
	}
	tell("tables", "%v", tree.TablesRead())
	tell("kinds", "%s", strings.Join(slices.Compact(slices.Sorted(slices.Values(tree.Kinds()))), " "))
	for _, c := range tree.Compared() {
		tell("compares", "%s with %q %q year=%t formula=%q", c.Column, c.Literal, c.Other, c.Year, c.Formula)
	}
	outer := tree.Outer()
	for _, k := range outer.Keys {
		tell("orders by", "item %d %q descending=%t aggregate=%t nulls=%s", k.Item, k.Name, k.Descending, k.Aggregate, k.Nulls)
	}
	tell("asked order", "%d of %d, limit=%t", len(outer.AskedOrder()), len(outer.Keys), outer.Limit)
	if rounded := tree.RoundedItems(); slices.Contains(rounded, true) {
		tell("rounded", "%v", rounded)
	}
	if p, ok := tree.Probe(); ok {
		probed, _ := p.Tree.Formatted()
		tell("probe", "keys=%d offset=%d limit=%d added=%d: %s", p.Keys, p.Offset, p.Limit, p.Added(),
			strings.Join(strings.Fields(probed), " "))
		if p.TopN != nil {
			tell("cut", "keep=%d parts=%d keys=%d", p.TopN.Keep, p.TopN.Parts, len(p.TopN.Keys))
		}
	}
	features, err := tree.Features()
	require.NoError(t, err)
	var all []string
	for f, n := range features {
		all = append(all, fmt.Sprintf("%s ×%d", strings.ReplaceAll(f, "\n", " "), n))
	}
	slices.Sort(all)
	tell("does", "%s", strings.Join(all, "; "))
	if err := tree.Check(nil); err != nil {
		tell("refused", "%s", err)
	}
	return out
}

// TestFeaturesAreABag: the distance of features is one of bags: none to itself, the same both ways, never more than over a third.
func TestFeaturesAreABag(t *testing.T) {
	_, trees := sqltest.Known(t)
	var all []sql.Features
	for _, tree := range trees {
		f, err := tree.Features()
		require.NoError(t, err)
		all = append(all, f)
	}
	for i, a := range all {
		require.Zero(t, a.Distance(a))
		require.Empty(t, a.Missing(a))
		for j, b := range all {
			d := a.Distance(b)
			require.Equal(t, d, b.Distance(a))
			require.Equal(t, d == 0, trees[i].SameFeatures(trees[j]))
			require.LessOrEqual(t, len(a.Missing(b))+len(b.Missing(a)), d)
			c := all[(i+j)%len(all)]
			require.LessOrEqual(t, d, a.Distance(c)+c.Distance(b))
		}
	}
}

// TestSitesAreTheTree: every place of a tree can be replaced by what stands there without a change, and the tree stays as it is.
func TestSitesAreTheTree(t *testing.T) {
	queries, trees := sqltest.Known(t)
	for i, tree := range trees {
		key := tree.Key()
		sites := tree.Sites()
		require.NotEmpty(t, sites, queries[i])
		for _, s := range sites {
			require.Equal(t, key, tree.With(s, s.Node).Key(), queries[i])
			changed := tree.With(s, sql.Number("4711"))
			require.NotEqual(t, key, changed.Key(), queries[i])
			_ = tree.Without(s)
			require.Equal(t, key, tree.Key(), "%s is changed by being edited", queries[i])
		}
		body, err := tree.Serialised()
		require.NoError(t, err)
		again, err := sql.Read(body)
		require.NoError(t, err)
		require.Equal(t, key, again.Key(), queries[i])
		require.Equal(t, tree.Shape(), again.Shape(), queries[i])
	}
}

// TestToday: what reads the clock sees the dataset's today, and nothing else is changed.
func TestToday(t *testing.T) {
	queries, trees := sqltest.Known(t)
	for i, tree := range trees {
		key := tree.Key()
		saw := tree.SeeToday(sql.TodayOf("2031-06-30"), queries[i])
		clock := strings.Contains(queries[i], "current_date") || strings.Contains(queries[i], "now()") || strings.Contains(queries[i],
			"today()")
		require.Equal(t, clock, saw, queries[i])
		require.Equal(t, !clock, key == tree.Key(), queries[i])
		if text, ok := tree.Formatted(); ok && clock {
			require.Contains(t, text, "2031-06-30", queries[i])
			require.NotContains(t, text, "now()")
		}
		require.False(t, tree.SeeToday(sql.TodayOf("2031-06-30"), queries[i]), "no clock is left: %s", queries[i])
	}
	require.Equal(t, sql.Today{}, sql.TodayOf(""))
	require.Equal(t, sql.Today{"2031-06-30", "2031-06-30 23:59:59"}, sql.TodayOf("2031-06-30"))
	require.Equal(t, sql.Today{"2031-06-30", "2031-06-30 10:00:00"}, sql.TodayOf("2031-06-30T10:00:00"))
}

// TestTokens holds how texts are divided, with what is no SQL inside them left whole.
func TestTokens(t *testing.T) {
	for text, want := range map[string]string{
		"SELECT a":              "SELECT a",
		`SELECT "a b", 'it''s'`: `SELECT "a b" , 'it''s'`,
		"a--no\nb":              "a b",
		"a /* x /* y */ z */ b": "",
		"1.5e3 < b<=c":          "1.5e3 < b < = c",
		"E'a\\'b' || x":         "",
		"SELECT é FROM \"täb\"": "SELECT é FROM \"täb\"",
		"":                      "",
	} {
		var got []string
		for _, token := range sql.Tokens(text) {
			got = append(got, token.Text)
		}
		if want != "" {
			require.Equal(t, want, strings.Join(got, " "), text)
		}
		require.LessOrEqual(t, len(strings.Join(got, "")), len(text), "nothing is added: %s", text)
	}
}
