package diagnose

import (
	"context"
	"fmt"
	"hash/fnv"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/edit"
	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/core/twin"
	"tovrel/gallerytest"
	"tovrel/sqltest"
)

// diagnosed is all that a diagnosis says.
func diagnosed(d Diagnosis) string {
	var b strings.Builder
	for _, f := range d.Faults {
		fmt.Fprintf(&b, "%s %s %s %s %s %v\n", f.Code, f.Certainty, f.Evidence, f.Edit, f.Query, f.Rows)
	}
	for _, try := range d.Tried {
		fmt.Fprintf(&b, "%s %s %t %t %d\n", try.Edit, try.Code, try.Hit, try.Repair, try.Distance)
	}
	return b.String() + d.Ended
}

// TestMistakeSums holds all that is said of single mistakes of the catalogue, and of two at once, in a world where every query gives
// another
// result.
func TestMistakeSums(t *testing.T) {
	queries, trees := sqltest.Known(t)
	var sums gallerytest.Sums
	for i := 1; i < len(trees); i += 3 {
		subject := edit.Subject{Tree: trees[i], Other: trees[(i+5)%len(trees)], Columns: sqltest.Columns()}
		changes := edit.Changes(subject)
		for j := i % 19; j < len(changes); j += 19 {
			answers := []*sql.Tree{changes[j].Tree}
			subject.Tree = changes[j].Tree
			if more := edit.Changes(subject); len(more) > 0 {
				answers = append(answers, more[(i*j)%len(more)].Tree)
			}
			for _, answer := range answers {
				ran := 0
				d, err := Find(context.Background(), caseOf(trees[i], answer), world(70, &ran))
				require.NoError(t, err)
				sums.Add(queries[i], diagnosed(d))
			}
		}
	}
	gallerytest.Holds(t, "mistake-sums.txt", sums.Text(), *update)
}

// drawnWorld gives every query, on data that are changed in any way, one of a few tables, drawn by what the query and the change are: often
// the expected one or the answer's, now and then none.
func drawnWorld(seed uint64, ran *int, c Case, lines []string, t *testing.T) World {
	w := world(60, ran)
	of := func(tree *sql.Tree, change string) (*table.Table, error) {
		h := fnv.New64a()
		_, _ = fmt.Fprint(h, seed, tree.Key(), change) // a hash takes everything
		r := rand.New(rand.NewPCG(h.Sum64(), 1))       //nolint:gosec // a test's
		switch n := r.IntN(40); {
		case n == 0:
			return nil, ErrSlow
		case n == 1:
			return nil, nil
		case n < 14:
			return c.Expected, nil
		case n < 27:
			return c.Got, nil
		}
		all := slices.Concat(gallerytest.Changes, madeCauses)
		changed := all[r.IntN(len(all))].Make(r, slices.Clone(lines))
		if len(changed) < 2 {
			return c.Expected, nil
		}
		return gallerytest.Table(t, changed), nil
	}
	w.Run = func(_ context.Context, tree *sql.Tree) (*table.Table, error) { *ran++; return of(tree, "") }
	w.Salted = func(_ context.Context, tree *sql.Tree, salts []Salt) (*table.Table, error) {
		return of(tree, fmt.Sprint(salts))
	}
	w.Altered = func(_ context.Context, tree *sql.Tree, steps map[string][]twin.Step) (*table.Table, error) {
		return of(tree, stepsText(steps))
	}
	w.LeftOut = func(_ context.Context, name string, steps []twin.Step) (*fault.Rows, error) {
		return &fault.Rows{Table: name, Count: int64(len(steps)), Columns: []string{"id"}, First: [][]*string{}}, nil
	}
	w.Changed = func(_ context.Context, name string, steps []twin.Step) (int64, error) {
		return int64(len(name)*len(fmt.Sprint(steps))%60) - 1, nil
	}
	return w
}

// TestTableSums holds what is said of drawn tables and what became of them, with queries beside them and without, in drawn worlds.
func TestTableSums(t *testing.T) {
	_, trees := sqltest.Known(t)
	var sums gallerytest.Sums
	all := slices.Concat(gallerytest.Changes, madeCauses)
	for n := range uint64(240) {
		r := rand.New(rand.NewPCG(n, 31)) //nolint:gosec // a test's
		lines, change := gallerytest.Lines(r), all[int(n)%len(all)]
		changed := change.Make(r, slices.Clone(lines))
		if len(changed) < 2 {
			continue
		}
		reference := trees[r.IntN(len(trees))]
		c := Case{Reference: reference, Answer: trees[r.IntN(len(trees))], Expected: gallerytest.Table(t, lines), Got: gallerytest.Table(t,
			changed),
			Columns: sqltest.Columns()}
		switch changes := edit.Changes(edit.Subject{Tree: reference, Columns: sqltest.Columns()}); {
		case n%4 == 0:
			c.Answer = nil
		case n%4 < 3 && len(changes) > 0:
			c.Answer = changes[r.IntN(len(changes))].Tree
		}
		if n%5 == 1 {
			c.Known = match.Known{Ranking: []match.Key{{Column: 0, Name: c.Expected.Columns[0].Name, Descending: n%2 == 0}}}
		}
		ran := 0
		d, err := Find(context.Background(), c, drawnWorld(n, &ran, c, lines, t))
		require.NoError(t, err)
		sums.Add(change.Name, diagnosed(d))
	}
	gallerytest.Holds(t, "table-sums.txt", sums.Text(), *update)
}
