package server_test

import (
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/core/value"
	"tovrel/engine"
	"tovrel/engine/server"
)

// gate is one of a server with a few functions of its own and of its users.
func gate(lexis server.Lexis) *server.Gate {
	return &server.Gate{Lexis: lexis, Allowed: server.Words("sum lower"), Has: server.Words("sum lower pg_sleep version"),
		Own: server.Words("harmful mood"), Operators: map[string]bool{"<!>": true}, Schemas: server.Words("secret"),
		Hidden:  []string{"pg_"},
		Refused: []string{"for update", "into"}, Firsts: []string{"select", "with"}}
}

// TestGate: what is let through and what is refused, by how a server reads its pieces.
func TestGate(t *testing.T) {
	postgres, mysql := server.Lexis{NestedComments: true}, server.Lexis{SpacedDashes: true, HashComments: true, Backslashes: true,
		Backquotes: true}
	for _, c := range []struct {
		lexis server.Lexis
		query string
		want  string // beginning of what is said; "" where it passes
	}{
		{postgres, "SELECT sum(a), lower('version()') FROM t -- version()", ""},
		{postgres, "SELECT nothing_known(a) FROM t", ""}, // the server explains it better
		{postgres, "SELECT version()", "the function version"},
		{postgres, `SELECT "version" ()`, "the function version"},
		{postgres, "SELECT version FROM t", ""},
		{postgres, "SELECT harmful()", "the function harmful"},
		{postgres, "SELECT t.harmful FROM t", "harmful, which a user"},
		{postgres, "SELECT 'x'::mood", "mood, which a user"},
		{postgres, "SELECT 1 <!> 2", "the operator <!>"},
		{postgres, "SELECT 1 <> !2", ""},
		{postgres, "SELECT a FROM secret.t", "the schema secret"},
		{postgres, "SELECT secret FROM t", ""},
		{postgres, "SELECT * FROM pg_user", "the system table"},
		{postgres, "SELECT 1; SELECT 2", "only one statement"},
		{postgres, "SELECT 1 ;; ", ""},
		{postgres, "SELECT a INTO b FROM t", "INTO is not allowed"},
		{postgres, "SELECT a AS into FROM t FOR  UPDATE", "FOR UPDATE is not allowed"},
		{postgres, "SELECT t.into FROM t", ""},
		{postgres, "/* /* */ version() */ SELECT 1", ""},
		{postgres, "SELECT 1 /* ' */, version() --'", "the function version"},
		{postgres, "SELECT E'\\'', version() --'", "the function version"},
		{postgres, "SELECT '\\', version() --'", "the function version"},
		{postgres, "SELECT $$'$$, version() --'", "a $ outside"},
		{postgres, `SELECT U&"v" ()`, "names and texts with escaped"},
		{mysql, "SELECT 'x\\'', version() -- '", "the function version"},
		{mysql, "SELECT 1 --version()", "the function version"},
		{mysql, "SELECT 1 -- version()", ""},
		{mysql, "SELECT 1 # version()", ""},
		{mysql, "SELECT /*! version() */ 1", "a comment that is run"},
		{mysql, "SELECT @x", "variables"},
		{mysql, "SELECT `version` ()", "the function version"},
		{mysql, "UPDATE t SET a = 1", "only one reading statement"},
		{mysql, "SELEC 1", `syntax error at or near "SELEC"`},
		{mysql, "SELECT 'x", "a text, a name or a comment does not end"},
		{mysql, "()", "syntax error"},
		{mysql, "((", "the query has nothing but brackets"},
		{mysql, "  ", "the query is empty"},
	} {
		_, err := gate(c.lexis).Check(c.query)
		if c.want == "" {
			require.NoError(t, err, c.query)
			continue
		}
		require.Error(t, err, c.query)
		require.Truef(t, strings.HasPrefix(err.Error(), c.want), "%s: %v", c.query, err)
	}
}

// TestStrictGate: where a server has no list of its functions, a call of none of the known ones is refused; names with columns are no
// calls.
func TestStrictGate(t *testing.T) {
	g := gate(server.Lexis{})
	g.Strict = true
	for query, passes := range map[string]bool{"SELECT sum(a) FROM t": true, "SELECT other(a) FROM t": false,
		"WITH r (a) AS (SELECT 1), s(b) AS (SELECT 2) SELECT a FROM r": true, "SELECT a FROM (SELECT 1) AS x (a) WHERE a IN (1, 2)": true} {
		_, err := g.Check(query)
		require.Equal(t, passes, err == nil, "%s: %v", query, err)
	}
}

// TestDepth: what nests deeper than a server bears is refused, however that is hidden; what only is long passes.
func TestDepth(t *testing.T) {
	g := gate(server.Lexis{})
	g.Depth = 20
	many := func(before, within, after string) func(int) string {
		return func(n int) string {
			return "SELECT " + strings.Repeat(before, n) + within + strings.Repeat(after, n) + " FROM t"
		}
	}
	for name, query := range map[string]func(int) string{
		"brackets": many("(", "1", ")"), "arrays": many("[", "1", "]"), "calls": many("sum(", "1", ")"), "not": many("NOT ", "a", ""),
		"minus": many("- ", "1", ""), "lambdas": many("x -> ", "x", ""), "cases": many("CASE WHEN a THEN ", "1", " END"),
		"a name that is END": many("(end + ", "1", ")"), "cases with it": many("CASE WHEN t.end THEN ", "1", " END"),
		"subqueries": many("(SELECT ", "1", ")"), "mixed": many("(NOT [", "1", "])"),
	} {
		_, err := g.Check(query(3))
		require.NoError(t, err, name)
		_, err = g.Check(query(300))
		require.ErrorContains(t, err, "nests deeper than 20", name)
	}
	for name, query := range map[string]string{
		"a list":     "SELECT a FROM t WHERE a IN (1" + strings.Repeat(", -2", 3000) + ")",
		"sums":       "SELECT litres" + strings.Repeat(" + litres", 3000) + " FROM t",
		"columns":    "SELECT a" + strings.Repeat(", (b)", 3000) + " FROM t",
		"conditions": "SELECT a FROM t WHERE a = 1" + strings.Repeat(" AND litres > 2", 3000),
	} {
		_, err := g.Check(query)
		require.NoError(t, err, name)
	}
}

// TestNothingHides: wherever a call of a function is put between pieces of text, quotes and comments that end, it is found.
func TestNothingHides(t *testing.T) {
	pieces := []string{"'it''s'", `"a""b"`, "/* ' */", "-- \"\n", "1.5", "a", "(", ")", ",", "'%'", "t.b", "/* /* */ */", "E'\\''"}
	rapid.Check(t, func(t *rapid.T) {
		around := rapid.SliceOfN(rapid.SampledFrom(pieces), 0, 6)
		query := "SELECT " + strings.Join(around.Draw(t, "before"), " ") + " version() " + strings.Join(around.Draw(t, "behind"), " ")
		_, err := gate(server.Lexis{NestedComments: true}).Check(query)
		var refusal *sql.Refusal
		require.ErrorAs(t, err, &refusal, query)
	})
}

// FuzzGate: whatever is asked, the gate answers, and its tokens lie in the query one after another.
func FuzzGate(f *testing.F) {
	for _, q := range []string{"SELECT 1", "SELECT 'a' /* b */ FROM `t`", "$$", "U&\"x\"", "/*!1*/", "\\", "@@x", "é'"} {
		f.Add(q)
	}
	f.Fuzz(func(t *testing.T, query string) {
		for _, lexis := range []server.Lexis{{NestedComments: true}, {SpacedDashes: true, HashComments: true, Backslashes: true,
			Backquotes: true}} {
			tokens, err := gate(lexis).Check(query)
			var refusal *sql.Refusal
			var parse *sql.ParseError
			if err != nil {
				require.True(t, errors.As(err, &refusal) || errors.As(err, &parse), "%T", err)
				continue
			}
			at := 0
			for _, token := range tokens {
				require.GreaterOrEqual(t, token.Start, at)
				require.Equal(t, token.Text, query[token.Start:token.Start+len(token.Text)])
				at = token.Start + len(token.Text)
			}
		}
	})
}

// TestReader: texts of a server become cells of their kinds; what a kind cannot hold makes the column one of texts; a result has its
// limits.
func TestReader(t *testing.T) {
	read := func(kind value.Kind, cells ...string) string {
		r := server.NewReader([]string{"c"}, []value.Kind{kind}, engine.DefaultLimits())
		for _, c := range cells {
			cell := []byte(c)
			if c == "null" {
				cell = nil
			}
			require.NoError(t, r.Add([][]byte{cell}))
		}
		column := r.Table().Columns[0]
		out := column.Type.String()
		for row := range column.Len() {
			out += " " + column.Value(row).String()
		}
		return out
	}
	for want, got := range map[string]string{
		"boolean true false NULL":              read(value.Bool, "t", "f", "null"),
		"integer 1 -2":                         read(value.Int, "1", "-2"),
		"integer 18446744073709551615":         read(value.Int, "18446744073709551615"),
		"decimal 1.50 2.00":                    read(value.Decimal, "1.50", "2"),
		"float 1.5 NaN":                        read(value.Decimal, "1.5", "NaN"),
		"date 2031-05-01":                      read(value.Date, "2031-05-01"),
		"text infinity 2031-05-01":             read(value.Date, "infinity", "2031-05-01"),
		"interval 14 months 3 days 04:05:06.5": read(value.Interval, "1 year 2 mons 3 days 04:05:06.5"),
		"interval -838:59:59":                  read(value.Interval, "-838:59:59"),
		"text now and then":                    read(value.Interval, "now and then"),
		"json {\"a\": 1}":                      read(value.JSON, `{"a": 1}`),
		"timestamptz 2031-05-01 10:00:00Z":     read(value.TimestampTZ, "2031-05-01 10:00:00+00"),
	} {
		require.Equal(t, want, got)
	}
	limits := engine.DefaultLimits()
	limits.Rows = 1
	r := server.NewReader([]string{"c"}, []value.Kind{value.Int}, limits)
	require.NoError(t, r.Add([][]byte{[]byte("1")}))
	require.ErrorContains(t, r.Add([][]byte{[]byte("2")}), "more than 1 rows")
	limits = engine.DefaultLimits()
	limits.Result = 1 << 20
	r = server.NewReader([]string{"c"}, []value.Kind{value.Text}, limits)
	require.ErrorContains(t, r.Add([][]byte{make([]byte, 2<<20)}), "larger than 1 MB")
	require.IsType(t, &table.Table{}, r.Table())
}

// TestBytes: blobs as the embedded engine writes them.
func TestBytes(t *testing.T) {
	require.Equal(t, []byte{'a', 0, 255, '\\', 'x'}, server.Bytes(`a\x00\xFF\x`))
}
