package layout_test

import (
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/sql/layout"
)

// doc draws a doc of words, and the words that it is made of.
func doc(r *rapid.T, depth int, words *[]string) layout.Doc {
	word := func() layout.Doc {
		w := rapid.StringMatching(`[a-zä]{1,9}`).Draw(r, "word")
		*words = append(*words, w)
		return layout.Text(w)
	}
	if depth == 0 {
		return word()
	}
	var parts []layout.Doc
	for range rapid.IntRange(1, 4).Draw(r, "parts") {
		parts = append(parts, doc(r, depth-1, words))
	}
	joined := layout.Join(layout.Line, parts)
	switch rapid.IntRange(0, 4).Draw(r, "kind") {
	case 0:
		return layout.Group(joined)
	case 1:
		return layout.Nest(rapid.IntRange(0, 4).Draw(r, "by"), joined)
	case 2:
		return layout.Fill(parts...)
	case 3:
		return layout.Join(layout.Hard, parts)
	}
	return layout.Group(layout.Text("("), layout.Nest(2, layout.List(layout.Soft, joined)), layout.Soft, layout.Text(")"))
}

// TestRender: whatever the width, the words come in their order and nothing else does; lines have no space at their ends; and what fits on
// one line, without a place that always breaks, stays on one.
func TestRender(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		var words []string
		d := doc(r, rapid.IntRange(0, 3).Draw(r, "depth"), &words)
		width := rapid.IntRange(1, 80).Draw(r, "width")
		text := layout.Render(d, width)
		plain := strings.NewReplacer("(", " ", ")", " ").Replace(text)
		require.Equal(r, words, strings.Fields(plain))
		require.Equal(r, words, strings.Fields(strings.NewReplacer("(", " ", ")", " ").Replace(layout.Flat(d))))
		for line := range strings.SplitSeq(text, "\n") {
			require.Equal(r, strings.TrimRight(line, " "), line)
		}
		if flat := layout.Flat(d); utf8.RuneCountInString(flat) <= width &&
			!strings.Contains(layout.Render(layout.Group(d), 10_000), "\n") {
			require.Equal(r, flat, layout.Render(layout.Group(d), width))
		}
	})
}

// TestPlaces: what follows a group on its line counts for whether it fits, and a fill breaks only where it must.
func TestPlaces(t *testing.T) {
	call := layout.Group(layout.Text("f("), layout.Nest(2, layout.List(layout.Soft, layout.Text("x"))), layout.Soft, layout.Text(")"))
	require.Equal(t, "f(x) AS n", layout.Render(layout.List(call, layout.Text(" AS n")), 9))
	require.Equal(t, "f(\n  x\n) AS n", layout.Render(layout.List(call, layout.Text(" AS n")), 8))
	fill := layout.Nest(4, layout.Fill(layout.Text("a,"), layout.Text("b,"), layout.Text("c")))
	require.Equal(t, "SELECT a, b,\n    c", layout.Render(layout.List(layout.Text("SELECT "), fill), 12))
	require.Equal(t, "SELECT a, b, c", layout.Render(layout.List(layout.Text("SELECT "), fill), 14))
	require.Equal(t, "a\nb", layout.Render(layout.Group(layout.Text("a"), layout.Hard, layout.Text("b")), 80))
	require.Equal(t, "a b", layout.Flat(layout.List(layout.Text("a"), layout.Hard, layout.Text("b"))))
}
