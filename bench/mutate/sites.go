package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"go/ast"
	"go/importer"
	"go/parser"
	"go/token"
	"go/types"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
)

const tags = "duckdb_arrow"

// The kinds of defects.
const (
	flipped   = "flipped comparison"
	dropped   = "dropped condition"
	offByOne  = "off by one"
	swapped   = "swapped argument"
	unchecked = "unchecked error"
)

var kinds = []string{flipped, dropped, offByOne, swapped, unchecked}

// listed is a package as the go command lists it.
type listed struct {
	ImportPath, Dir, Export            string
	GoFiles, TestGoFiles, XTestGoFiles []string
	Module                             *struct{ Main bool }
}

// load lists all packages with their export data, those that they import among them.
func load(ctx context.Context) ([]listed, error) {
	cmd := exec.CommandContext(ctx, "go", "list", "-deps", "-export", "-tags", tags, "-json", "./...")
	cmd.Stderr = os.Stderr
	out, err := cmd.Output()
	if err != nil {
		return nil, fmt.Errorf("go list: %w", err)
	}
	var all []listed
	for decoder := json.NewDecoder(strings.NewReader(string(out))); ; {
		var p listed
		if err := decoder.Decode(&p); errors.Is(err, io.EOF) {
			return all, nil
		} else if err != nil {
			return nil, err
		}
		all = append(all, p)
	}
}

// insertion is a text that is put into a file at an offset.
type insertion struct {
	at   int
	text string
}

// site is a place where a defect can be planted. In the insertions, § is its number.
type site struct {
	file, kind, text string
	line, from, to   int
	insertions       []insertion
}

func (s site) overlaps(o site) bool { return s.file == o.file && s.from < o.to && o.from < s.to }

// findAll finds the places of all packages but the measurements, the examples and the suites of tests.
func findAll(packages []listed, in string) ([]site, error) {
	root, err := os.Getwd()
	if err != nil {
		return nil, err
	}
	exports := map[string]string{}
	for _, p := range packages {
		exports[p.ImportPath] = p.Export
	}
	fset := token.NewFileSet()
	imports := importer.ForCompiler(fset, "gc", func(path string) (io.ReadCloser, error) { return os.Open(exports[path]) })
	var sites []site
	for _, p := range packages {
		dir, err := filepath.Rel(root, p.Dir)
		if err != nil || p.Module == nil || !p.Module.Main || measured(dir) || !strings.HasPrefix(dir+"/", in) {
			continue
		}
		found, err := find(fset, imports, p, dir)
		if err != nil {
			return nil, err
		}
		sites = append(sites, found...)
	}
	return sites, nil
}

func measured(dir string) bool {
	first, _, _ := strings.Cut(dir, "/")
	return first == "bench" || first == "examples" || strings.HasSuffix(dir, "test")
}

// find finds the places of one package.
func find(fset *token.FileSet, imports types.Importer, p listed, dir string) ([]site, error) {
	var files []*ast.File
	for _, name := range p.GoFiles {
		f, err := parser.ParseFile(fset, filepath.Join(p.Dir, name), nil, parser.SkipObjectResolution)
		if err != nil {
			return nil, err
		}
		files = append(files, f)
	}
	info := &types.Info{Types: map[ast.Expr]types.TypeAndValue{}}
	config := types.Config{Importer: imports, Sizes: types.SizesFor("gc", "amd64")}
	if _, err := config.Check(p.ImportPath, fset, files, info); err != nil {
		return nil, fmt.Errorf("%s: %w", p.ImportPath, err)
	}
	var sites []site
	for i, f := range files {
		name := p.GoFiles[i]
		text, err := os.ReadFile(filepath.Join(p.Dir, name))
		if err != nil {
			return nil, err
		}
		x := &finder{file: filepath.Join(dir, name), text: string(text), fset: fset, info: info}
		ast.Inspect(f, x.visit)
		sites = append(sites, x.sites...)
	}
	return sites, nil
}

// finder finds the places of one file.
type finder struct {
	file, text string
	fset       *token.FileSet
	info       *types.Info
	sites      []site
}

func (x *finder) visit(n ast.Node) bool {
	switch n := n.(type) {
	case *ast.IfStmt:
		if x.errorCheck(n.Cond) {
			x.around(unchecked, n.Cond, "!mutant.On(§) && (", ")")
			return true
		}
		x.around(dropped, n.Cond, "!mutant.On(§) && (", ")")
	case *ast.BinaryExpr:
		x.binary(n)
	case *ast.CallExpr:
		x.call(n)
	}
	return true
}

// errorCheck tells whether a condition is err != nil, and nothing else.
func (x *finder) errorCheck(e ast.Expr) bool {
	b, ok := e.(*ast.BinaryExpr)
	return ok && b.Op == token.NEQ && x.info.Types[b.Y].IsNil() && types.Identical(x.info.Types[b.X].Type,
		types.Universe.Lookup("error").Type())
}

func (x *finder) binary(n *ast.BinaryExpr) {
	kind := x.info.Types[n]
	if kind.Value != nil {
		return
	}
	switch n.Op {
	case token.EQL, token.NEQ, token.LSS, token.LEQ, token.GTR, token.GEQ:
		if x.errorCheck(n) {
			return
		}
		x.around(flipped, n, "(mutant.On(§) != (", "))")
		if other, ordered := map[token.Token]string{token.LSS: "<=", token.LEQ: "<", token.GTR: ">=", token.GEQ: ">"}[n.Op]; ordered {
			x.around(offByOne, n, "(mutant.On(§) && ("+x.source(n.X)+other+x.source(n.Y)+") || !mutant.On(§) && (", "))")
		}
	case token.LAND:
		x.around(dropped, n.X, "(mutant.On(§) || (", "))")
		x.around(dropped, n.Y, "(mutant.On(§) || (", "))")
	case token.LOR:
		x.around(dropped, n.X, "(!mutant.On(§) && (", "))")
		x.around(dropped, n.Y, "(!mutant.On(§) && (", "))")
	case token.ADD, token.SUB:
		if basic, ok := kind.Type.(*types.Basic); ok && basic.Kind() == types.Int {
			x.around(offByOne, n, "(", " + mutant.Add(§))")
		}
	}
}

// call finds neighbouring arguments of one type that can be swapped: names and fields, whose reading has no effect.
func (x *finder) call(n *ast.CallExpr) {
	if n.Ellipsis.IsValid() || x.info.Types[n.Fun].IsType() || x.info.Types[n.Fun].IsBuiltin() {
		return
	}
	for i := range len(n.Args) - 1 {
		a, b := n.Args[i], n.Args[i+1]
		if !plain(a) || !plain(b) || x.source(a) == x.source(b) {
			continue
		}
		ta, tb := x.info.Types[a], x.info.Types[b]
		if ta.Type == nil || tb.Type == nil || ta.IsNil() || tb.IsNil() || ta.Value != nil || tb.Value != nil || !types.Identical(ta.Type,
			tb.Type) {
			continue
		}
		pick := func(first, second ast.Expr) string {
			return "mutant.Pick(§, " + x.source(first) + ", " + x.source(second) + ")"
		}
		from, to := x.offset(a.Pos()), x.offset(b.End())
		s := x.site(swapped, from, to)
		s.insertions = []insertion{{from, pick(a, b) + ", " + pick(b, a) + "/*"}, {to, "*/"}}
		if !strings.Contains(s.text, "*/") {
			x.sites = append(x.sites, s)
		}
	}
}

func plain(e ast.Expr) bool {
	switch e := e.(type) {
	case *ast.Ident:
		return true
	case *ast.SelectorExpr:
		return plain(e.X)
	}
	return false
}

func (x *finder) offset(p token.Pos) int { return x.fset.Position(p).Offset }

func (x *finder) source(e ast.Expr) string { return x.text[x.offset(e.Pos()):x.offset(e.End())] }

func (x *finder) site(kind string, from, to int) site {
	return site{file: x.file, kind: kind, text: strings.Join(strings.Fields(x.text[from:to]), " "),
		line: strings.Count(x.text[:from], "\n") + 1, from: from, to: to}
}

// around plants a defect around an expression, where that is a plain bool or int.
func (x *finder) around(kind string, e ast.Expr, before, after string) {
	if t := x.info.Types[e]; t.Value != nil || t.Type == nil {
		return
	} else if basic, ok := t.Type.(*types.Basic); !ok || basic.Info()&(types.IsBoolean|types.IsInteger) == 0 {
		return
	}
	s := x.site(kind, x.offset(e.Pos()), x.offset(e.End()))
	s.insertions = []insertion{{s.from, before}, {s.to, after}}
	x.sites = append(x.sites, s)
}
