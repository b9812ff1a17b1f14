package engine_test

import (
	"context"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/engine"
	"tovrel/engine/duckdb"
	"tovrel/engine/sqlite"
)

// liteQueries are queries as people write them for SQLite, many of them in its own words. Those that begin with a minus may have no tree.
var liteQueries = []string{
	"SELECT count(*) FROM t",
	"SELECT a, b FROM t WHERE a < 5 ORDER BY a DESC LIMIT 2 OFFSET 1",
	"SELECT strftime('%Y-%m', day) AS m, count(*) FROM u GROUP BY 1",
	"SELECT date(day, '+1 month', 'start of month') FROM u WHERE day IS NOT NULL",
	"SELECT CAST(a AS REAL) / 2, a / 2, a % 3, -a, CAST('12abc' AS INTEGER) FROM t WHERE a = 7",
	"SELECT substr(b, 2) || '-' || upper(b), length(b), ifnull(NULL, b), replace(b, 'x', 'y') FROM t WHERE a BETWEEN 2 AND 4",
	"SELECT a FROM t WHERE b LIKE 'X1_' ORDER BY 1",
	"SELECT a FROM t WHERE b NOT LIKE 'x%' OR b LIKE 'x!_%' ESCAPE '!'",
	"SELECT iif(a > 5, 'big', 'small'), total(a), avg(a) FROM t WHERE a < 9 GROUP BY 1 ORDER BY 1",
	"SELECT group_concat(b, '+') FROM (SELECT b FROM t WHERE a < 4 ORDER BY a)",
	"SELECT x.a, (SELECT count(*) FROM u WHERE u.a = x.a) FROM t AS x WHERE x.a IN (SELECT a FROM u) ORDER BY 1",
	"SELECT a FROM t WHERE NOT EXISTS (SELECT 1 FROM u WHERE u.a = t.a) AND a < 6",
	"WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 4) SELECT sum(i) FROM n",
	"SELECT a, row_number() OVER (ORDER BY a DESC) AS place, sum(a) OVER (ORDER BY a ROWS 1 PRECEDING) FROM t LIMIT 3",
	"SELECT sum(a) FILTER (WHERE a > 2990), count(DISTINCT b) FROM t",
	"SELECT CASE a WHEN 1 THEN 'one' ELSE 'more' END AS w, count(*) FROM t GROUP BY w ORDER BY w",
	"SELECT a FROM t WHERE a == 3 OR a <> 3 AND a != 4 AND a < 6 ORDER BY a",
	"SELECT round(avg(a), 2), min(b), max(b) FROM t WHERE (a, b) <> (1, 'x1')",
	"SELECT \"a\" AS \"the number\" FROM t WHERE b = 'x5'",
	"SELECT a FROM t WHERE a < 3 UNION SELECT a FROM u UNION ALL SELECT 9 ORDER BY 1",
	"SELECT t.a FROM t LEFT JOIN u USING (a) WHERE u.day IS NULL AND t.a < 5 ORDER BY 1",
	"SELECT 5 > 3, 5 = 3, NOT 0, true, false, NULL IS NULL, 1 IN (1, 2)",
	"SELECT 1.5 * a, 1e3, 0.1 + 0.2, 7 / 2, 7 / 2.0, 9223372036854775807 FROM t WHERE a = 1",
	"SELECT b FROM t WHERE b = 'X1' COLLATE NOCASE",
	"SELECT date(day, '-1 day'), time('10:20:30'), datetime(day, '+1 hour'), date('now', 'start of year') FROM u ORDER BY 1",
	"SELECT max(date(day)) AS date FROM u WHERE date(day) >= '2031-01-01' AND 'date(' <> 'time(' GROUP BY date(day)",
	"SELECT julianday(day) - julianday('2031-01-01'), date('now') FROM u ORDER BY 1",
	"- SELECT [a] FROM t WHERE a = 1",
	"- SELECT `a` FROM t WHERE a = 1",
	"- SELECT a FROM t WHERE b GLOB 'x1?' AND a IS 12",
	"- SELECT a FROM t ORDER BY a LIMIT 2, 3",
	"- SELECT a FROM t NOT INDEXED WHERE a = 2",
	"- SELECT a FROM t WHERE b REGEXP 'x'",
	"- SELECT a FROM t WHERE a ISNULL",
}

func openLite(t *testing.T) *sqlite.Database {
	t.Helper()
	path := filepath.Join(t.TempDir(), "lite.sqlite")
	makeSQLite(t, path)
	db, err := sqlite.Open(engine.Setup{File: path, AsOf: "2031-06-30", Limits: engine.DefaultLimits()},
		func() (sqlite.Parser, error) { return duckdb.NewParser() })
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, db.Close()) })
	return db
}

// TestLiteTrees: a tree that SQLite's queries are given means what the query means: what is written from it gives the same. Where SQLite
// has
// words of its own, there is no tree.
func TestLiteTrees(t *testing.T) {
	db := openLite(t)
	trees := 0
	for _, q := range liteQueries {
		query, own := strings.CutPrefix(q, "- ")
		var got, again *table.Table
		keep := func(into **table.Table) func(*table.Table) error {
			return func(t *table.Table) error { *into = t; return nil }
		}
		ran, err := db.Run(context.Background(), engine.Request{SQL: query, Tree: true}, keep(&got))
		if own && err != nil {
			continue
		}
		require.NoError(t, err, query)
		if own && len(ran.Tree) == 0 {
			continue
		}
		require.NotEmpty(t, ran.Tree, query)
		tree, err := sql.Read(ran.Tree)
		require.NoError(t, err, query)
		body, err := tree.Serialised()
		require.NoError(t, err)
		wrote, err := db.Run(context.Background(), engine.Request{Serialised: string(body)}, keep(&again))
		require.NoError(t, err, "%s, written as %s", query, wrote.Instead)
		require.Equal(t, got.Rows(), again.Rows(), query)
		for i := range got.Rows() {
			require.Equal(t, words(got.Row(i)), words(again.Row(i)), "%s, written as %s", query, wrote.Instead)
		}
		trees++
	}
	require.Greater(t, trees, 20)
}

func words[T interface{ String() string }](row []T) []string {
	var out []string
	for _, v := range row {
		out = append(out, v.String())
	}
	return out
}
