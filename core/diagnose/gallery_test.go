package diagnose

import (
	"context"
	"flag"
	"fmt"
	"hash/fnv"
	"maps"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/edit"
	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/core/twin"
	"tovrel/gallerytest"
	"tovrel/sqltest"
)

var update = flag.Bool("update", false, "rewrite what is held; read what changed")

// TestInterventionsGallery holds the interventions that fit pairs of known queries: what is done to the data, and what it would show.
func TestInterventionsGallery(t *testing.T) {
	queries, trees := sqltest.Known(t)
	var out []string
	for i := 0; i < len(trees); i += 3 {
		j := (i + 1 + i%7) % len(trees)
		c := Case{Reference: trees[i], Answer: trees[j], Expected: rowsOf(1, 3), Got: rowsOf(2, 2+i%3), Columns: sqltest.Columns()}
		of := sidesOf(c)
		out = append(out, "# "+queries[i], "# "+queries[j])
		for _, one := range slices.Concat(interventions(c), of.oneValue(), of.setAside(), of.constantKeys(), of.oneKey(), of.oneEach(),
			of.unitMeasures()) {
			out = append(out, fmt.Sprintf("%d %s %s", one.priority, one.words, stepsText(one.steps)), fmt.Sprintf(
				"  mends %s %q, breaks %s %q, both %s %q", one.mended, one.saysMended, one.broken, one.saysBroken, one.both, one.saysBoth))
		}
		for _, f := range structure(c) {
			out = append(out, fmt.Sprintf("structure: %s %s", f.Code, f.Evidence))
		}
	}
	gallerytest.Holds(t, "interventions.txt", strings.Join(out, "\n")+"\n", *update)
}

func stepsText(steps map[string][]twin.Step) string {
	var out []string
	for _, name := range slices.Sorted(maps.Keys(steps)) {
		out = append(out, fmt.Sprintf("%s: %+v", name, steps[name]))
	}
	return strings.Join(out, "; ")
}

// TestTwoMistakesGallery holds what a search says of two mistakes in one query, in a world where edits give nothing and where data on which
// a column cannot matter hide all that queries say of it.
func TestTwoMistakesGallery(t *testing.T) {
	queries, trees := sqltest.Known(t)
	var out []string
	for i, reference := range trees {
		first := edit.Changes(edit.Subject{Tree: reference, Columns: sqltest.Columns()})
		if len(first) == 0 {
			continue
		}
		a := first[i*13%len(first)]
		second := edit.Changes(edit.Subject{Tree: a.Tree, Columns: sqltest.Columns()})
		if len(second) == 0 {
			continue
		}
		b := second[i*29%len(second)]
		if b.Tree.SameFeatures(reference) {
			continue
		}
		out = append(out, "# "+queries[i], "# "+a.Words()+"; "+b.Words())
		c := Case{Reference: reference, Answer: b.Tree, Expected: hiding(reference, nil), Got: hiding(b.Tree, nil),
			Columns: sqltest.Columns(), Rows: map[string]int64{"payments": 50, "loads": 500, "farms": 9}}
		d, err := Find(context.Background(), c, hidingWorld())
		require.NoError(t, err)
		for _, f := range d.Faults {
			out = append(out, fmt.Sprintf("%s %s: %s", f.Certainty, f.Code, f.Evidence))
			require.True(t, fault.Known(f.Code))
		}
		require.Len(t, d.Trees, len(d.Faults))
		out = append(out, fmt.Sprintf("tried %d edits, altered %d times; %s", len(d.Tried), len(d.Altered), d.Ended))
	}
	gallerytest.Holds(t, "two-mistakes.txt", strings.Join(out, "\n")+"\n", *update)
}

func hidingWorld() World {
	return World{
		Run: func(_ context.Context, _ *sql.Tree) (*table.Table, error) { return nil, nil },
		Altered: func(_ context.Context, tree *sql.Tree, steps map[string][]twin.Step) (*table.Table, error) {
			return hiding(tree, steps), nil
		},
		Now: time.Now, Budget: Budget{Runs: DefaultRuns, Net: time.Hour},
	}
}

// hiding is what a query gives where steps hide all features that speak of the columns that they name.
func hiding(tree *sql.Tree, steps map[string][]twin.Step) *table.Table {
	features, err := tree.Features()
	if err != nil {
		return nil
	}
	text := stepsText(steps)
	var left []string
	for f, n := range features {
		hidden := false
		for _, columns := range sqltest.Columns() {
			for _, c := range columns {
				hidden = hidden || strings.Contains(text, c.Name) && strings.Contains(f, c.Name)
			}
		}
		if !hidden {
			left = append(left, fmt.Sprintf("%s %d", f, n))
		}
	}
	slices.Sort(left)
	h := fnv.New64a()
	_, _ = h.Write([]byte(strings.Join(left, "\n")))
	return rowsOf(int(h.Sum64()%1_000_003)+thinnedBy(steps), 4)
}
