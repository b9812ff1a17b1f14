package upkeep_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/golden"
	"tovrel/core/table"
	"tovrel/files"
	"tovrel/upkeep"
	"tovrel/workspace"
)

const document = "---\ngolden-set: s\ndataset: d\n---\n\n## How many? {#q}\n\nA note.\n\n```sql\nSELECT 1 AS n\n```\n\n## " +
	"What else? {#r}\n\n| n |\n|--:|\n| 2 |\n"

// set writes the document into a workspace of its own.
func set(t *testing.T) (*workspace.Workspace, *golden.Set) {
	t.Helper()
	w := &workspace.Workspace{Root: t.TempDir()}
	require.NoError(t, os.MkdirAll(filepath.Join(w.Root, "golden"), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(w.Root, "golden/s.md"), []byte(document), 0o644))
	parsed, problems := golden.Parse("golden/s.md", []byte(document))
	require.Empty(t, problems)
	return w, parsed
}

func numbers(t *testing.T, n int) *table.Table {
	t.Helper()
	var rows [][]table.Cell
	for i := range n {
		rows = append(rows, []table.Cell{{Text: string(rune('0' + i%10))}})
	}
	out, err := table.FromRows([]string{"n"}, rows)
	require.NoError(t, err)
	return out
}

// TestAccept: an answer becomes a reading with a title of its own or the expected answer, a large one a file beside the set; who
// accepted it stands in the document, and every other byte stays.
func TestAccept(t *testing.T) {
	for name, c := range map[string]struct {
		question string
		what     upkeep.Accepting
		title    string
		file     string
	}{
		"a reading": {"q", upkeep.Accepting{Query: "SELECT 3 AS n", Rows: numbers(t, 1), Run: 7, Translator: "scribe@2",
			By: "Ada", On: "2031-06-30"}, "as scribe@2 answered", ""},
		"with a title": {"q", upkeep.Accepting{Query: "SELECT 3 AS n", Rows: numbers(t, 1), Run: 7, Title: "by day", By: "Ada",
			On: "2031-06-30"}, "by day", ""},
		"in place": {"r", upkeep.Accepting{Query: "SELECT 3 AS n", Rows: numbers(t, 1), Run: 7, Replace: true, By: "Ada",
			On: "2031-06-30"}, "", ""},
		"a large one": {"q", upkeep.Accepting{Query: "SELECT n FROM t", Rows: numbers(t, 41), Run: 7, Title: "all", By: "Ada",
			On: "2031-06-30"}, "all", "answers/q-run7.csv"},
	} {
		t.Run(name, func(t *testing.T) {
			w, s := set(t)
			accepted, err := upkeep.Accept(workspace.Chosen{Set: s, Question: s.QuestionOf(c.question)}, c.what)
			require.NoError(t, err)
			require.Equal(t, c.title, accepted.Title)
			require.Equal(t, c.file, accepted.File)
			changes, err := accepted.Changes(w, s)
			require.NoError(t, err)
			require.NoError(t, files.WriteAll(changes))
			text, err := os.ReadFile(filepath.Join(w.Root, "golden/s.md"))
			require.NoError(t, err)
			require.Contains(t, string(text), `{run: 7, date: 2031-06-30, by: "Ada"}`)
			again, problems := golden.Parse("golden/s.md", text)
			require.Empty(t, problems)
			q := again.QuestionOf(c.question)
			answer, err := q.ReadingOf(c.title)
			require.NoError(t, err)
			require.Equal(t, c.what.Query, answer.Query)
			if c.file != "" {
				rows, err := os.ReadFile(w.ExpectedPath(s, golden.Answer{File: c.file}))
				require.NoError(t, err)
				require.Contains(t, string(rows), "n\n0\n1\n2\n")
			}
			require.Contains(t, string(text), "\n\nA note.\n\n", "what nobody changed stays")
		})
	}
}

// TestAcceptTwice: a second answer of one translator gets a title of its own, and a document that changed meanwhile is left alone.
func TestAcceptTwice(t *testing.T) {
	w, s := set(t)
	what := upkeep.Accepting{Query: "SELECT 3 AS n", Rows: numbers(t, 1), Run: 7, Translator: "scribe@2", By: "Ada", On: "2031-06-30"}
	first, err := upkeep.Accept(workspace.Chosen{Set: s, Question: s.QuestionOf("q")}, what)
	require.NoError(t, err)
	changes, err := first.Changes(w, s)
	require.NoError(t, err)
	require.NoError(t, files.WriteAll(changes))
	require.ErrorContains(t, files.WriteAll(changes), "has changed since it was read")

	text, err := os.ReadFile(filepath.Join(w.Root, "golden/s.md"))
	require.NoError(t, err)
	now, _ := golden.Parse("golden/s.md", text)
	what.Query = "SELECT 4 AS n"
	second, err := upkeep.Accept(workspace.Chosen{Set: now, Question: now.QuestionOf("q")}, what)
	require.NoError(t, err)
	require.Equal(t, "as scribe@2 answered, 2", second.Title)
}
