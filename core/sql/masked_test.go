package sql_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"tovrel/core/sql"
)

func TestMasked(t *testing.T) {
	for query, masked := range map[string]string{
		"SELECT a, 'x' FROM t1 WHERE b >= 12.5": "SELECT a, '…' FROM t1 WHERE b >= …",
		"SELECT 'it''s' -- 4711\nFROM t":        "SELECT '…'\nFROM t",
		"SELECT /* 4711 */ \"a 1\" FROM t":      "SELECT \"a 1\" FROM t",
		"SELECT DATE '2031-05-01', 1e3":         "SELECT DATE '…', …",
		"SELECT 'never closed":                  "SELECT '…'",
		"":                                      "",
	} {
		assert.Equal(t, masked, sql.Masked(query), query)
	}
}

// No value of a query is left, wherever it stands; its names and words are.
func TestMaskedHoldsNoValue(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		query, names := "", []string{}
		for range rapid.IntRange(1, 12).Draw(t, "parts") {
			switch rapid.IntRange(0, 3).Draw(t, "kind") {
			case 0:
				name := rapid.StringMatching(`[a-c][a-c_]{1,5}`).Draw(t, "name")
				names, query = append(names, name), query+name+" "
			case 1:
				odd := rapid.SampledFrom([]string{"", "''", " -- ", "/*", "\n"}).Draw(t, "odd")
				query += "'secret" + odd + "' "
			case 2:
				query += rapid.SampledFrom([]string{"98765", "98765.5", "98765e2"}).Draw(t, "number") + " "
			case 3:
				query += rapid.SampledFrom([]string{"-- secret 98765\n", "/* secret */", "= ", "(", ") ", ", "}).Draw(t, "other")
			}
		}
		masked := sql.Masked(query)
		if strings.Contains(masked, "secret") || strings.Contains(masked, "98765") {
			t.Fatalf("%q keeps a value: %q", query, masked)
		}
		for _, name := range names {
			if !strings.Contains(masked, name) {
				t.Fatalf("%q lost %s: %q", query, name, masked)
			}
		}
	})
}
