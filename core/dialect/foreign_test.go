package dialect

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestFunctions holds what some functions of each dialect are called here, in any case of letters.
func TestFunctions(t *testing.T) {
	for name, want := range map[string]struct{ dialect, local, renamed string }{
		"NVL":             {"Oracle", "coalesce", "coalesce"},
		"ifnull":          {"MySQL", "coalesce", "coalesce"},
		"GetDate":         {"SQL Server", "current_timestamp", "now"},
		"DATE_FORMAT":     {"MySQL", "strftime", ""},
		"safe_divide":     {"BigQuery", "nullif(b, 0)", ""},
		"IFF":             {"Snowflake", "if(a, b, c)", "if"},
		"unixepoch":       {"SQLite", "epoch", "epoch"},
		"approx_distinct": {"Trino", "approx_count_distinct", "approx_count_distinct"},
		"collect_list":    {"Spark", "list", "list"},
		"to_char":         {"PostgreSQL", "strftime", ""},
	} {
		f, known := Function(name)
		require.True(t, known, name)
		require.Contains(t, f.Dialects, want.dialect, name)
		require.Contains(t, f.Local, want.local, name)
		require.Equal(t, want.renamed, f.Renamed(), name)
	}
	for _, name := range []string{"sum", "strftime", "coalesce", "date_trunc", "", "nvl3"} {
		_, known := Function(name)
		require.False(t, known, "%s is no foreign function", name)
	}
	for name := range functions {
		require.Equal(t, strings.ToLower(name), name, "looked up in lower case")
	}
}

// TestSyntax holds the pieces of other dialects, each in a query as people write it; the piece is the first that does not parse here.
func TestSyntax(t *testing.T) {
	for _, c := range []struct{ sql, piece, dialect, local string }{
		{"SELECT `farm id` FROM farms", "`farm id`", "MySQL", "double quotes"},
		{"select top 5 name from farms", "select top 5", "SQL Server", "LIMIT n"},
		{"SELECT DISTINCT TOP (3) name FROM farms", "SELECT DISTINCT TOP (3", "SQL Server", "LIMIT n"},
		{"SELECT [name], 1 FROM farms", "[name],", "SQL Server", "double quotes"},
		{"SELECT f.[name] FROM farms", "[name] FROM", "SQL Server", "double quotes"},
		{"SELECT * FROM farms LIMIT 5, 10", "LIMIT 5, 10", "MySQL", "OFFSET"},
		{"SELECT * FROM farms WHERE rownum <= 5", "rownum", "Oracle", "row_number()"},
		{"SELECT 1 FROM dual", "FROM dual", "Oracle", "no FROM"},
		{"SELECT * FROM a, b WHERE a.id = b.id (+)", "(+)", "Oracle", "LEFT JOIN"},
		{"SELECT 1 MINUS SELECT 2", "MINUS SELECT", "Oracle", "EXCEPT"},
		{"SELECT * FROM parts CONNECT BY PRIOR id = parent", "CONNECT BY", "Oracle", "RECURSIVE"},
		{"SELECT DATE_SUB(d, INTERVAL 30 DAY) FROM t", "INTERVAL 30 DAY)", "MySQL", "without DATE_SUB"},
		{"SELECT * FROM t WITH (NOLOCK)", "WITH (NOLOCK)", "SQL Server", "nothing"},
		{"SELECT STRUCT<a INT64>(1)", "STRUCT<", "BigQuery", "{'name'"},
		{"SELECT * FROM t ORDER BY a FETCH FIRST 3 ROWS WITH TIES", "FETCH FIRST 3 ROWS WITH TIES", "PostgreSQL", "QUALIFY"},
	} {
		piece, f, ok := Syntax(c.sql)
		require.True(t, ok, c.sql)
		require.Equal(t, c.piece, piece, c.sql)
		require.Contains(t, f.Dialects, c.dialect, c.sql)
		require.Contains(t, f.Local, c.local, c.sql)
		require.Empty(t, f.Renamed(), "syntax has no other name")
	}
	for _, sql := range []string{
		"SELECT name FROM farms LIMIT 5 OFFSET 10", "SELECT list[1] FROM t", "SELECT topmost FROM t", "SELECT dual FROM t",
		"SELECT current_date - INTERVAL 30 DAY", "SELECT a - b FROM t", `SELECT "farm id" FROM farms`, "", "SELECT [1, 2]",
		"SELECT * FROM t ORDER BY a FETCH FIRST 3 ROWS ONLY",
	} {
		_, _, ok := Syntax(sql)
		require.False(t, ok, "%s is no other dialect", sql)
	}
}
