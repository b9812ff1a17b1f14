package golden_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/golden"
)

// roles is a set with one question for two roles and two tiers, and a follow-up.
const roles = `---
golden-set: sales
dataset: shop
---

## What did {{role}} sell? {#sold}

` + "```yaml\nfor: {role: [north, \"o'south\"], tier: [gold, sil ver]}\nalso-asked: [\"Sales of {{ role }}, {{tier}}\"]\nformerly: " +
	"[old]\n```" + `

` + "```sql\nSELECT sum(n) AS n FROM sales WHERE role = {{role}} AND tier = {{tier}}\n```" + `

### For role north, tier gold

| n |
| -: |
| 3 |

### Reading: of {{role}} twice

` + "```sql\nSELECT 2 * sum(n) AS n FROM sales WHERE role = {{role}}\n```" + `

### Follow-up: And {{role}} before? {#before}

` + "```sql\nSELECT 1 AS n WHERE {{role}} <> ''\n```" + `

## Plain? {#plain}

` + "```sql\nSELECT 1 AS one\n```\n"

// TestVariants: a question with parameters is asked once for each combination, with its values in the text as they are and in SQL as
// literals, its follow-ups with it, and its own table where it has one.
func TestVariants(t *testing.T) {
	set, problems := golden.Parse("sales.md", []byte(roles))
	require.Empty(t, problems)
	var ids []string
	each := set.Each()
	for _, q := range each {
		ids = append(ids, q.ID)
	}
	require.Equal(t, []string{"sold@role=north,tier=gold", "before@role=north,tier=gold", "sold@role=north,tier=sil-ver",
		"before@role=north,tier=sil-ver", "sold@role=o-south,tier=gold", "before@role=o-south,tier=gold",
		"sold@role=o-south,tier=sil-ver", "before@role=o-south,tier=sil-ver", "plain"}, ids)
	q := each[6]
	require.Equal(t, []string{"What did o'south sell?", "Sales of o'south, sil ver"}, q.Wordings())
	require.Equal(t, "SELECT sum(n) AS n FROM sales WHERE role = 'o''south' AND tier = 'sil ver'", q.Answer.Query)
	require.Equal(t, map[string]string{"role": "o'south", "tier": "sil ver"}, q.User)
	require.Equal(t, "of o'south twice", q.Readings[0].Title)
	require.Equal(t, "SELECT 2 * sum(n) AS n FROM sales WHERE role = 'o''south'", q.Readings[0].Answer.Query)
	require.Equal(t, []string{"old@role=o-south,tier=sil-ver"}, q.Formerly)
	require.Nil(t, q.Answer.Table, "its table is none of north")
	require.NotNil(t, each[0].Answer.Table)
	require.Same(t, q, each[7].After, "the conversation is of one combination")
	require.Equal(t, "And o'south before?", q.FollowUps[0].Text)
	require.Len(t, set.All(), 3, "as it is written there are three questions")
	require.Same(t, set.Questions[0], q.Base)
	require.Nil(t, each[8].Base)
}

// TestRoleDefects: what is wrong with parameters is said at its line, with what to write.
func TestRoleDefects(t *testing.T) {
	for name, c := range map[string]struct{ from, to, want string }{
		"unknown value": {"### For role north, tier gold", "### For role west, tier gold",
			"18: \"role west, tier gold\" is none of the combinations"},
		"a value missing":   {"### For role north, tier gold", "### For role north", "is none of the combinations"},
		"unknown parameter": {"{{role}} sell", "{{rule}} sell", "{{rule}} is no parameter"},
		"no values":         {"tier: [gold, sil ver]", "tier: []", "has no values"},
		"two alike":         {"tier: [gold, sil ver]", "tier: [sil ver, sil-ver]", "are one in the id"},
		"in a follow-up": {"### Follow-up: And {{role}} before? {#before}\n",
			"### Follow-up: And {{role}} before? {#before}\n\n```yaml\nfor: {role: [x]}\n```\n",
			"a follow-up has the parameters of its question"},
		"twice": {"### Reading",
			"### For tier gold, role north\n\n| n |\n| -: |\n| 4 |\n\n### Reading", "answered in line"},
		"too many": {"tier: [gold, sil ver]", "tier: [" + strings.TrimSuffix(numbers(101), ", ") + "]", "makes 202 questions of one"},
	} {
		text := strings.Replace(roles, c.from, c.to, 1)
		require.NotEqual(t, roles, text, name)
		_, problems := golden.Parse("sales.md", []byte(text))
		require.NotEmpty(t, problems, name)
		var all []string
		for _, p := range problems {
			all = append(all, fmt.Sprintf("%d: %s; %s", p.Line, p.Message, p.Remedy))
		}
		require.Contains(t, strings.Join(all, "\n"), c.want, name)
	}
}

func numbers(n int) string {
	var b strings.Builder
	for i := range n {
		fmt.Fprintf(&b, "t%d, ", i)
	}
	return b.String()
}

// TestRolesOnly: where every combination has a table of its own, nothing else is needed.
func TestRolesOnly(t *testing.T) {
	text := "---\ngolden-set: s\ndataset: d\n---\n\n## Mine? {#mine}\n\n```yaml\nfor: {role: [a, b]}\n```\n\n### For role a\n\n| n |\n| " +
		"- |\n| 1 |\n" +
		"\n### For role b\n\n| n |\n| - |\n| 2 |\n"
	set, problems := golden.Parse("s.md", []byte(text))
	require.Empty(t, problems)
	require.Len(t, set.Each(), 2)
	_, problems = golden.Parse("s.md", []byte(strings.Replace(text, "role b", "role a", 1)))
	require.NotEmpty(t, problems)
	_, problems = golden.Parse("s.md", []byte(text[:strings.Index(text, "\n### For role b")]))
	require.Contains(t, problems[0].Message, "expects nothing", "one is missing")
}
