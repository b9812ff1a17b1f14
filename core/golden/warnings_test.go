package golden_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/golden"
)

// TestWarnings: each warning where it belongs, and none for a sound set.
func TestWarnings(t *testing.T) {
	const table = "| a |\n|---|\n| 7 |\n"
	for _, c := range []struct {
		name, questions string
		dated           bool
		want            string // code and line
	}{
		{"a sound set", "## How many? {#a}\n\n" + table, true, ""},
		{"a wording twice", "## How many? {#a}\n\n```yaml\nalso-asked: [how MANY]\n```\n\n" + table, true, "same-wording 6"},
		{"a question twice", "## How many? {#a}\n\n" + table + "\n## how many {#b}\n\n" + table, true, "same-question 12"},
		{"follow-ups may be worded alike", "## How many? {#a}\n\n" + table + "\n### Follow-up: And before? {#b}\n\n" + table +
			"\n## How few? {#c}\n\n" + table + "\n### Follow-up: And before? {#d}\n\n" + table, true, ""},
		{"a reading like the answer", "## How many? {#a}\n\n```sql\nSELECT 1 AS a\n```\n\n### Reading: other\n\n```sql\n" +
			"SELECT 1\n  AS a\n```\n", true, "same-reading 12"},
		{"the clock", "## How many? {#a}\n\n```sql\nSELECT current_date AS a\n```\n", false, "clock-without-as-of 9"},
		{"the clock of a dataset with an as-of", "## How many? {#a}\n\n```sql\nSELECT current_date AS a\n```\n", true, ""},
		{"an empty answer", "## How many? {#a}\n\n| a |\n|---|\n", true, "empty-answer 8"},
		{"a trivial answer", "## How many? {#a}\n\n| a |\n|---|\n| 0 |\n", true, "trivial-answer 8"},
		{"a tag once", "## How many? {#a}\n\n```yaml\ntags: [lone, twice]\n```\n\n" + table +
			"\n## How few? {#b}\n\n```yaml\ntags: [twice, front]\n```\n\n" + table, true, "lone-tag 6"},
	} {
		set, problems := golden.Parse("s.md", []byte("---\ngolden-set: s\ndataset: d\ntags: [front]\n---\n"+c.questions))
		require.Empty(t, problems, c.name)
		var got []string
		for _, p := range golden.Warnings([]*golden.Set{set}, func(string) bool { return c.dated }) {
			require.NotEmpty(t, p.Remedy, c.name)
			got = append(got, p.Code+" "+strings.Split(p.Position.String(), ":")[1])
		}
		require.Equal(t, c.want, strings.Join(got, ", "), c.name)
	}
}
