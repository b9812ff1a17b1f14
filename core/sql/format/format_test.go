package format_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/core/sql/format"
	"tovrel/sqltest"
)

func roots(t *testing.T) []*ast.Node {
	t.Helper()
	var out []*ast.Node
	_, trees := sqltest.Known(t)
	for _, tree := range trees {
		out = append(out, tree.Root())
	}
	return out
}

// TestWidths: at any width a query has the same words; only where its lines break differs. What is wider than asked for cannot be broken.
func TestWidths(t *testing.T) {
	words := func(text string) string {
		return strings.NewReplacer("( ", "(", " )", ")").Replace(strings.Join(strings.Fields(text), " "))
	}
	for _, root := range roots(t) {
		wide, ok := format.Query(root, 10_000)
		if !ok {
			continue
		}
		for _, width := range []int{20, 40, 60, 80, 100, 140} {
			text, ok := format.Query(root, width)
			require.True(t, ok)
			require.Equal(t, words(wide), words(text), "at %d", width)
			require.Equal(t, text, strings.TrimRight(text, " \n"), "nothing hangs over")
			for line := range strings.SplitSeq(text, "\n") {
				require.NotEmpty(t, strings.TrimSpace(line), text)
				require.Equal(t, line, strings.TrimRight(line, " "))
				if len([]rune(line)) > width && width >= 80 {
					require.NotRegexp(t, `, [^'()]+, `, line, "this could be broken:\n%s", text)
				}
			}
		}
	}
}

// TestPieces: each part of a query is written in one line, and as it stands in the whole.
func TestPieces(t *testing.T) {
	for _, root := range roots(t) {
		whole, ok := format.Query(root, 10_000)
		if !ok || root.Kind() != ast.SelectNode {
			continue
		}
		flat := strings.Join(strings.Fields(whole), " ")
		for _, item := range root.Nodes(field.SelectList) {
			text, ok := format.Item(item)
			require.True(t, ok)
			require.NotContains(t, text, "\n")
			require.Contains(t, flat, text)
			bare, ok := format.Fragment(item)
			require.True(t, ok)
			require.True(t, strings.HasPrefix(text, bare), "%s is %s with its name", text, bare)
		}
		if condition := root.Node(field.Where); condition != nil {
			text, ok := format.Fragment(condition)
			require.True(t, ok)
			require.Contains(t, flat, "WHERE "+text)
		}
		if from := root.Node(field.FromTable); from.Kind() == ast.Join {
			text, ok := format.Join(from)
			require.True(t, ok)
			require.NotContains(t, text, "\n")
			if !strings.HasPrefix(text, "CROSS JOIN") { // which a comma is in the whole
				require.Contains(t, flat, text)
			}
		}
	}
	text, ok := format.Fragment(nil)
	require.True(t, ok)
	require.Empty(t, text)
}

// TestUnknown: a tree with a part that is not known has no form, wherever that part stands.
func TestUnknown(t *testing.T) {
	for _, root := range roots(t) {
		if _, ok := format.Query(root, format.Width); !ok || root.Kind() != ast.SelectNode {
			continue
		}
		broken := ast.Copy(root)
		items := broken.Nodes(field.SelectList)
		if len(items) == 0 {
			continue
		}
		items[0].Set(field.Class, "TELEPATHY")
		_, ok := format.Query(broken, format.Width)
		require.False(t, ok)
	}
}
