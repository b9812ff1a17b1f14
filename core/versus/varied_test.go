package versus_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/versus"
)

// circumstances are two runs that were made under the same, each of three questions on one dataset.
func circumstances() (before, after versus.Side) {
	made := func(id int) versus.Side {
		s := side("t@1", map[string]string{"s/a": "r", "s/b": "w", "s/c": "f"})
		s.Run.ID, s.Run.Tool, s.Run.Settings, s.Run.Models, s.Run.Protocol = id, "1", "same", []string{"m-1"}, 1
		s.Run.Options = record.Options{Brief: "full", Repeats: 1}
		s.Run.Datasets = map[string]string{"d": "print"}
		s.Run.Under = map[string]record.Under{"d": {Told: "x", Judge: "j", Tables: map[string]string{"loads": "1", "farms": "1"}}}
		s.Run.Twins = map[string][]string{"d": {"t1"}}
		s.Told = map[string][]string{"d": {"loads.litres: unit litre"}}
		return s
	}
	return made(1), made(2)
}

// TestVaried: whatever differs between two runs beside the questions is named, with what changed inside, and moves no question's ground
// unless it is held.
func TestVaried(t *testing.T) {
	for name, c := range map[string]struct {
		change func(*versus.Side)
		want   versus.Varied
	}{
		"version": {func(s *versus.Side) { s.Run.Translator = "t@2" }, versus.Varied{What: "version", Changed: []string{"t@1 → t@2"}}},
		"translator": {func(s *versus.Side) { s.Run.Translator = "u@1" }, versus.Varied{What: "translator",
			Changed: []string{"t@1 → u@1"}}},
		"settings": {func(s *versus.Side) { s.Run.Settings = "other" },
			versus.Varied{What: "settings", Changed: []string{"what tovrel.yaml says of t@1, under the same version"}}},
		"model": {func(s *versus.Side) { s.Run.Models = []string{"m-2", "m-3"} },
			versus.Varied{What: "model", Changed: []string{"m-1 → m-2, m-3"}}},
		"model unknown": {func(s *versus.Side) { s.Run.Models = nil }, versus.Varied{What: "model", Changed: []string{"m-1 → not known"}}},
		"protocol":      {func(s *versus.Side) { s.Run.Protocol = 2 }, versus.Varied{What: "protocol", Changed: []string{"1 → 2"}}},
		"level": {func(s *versus.Side) {
			s.Run.Options.Brief = "none"
			s.Run.Under["d"] = record.Under{Told: "z", Judge: "j", Tables: s.Run.Under["d"].Tables}
		}, versus.Varied{What: "level", Changed: []string{"full → none"}}},
		"briefing": {func(s *versus.Side) {
			s.Run.Under["d"] = record.Under{Told: "y", Judge: "j", Tables: s.Run.Under["d"].Tables}
			s.Told["d"] = []string{"loads.litres: unit litre", "loads.litres: synonyms [volume]"}
		}, versus.Varied{What: "briefing", Changed: []string{"+ loads.litres: synonyms [volume]"}}},
		"data": {func(s *versus.Side) {
			s.Run.Datasets["d"] = "other"
			s.Run.Under["d"] = record.Under{Told: "x", Judge: "j", Tables: map[string]string{"loads": "2", "farms": "1"}}
		}, versus.Varied{What: "data", Changed: []string{"d.loads"}}},
		"repeats": {func(s *versus.Side) { s.Run.Options.Repeats = 3 }, versus.Varied{What: "repeats", Changed: []string{"1 → 3"}}},
		"tool":    {func(s *versus.Side) { s.Run.Tool = "2" }, versus.Varied{What: "tool", Changed: []string{"1 → 2"}}},
	} {
		before, after := circumstances()
		require.Empty(t, versus.Compare(before, after, random(1)).Varied)
		c.change(&after)
		got := versus.Compare(before, after, random(1))
		require.Equal(t, []versus.Varied{c.want}, got.Varied, name)
		require.Equal(t, 3, got.LikeForLike, "%s is no ground", name)
		held := versus.CompareWith(before, after, versus.Options{Random: random(1), Hold: versus.Holdable()})
		switch what := c.want.What; what {
		case "settings", "model", "briefing", "level":
			if what == "level" {
				what = "briefing" // what was told is another
			}
			require.Len(t, held.Moved, 3, name)
			require.Equal(t, []string{what}, held.Moved[0].Changed, name)
		default:
			require.Empty(t, held.Moved, name)
		}
	}
}

// TestVariedOfEarlierRuns: of a run that does not keep what was told, its ground tells whether that was the same.
func TestVariedOfEarlierRuns(t *testing.T) {
	before, after := circumstances()
	before.Run.Under, before.Told = nil, nil
	require.Empty(t, versus.Compare(before, after, random(1)).Varied)
	for name, g := range before.Run.Grounds {
		g.Briefing = "another"
		before.Run.Grounds[name] = g
	}
	got := versus.Compare(before, after, random(1)).Varied
	require.Len(t, got, 1)
	require.Equal(t, "briefing", got[0].What)
	require.Contains(t, got[0].Changed[0], "earlier version")
}

// TestGroundByTables: a table that a question's reference does not read moves nothing; where that is not known, all move with the dataset.
func TestGroundByTables(t *testing.T) {
	before, after := circumstances()
	set := func(s versus.Side, question, data, tables string) {
		g := s.Run.Grounds[question]
		g.Data, g.Tables = data, tables
		s.Run.Grounds[question] = g
	}
	set(before, "s/a", "old", "same")
	set(after, "s/a", "new", "same")
	set(before, "s/b", "old", "one")
	set(after, "s/b", "new", "two")
	set(before, "s/c", "old", "")
	set(after, "s/c", "new", "some")
	require.Equal(t, []versus.Moved{{Question: "s/b", Changed: []string{"data"}}, {Question: "s/c", Changed: []string{"data"}}},
		versus.Compare(before, after, random(1)).Moved)
	after.Unjudged = map[string]bool{"s/a": true}
	require.Equal(t, []string{"judge"}, versus.Compare(before, after, random(1)).Moved[0].Changed)
}

// answer is an attempt with a digest of its table and of its query.
func answer(question string, v score.Verdict, table, said string) record.Attempt {
	a := record.Attempt{Question: question, Wording: "w", Verdict: v, Answer: table, Query: said}
	if v == score.Lucky {
		a.MissedOn = []string{"t1"}
	}
	return a
}

// TestDrift: every pair of verdicts and tables, and whether it is a changed answer. Tables whose digests differ are held against each
// other.
func TestDrift(t *testing.T) {
	verdicts := []score.Verdict{score.Right, score.Lucky, score.Wrong, score.Failed}
	pair := func(x, y record.Attempt, alike versus.Alike) versus.Drift {
		before, after := circumstances()
		before.Attempts, after.Attempts = []record.Attempt{x}, []record.Attempt{y}
		return versus.CompareWith(before, after, versus.Options{Random: random(1), Alike: alike}).Drift
	}
	fits := func(v score.Verdict) bool { return v == score.Right || v == score.Lucky }
	table := func(v score.Verdict, name string) string {
		if v == score.Failed {
			return ""
		}
		return name
	}
	for _, x := range verdicts {
		for _, y := range verdicts {
			for _, same := range []bool{true, false} {
				other := map[bool]string{true: "one", false: "two"}[same]
				got := pair(answer("s/a", x, table(x, "one"), "q"), answer("s/a", y, table(y, other), "p"),
					func(string, record.Light, record.Light) bool { return false })
				changed := fits(x) != fits(y) || (x == score.Failed) != (y == score.Failed) ||
					x == score.Wrong && y == score.Wrong && !same
				name := fmt.Sprintf("%s → %s, the same table %v", x, y, same)
				require.Equal(t, 1, got.Questions, name)
				require.Equal(t, 1, got.Queries, name)
				require.Equal(t, changed, len(got.Changed) == 1, name)
				if changed {
					require.Equal(t, map[versus.Step]int{{Was: x, Is: y}: 1}, got.Steps, name)
				}
			}
		}
	}
	wrong := func(table, said string) record.Attempt { return answer("s/a", score.Wrong, table, said) }
	asked := 0
	got := pair(wrong("one", "q"), wrong("two", "q"), func(question string, _, _ record.Light) bool {
		asked++
		return question == "s/a"
	})
	require.Empty(t, got.Changed, "the tables are the same under the question's rules")
	require.Zero(t, got.Queries)
	require.Equal(t, 1, asked)
	require.Equal(t, []string{"s/a"}, pair(wrong("", "these words"), wrong("", "other words"), nil).Changed, "answers in words")
	require.Empty(t, pair(wrong("", "these words"), wrong("", "these words"), nil).Changed)
	require.Equal(t, []string{"s/a"}, pair(wrong("one", "q"), wrong("", "q"), nil).Changed)
	unheard := record.Attempt{Question: "s/a", Wording: "w", Verdict: score.Unscored}
	none := pair(unheard, wrong("one", "q"), nil)
	require.Zero(t, none.Questions, "nothing came: nothing changed")
	require.Nil(t, none.Share())
}

// TestMatrix: every question with its standing in each run, and who alone is right.
func TestMatrix(t *testing.T) {
	one := side("a@1", map[string]string{"s/all": "r", "s/alone": "r", "s/none": "w", "s/only": "r", "s/shaky": "rw"})
	two := side("b@1", map[string]string{"s/all": "r", "s/alone": "w", "s/none": "f", "s/shaky": "rr"})
	three := side("c@1", map[string]string{"s/all": "r", "s/alone": "u", "s/none": "w", "s/moved": "r"})
	one.Run.ID, two.Run.ID, three.Run.ID = 7, 9, 9
	got := versus.CompareAll([]versus.Side{one, two, three}, versus.Options{Random: random(1)})
	const solid, flaky, broken, open = score.Solid, score.Flaky, score.Broken, score.Open
	require.Equal(t, []versus.Row{
		{Question: "s/all", Standings: []score.Standing{solid, solid, solid}, Alone: -1},
		{Question: "s/alone", Standings: []score.Standing{solid, broken, open}, Differ: true, Alone: 0},
		{Question: "s/moved", Standings: []score.Standing{"", "", solid}, Alone: -1},
		{Question: "s/none", Standings: []score.Standing{broken, broken, broken}, Alone: -1},
		{Question: "s/only", Standings: []score.Standing{solid, "", ""}, Alone: -1},
		{Question: "s/shaky", Standings: []score.Standing{flaky, solid, ""}, Differ: true, Alone: 1},
	}, got.Matrix)
	require.Equal(t, [][]string{{"s/alone"}, {"s/shaky"}, nil}, got.AloneRight())
	require.Equal(t, []string{"7", "B", "C"}, versus.Names(got.Sides), "a number names one run")

	g := two.Run.Grounds["s/alone"]
	g.Expected = "another"
	two.Run.Grounds["s/alone"] = g
	row := versus.CompareAll([]versus.Side{one, two, three}, versus.Options{Random: random(1)}).Matrix[1]
	require.True(t, row.Moved)
	require.Equal(t, -1, row.Alone, "on another ground nobody is alone right")
}
