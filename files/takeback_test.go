package files_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"tovrel/files"
)

// What was written is taken back whole: changed files as they were, new ones removed; what changed since is left alone.
func TestTakeBack(t *testing.T) {
	dir := t.TempDir()
	old, fresh := filepath.Join(dir, "old"), filepath.Join(dir, "fresh")
	require.NoError(t, os.WriteFile(old, []byte("before"), 0o600))
	changes := []files.Change{{Path: old, Text: []byte("after"), Was: []byte("before")}, {Path: fresh, Text: []byte("new"), New: true}}
	read := func(path string) string {
		body, err := os.ReadFile(path)
		if err != nil {
			return ""
		}
		return string(body)
	}
	require.NoError(t, files.WriteAll(changes))
	require.NoError(t, files.TakeBack(changes))
	assert.Equal(t, "before", read(old))
	assert.NoFileExists(t, fresh)

	require.NoError(t, files.WriteAll(changes))
	require.NoError(t, os.WriteFile(fresh, []byte("someone's own"), 0o600))
	assert.ErrorContains(t, files.TakeBack(changes), "fresh")
	assert.Equal(t, "after", read(old), "nothing is taken back where not all can be")
	assert.Equal(t, "someone's own", read(fresh))
}
