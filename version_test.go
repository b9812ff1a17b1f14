package main_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestStamped: the program says which commit it was built from, the same by command and by option; one that was built outside a clone
// says none.
func TestStamped(t *testing.T) {
	words, commit := `tovrel \d[^,\s]*`, ""
	if _, err := exec.Command("git", "rev-parse", "HEAD").Output(); err == nil {
		words, commit = words+`, built from [0-9a-f]{7,}`, "[0-9a-f]{7,}"
	}
	said := tovrel(t, t.TempDir(), "version").out
	require.Regexp(t, "^"+words+"\n$", said)
	require.Equal(t, said, tovrel(t, t.TempDir(), "--version").out)
	require.Regexp(t, `"commit": "`+commit+`"`, tovrel(t, t.TempDir(), "version", "--output", "json").out)
}

// TestMakeNoticesEmbeddedFiles: every file that the program embeds is one that make builds it anew for.
func TestMakeNoticesEmbeddedFiles(t *testing.T) {
	out, err := exec.Command("go", "list", "-tags", "duckdb_arrow", "-f",
		`{{$d := .Dir}}{{range .EmbedFiles}}{{$d}}/{{.}}{{"\n"}}{{end}}`, "./...").Output()
	require.NoError(t, err)
	made, err := exec.Command("make", "-pn", "tovrel").Output()
	require.NoError(t, err)
	here, err := os.Getwd()
	require.NoError(t, err)
	found := 0
	for path := range strings.FieldsSeq(string(out)) {
		name, err := filepath.Rel(here, path)
		require.NoError(t, err)
		if !strings.HasPrefix(name, "bench/") {
			require.Contains(t, string(made), name, "%s is embedded, and make does not look at it", name)
			found++
		}
	}
	require.Greater(t, found, 10)
}
