package source

import (
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestPosition(t *testing.T) {
	for want, p := range map[string]Position{
		"":         {},
		"a.md":     {File: "a.md", Column: 4},
		"a.md:3":   {File: "a.md", Line: 3},
		"a.md:3:9": {"a.md", 3, 9},
	} {
		require.Equal(t, want, p.String())
	}
}

// TestError holds the form of a problem: place, message, remedy, and the line with a caret under the column.
func TestError(t *testing.T) {
	p := Problem{Message: "it is wrong"}
	require.Equal(t, "it is wrong", p.Error())
	p.Position = Position{"a.md", 3, 3}
	require.Equal(t, "a.md:3:3: it is wrong", p.Error())
	p.Remedy = "mend it"
	require.Equal(t, "a.md:3:3: it is wrong; mend it", p.Error())
	p.Excerpt = "\tdue: x"
	require.Equal(t, "a.md:3:3: it is wrong; mend it\n   due: x\n    ^", p.Error(), "a tab is as wide as a blank, so that the caret fits")
	p.Column = 0
	require.Equal(t, "a.md:3: it is wrong; mend it\n   due: x", p.Error())
	p.Column, p.Excerpt = 1, "x"
	require.Equal(t, "a.md:3:1: it is wrong; mend it\n  x\n  ^", p.Error())
}

// TestWindow holds that of a line of any length the place is shown, with the caret under it, and that it is never too wide.
func TestWindow(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 2))
	for range 3000 {
		length := 1 + random.IntN(500)
		line := []rune(strings.Repeat("ä", length))
		column := 1 + random.IntN(length)
		line[column-1] = 'X'
		cut, at := window(string(line), column)
		runes := []rune(cut)
		require.LessOrEqual(t, len(runes), 162)
		require.Equal(t, 'X', runes[at-1], "length %d, column %d", length, column)
		require.Equal(t, length <= 160, cut == string(line), "length %d: short lines are whole, long ones are cut", length)
		require.Equal(t, strings.HasPrefix(cut, "…") || strings.HasSuffix(cut, "…"), length > 160)
	}
	short, at := window("abc", 0)
	require.Equal(t, "abc", short)
	require.Zero(t, at)
}

func TestSort(t *testing.T) {
	want := Problems{
		{Position: Position{"a", 1, 1}, Code: "x"}, {Position: Position{"a", 1, 1}, Code: "y"}, {Position: Position{"a", 1, 2}, Code: "a"},
		{Position: Position{"a", 2, 1}, Code: "a"}, {Position: Position{"a", 10, 0}, Code: "a"}, {Position: Position{"b", 1, 1}, Code: "a"},
	}
	random := rand.New(rand.NewPCG(3, 4))
	for range 50 {
		got := append(Problems(nil), want...)
		random.Shuffle(len(got), func(i, j int) { got[i], got[j] = got[j], got[i] })
		got.Sort()
		require.Equal(t, want, got)
	}
	same := Problems{{Code: "c", Message: "first"}, {Code: "c", Message: "second"}}
	same.Sort()
	require.Equal(t, "first", same[0].Message, "what is alike keeps its order")
}

func TestCounts(t *testing.T) {
	ps := Problems{{Severity: Error, Message: "one"}, {Severity: Warning, Message: "two"}, {Severity: Error, Message: "three"},
		{Severity: Advice}}
	require.Equal(t, 2, ps.Errors())
	require.Equal(t, 1, ps.Count(Warning))
	require.Equal(t, 1, ps.Count(Advice))
	require.Equal(t, "one\ntwo\nthree\n", ps.Error())
	require.Zero(t, Problems(nil).Errors())
}

// TestLine holds that the lines are those that a split gives, whatever ends them.
func TestLine(t *testing.T) {
	text := "first\r\nsecond\n\nfourth"
	for i, want := range []string{"", "first", "second", "", "fourth", "", ""} {
		require.Equal(t, want, Line([]byte(text), i), "line %d", i)
	}
	require.Empty(t, Line([]byte(text), -1))
	require.Equal(t, "x", Line([]byte("x\n"), 1))
	require.Empty(t, Line([]byte("x\n"), 2))
}
