// Package sqltest has queries with their trees for tests of what reads, writes and edits trees. A test of the whole program holds the trees
// to be those that today's engine makes.
package sqltest

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/edit"
	"tovrel/core/sql"
)

// Known are the queries of testdata with their trees.
func Known(t *testing.T) (queries []string, trees []*sql.Tree) {
	t.Helper()
	text, err := os.ReadFile(File(t, "queries.sql"))
	require.NoError(t, err)
	bodies, err := os.ReadFile(File(t, "trees.jsonl"))
	require.NoError(t, err)
	for body := range bytes.SplitSeq(bytes.TrimSpace(bodies), []byte("\n")) {
		tree, err := sql.Read(body)
		require.NoError(t, err)
		trees = append(trees, tree)
	}
	queries = strings.Split(strings.TrimSpace(string(text)), "\n")
	require.Len(t, trees, len(queries))
	return queries, trees
}

// File is the path of a file of testdata from the folder of any package.
func File(t *testing.T, name string) string {
	t.Helper()
	for up := "."; ; up = filepath.Join(up, "..") {
		path := filepath.Join(up, "testdata", name)
		if _, err := os.Stat(filepath.Join(up, "go.mod")); err == nil {
			return path
		}
		require.Less(t, len(up), 60, "no module above this folder")
	}
}

// Columns are those that the queries read.
func Columns() map[string][]edit.Column {
	return map[string][]edit.Column{
		"loads": {{Name: "load_id", Kind: edit.Number}, {Name: "farm_id", Kind: edit.Number}, {Name: "loaded_at", Kind: edit.Time},
			{Name: "litres", Kind: edit.Number}, {Name: "status", Kind: edit.Text}},
		"farms": {{Name: "farm_id", Kind: edit.Number}, {Name: "name", Kind: edit.Text}, {Name: "district", Kind: edit.Text}},
		"payments": {{Name: "farm_id", Kind: edit.Number}, {Name: "gross", Kind: edit.Number}, {Name: "deductions", Kind: edit.Number},
			{Name: "net", Kind: edit.Number}},
		"kinds": {{Name: "kind_id", Kind: edit.Number}, {Name: "above_id", Kind: edit.Number}, {Name: "tools", Kind: edit.Number}},
	}
}
