package main_test

import (
	"context"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/cause"
	"tovrel/core/edit"
	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/engine"
)

// formatted holds a tree against what its formatted text is read as: the same tree, the same text once more, and no wider than it may be.
func formatted(t *testing.T, pool *engine.Pool, tree *sql.Tree, written string) bool {
	t.Helper()
	text, ok := tree.Formatted()
	if !ok {
		return false
	}
	again, err := pool.Query(context.Background(), engine.Request{SQL: text, Tree: true, ParseOnly: true})
	require.NoError(t, err, "%s\nis written as\n%s", written, text)
	second, err := sql.Read(again.Tree)
	require.NoError(t, err, text)
	require.Equal(t, tree.Shape(), second.Shape(), "%s\nis written as\n%s", written, text)
	once, ok := second.Formatted()
	require.True(t, ok)
	require.Equal(t, text, once, "formatting again changes nothing")
	for line := range strings.SplitSeq(text, "\n") {
		if len([]rune(line)) > 100 {
			require.NotContains(t, strings.TrimSpace(line), ", ", "this line could be broken:\n%s", text)
		}
	}
	return true
}

// TestFormat: every query that the tests know, and every edit of each, is written so that the engine reads the same tree.
func TestFormat(t *testing.T) {
	t.Parallel()
	pool, tables := dairyPool(t)
	body, err := os.ReadFile("testdata/format.txt")
	require.NoError(t, err)
	var queries []string
	for block := range strings.SplitSeq(string(body), "\n---\n") {
		queries = append(queries, strings.TrimSpace(block))
	}
	for _, c := range readCauses(t) {
		queries = append(queries, c.reference, c.answer)
	}
	columns, seen, written, without := cause.EditColumns(tables), map[string]bool{}, 0, []string{}
	for _, query := range queries {
		if seen[query] {
			continue
		}
		seen[query] = true
		result, err := pool.Query(context.Background(), engine.Request{SQL: query, Tree: true, ParseOnly: true})
		require.NoError(t, err, query)
		tree, err := sql.Read(result.Tree)
		require.NoError(t, err, query)
		if !formatted(t, pool, tree, query) {
			without = append(without, query)
			continue
		}
		written++
		for i, c := range edit.Changes(edit.Subject{Tree: tree, Columns: columns}) {
			if i%7 == written%7 { // a seventh of them, each time others
				readsTheSame(t, pool, c.Tree, query)
			}
		}
	}
	require.Greater(t, written, 250)
	require.LessOrEqual(t, len(without), written/100, "%q have no form", without)
}

// readsTheSame holds an edited tree, which may be nested as no parser makes it, against what its text is read as.
func readsTheSame(t *testing.T, pool *engine.Pool, tree *sql.Tree, written string) {
	t.Helper()
	for _, site := range tree.Sites() {
		if site.Node.Class() == ast.Conjunction && len(site.Node.Nodes(field.Children)) < 2 {
			return // no text has a conjunction of one
		}
	}
	text, ok := tree.Formatted()
	if !ok {
		return
	}
	again, err := pool.Query(context.Background(), engine.Request{SQL: text, Tree: true, ParseOnly: true})
	require.NoError(t, err, "an edit of\n%s\nis written as\n%s", written, text)
	second, err := sql.Read(again.Tree)
	require.NoError(t, err, text)
	require.True(t, tree.SameFeatures(second), "an edit of\n%s\nis written as\n%s", written, text)
}

// TestFormatNames: every word that the engine knows can be the name of a column, a table and an alias, with quotes where it needs them.
func TestFormatNames(t *testing.T) {
	pool, _ := dairyPool(t)
	words, err := pool.Query(context.Background(),
		engine.Request{SQL: `SELECT unnest([
		'select', 'from', 'order', 'group', 'values', 'position', 'time', 'date', 'left', 'right', 'user', 'end', 'case',
		'all', 'any', 'row', 'table', 'column', 'limit', 'offset', 'window', 'at', 'asof', 'lambda', 'year', 'month', 'key',
		'first', 'last', 'qualify', 'pivot', 'using', 'natural', 'semi', 'anti', 'glob', 'ilike', 'similar', 'binary',
		'primary', 'unique', 'some', 'do', 'in', 'is', 'as', 'by', 'of', 'struct', 'map', 'union', 'tuple', 'columns',
		'try_cast', 'extract', 'interval', 'timestamp', 'varchar', 'int', 'bit', 'setof', 'Ab', 'a b', 'ä', '1a', 'x"y', '_',
		'a$b'])`})
	require.NoError(t, err)
	for row := range words.Table.Rows() {
		word := words.Table.Columns[0].Value(row).String()
		quoted := `"` + strings.ReplaceAll(word, `"`, `""`) + `"`
		query := "SELECT " + quoted + ", t." + quoted + ", max(" + quoted + ") AS " + quoted + " FROM " + quoted + " AS " +
			quoted + " (" + quoted + ") ORDER BY " + quoted
		result, err := pool.Query(context.Background(), engine.Request{SQL: query, Tree: true, ParseOnly: true})
		require.NoError(t, err, query)
		tree, err := sql.Read(result.Tree)
		require.NoError(t, err, query)
		require.True(t, formatted(t, pool, tree, query), query)
	}
}

// TestClauses: two queries differ by what only one of them has, clause by clause; aliases, the order of conditions and USING or ON do
// not count.
func TestClauses(t *testing.T) {
	read, _ := dairyTrees(t)
	for _, c := range lines(t, "clauses.txt") {
		var said []string
		for _, d := range sql.Clauses(read(c[0]), read(c[1])) {
			said = append(said, strings.Join(strings.Fields(d.Name+": "+strings.Join(d.Expected, ", ")+" -> "+
				strings.Join(d.Answer, ", ")), " "))
		}
		want := strings.TrimPrefix(c[2], "same")
		require.Equal(t, want, strings.Join(said, " ; "), "%s\n%s", c[0], c[1])
		require.Empty(t, sql.Clauses(read(c[0]), read(c[0])), c[0])
	}
}
