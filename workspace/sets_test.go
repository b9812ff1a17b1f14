package workspace

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/gallerytest"
)

// folder makes a folder of some files.
func folder(t *testing.T, all map[string]string) string {
	t.Helper()
	dir := t.TempDir()
	for name, text := range all {
		require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, name)), 0o750))
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600))
	}
	return dir
}

const setsConfig = `tovrel: 1
datasets:
  boats: {tables: {trips: trips.csv}}
  lite: {connect: sqlite, dsn: lite.sqlite}
translators:
  a@1: {kind: pocket}
`

// setOf is a set of a name on a dataset, with the bodies of questions.
func setOf(name, dataset string, questions ...string) string {
	return fmt.Sprintf("---\ngolden-set: %s\ndataset: %s\n---\n\n%s", name, dataset, strings.Join(questions, "\n"))
}

func question(id, settings, more string) string {
	out := fmt.Sprintf("## What of %s? {#%s}\n", id, id)
	if settings != "" {
		out += "\n```yaml\n" + settings + "\n```\n"
	}
	return out + "\n" + more + "\n"
}

const oneCell = "| n |\n| -: |\n| 1 |\n"

// TestSets holds what is said of golden sets that are sound each and not together: names and datasets, expected files, dialects, files that
// nobody expects.
func TestSets(t *testing.T) {
	filed := question("filed", "expected: answers/n.csv", "```sql\nSELECT 1 AS n\n```\n")
	var got strings.Builder
	for _, c := range []struct {
		name  string
		files map[string]string
		only  []string
	}{
		{"none", nil, nil},
		{"one", map[string]string{"golden/a.md": setOf("a", "boats", question("q", "", oneCell))}, nil},
		{"two of a name", map[string]string{"golden/a.md": setOf("a", "boats", question("q", "", oneCell)),
			"golden/b.md": "\n" + setOf("a", "boats", question("q", "", oneCell))}, nil},
		{"two of a name, sound", map[string]string{"golden/a.md": setOf("a", "boats", question("q", "", oneCell)),
			"golden/b.md": setOf("a", "boats", question("q", "", oneCell))}, nil},
		{"two of no name", map[string]string{"golden/a.md": "---\ndataset: boats\n---\n", "golden/b.md": "---\ndataset: boats\n---\n"},
			nil},
		{"no such dataset", map[string]string{"golden/a.md": setOf("a", "boots", question("q", "", oneCell))}, nil},
		{"no dataset", map[string]string{"golden/a.md": setOf("a", "", question("q", "", oneCell))}, nil},
		{"another dialect", map[string]string{"golden/a.md": setOf("a", "boats", question("q", "dialect: sqlite",
			"```sql\nSELECT 1\n```\n"))}, nil},
		{"its dialect", map[string]string{"golden/a.md": setOf("a", "lite", question("q", "dialect: sqlite",
			"```sql\nSELECT 1\n```\n"))}, nil},
		{"a file that is not there", map[string]string{"golden/a.md": setOf("a", "boats", filed)}, nil},
		{"a file", map[string]string{"golden/a.md": setOf("a", "boats", filed), "golden/answers/n.csv": "n\n1\n"}, nil},
		{"stray files", map[string]string{"golden/a.md": setOf("a", "boats", filed), "golden/answers/n.csv": "n\n1\n",
			"golden/answers/m.csv": "m\n1\n", "golden/answers/k.PARQUET": "", "golden/answers/note.txt": "",
			"golden/answers/in/x.csv": "x\n"}, nil},
		{"stray files beside one set of two", map[string]string{"golden/a.md": setOf("a", "boats", filed), "golden/answers/n.csv": "n\n1\n",
			"golden/answers/m.csv": "m\n1\n", "golden/b.md": setOf("b", "boats", question("q", "", oneCell))}, []string{"golden/a.md"}},
		{"a file beside the set", map[string]string{"golden/a.md": setOf("a", "boats", question("q", "expected: n.csv",
			"```sql\nSELECT 1 AS n\n```\n")), "golden/n.csv": "n\n1\n", "golden/m.csv": "m\n1\n"}, nil},
		{"a reading's file", map[string]string{"golden/a.md": setOf("a", "boats", question("q", "", oneCell+
			"\n### Reading: other\n\n```yaml\nexpected: other.csv\n```\n"))}, nil},
	} {
		all := map[string]string{"tovrel.yaml": setsConfig}
		for name, text := range c.files {
			all[name] = text
		}
		w, err := Open(folder(t, all))
		require.NoError(t, err)
		paths := c.only
		if paths == nil {
			paths, err = w.SetFiles()
			require.NoError(t, err)
		}
		sets, problems, err := w.ReadSets(paths)
		require.NoError(t, err)
		fmt.Fprintf(&got, "%s: %d sets of %v\n", c.name, len(sets), paths)
		for _, p := range problems {
			fmt.Fprintf(&got, "  %s:%d:%d %s %s: %s; %s; %q\n", p.File, p.Line, p.Column, p.Severity, p.Code, p.Message, p.Remedy,
				p.Excerpt)
		}
	}
	w, err := Open(folder(t, map[string]string{"tovrel.yaml": setsConfig}))
	require.NoError(t, err)
	_, _, err = w.ReadSets([]string{"golden/none.md"})
	fmt.Fprintf(&got, "a set that is not there: %v\n", err)
	gallerytest.Holds(t, "sets.txt", got.String(), *update)
}

// TestChoose holds which questions are chosen by which names and tags, and what is said of names that nothing has.
func TestChoose(t *testing.T) {
	follow := "\n### Follow-up: And then? {#then}\n\n" + oneCell
	w, err := Open(folder(t, map[string]string{"tovrel.yaml": setsConfig,
		"golden/a.md": setOf("a", "boats", question("first", "tags: [x, y]", oneCell+follow), question("second", "tags: [y]", oneCell),
			question("planned", "draft: true", oneCell)),
		"golden/b.md": setOf("b", "boats", question("first", "", oneCell), question("third", "tags: [z]", oneCell), question("a", "",
			oneCell))}))
	require.NoError(t, err)
	paths, err := w.SetFiles()
	require.NoError(t, err)
	sets, problems, err := w.ReadSets(paths)
	require.NoError(t, err)
	require.Empty(t, problems)
	var got strings.Builder
	said := func(what any, chosen []Chosen, err error) {
		fmt.Fprintf(&got, "%v:", what)
		for _, c := range chosen {
			fmt.Fprintf(&got, " %s", c.Name())
		}
		if err != nil {
			fmt.Fprintf(&got, " refused: %v", err)
		}
		got.WriteString("\n")
	}
	for _, names := range [][]string{nil, {"a"}, {"b"}, {"a", "b"}, {"a/first"}, {"a/then"}, {"then"}, {"first"}, {"second"}, {"third"},
		{"b/a"},
		{"planned"}, {"a/planned"}, {"secnd"}, {"a/secnd"}, {"c/first"}, {"third", "second"}, {"second", "second"}, {"golden/a.md"},
		{"a.md"},
		{""}, {"a/"}} {
		chosen, err := Choose(sets, names)
		said(names, chosen, err)
	}
	all, err := Choose(sets, nil)
	require.NoError(t, err)
	for _, tags := range [][]string{nil, {"x"}, {"y"}, {"z"}, {"x", "z"}, {"x", "y"}, {"w"}, {"X"}} {
		chosen, err := WithTags(all, tags)
		said(fmt.Sprint("tags ", tags), chosen, err)
	}
	gallerytest.Holds(t, "chosen.txt", got.String(), *update)
}

// TestExtended holds what lines more make of settings in many layouts: nothing else of the file changes, and what would break it is
// refused.
func TestExtended(t *testing.T) {
	var got strings.Builder
	for _, text := range []string{
		"tovrel: 1\n", "tovrel: 1", "tovrel: 1\ndatasets:\n", "tovrel: 1\ndatasets: {}\n", "tovrel: 1\ndatasets: { }\n# end\n",
		"tovrel: 1\ndatasets: {d: {tables: {t: t.csv}}}\n", "tovrel: 1\ndatasets: {d: {tables: {}}}\n",
		"tovrel: 1\ndatasets: {d: {as-of: 2031-06-30}}\n",
		"tovrel: 1\ndatasets:\n  d:\n    tables:\n      t: t.csv\nrun: {parallel: 2}\n",
		"tovrel: 1\ndatasets:\n  d:\n    tables:\n      t: t.csv # kept\n\n      # a word on s\n      s: s.csv\n\n\nrun: {parallel: 2}\n",
		"tovrel: 1\ndatasets:\n    d:\n        tables:\n            t: t.csv\n", "datasets:\n  d:\n    tables: {t: t.csv}\ntovrel: 1\n",
		"tovrel: 1\ndatasets:\n  d:\n    tables: {t: t.csv,\n      s: s.csv}\n", "tovrel: 1\ndatasets:\n  e:\n    tables: {t: t.csv}\n",
		"tovrel: 1\ndatasets:\n  d:\n    as-of: 2031-06-30\n", "tovrel: 1\ndatasets:\n  d:\n    tables:\n", "tovrel: 1\ndatasets: [d]\n",
		"tovrel: 1\ndatasets:\n  d:\n    tables:\n      new: old.csv\n", "tovrel: 1\ndatasets: {d: {tables: {t: \"a}b.csv\"}}} # {}\n",
		"tovrel: 1\r\ndatasets:\r\n  d:\r\n    tables:\r\n      t: t.csv\r\n",
	} {
		dir := folder(t, map[string]string{"tovrel.yaml": text})
		w := &Workspace{Root: dir}
		for _, c := range []struct{ at, entries []string }{{[]string{"datasets", "d", "tables"}, []string{"new: new.csv",
			"more: {file: m.csv}"}},
			{[]string{"datasets", "d"}, []string{"briefing: d.yaml"}}} {
			fmt.Fprintf(&got, "%q with %q below %v\n", text, c.entries, c.at)
			_, write, err := w.Extended(c.at, c.entries)
			if err != nil {
				fmt.Fprintf(&got, "  refused: %s\n", strings.ReplaceAll(err.Error(), "\n", "\n    "))
				continue
			}
			require.NoError(t, write())
			after, err := os.ReadFile(filepath.Join(dir, "tovrel.yaml"))
			require.NoError(t, err)
			fmt.Fprintf(&got, "  %q\n", after)
			require.NoError(t, os.WriteFile(filepath.Join(dir, "tovrel.yaml"), []byte(text), 0o600))
		}
	}
	gallerytest.Holds(t, "extended.txt", got.String(), *update)
}
