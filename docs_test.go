package main_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/score"
)

// documents are the texts that people read.
func documents(t *testing.T) map[string]string {
	t.Helper()
	paths, err := filepath.Glob("docs/guide/*.md")
	require.NoError(t, err)
	texts := map[string]string{}
	for _, path := range append(paths, "README.md", "CONTRIBUTING.md", "docs/architecture.md", "docs/measurements.md") {
		body, err := os.ReadFile(path)
		require.NoError(t, err)
		texts[path] = string(body)
	}
	return texts
}

var link = regexp.MustCompile(`\]\(([^)#]+)(?:#[^)]*)?\)`)

// TestLinks: what a document points to is there.
func TestLinks(t *testing.T) {
	for path, body := range documents(t) {
		for _, m := range link.FindAllStringSubmatch(body, -1) {
			if strings.Contains(m[1], "://") {
				continue
			}
			_, err := os.Stat(filepath.Join(filepath.Dir(path), m[1]))
			require.NoError(t, err, "%s points to %s", path, m[1])
		}
	}
}

// TestWordsAreExplained: each fault, verdict and standing stands in the guides.
func TestWordsAreExplained(t *testing.T) {
	texts := documents(t)
	for _, code := range fault.Codes() {
		require.Regexp(t, "(?m)^\\| `"+string(code)+"` \\|[^|]*[^| ][^|]*\\|", texts["docs/guide/faults.md"],
			"the guide to faults explains it, with an example")
	}
	glossary := texts["docs/guide/glossary.md"]
	for _, v := range score.Verdicts() {
		if v != score.Right && v != score.Wrong {
			require.Contains(t, glossary, "| **"+string(v)+"** |")
		}
	}
	for _, s := range score.Standings() {
		require.Contains(t, glossary, "| **"+string(s)+"** |")
	}
	last := ""
	for _, m := range regexp.MustCompile(`(?m)^\| \*\*([^*]+)\*\* \|`).FindAllStringSubmatch(glossary, -1) {
		require.Less(t, last, m[1], "the words stand in order")
		last = m[1]
	}
}

var (
	commandLine = regexp.MustCompile(`(?m)^ *(?:\$ )?(tovrel [^\n#|>]*)`)
	longFlag    = regexp.MustCompile(` (--[a-z][a-z-]*)`)
)

// TestShownCommands: each command that a guide shows exists, with its options.
func TestShownCommands(t *testing.T) {
	help := map[string]string{}
	for path, body := range documents(t) {
		for _, m := range commandLine.FindAllStringSubmatch(body, -1) {
			line, _, _ := strings.Cut(m[1], "   ") // a remark stands behind
			words := shownCommands(line)
			require.Len(t, words, 1, "%s: %s", path, line)
			if parts := strings.Fields(line); words[0][0] == "history" && len(parts) > 2 && !strings.HasPrefix(parts[2], "-") {
				words[0] = parts[1:3]
			}
			name := strings.Join(words[0], " ")
			if help[name] == "" {
				out, err := exec.Command(program(t), append(words[0], "--help")...).CombinedOutput()
				require.NoError(t, err, "%s: %s", path, line)
				help[name] = string(out)
			}
			for _, f := range longFlag.FindAllStringSubmatch(line, -1) {
				require.Contains(t, help[name], f[1], "%s: %s", path, line)
			}
		}
	}
	require.Greater(t, len(help), 15)
}

// TestSchemasAreCurrent: the schemas that editors are given are those of the program.
func TestSchemasAreCurrent(t *testing.T) {
	help := tovrel(t, t.TempDir(), "schema", "--help").out
	_, list, found := strings.Cut(strings.ReplaceAll(help, "\n", " "), "The schemas: ")
	require.True(t, found)
	list, _, _ = strings.Cut(list, ".")
	names := strings.Split(list, ", ")
	require.Greater(t, len(names), 30)
	for _, name := range names {
		kept, err := os.ReadFile(filepath.Join("docs", "schema", name+".json"))
		require.NoError(t, err, "make schemas writes them")
		require.Equal(t, string(kept), tovrel(t, t.TempDir(), "schema", name).out, "%s: make schemas writes them", name)
	}
}
