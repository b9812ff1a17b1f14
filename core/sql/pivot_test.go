package sql_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/sql"
)

func TestPivotLists(t *testing.T) {
	for query, want := range map[string][]string{
		"SELECT 1":            nil,
		"SELECT pivot FROM t": nil,
		"PIVOT t ON a IN ('x', 'y') USING sum(b)":       nil,
		"SELECT * FROM t PIVOT (sum(b) FOR a IN ('x'))": nil,
		"SELECT 'PIVOT t ON a USING b'":                 nil,
		"PIVOT t ON a USING sum(b)": {"SELECT DISTINCT CAST(a AS VARCHAR) AS v FROM t  WHERE (a) IS " +
			"NOT NULL ORDER BY v"},
		"PIVOT t ON a, year(d), c IN (1) USING sum(b)": {"SELECT DISTINCT CAST(a AS VARCHAR) AS v FROM t  WHERE (a) IS " +
			"NOT NULL ORDER BY v", "SELECT DISTINCT CAST(year(d) AS VARCHAR) AS v FROM t  WHERE (year(d)) IS NOT NULL ORDER BY v"},
		"FROM (PIVOT (FROM u JOIN w ON u.k = w.k) ON a);": {"SELECT DISTINCT CAST(a AS VARCHAR) AS v FROM (FROM u JOIN w ON " +
			"u.k = w.k)  WHERE (a) IS NOT NULL ORDER BY v"},
		"WITH x AS (FROM t) PIVOT x ON a GROUP BY b": {"WITH x AS (FROM t) SELECT DISTINCT CAST(a AS VARCHAR) AS v FROM " +
			"x  WHERE (a) IS NOT NULL ORDER BY v"},
		"WITH x AS (FROM t), y AS (PIVOT x ON a) FROM y": {"WITH x AS (FROM t) SELECT DISTINCT CAST(a AS VARCHAR) AS v FROM " +
			"x  WHERE (a) IS NOT NULL ORDER BY v"},
		"PIVOT": nil, "PIVOT t ON": nil, "PIVOT ON a": nil, "PIVOT (": nil,
		")PIVOT t ON a": {"SELECT DISTINCT CAST(a AS VARCHAR) AS v FROM t  WHERE (a) IS NOT NULL ORDER BY v"},
	} {
		var got []string
		for _, l := range sql.PivotLists(query) {
			got = append(got, l.Query)
		}
		require.Equal(t, want, got, query)
	}
	query := "PIVOT t ON a, b USING sum(c)"
	require.Equal(t, "PIVOT t ON a IN ('x', 'it''s'), b IN ('1') USING sum(c)",
		sql.WithLists(query, sql.PivotLists(query), [][]string{{"x", "it's"}, {"1"}}))
}
