package diagnose

import (
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/edit"
	"tovrel/core/fault"
	"tovrel/core/table"
	"tovrel/core/twin"
	"tovrel/gallerytest"
	"tovrel/sqltest"
)

// TestCopiesGallery holds what the smaller copies leave out of the tables that pairs of known queries read.
func TestCopiesGallery(t *testing.T) {
	queries, trees := sqltest.Known(t)
	rows := map[string]int64{"payments": 50, "loads": 500, "farms": 90, "kinds": 60}
	var out []string
	for i := 1; i < len(trees); i += 5 {
		j := (i + i%4) % len(trees)
		s := &search{c: Case{Reference: trees[i], Answer: trees[j], Columns: sqltest.Columns(), Rows: rows}}
		out = append(out, "# "+queries[i], "# "+queries[j])
		for _, steps := range s.smaller() {
			out = append(out, stepsText(steps))
		}
	}
	gallerytest.Holds(t, "copies.txt", strings.Join(out, "\n")+"\n", *update)
}

// TestKin: a column that is joined refers to the key of the other table: its first column; of two keys, that of the smaller table. What
// is left out of a parent is left out of its children and of theirs.
func TestKin(t *testing.T) {
	columns := map[string][]edit.Column{"a": {{Name: "a_id"}}, "b": {{Name: "b_id"}, {Name: "a_id"}}, "c": {{Name: "x"}, {Name: "b_id"}},
		"one": {{Name: "a_id"}}}
	s := &search{c: Case{Columns: columns, Rows: map[string]int64{"a": 100, "b": 90, "c": 300, "one": 40}}}
	require.True(t, s.refers(kinship{"b", "a_id", "a", "a_id"}), "also where there are fewer children")
	require.False(t, s.refers(kinship{"a", "a_id", "b", "a_id"}))
	require.False(t, s.refers(kinship{"b", "a_id", "c", "b_id"}), "no key")
	require.True(t, s.refers(kinship{"a", "a_id", "one", "A_ID"}))
	require.False(t, s.refers(kinship{"one", "a_id", "a", "a_id"}))
	require.False(t, s.refers(kinship{"a", "a_id", "a", "a_id"}))
	kin := []kinship{{"c", "b_id", "b", "b_id"}, {"b", "a_id", "a", "a_id"}}
	require.Equal(t, []string{"a", "b", "c", "one"}, parentsFirst([]string{"c", "b", "a", "one"}, kin))
	steps := s.fewerParents([]string{"a", "b", "c"}, kin, 7)
	thin := twin.Thin{OneIn: 8, Seed: 7}
	require.Equal(t, []twin.Step{thin}, steps["a"])
	require.Equal(t, []twin.Step{thin, twin.Kept{Column: "a_id", Table: "a", Key: "a_id", By: steps["a"]}}, steps["b"])
	require.Equal(t, []twin.Step{twin.Kept{Column: "b_id", Table: "b", Key: "b_id", By: steps["b"]}}, steps["c"])
	s.c.Rows["a"], s.c.Rows["b"] = fewestParents-1, fewestParents-1
	require.Empty(t, s.fewerParents([]string{"a", "b", "c"}, kin, 7), "too few parents")
}

// TestRank: of changes of the data that show a cause in the same way, the one that changes least is believed; of those that change as
// much, the one under which a query gives what was known before; one thing before two, and what is shown alike before what is not.
func TestRank(t *testing.T) {
	on := func(column string) intervention {
		return intervention{words: column, steps: map[string][]twin.Step{"loads": {twin.Present{Column: column}}}}
	}
	two := on("few")
	two.second = &intervention{}
	late := on("few")
	late.priority = 2
	shown := &fault.Fault{}
	s := &search{c: Case{Rows: map[string]int64{"loads": 100}}, counted: map[string]int64{}, w: World{Budget: Budget{Runs: 9}}}
	asked := 0
	s.w.Changed = func(_ context.Context, table string, steps []twin.Step) (int64, error) {
		asked++
		require.Equal(t, "loads", table)
		return map[string]int64{"few": 5, "many": 90, "slow": -1}[steps[0].(twin.Present).Column], nil
	}
	for name, want := range map[string][]finding{
		"fewer rows":              {{on("few"), mended, nil}, {on("many"), mended, nil}, {on("slow"), mended, nil}},
		"mended before broken":    {{on("few"), mended, nil}, {on("few"), broken, nil}, {on("few"), agreed, nil}},
		"little before much":      {{on("few"), broken, nil}, {on("many"), mended, nil}, {on("few"), agreed, nil}},
		"one before two":          {{on("few"), agreed, nil}, {two, mended, nil}},
		"alike before not":        {{on("many"), broken, nil}, {on("few"), mended, shown}, {two, broken, shown}},
		"by priority":             {{on("few"), mended, nil}, {late, mended, nil}, {on("many"), mended, nil}},
		"one alone needs no rank": {{on("other"), agreed, nil}},
	} {
		backwards := make([]finding, len(want))
		for i, f := range want {
			backwards[len(want)-1-i] = f
		}
		for _, given := range [][]finding{want, backwards} {
			got, err := s.inRank(context.Background(), given)
			require.NoError(t, err)
			require.Equal(t, want, got, name)
		}
	}
	require.Equal(t, 3, asked, "each is counted once")
	require.Equal(t, 3, s.runs)
	s.w.Runs = 3
	got, err := s.inRank(context.Background(), []finding{{on("new"), mended, nil}, {on("few"), broken, nil}})
	require.NoError(t, err)
	require.Equal(t, broken, got[0].mode, "what may not be counted changes all, as far as is known")
	require.Empty(t, s.d.Ended, "the search goes on")
}

// TestLevelsOfAnswers: of two queries that follow a hierarchy to another depth, cut data show which one goes deeper; edits find nothing.
func TestLevelsOfAnswers(t *testing.T) {
	queries, _ := sqltest.Known(t)
	last := queries[len(queries)-4:]
	for name, c := range map[string]struct {
		reference, answer string
		code              fault.Code
	}{
		"not deep enough": {last[0], last[1], fault.JoinRowsLost},
		"too deep":        {last[1], last[0], fault.JoinRowsAdded},
		"one step fewer":  {last[2], last[3], fault.JoinRowsLost},
		"one step more":   {last[3], last[2], fault.JoinRowsAdded},
	} {
		d, w := alteredCase(t, c.reference, c.answer, func(isAnswer bool, steps map[string][]twin.Step) *table.Table {
			if has[twin.Levels](steps) || !isAnswer {
				return rowsOf(7+thinnedBy(steps), 4)
			}
			return rowsOf(2+thinnedBy(steps), 4)
		})
		d.Rows["kinds"] = 60
		got, err := Find(context.Background(), d, w)
		require.NoError(t, err)
		require.Equal(t, c.code, got.Faults[0].Code, "%s: %s", name, got.Faults[0].Evidence)
		require.Equal(t, fault.Likely, got.Faults[0].Certainty)
	}
}
