package edit_test

import (
	"bytes"
	"os"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/edit"
	"tovrel/core/query"
)

// FuzzChanges: no tree, however broken, crashes the code that reads, compares and edits it, and none is changed by being edited.
func FuzzChanges(f *testing.F) {
	seeds, err := os.ReadFile("testdata/trees.jsonl")
	require.NoError(f, err)
	var all [][]byte
	for _, line := range bytes.Split(bytes.TrimSpace(seeds), []byte("\n")) {
		all = append(all, line)
		f.Add(line, uint8(len(all)))
	}
	columns := map[string][]edit.Column{"loads": {{Name: "litres", Kind: edit.Number}, {Name: "loaded_at", Kind: edit.Time}, {Name: "farm_id", Kind: edit.Number}}}
	f.Fuzz(func(t *testing.T, body []byte, with uint8) {
		tree, err := query.Read(body)
		if err != nil {
			return
		}
		other, err := query.Read(all[int(with)%len(all)])
		require.NoError(t, err)
		_ = tree.Check()
		_ = tree.Outer()
		_, _ = tree.Probe()
		_ = tree.Items()
		before := tree.Key()
		changes := edit.Changes(edit.Subject{Tree: tree, Other: other, Columns: columns})
		changes = append(changes, edit.Changes(edit.Subject{Tree: other, Other: tree, Columns: columns})...)
		for i, c := range changes {
			if i < 40 {
				_ = c.Tree.Features().Distance(other.Features())
			}
		}
		require.Equal(t, before, tree.Key())
	})
}
