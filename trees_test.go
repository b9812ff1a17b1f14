package main_test

import (
	"context"
	"flag"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/cause"
	"tovrel/core/edit"
	"tovrel/core/match"
	"tovrel/core/sql"
	"tovrel/dataset"
	"tovrel/engine"
	"tovrel/workspace"
)

var fenced = regexp.MustCompile("(?s)```sql[^\n]*\n(.*?)```")

// TestTreesRoundTrip: every query of the corpus and of the demo's golden sets, read into a tree and written again, is the same
// tree and gives the same answer.
func TestTreesRoundTrip(t *testing.T) {
	t.Parallel()
	demo := demoWorkspace(t)
	w, err := workspace.Open(demo)
	require.NoError(t, err)
	pools := map[string]*engine.Pool{}
	for _, d := range w.Datasets {
		f, _, err := dataset.Of(w).Freeze(context.Background(), d, "test")
		require.NoError(t, err)
		pools[d.Name] = engine.NewPool(program(t), engine.Setup{Engine: "duckdb", File: f.Path, AsOf: f.AsOf, Limits: d.Limits}, 1)
		t.Cleanup(pools[d.Name].Close)
	}
	pools["shop"], _ = shopPool(t)
	queries := map[string]map[string]bool{"dairy": {}, "toolshed": {}, "shop": {}}
	for _, c := range readCauses(t) {
		queries[c.dataset][c.reference], queries[c.dataset][c.answer] = true, true
	}
	for set, dataset := range map[string]string{"milk-basics": "dairy", "payments": "dairy", "toolshed": "toolshed"} {
		body, err := os.ReadFile(filepath.Join(demo, "golden", set+".md"))
		require.NoError(t, err)
		for _, m := range fenced.FindAllStringSubmatch(string(body), -1) {
			queries[dataset][strings.TrimSpace(m[1])] = true
		}
	}
	read := 0
	for dataset, all := range queries {
		for query := range all {
			first, err := pools[dataset].Query(context.Background(), engine.Request{SQL: query, Tree: true})
			require.NoError(t, err, query)
			tree, err := sql.Read(first.Tree)
			require.NoError(t, err, query)
			body, err := tree.Serialised()
			require.NoError(t, err, query)
			again, err := pools[dataset].Query(context.Background(), engine.Request{Serialised: string(body), Tree: true})
			require.NoError(t, err, query)
			require.True(t, match.Match(first.Table, again.Table, match.Rules{}, match.Known{}).Matched, "%s\nis not\n%s",
				query, again.Instead)
			read++
			if strings.Contains(query, "current_date") {
				continue // the second text has the day instead
			}
			second, err := pools[dataset].Query(context.Background(), engine.Request{SQL: again.Instead, Tree: true})
			require.NoError(t, err, again.Instead)
			tree2, err := sql.Read(second.Tree)
			require.NoError(t, err)
			require.True(t, tree.SameFeatures(tree2), "%s\nhas other features than\n%s", query, again.Instead)
		}
	}
	require.Greater(t, read, 200)
}

// dairyPool runs queries about the dairy.
func dairyPool(t *testing.T) (*engine.Pool, []engine.Table) {
	t.Helper()
	demo := demoWorkspace(t)
	w, err := workspace.Open(demo)
	require.NoError(t, err)
	f, _, err := dataset.Of(w).Freeze(context.Background(), w.Datasets[0], "test")
	require.NoError(t, err)
	pool := engine.NewPool(program(t), engine.Setup{Engine: "duckdb", File: f.Path, AsOf: f.AsOf, Limits: w.Datasets[0].Limits}, 1)
	t.Cleanup(pool.Close)
	return pool, f.Tables
}

// dairyTrees gives a function that reads a query about the dairy into a tree.
func dairyTrees(t *testing.T) (read func(query string) *sql.Tree, tables []engine.Table) {
	t.Helper()
	pool, tables := dairyPool(t)
	return func(query string) *sql.Tree {
		result, err := pool.Query(context.Background(), engine.Request{SQL: query, Tree: true})
		require.NoError(t, err, query)
		tree, err := sql.Read(result.Tree)
		require.NoError(t, err, query)
		return tree
	}, tables
}

// lines are the lines of a file of testdata, in parts.
func lines(t *testing.T, name string) [][]string {
	t.Helper()
	body, err := os.ReadFile(filepath.Join("testdata", name))
	require.NoError(t, err)
	var out [][]string
	for line := range strings.SplitSeq(strings.TrimSpace(string(body)), "\n") {
		if !strings.HasPrefix(line, "#") {
			out = append(out, strings.Split(line, " | "))
		}
	}
	return out
}

// TestSameFeatures: aliases, CTEs and derived tables, USING or ON, BETWEEN or two comparisons and the order of operands do not show.
func TestSameFeatures(t *testing.T) {
	t.Parallel()
	read, _ := dairyTrees(t)
	for _, pair := range lines(t, "same.txt") {
		a, err := read(pair[0]).Features()
		require.NoError(t, err)
		b, err := read(pair[1]).Features()
		require.NoError(t, err)
		require.Zero(t, a.Distance(b), "%s\n%s\n%v %v", pair[0], pair[1], a.Missing(b), b.Missing(a))
	}
}

// TestEdits: every edit of the catalogue makes the query that it is for, names a fault, and leaves the query that it edits alone.
func TestEdits(t *testing.T) {
	read, tables := dairyTrees(t)
	columns := cause.EditColumns(tables)
	tried := map[string]bool{}
	for _, l := range lines(t, "edits.txt") {
		name, tree, other := l[0], read(l[1]), read(l[2])
		before := tree.Key()
		made := false
		for _, c := range slices.Concat(edit.Changes(edit.Subject{Tree: tree, Other: other, Columns: columns}),
			edit.Changes(edit.Subject{Tree: tree, Columns: columns, Unseen: true})) {
			require.NotEmpty(t, c.Code, c.Edit.Name)
			made = made || c.Edit.Name == name && c.Tree.SameFeatures(other)
		}
		require.True(t, made, "%s does not make\n%s\nof\n%s", name, l[2], l[1])
		require.Equal(t, before, tree.Key(), "%s changed its subject", name)
		tried[name] = true
	}
	for _, e := range edit.All() {
		require.True(t, tried[e.Name], "no case for %s", e.Name)
		require.NotEmpty(t, e.Doc, e.Name)
		require.NotEmpty(t, e.Inverse, e.Name)
	}
}

// update has the tests rewrite what they compare with.
var update = flag.Bool("update", false, "rewrite files of testdata")

// TestSeedTrees: the trees that the tests of the core start from are those of the queries beside them, as today's engine reads them.
func TestSeedTrees(t *testing.T) {
	pool, _ := dairyPool(t)
	for _, seeds := range []struct{ queries, trees string }{
		{"core/edit/testdata/trees.sql", "core/edit/testdata/trees.jsonl"},
		{"testdata/queries.sql", "testdata/trees.jsonl"},
	} {
		body, err := os.ReadFile(seeds.queries)
		require.NoError(t, err)
		var trees strings.Builder
		for query := range strings.SplitSeq(strings.TrimSpace(string(body)), "\n") {
			got, err := pool.Query(context.Background(), engine.Request{SQL: query, Tree: true, ParseOnly: true})
			require.NoError(t, err, query)
			trees.WriteString(places.ReplaceAllString(string(got.Tree), "") + "\n")
		}
		if *update {
			require.NoError(t, os.WriteFile(seeds.trees, []byte(trees.String()), 0o600))
		}
		kept, err := os.ReadFile(seeds.trees)
		require.NoError(t, err)
		require.Equal(t, string(kept), trees.String(), "go test -run TestSeedTrees -update . writes them anew")
	}
}

var places = regexp.MustCompile(`,"query_location(?:_length)?":\d+`)
