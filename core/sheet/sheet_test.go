package sheet_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/sheet"
)

// TestHarmless: what would start a formula does not, numbers stay, and what was made harmless is read back as it was.
func TestHarmless(t *testing.T) {
	for text, want := range map[string]string{"": "", "plain": "plain", "=1+1": "'=1+1", "-3.5": "-3.5", "+4": "+4",
		"-x": "'-x", "@a": "'@a", "|a": "'|a", "a=b": "a=b"} {
		require.Equal(t, want, sheet.Harmless(text), text)
	}
	rapid.Check(t, func(r *rapid.T) {
		text := strings.TrimSpace(rapid.String().Draw(r, "text"))
		if !strings.HasPrefix(text, "'") {
			require.Equal(r, text, sheet.Plain(sheet.Harmless(text)))
		}
	})
}

// TestName: any titles, the same one twice among them, have names that a spreadsheet takes, all of them apart.
func TestName(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		used, seen := map[string]bool{}, map[string]bool{}
		for _, title := range rapid.SliceOfN(rapid.SampledFrom([]string{"a", "A", "a/b", "", "[x]", strings.Repeat("long ", 10),
			"'quoted'"}), 1, 20).Draw(r, "titles") {
			name := sheet.Name(title, used)
			require.NotEmpty(r, name)
			require.LessOrEqual(r, len([]rune(name)), 31)
			require.NotContains(r, name, "/")
			require.False(r, seen[strings.ToLower(name)], "%s is there twice", name)
			seen[strings.ToLower(name)] = true
		}
	})
	require.Equal(t, "a b", sheet.Name("a/b", nil))
}
