package main_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// pureLibraries are what the core may import beside the standard library and itself.
var pureLibraries = []string{"github.com/yuin/goldmark", "github.com/goccy/go-yaml", "github.com/zeebo/xxh3",
	"golang.org/x/text", "gonum.org/v1/gonum/stat/distuv"}

// banned are the parts of the standard library that touch the world.
var banned = map[string]bool{"os": true, "os/exec": true, "net": true, "net/http": true, "database/sql": true, "syscall": true,
	"math/rand": true, "math/rand/v2": true, "crypto/rand": true, "io/ioutil": true, "path/filepath": true}

// bannedCalls are those of packages that are otherwise pure.
var bannedCalls = map[string]bool{"time.Now": true, "time.Since": true, "time.Sleep": true, "time.After": true, "time.NewTimer": true}

// TestImportsPointInward makes sure that the core stays pure, that a view is made of core results alone, and that a
// renderer decides nothing.
func TestImportsPointInward(t *testing.T) {
	checked := 0
	eachFile(t, func(path string, file *ast.File) {
		for _, i := range file.Imports {
			name, err := strconv.Unquote(i.Path.Value)
			require.NoError(t, err)
			if complaint := breach(filepath.ToSlash(filepath.Dir(path)), name); complaint != "" {
				t.Errorf("%s imports %s: %s", path, name, complaint)
			}
			checked++
		}
		if strings.HasPrefix(path, "core/") {
			checkCalls(t, path, file)
		}
	})
	require.Greater(t, checked, 100, "the test must see the code")
}

func eachFile(t *testing.T, visit func(path string, file *ast.File)) {
	t.Helper()
	files := token.NewFileSet()
	err := filepath.WalkDir(".", func(path string, entry fs.DirEntry, err error) error {
		if err != nil || entry.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		file, err := parser.ParseFile(files, path, nil, 0)
		require.NoError(t, err)
		visit(filepath.ToSlash(path), file)
		return nil
	})
	require.NoError(t, err)
}

func breach(dir, imported string) string {
	own := strings.HasPrefix(imported, "tovrel/")
	standard := !strings.Contains(strings.SplitN(imported, "/", 2)[0], ".") && !own
	switch {
	case strings.HasPrefix(dir, "core/"):
		if banned[imported] || own && !strings.HasPrefix(imported, "tovrel/core/") {
			return "the core knows nothing of the world around it"
		}
		if !standard && !own && !pure(imported) {
			return "it is not among the pure libraries of the core"
		}
	case dir == "view":
		if !standard && !strings.HasPrefix(imported, "tovrel/core/") {
			return "a view is made of core results alone"
		}
	case dir == "render":
		if own && imported != "tovrel/view" && imported != "tovrel/core/score" && imported != "tovrel/core/sheet" {
			return "a renderer knows only views, the names of verdicts and what spreadsheets take"
		}
	case own && imported == "tovrel/cli" && dir != ".":
		return "only main wires the command line"
	}
	return ""
}

func pure(imported string) bool {
	for _, p := range pureLibraries {
		if imported == p || strings.HasPrefix(imported, p+"/") {
			return true
		}
	}
	return false
}

func checkCalls(t *testing.T, path string, file *ast.File) {
	ast.Inspect(file, func(n ast.Node) bool {
		if s, ok := n.(*ast.SelectorExpr); ok {
			if x, ok := s.X.(*ast.Ident); ok && bannedCalls[x.Name+"."+s.Sel.Name] {
				t.Errorf("%s uses %s.%s: the core has no clock", path, x.Name, s.Sel.Name)
			}
		}
		return true
	})
}
