package edit_test

import (
	"bytes"
	"encoding/json"
	"maps"
	"math/rand/v2"
	"os"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/edit"
	"tovrel/core/sql"
)

var fuzzColumns = map[string][]edit.Column{"loads": {{Name: "litres", Kind: edit.Number}, {Name: "loaded_at", Kind: edit.Time},
	{Name: "farm_id", Kind: edit.Number}, {Name: "status", Kind: edit.Text}},
	"farms": {{Name: "farm_id", Kind: edit.Number}, {Name: "district", Kind: edit.Text}}}

// seedTrees are the trees of testdata, which a test of the whole program keeps current.
func seedTrees(tb testing.TB) [][]byte {
	tb.Helper()
	body, err := os.ReadFile("testdata/trees.jsonl")
	require.NoError(tb, err)
	return bytes.Split(bytes.TrimSpace(body), []byte("\n"))
}

// everything does with two trees what a run does with them: none of it may fall, hang, or change a tree.
func everything(t *testing.T, tree, other *sql.Tree) {
	t.Helper()
	_ = tree.Check(nil)
	_ = tree.Outer().AskedOrder()
	_, _ = tree.Probe()
	_, _, _ = tree.Items(), tree.RoundedItems(), tree.Kinds()
	_, _ = tree.Compared(), tree.Reads("loads", "litres")
	before, otherBefore := tree.Key(), other.Key()
	changes := edit.Changes(edit.Subject{Tree: tree, Other: other, Columns: fuzzColumns})
	changes = append(changes, edit.Changes(edit.Subject{Tree: other, Other: tree, Columns: fuzzColumns})...)
	for i, c := range changes {
		if i < 60 {
			_ = c.Tree.SameFeatures(other)
		}
	}
	require.Equal(t, before, tree.Key())
	require.Equal(t, otherBefore, other.Key())
	today := sql.TodayOf("2031-06-30")
	body, err := tree.Serialised()
	require.NoError(t, err)
	if again, err := sql.Read(body); err == nil {
		_ = again.SeeToday(today, "")
		_, _ = again.Features()
	}
}

// FuzzChanges: no tree, however broken, crashes the code that reads, compares and edits it, and none is changed by being edited.
func FuzzChanges(f *testing.F) {
	all := seedTrees(f)
	for i, line := range all {
		f.Add(line, uint8(i+1))
	}
	f.Fuzz(func(t *testing.T, body []byte, with uint8) {
		tree, err := sql.Read(body)
		if err != nil {
			return
		}
		other, err := sql.Read(all[int(with)%len(all)])
		require.NoError(t, err)
		everything(t, tree, other)
	})
}

// FuzzGrafts: neither does one that has parts of another in places where they hardly belong, and names of its own parts for tables.
func FuzzGrafts(f *testing.F) {
	all := seedTrees(f)
	for i := range all {
		f.Add(uint8(i), uint8(i*7+1), uint64(i))
	}
	f.Fuzz(func(t *testing.T, one, two uint8, seed uint64) {
		source := rand.New(rand.NewPCG(seed, uint64(one)<<8|uint64(two)))
		grafted := graft(t, source, all[int(one)%len(all)], all[int(two)%len(all)])
		other, err := sql.Read(all[int(two)%len(all)])
		require.NoError(t, err)
		if tree, err := sql.Read(grafted); err == nil {
			everything(t, tree, other)
		}
	})
}

// graft puts a few nodes of one tree in places of another, and gives some tables the name of a CTE.
func graft(t *testing.T, source *rand.Rand, onto, from []byte) []byte {
	t.Helper()
	var tree, other map[string]any
	require.NoError(t, json.Unmarshal(onto, &tree))
	require.NoError(t, json.Unmarshal(from, &other))
	var places []func(any)
	var tables []map[string]any
	var parts []any
	var visit func(v any, place func(any), own bool)
	visit = func(v any, place func(any), own bool) {
		switch x := v.(type) {
		case map[string]any:
			if own {
				places = append(places, place)
				if x["type"] == "BASE_TABLE" {
					tables = append(tables, x)
				}
			} else {
				parts = append(parts, x)
			}
			for _, k := range slices.Sorted(maps.Keys(x)) {
				visit(x[k], func(n any) { x[k] = n }, own)
			}
		case []any:
			for i, child := range x {
				visit(child, func(n any) { x[i] = n }, own)
			}
		}
	}
	visit(tree["statements"], func(any) {}, true)
	visit(other["statements"], nil, false)
	for range source.IntN(4) {
		places[source.IntN(len(places))](parts[source.IntN(len(parts))])
	}
	names := []string{"loads", "a", "x", "chain", "d"}
	for _, table := range tables {
		if source.IntN(3) == 0 {
			name := names[source.IntN(len(names))]
			table["table_name"] = name
			table["qualified_name"] = map[string]any{"path": []any{name}}
		}
	}
	body, err := json.Marshal(tree)
	require.NoError(t, err)
	return body
}
