package main_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/pattern"
)

// pureLibraries are what the core may import beside the standard library and itself.
var pureLibraries = []string{"github.com/yuin/goldmark", "github.com/goccy/go-yaml", "github.com/zeebo/xxh3", "golang.org/x/text",
	"gonum.org/v1/gonum/stat/distuv"}

// worldly are the parts of the standard library that touch the world: the core imports none of them.
var worldly = []string{"os", "os/exec", "net", "net/http", "database/sql", "syscall", "math/rand", "math/rand/v2",
	"crypto/rand", "io/ioutil",
	"path/filepath"}

// worldlyCalls are those of packages that are otherwise pure.
var worldlyCalls = []string{"time.Now", "time.Since", "time.Until", "time.Sleep", "time.After", "time.AfterFunc",
	"time.NewTimer", "time.NewTicker",
	"time.Tick", "time.LoadLocation"}

// rooms are the packages above the core, and what each may import of our own beside the core. What is not here may import the core
// alone; cli wires everything. A way of an attempt reads in one direction: cli → attempt → history, and attempt → expect, cause.
var rooms = map[string][]string{
	"apart":   {"engine", "engine/sqltext", "expect"},
	"attempt": {"apart", "cause", "engine", "expect", "history", "translator", "trouble", "workspace"},
	"cause":   {"engine", "engine/sqltext", "expect"},
	"expect":  {"engine", "engine/sqltext"},
	"upkeep": {"apart", "attempt", "cause", "dataset/sample", "engine", "engine/sqltext", "expect", "files",
		"trouble", "workspace"},
	"dataset": {"dataset/sample", "engine", "engine/clickhouse", "engine/duckdb", "engine/mysql", "engine/postgres", "engine/server",
		"engine/sqlite", "engine/trino", "files", "trouble", "workspace"},
	"dataset/sample":            {"engine/duckdb", "files", "trouble"},
	"dataset/survey":            {"engine", "engine/sqltext", "trouble"},
	"workspace":                 {"dataset/sample", "engine", "files", "trouble"},
	"engine":                    {"trouble"},
	"engine/duckdb":             {"engine", "engine/sqltext"},
	"engine/sqlite":             {"engine", "engine/sqltext"},
	"engine/enginetest":         {"engine"},
	"engine/server":             {"engine"},
	"engine/postgres":           {"engine", "engine/server"},
	"engine/mysql":              {"engine", "engine/server"},
	"engine/clickhouse":         {"engine", "engine/server"},
	"engine/trino":              {"engine", "engine/server"},
	"standin/trino":             {"engine"},
	"history":                   {"trouble"},
	"team":                      {"attempt", "history", "trouble"},
	"history/historytest":       {"history", "trouble"},
	"render":                    {"page", "view"},
	"files":                     {"trouble"},
	"translator/translatortest": {"translator"},
	"translator/chat":           {"translator", "translator/web"},
	"translator/command":        {"children", "translator"},
	"translator/mcp":            {"translator", "translator/command", "children", "trouble"},
	"translator/recorded":       {"answers", "files", "translator"},
	"answers":                   {"dataset/sample", "trouble"},
	"translator/web":            {"translator"},
	"translator":                {"trouble"},
	"standin":                   {"standin/pocket", "translator", "translator/chat"},
	"standin/pocket":            {"translator"},
	"sqltest":                   nil,
	"servertest":                nil,
	"gallerytest":               nil,
	"claimtest":                 nil,
	"schema":                    {"history", "standin/pocket", "translator", "view", "workspace"},
}

// free are the places without rules: what wires, what measures and what shows how.
var free = []string{"cli", "bench", "demo", "examples"}

// writersOfSQL may hold the text of SQL: the engines, what writes queries for people, and what keeps its own store.
var writersOfSQL = []string{"engine", "core/draft", "standin", "history", "team", "demo", "bench", "examples", "dataset/sample",
	"translator/translatortest"}

// statement is the beginning of a statement that reads or writes tables.
var statement = regexp.MustCompile(`^\s*(SELECT .*\bFROM\b|WITH .*\bSELECT\b|INSERT INTO|UPDATE .* SET|DELETE FROM|CREATE ` +
	`(TEMP )?(TABLE|VIEW)|ATTACH|PRAGMA)\b`)

// TestRooms makes sure that imports point inward, that the core knows nothing of the world, that a view is made of core results alone,
// and that only cli writes to a terminal.
func TestRooms(t *testing.T) {
	checked := 0
	eachFile(t, func(file string, parsed *ast.File) {
		dir := path.Dir(file)
		names := map[string]string{} // of imports, as the file calls them
		for _, i := range parsed.Imports {
			imported, err := strconv.Unquote(i.Path.Value)
			require.NoError(t, err)
			names[path.Base(imported)] = imported
			if i.Name != nil {
				names[i.Name.Name] = imported
			}
			if complaint := breach(dir, imported); complaint != "" {
				t.Errorf("%s imports %s: %s", file, imported, complaint)
			}
			checked++
		}
		ast.Inspect(parsed, func(n ast.Node) bool {
			switch n := n.(type) {
			case *ast.SelectorExpr:
				if x, ok := n.X.(*ast.Ident); ok && names[x.Name] != "" {
					checkCall(t, file, dir, names[x.Name]+"."+n.Sel.Name)
				}
			case *ast.BasicLit:
				if n.Kind == token.STRING {
					checkText(t, file, dir, n.Value)
				}
			}
			return true
		})
	})
	require.Greater(t, checked, 100, "the test must see the code")
}

func under(dir string, roots ...string) bool {
	return slices.ContainsFunc(roots, func(r string) bool { return dir == r || strings.HasPrefix(dir, r+"/") })
}

func breach(dir, imported string) string {
	ours, own := strings.CutPrefix(imported, "tovrel/")
	if (imported == "log" || imported == "log/slog") && dir != "team" { // which keeps its queue from saying anything
		return "what is to be said goes through the streams of cli"
	}
	if own {
		return ownBreach(dir, ours)
	}
	standard := !strings.Contains(strings.SplitN(imported, "/", 2)[0], ".")
	switch {
	case under(dir, "core") && slices.Contains(worldly, imported):
		return "the core knows nothing of the world around it"
	case under(dir, "core") && !standard && !under(imported, pureLibraries...):
		return "it is not among the pure libraries of the core"
	case dir == "view" && !standard:
		return "a view is made of core results alone"
	}
	return ""
}

// ownBreach is what is wrong with importing a package of our own; "" for nothing.
func ownBreach(dir, ours string) string {
	switch {
	case ours == "cli" && dir != ".":
		return "only main wires the command line"
	case under(dir, "core") && !under(ours, "core"):
		return "the core knows nothing of the world around it"
	case dir == "render" && under(ours, "core") && ours != "core/score" && ours != "core/sheet" && ours != "core/pattern":
		return "a renderer knows only views, the names of verdicts and what spreadsheets take"
	case dir != "." && !under(dir, free...) && !under(ours, "core") && !slices.Contains(rooms[dir], ours):
		return "it is no room that this one may look into (see rooms)"
	}
	return ""
}

func checkCall(t *testing.T, file, dir, call string) {
	t.Helper()
	if under(dir, "core") && slices.Contains(worldlyCalls, call) {
		t.Errorf("%s uses %s: the core has no clock", file, call)
	}
	if strings.HasPrefix(call, "fmt.Print") && !under(dir, "bench", "examples") {
		t.Errorf("%s uses %s: what is to be said goes through the streams of cli", file, call)
	}
}

func checkText(t *testing.T, file, dir, literal string) {
	t.Helper()
	text, err := strconv.Unquote(literal)
	require.NoError(t, err)
	if statement.MatchString(text) && !under(dir, writersOfSQL...) {
		t.Errorf("%s writes SQL (%.40s): that is for engine/sqltext", file, text)
	}
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

// TestPatterns: every regular expression compiles, and none of the program's is compiled before it is used: two hundred of them are a
// third of the time that a start takes.
func TestPatterns(t *testing.T) {
	require.Empty(t, pattern.Broken())
	eachFile(t, func(file string, parsed *ast.File) {
		if dir := path.Dir(file); strings.HasPrefix(dir, "bench") || strings.HasSuffix(dir, "test") {
			return
		}
		for _, d := range parsed.Decls {
			variable, is := d.(*ast.GenDecl)
			if !is {
				continue
			}
			ast.Inspect(variable, func(n ast.Node) bool {
				if s, is := n.(*ast.SelectorExpr); is && s.Sel.Name == "MustCompile" {
					t.Errorf("%s compiles a regular expression at the start: use pattern.Of", file)
				}
				_, isFunc := n.(*ast.FuncLit)
				return !isFunc
			})
		}
	})
}
