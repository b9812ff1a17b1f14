package ast_test

import (
	"encoding/json"
	"errors"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

const written = `{"type":"SELECT_NODE","select_list":[{"class":"FUNCTION","type":"FUNCTION","alias":"n","function_name":"SUM",
	"qualified_name":{"path":["main","Sum"]},
	"arguments":[{"expression":{"class":"COLUMN_REF","type":"COLUMN_REF","column_names":["t","x"]}}],
	"distinct":true}],"of_tomorrow":{"kept":[1,"two",null]}}`

func read(t *testing.T) *ast.Node {
	t.Helper()
	var v any
	require.NoError(t, json.Unmarshal([]byte(written), &v))
	n, ok := ast.Of(v).(*ast.Node)
	require.True(t, ok)
	return n
}

// TestNode: fields are read by their names, what is not there is empty, and what no name knows is kept.
func TestNode(t *testing.T) {
	n := read(t)
	require.Equal(t, ast.SelectNode, n.Kind())
	require.Equal(t, ast.None, n.Class())
	call := n.Nodes(field.SelectList)[0]
	require.Equal(t, "sum", call.FunctionName())
	require.True(t, call.Is(field.Distinct))
	require.Equal(t, []string{"t", "x"}, call.Nodes(field.Arguments)[0].Node(field.Expression).Names(field.ColumnNames))
	require.False(t, n.Has(field.Where))
	require.Nil(t, n.Node(field.Where).Nodes(field.Children), "a node that is not there has nothing")
	require.Empty(t, n.Node(field.Where).FunctionName())
	again, err := json.Marshal(n)
	require.NoError(t, err)
	require.JSONEq(t, written, string(again))
	var none *ast.Node
	again, err = json.Marshal(none)
	require.NoError(t, err)
	require.Equal(t, "null", string(again))
}

// TestFunctionName: what the engine resolves is the last part of the qualified name, also where the plain name says something else; what is
// no call has none, whatever it is called.
func TestFunctionName(t *testing.T) {
	path := func(names ...string) *ast.Node { return ast.New(ast.Fields{field.Path: names}) }
	for want, fields := range map[string]ast.Fields{
		"getenv": {field.FunctionName: "sum", field.QualifiedName: path("main", "GetEnv")},
		"sum":    {field.FunctionName: "SUM"},
		"max":    {field.Class: ast.Function, field.QualifiedName: path("max")},
		"":       {field.Type: ast.BaseTable, field.QualifiedName: path("main", "getenv")},
	} {
		require.Equal(t, want, ast.New(fields).FunctionName())
	}
}

// TestCopies: a copy shares nothing that can be changed, and a mapped node leaves its original as it was.
func TestCopies(t *testing.T) {
	n := read(t)
	before, err := json.Marshal(n)
	require.NoError(t, err)
	c := ast.Copy(n)
	c.Nodes(field.SelectList)[0].Set(field.Alias, "other")
	c.Set(field.Where, ast.New(ast.Fields{field.Class: ast.Constant}))
	c.Drop(field.SelectList)
	mapped := n.Map(func(f field.Field, v any) (any, bool) { return v, f != field.SelectList })
	require.False(t, mapped.Has(field.SelectList))
	after, err := json.Marshal(n)
	require.NoError(t, err)
	require.JSONEq(t, string(before), string(after))
	require.Nil(t, ast.Copy[*ast.Node](nil))
}

// TestSet: lists of any kind are lists, a kind is its name, and a nil node is nothing.
func TestSet(t *testing.T) {
	var none *ast.Node
	n := ast.New(ast.Fields{field.Type: ast.Join, field.UsingColumns: []string{"a"}, field.Children: []*ast.Node{ast.New(nil)},
		field.Where: none})
	require.Equal(t, "JOIN", n.Text(field.Type))
	require.Equal(t, []any{"a"}, n.Items(field.UsingColumns))
	require.Len(t, n.Nodes(field.Children), 1)
	require.False(t, n.Has(field.Where))
	body, err := json.Marshal(n)
	require.NoError(t, err)
	require.JSONEq(t, `{"type":"JOIN","using_columns":["a"],"children":[{}],"where_clause":null}`, string(body))
}

// TestWalk: every node is seen once, outer ones first, and an error ends the walk.
func TestWalk(t *testing.T) {
	n := read(t)
	var seen []string
	require.NoError(t, ast.Walk(n, func(x *ast.Node) error {
		seen = append(seen, x.Kind().String())
		return nil
	}))
	require.Len(t, seen, 6)
	require.Equal(t, "SELECT_NODE", seen[0])
	enough := errors.New("enough")
	calls := 0
	require.ErrorIs(t, ast.Walk(n, func(*ast.Node) error {
		calls++
		return enough
	}), enough)
	require.Equal(t, 1, calls)
}
