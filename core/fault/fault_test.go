package fault

import (
	"go/ast"
	"go/parser"
	"go/token"
	"strconv"
	"testing"

	"github.com/stretchr/testify/require"
)

// declared reads the codes that the source declares.
func declared(t *testing.T) []Code {
	t.Helper()
	file, err := parser.ParseFile(token.NewFileSet(), "fault.go", nil, 0)
	require.NoError(t, err)
	var codes []Code
	ast.Inspect(file, func(n ast.Node) bool {
		spec, ok := n.(*ast.ValueSpec)
		if !ok || len(spec.Values) != 1 {
			return true
		}
		if kind, ok := spec.Type.(*ast.Ident); ok && kind.Name == "Code" {
			text, err := strconv.Unquote(spec.Values[0].(*ast.BasicLit).Value)
			require.NoError(t, err)
			codes = append(codes, Code(text))
		}
		return true
	})
	return codes
}

// TestFamilies holds that every code that is declared has one family, and that the lists are of the same codes.
func TestFamilies(t *testing.T) {
	require.ElementsMatch(t, declared(t), Codes(), "each code stands in exactly one family")
	for _, c := range Codes() {
		require.True(t, Known(c), c)
		require.Contains(t, Families(), FamilyOf(c), c)
		require.Equal(t, c == Unexplained, FamilyOf(c) == "other", c)
	}
	require.False(t, Known("unheard-of"))
	require.Equal(t, Family("other"), FamilyOf("unheard-of"))
	require.Equal(t, []Family{"delivery", "stance", "query", "scope", "join", "measure", "grouping", "presentation", "chart", "facts",
		"other"}, Families())
}

// TestFamilyOf holds one code of each family, so that a code that moves is seen.
func TestFamilyOf(t *testing.T) {
	for code, family := range map[Code]Family{
		Transport: "delivery", Guessed: "stance", HiddenColumn: "query", TimeWindow: "scope", JoinFanOut: "join", Rounding: "measure",
		Having: "grouping", WrongLayout: "presentation", Unexplained: "other", Limit: "presentation", Distinct: "measure",
	} {
		require.Equal(t, family, FamilyOf(code), code)
	}
}
