// Package gallerytest holds what tests say of many inputs, made by rule, against texts in testdata that somebody has read and approved.
package gallerytest

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// Holds compares a text with a file of testdata/gallery, or writes that.
func Holds(t *testing.T, name, got string, update bool) {
	t.Helper()
	path := filepath.Join(root(t), "testdata", "gallery", name)
	if update {
		require.NoError(t, os.WriteFile(path, []byte(got), 0o600))
	}
	want, err := os.ReadFile(path)
	require.NoError(t, err)
	require.Equal(t, strings.Split(string(want), "\n"), strings.Split(got, "\n"),
		"go test -run '^%s$' -update in this package writes it; read it", t.Name())
}

// root is the module's folder, from the folder of any package.
func root(t *testing.T) string {
	t.Helper()
	for up := "."; ; up = filepath.Join(up, "..") {
		if _, err := os.Stat(filepath.Join(up, "go.mod")); err == nil {
			return up
		}
		require.Less(t, len(up), 60, "no module above this folder")
	}
}
