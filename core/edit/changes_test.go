package edit_test

import (
	"flag"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/edit"
	"tovrel/core/fault"
	"tovrel/sqltest"
)

var update = flag.Bool("update", false, "rewrite the changes; read what changed")

// pairsFrom is from where on the known queries stand in pairs: a reference, and an answer of another shape.
const pairsFrom = 122

// TestChanges holds every change that is tried of every twelfth query, with the code that it names, to be read; TestChangeSums tells that
// one of any query was lost, or is new.
// What cannot be told from the query comes from the next one in the file, as an answer's comes from the reference.
func TestChanges(t *testing.T) {
	queries, trees := sqltest.Known(t)
	var got strings.Builder
	for i := range trees {
		other := trees[(i+1)%len(trees)]
		if i >= pairsFrom {
			other = trees[i^1] // the other of the pair
		}
		if i%12 != 0 {
			continue
		}
		fmt.Fprintf(&got, "%s\n", queries[i])
		for _, c := range edit.Changes(edit.Subject{Tree: trees[i], Other: other, Columns: sqltest.Columns()}) {
			fmt.Fprintf(&got, "  %s, %s", c.Edit.Name, c.Code)
			if c.Mends {
				got.WriteString(", mends")
			}
			fmt.Fprintf(&got, ": %s → %s\n", oneLine(c.Before), oneLine(c.After))
		}
	}
	holds(t, "gallery/changes.txt", got.String())
}

// TestUnseenChanges holds what is tried besides where the other query is not known, of every query; and that none of it is tried where it
// is known.
func TestUnseenChanges(t *testing.T) {
	queries, trees := sqltest.Known(t)
	var got strings.Builder
	for i, tree := range trees {
		seen := map[string]bool{}
		subject := edit.Subject{Tree: tree, Columns: sqltest.Columns()}
		for _, c := range edit.Changes(subject) {
			seen[c.Edit.Name+c.Tree.Key()] = true
		}
		subject.Unseen = true
		heading := queries[i] + "\n"
		for _, c := range edit.Changes(subject) {
			if !seen[c.Edit.Name+c.Tree.Key()] {
				fmt.Fprintf(&got, "%s  %s, %s: %s → %s\n", heading, c.Edit.Name, c.Code, oneLine(c.Before), oneLine(c.After))
				heading = ""
			}
		}
	}
	holds(t, "gallery/changes-unseen.txt", got.String())
}

// holds compares a text with the one in testdata that somebody has read and approved.
func holds(t *testing.T, name, got string) {
	t.Helper()
	file := sqltest.File(t, name)
	if *update {
		require.NoError(t, os.WriteFile(file, []byte(got), 0o600))
	}
	want, err := os.ReadFile(file)
	require.NoError(t, err)
	require.Equal(t, strings.Split(string(want), "\n"), strings.Split(got, "\n"))
}

func oneLine(text string) string { return strings.Join(strings.Fields(text), " ") }

// TestEveryChange: each change of each query is another query, names a fault that exists, says what it does, is made anew each time in
// the same
// order, and leaves its subject alone.
func TestEveryChange(t *testing.T) {
	queries, trees := sqltest.Known(t)
	for i, tree := range trees {
		other := trees[(i+1)%len(trees)]
		key, otherKey := tree.Key(), other.Key()
		subject := edit.Subject{Tree: tree, Other: other, Columns: sqltest.Columns()}
		changes := edit.Changes(subject)
		again := edit.Changes(subject)
		require.Len(t, again, len(changes), queries[i])
		for j, c := range changes {
			require.True(t, fault.Known(c.Code), "%s: %s", c.Edit.Name, c.Code)
			require.NotEmpty(t, c.Words(), c.Edit.Name)
			require.NotEqual(t, key, c.Tree.Key(), "%s of %s changes nothing", c.Edit.Name, queries[i])
			require.Equal(t, c.Tree.Key(), again[j].Tree.Key(), "%s of %s", c.Edit.Name, queries[i])
			require.Equal(t, c.Words(), again[j].Words())
		}
		require.Equal(t, key, tree.Key(), queries[i])
		require.Equal(t, otherKey, other.Key(), queries[i])
	}
}
