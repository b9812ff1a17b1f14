package main_test

import (
	"debug/elf"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/rogpeppe/go-internal/testscript"
	"github.com/stretchr/testify/require"

	"tovrel/servertest"
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
		Dir:       "testdata/script",
		Condition: hasServer,
		Setup: func(env *testscript.Env) error {
			env.Setenv("PATH", dir+string(os.PathListSeparator)+env.Getenv("PATH"))
			env.Setenv("LANG", "C.UTF-8")
			for _, name := range servertest.Variables {
				env.Setenv(name, os.Getenv(name))
			}
			env.Setenv("GUIDE", filepath.Join(dir, "docs", "guide"))
			env.Setenv("EXAMPLES", filepath.Join(dir, "examples"))
			onServers := []string{"script-servers", "script-live", "script-history", "script-team"}
			if slices.Contains(onServers, filepath.Base(env.WorkDir)) {
				env.Defer(servertest.Alone())
			}
			if strings.HasSuffix(env.WorkDir, "script-demo") {
				demo, err := wholeDemo()
				env.Setenv("DEMO", filepath.Dir(demo))
				return err
			}
			return nil
		},
	})
}

// hasServer is the condition of scripts on a database server; the gate has those that it needs.
func hasServer(name string) (bool, error) {
	variable, known := servertest.Variables[name]
	if !known {
		return false, fmt.Errorf("there is no condition %q", name)
	}
	has := os.Getenv(variable) != ""
	if !has && strings.Contains(os.Getenv("TOVREL_NEEDS"), name) {
		return false, fmt.Errorf("%s does not run: see .ci/servers", name)
	}
	return has, nil
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
