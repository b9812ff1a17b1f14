package diagnose

import (
	"context"
	"flag"
	"fmt"
	"hash/fnv"
	"maps"
	"math/rand/v2"
	"slices"
	"strconv"
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
	for i := 0; i < len(trees); i += 6 {
		j := (i + 1 + i%7) % len(trees)
		c := Case{Reference: trees[i], Answer: trees[j], Expected: rowsOf(1, 3), Got: rowsOf(2, 2+i%3), Columns: sqltest.Columns()}
		of := sidesOf(c)
		out = append(out, "# "+queries[i], "# "+queries[j])
		for _, one := range slices.Concat(interventions(c), of.oneValue(), of.setAside(), of.constantKeys(), of.oneKey(), of.oneEach(),
			of.unitMeasures(), of.levels()) {
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

// madeCauses are what mistakes make of an answer's rows, besides what may become of any.
var madeCauses = []gallerytest.Change{
	{Name: "the first rows", Make: func(r *rand.Rand, l []string) []string { return l[:2+r.IntN(max(1, len(l)-2))] }},
	{Name: "a row of totals", Make: func(_ *rand.Rand, l []string) []string {
		return append(l, strings.Join(totals(l), ","))
	}},
	{Name: "by one row later", Make: func(_ *rand.Rand, l []string) []string {
		for i := len(l) - 1; i > 1; i-- {
			l[i] = withNumbersOf(l[i], l[i-1])
		}
		return l
	}},
	{Name: "negated", Make: func(_ *rand.Rand, l []string) []string { return eachNumber(l, -1) }},
	{Name: "in thousands", Make: func(_ *rand.Rand, l []string) []string { return eachNumber(l, 0.001) }},
	{Name: "twofold", Make: func(_ *rand.Rand, l []string) []string { return eachNumber(l, 2) }},
	{Name: "none", Make: func(_ *rand.Rand, l []string) []string { return l[:1] }},
}

func eachNumber(lines []string, factor float64) []string {
	for column := range strings.Count(lines[0], ",") + 1 {
		lines = gallerytest.EachCell(lines, column, func(cell string) string {
			if f, err := strconv.ParseFloat(cell, 64); err == nil {
				return strconv.FormatFloat(f*factor, 'f', -1, 64)
			}
			return cell
		})
	}
	return lines
}

// totals is a row with what the numbers of each column come to.
func totals(lines []string) []string {
	out := make([]string, strings.Count(lines[0], ",")+1)
	for column := range out {
		sum, numbers := 0.0, false
		for _, line := range lines[1:] {
			if f, err := strconv.ParseFloat(strings.Split(line, ",")[column], 64); err == nil {
				sum, numbers = sum+f, true
			}
		}
		if out[column] = "Total"; numbers {
			out[column] = strconv.FormatFloat(sum, 'f', -1, 64)
		}
	}
	return out
}

// withNumbersOf is a line with the numbers of another.
func withNumbersOf(line, other string) string {
	cells, others := strings.Split(line, ","), strings.Split(other, ",")
	for i := range cells {
		if _, err := strconv.ParseFloat(others[i], 64); err == nil {
			cells[i] = others[i]
		}
	}
	return strings.Join(cells, ",")
}

// TestTablesGallery holds what the two tables alone say of drawn answers.
func TestTablesGallery(t *testing.T) {
	var out []string
	changes := slices.Concat(gallerytest.Changes, madeCauses, madeCauses)
	for n := range uint64(150) {
		r := rand.New(rand.NewPCG(n, 43)) //nolint:gosec // a test's
		lines := gallerytest.Lines(r)
		change := changes[r.IntN(len(changes))]
		answer := change.Make(r, slices.Clone(lines))
		c := Case{Expected: gallerytest.Table(t, lines), Got: gallerytest.Table(t, answer)}
		d, err := Find(context.Background(), c, World{Now: time.Now, Budget: Budget{Runs: 9, Net: time.Hour}})
		require.NoError(t, err)
		line := fmt.Sprintf("%d %s, %d rows of %d columns:", n, change.Name, len(lines)-1, len(c.Expected.Columns))
		for _, f := range d.Faults {
			line += fmt.Sprintf(" %s %s: %s;", f.Certainty, f.Code, f.Evidence)
		}
		out = append(out, line)
	}
	gallerytest.Holds(t, "tables.txt", strings.Join(out, "\n")+"\n", *update)
}

// TestTwoMistakesGallery holds what a search says of two mistakes in one query, in a world where edits give nothing and where data on which
// a column cannot matter hide all that queries say of it.
func TestTwoMistakesGallery(t *testing.T) {
	queries, trees := sqltest.Known(t)
	var out []string
	for i := 0; i < len(trees); i += 3 {
		reference := trees[i]
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
		known := map[*sql.Tree]sql.Features{}
		c := Case{Reference: reference, Answer: b.Tree, Expected: hiding(known, reference, nil), Got: hiding(known, b.Tree, nil),
			Columns: sqltest.Columns(), Rows: map[string]int64{"payments": 50, "loads": 500, "farms": 9}}
		d, err := Find(context.Background(), c, hidingWorld(known))
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

func hidingWorld(known map[*sql.Tree]sql.Features) World {
	return World{
		Run: func(_ context.Context, _ *sql.Tree) (*table.Table, error) { return nil, nil },
		Altered: func(_ context.Context, tree *sql.Tree, steps map[string][]twin.Step) (*table.Table, error) {
			return hiding(known, tree, steps), nil
		},
		Now: time.Now, Budget: Budget{Runs: DefaultRuns, Net: time.Hour},
	}
}

// hiding is what a query, whose features are kept, gives where steps hide all features that speak of the columns that they name.
func hiding(known map[*sql.Tree]sql.Features, tree *sql.Tree, steps map[string][]twin.Step) *table.Table {
	features, has := known[tree]
	if !has {
		var err error
		if features, err = tree.Features(); err != nil {
			return nil
		}
		known[tree] = features
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
