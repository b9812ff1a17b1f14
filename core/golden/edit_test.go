package golden

import (
	"bytes"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// document draws a golden set as people write them: with notes, settings, queries, tables, readings, follow-ups and either line ends.
func document(t *rapid.T) *Set {
	var b strings.Builder
	b.WriteString("---\ngolden-set: s # the name\ndataset: d\n---\n\n# A set\n\nWords about it, with `code` and | bars |.\n")
	some := func(name, text string) {
		if rapid.Bool().Draw(t, name) {
			b.WriteString("\n" + text)
		}
	}
	answer := func(n int) {
		query := rapid.Bool().Draw(t, "query")
		if query {
			fmt.Fprintf(&b, "\n```sql\nSELECT %d AS n -- ## no heading\n```\n", n)
		}
		if rapid.Bool().Draw(t, "table") || !query {
			fmt.Fprintf(&b, "\n| n |\n| -: |\n| %d |\n", n)
		}
	}
	for i := range rapid.IntRange(1, 4).Draw(t, "questions") {
		fmt.Fprintf(&b, "\n## How many of %d? {#q%d}\n", i, i)
		some("note", "A note: it's *so*.\n")
		some("settings", rapid.SampledFrom([]string{"```yaml\ntags: [a, b] # two\n```\n",
			"```yaml\nalso-asked:\n  - Count of it\n  - Another\nweight: 2\n```\n",
			"```yaml\n# only a comment\ntags: [x]\nrules:\n  ties: strict\n```\n"}).Draw(t, "block"))
		answer(i)
		for r := range rapid.IntRange(0, 2).Draw(t, "readings") {
			fmt.Fprintf(&b, "\n### Reading: way %d\n", r)
			answer(10*i + r)
		}
		if rapid.Bool().Draw(t, "follow-up") {
			fmt.Fprintf(&b, "\n### Follow-up: And of %d? {#f%d}\n", i, i)
			answer(100 + i)
		}
	}
	text := b.String()
	switch rapid.IntRange(0, 3).Draw(t, "end") {
	case 0:
		text = strings.TrimSuffix(text, "\n")
	case 1:
		text += "\n\n"
	}
	if rapid.Bool().Draw(t, "windows") {
		text = strings.ReplaceAll(text, "\n", "\r\n")
	}
	set, problems := Parse("s.md", []byte(text))
	require.Empty(t, problems, text)
	require.True(t, set.Sound)
	return set
}

// told is a set's questions with all that is said of them.
func told(s *Set) map[string]string {
	out := map[string]string{}
	say := func(name string, a Answer) {
		text := a.Query
		if a.Table != nil {
			if table, err := a.Table.Typed(nil); err == nil {
				text += " " + fmt.Sprint(table.Row(0))
			}
		}
		out[name] = text
	}
	for _, q := range s.All() {
		say(q.ID, q.Answer)
		out[q.ID+" settings"] = fmt.Sprint(q.Text, q.AlsoAsked, q.Tags, q.Weight, q.Difficulty, q.Rules)
		for _, r := range q.Readings {
			say(q.ID+" reading "+r.Title, r.Answer)
		}
	}
	return out
}

// onlyChanged holds that of what a set tells only some names differ.
func onlyChanged(t *rapid.T, before map[string]string, after *Set, names ...string) {
	now := told(after)
	for name, text := range before {
		if !slices.Contains(names, name) {
			require.Equal(t, text, now[name], "%s changed in\n%s", name, after.Text())
		}
	}
	for name := range now {
		if _, was := before[name]; !was {
			require.True(t, slices.Contains(names, name), "%s is new in\n%s", name, after.Text())
		}
	}
}

// around holds that an edit left all bytes alone but for one stretch, and gives that stretch before and after.
func around(before, after []byte) (was, is string) {
	start := 0
	for start < len(before) && start < len(after) && before[start] == after[start] {
		start++
	}
	end := 0
	for end < len(before)-start && end < len(after)-start && before[len(before)-1-end] == after[len(after)-1-end] {
		end++
	}
	return string(before[start : len(before)-end]), string(after[start : len(after)-end])
}

// again reads an edited set, whose line ends must be those that it had.
func again(t *rapid.T, s *Set, edited []byte, err error) *Set {
	require.NoError(t, err, "%s", s.Text())
	if bytes.Contains(s.Text(), []byte("\r\n")) {
		require.Equal(t, bytes.Count(edited, []byte("\n")), bytes.Count(edited, []byte("\r\n")), "%q", edited)
	} else {
		require.NotContains(t, string(edited), "\r")
	}
	set, problems := Parse("s.md", edited)
	require.Empty(t, problems, "%s", edited)
	return set
}

// TestReplacedTables: another table stands where the old one stood, and every other byte stays.
func TestReplacedTables(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := document(t)
		before := told(s)
		q := rapid.SampledFrom(s.All()).Draw(t, "question")
		table := "| n |\n| -: |\n| 4711 |"
		edited, err := s.ReplaceTables(map[*Answer]string{&q.Answer: table})
		after := again(t, s, edited, err)
		onlyChanged(t, before, after, q.ID)
		require.Contains(t, told(after)[q.ID], "4711")
		was, is := around(s.Text(), edited)
		require.LessOrEqual(t, len(was), len("| n |\r\n| -: |\r\n| 100 |\r\n"), "%q became %q", was, is)
	})
}

// TestAddedReadings: a reading stands behind those that a question has, and nothing else changes.
func TestAddedReadings(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := document(t)
		before := told(s)
		q := rapid.SampledFrom(s.All()).Draw(t, "question")
		edited, err := s.AddReading(q, "a new way", Answered{Query: "SELECT 4711 AS n", Table: "| n |\n| -: |\n| 4711 |",
			Accepted: "{run: 12, date: 2031-06-30, by: Ann}"})
		if q.After != nil && err != nil {
			return // a follow-up has no readings of its own
		}
		after := again(t, s, edited, err)
		onlyChanged(t, before, after, q.ID+" reading a new way")
		readings := after.QuestionOf(q.ID).Readings
		require.Len(t, readings, len(q.Readings)+1)
		require.Equal(t, "a new way", readings[len(readings)-1].Title)
		was, _ := around(s.Text(), edited)
		require.Empty(t, strings.TrimSpace(was), "nothing is taken away")
		_, err = after.AddReading(after.QuestionOf(q.ID), "a new way", Answered{Query: "SELECT 1", Accepted: "{run: 1}"})
		require.Error(t, err, "a title is taken once")
	})
}

// TestAddedQuestions: a question stands at the end, and nothing else changes.
func TestAddedQuestions(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := document(t)
		before := told(s)
		text := rapid.SampledFrom([]string{"How many?", "What [is] a_b * c | d # e?", "`code`, <tag> & \\ {#x}"}).Draw(t, "text")
		note := rapid.SampledFrom([]string{"", "A note."}).Draw(t, "note")
		edited, err := s.Add(New{ID: "new", Text: text, Note: note, Settings: []Setting{{"tags", "[a, b]"}},
			Answered: Answered{Query: "SELECT 4711 AS n"}})
		after := again(t, s, edited, err)
		onlyChanged(t, before, after, "new", "new settings")
		require.True(t, bytes.HasPrefix(edited, s.Text()), "all that was there stays")
		added := after.QuestionOf("new")
		require.Equal(t, text, added.Text)
		require.Equal(t, []string{"a", "b"}, added.Tags)
		require.Equal(t, "SELECT 4711 AS n", added.Answer.Query)
		_, err = after.Add(New{ID: "new", Text: "x", Answered: Answered{Query: "SELECT 1"}})
		require.Error(t, err, "an id is taken once")
		_, err = s.Add(New{ID: "a b", Text: "x", Answered: Answered{Query: "SELECT 1"}})
		require.ErrorContains(t, err, `"a b" cannot be an id`)
		require.Equal(t, "how-many-2", begun(t, "how-many").FreeID("How many?"))
	})
}

// begun is a set of one question.
func begun(t *rapid.T, id string) *Set {
	s, problems := Parse("b.md", Begin("b", "d"))
	require.Len(t, problems, 1, "it has no questions yet")
	text, err := s.Add(New{ID: id, Text: "How many?", Answered: Answered{Query: "SELECT 1"}})
	require.NoError(t, err)
	s, problems = Parse("b.md", text)
	require.Empty(t, problems)
	return s
}

// TestEditedQuestions: what is changed of a question is changed, keys that are not named stay with their comments, and no other question
// changes.
func TestEditedQuestions(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := document(t)
		before := told(s)
		q := rapid.SampledFrom(s.All()).Draw(t, "question")
		e := Edit{}
		var changed []string
		if rapid.Bool().Draw(t, "new text") {
			e.Text = "What *now*?"
			changed = append(changed, q.ID+" settings")
		}
		if rapid.Bool().Draw(t, "new tags") {
			e.Settings = append(e.Settings, Setting{"tags", "[z]"})
			changed = append(changed, q.ID+" settings")
		}
		if rapid.Bool().Draw(t, "new weight") {
			e.Settings = append(e.Settings, Setting{"weight", "3"})
			changed = append(changed, q.ID+" settings")
		}
		if q.Answer.Query != "" && rapid.Bool().Draw(t, "new query") {
			e.Query = "SELECT 4711 AS n"
			changed = append(changed, q.ID)
		}
		if q.Answer.Table != nil && rapid.Bool().Draw(t, "new table") {
			e.Table = "| n |\n| -: |\n| 4711 |"
			changed = append(changed, q.ID)
		}
		edited, err := s.EditQuestion(q, e)
		after := again(t, s, edited, err)
		onlyChanged(t, before, after, changed...)
		now := after.QuestionOf(q.ID)
		if e.Text != "" {
			require.Equal(t, e.Text, now.Text)
		}
		for _, setting := range e.Settings {
			if setting.Key == "tags" {
				require.Equal(t, []string{"z"}, now.Tags)
			} else {
				require.InDelta(t, 3, now.Weight, 0)
			}
		}
		require.Equal(t, q.AlsoAsked, now.AlsoAsked)
		if e.Query != "" {
			require.Equal(t, "SELECT 4711 AS n", now.Answer.Query)
		}
		if len(changed) == 0 {
			require.Equal(t, string(s.Text()), string(edited), "no change changes nothing")
		}
		require.Equal(t, bytes.Count(s.Text(), []byte("comment")), bytes.Count(edited, []byte("comment")))
	})
}

// TestReplacedAnswers: another answer stands in a question's place; its readings, its settings and all other questions stay.
func TestReplacedAnswers(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := document(t)
		before := told(s)
		q := rapid.SampledFrom(s.All()).Draw(t, "question")
		a := Answered{Table: "| n |\n| -: |\n| 4711 |", Accepted: "{run: 12, date: 2031-06-30, by: Ann}"}
		if rapid.Bool().Draw(t, "with a query") {
			a.Query = "SELECT 4711 AS n"
		}
		edited, err := s.ReplaceAnswer(q, a)
		after := again(t, s, edited, err)
		onlyChanged(t, before, after, q.ID)
		now := after.QuestionOf(q.ID).Answer
		require.Equal(t, a.Query, now.Query)
		require.Contains(t, told(after)[q.ID], "4711")
		require.Contains(t, string(edited), "accepted: {run: 12, date: 2031-06-30, by: Ann}")
		require.Equal(t, bytes.Count(s.Text(), []byte("A note")), bytes.Count(edited, []byte("A note")))
	})
}
