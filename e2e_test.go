package main_test

import (
	"debug/elf"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/testscript"
	"github.com/stretchr/testify/require"
)

// program is the built program under test; `make test` builds it first.
func program(t *testing.T) string {
	t.Helper()
	path, err := filepath.Abs("tovrel")
	require.NoError(t, err)
	require.FileExists(t, path, "build the program first: make build")
	return path
}

// TestScripts drives the built program: one file holds commands, inputs and expected outputs.
func TestScripts(t *testing.T) {
	dir := filepath.Dir(program(t))
	testscript.Run(t, testscript.Params{
		Dir: "testdata/script",
		Setup: func(env *testscript.Env) error {
			env.Setenv("PATH", dir+string(os.PathListSeparator)+env.Getenv("PATH"))
			env.Setenv("LANG", "C.UTF-8")
			env.Setenv("GUIDE", filepath.Join(dir, "docs", "guide"))
			env.Setenv("EXAMPLES", filepath.Join(dir, "examples"))
			if strings.HasSuffix(env.WorkDir, "script-demo") {
				demo, err := wholeDemo()
				env.Setenv("DEMO", filepath.Dir(demo))
				return err
			}
			return nil
		},
	})
}

// TestStatic makes sure that the program needs no shared library.
func TestStatic(t *testing.T) {
	f, err := elf.Open(program(t))
	require.NoError(t, err)
	defer func() { require.NoError(t, f.Close()) }()
	libraries, err := f.ImportedLibraries()
	require.NoError(t, err)
	require.Empty(t, libraries, "the program must be static")
	for _, p := range f.Progs {
		require.NotEqual(t, elf.PT_INTERP, p.Type, "the program must not need a dynamic loader")
	}
}
