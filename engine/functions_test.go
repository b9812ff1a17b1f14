package engine_test

import (
	"context"
	"database/sql"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/match"
	"tovrel/engine"
	"tovrel/engine/duckdb"
	"tovrel/engine/sqlite"
)

// TestFunctionsOfSQLite: the functions that SQLite is given answer as the embedded engine's do, over groups of any size with nulls among
// their
// numbers, and over days at the edges of weeks, months and years.
func TestFunctionsOfSQLite(t *testing.T) {
	one, other := bothEngines(t)
	for here, there := range likeFunctions() {
		if there == "" {
			there = here
		}
		want, err := one.Query(context.Background(), engine.Request{SQL: there})
		require.NoError(t, err, there)
		got, err := other.Query(context.Background(), engine.Request{SQL: here})
		require.NoError(t, err, here)
		r := match.Match(want.Table, got.Table, match.Rules{}, match.Known{})
		require.True(t, r.Matched, "%s: %s", here, r.Why)
	}
	for _, wrong := range []string{"SELECT percentile(n, 101) FROM v", "SELECT percentile_cont(n, -0.1) FROM v",
		"SELECT percentile_disc(n, 'x') FROM v",
		"SELECT date_trunc('decade', day) FROM v"} {
		_, err := other.Query(context.Background(), engine.Request{SQL: wrong})
		require.Error(t, err, wrong)
	}
	empty, err := other.Query(context.Background(),
		engine.Request{SQL: "SELECT median(n), year('soon'), date_trunc('month', 'soon') FROM v WHERE g = 77"})
	require.NoError(t, err)
	for _, v := range empty.Table.Row(0) {
		require.True(t, v.IsNull(), "of nothing there is nothing")
	}
}

// bothEngines are workers of both engines on one table of groups of any size.
func bothEngines(t *testing.T) (embedded, lite *engine.Pool) {
	t.Helper()
	random := rand.New(rand.NewPCG(11, 12))
	dir := t.TempDir()
	var csv, insert strings.Builder
	csv.WriteString("g,n,x,day\n")
	for i := range 400 {
		group := 0
		for group < 9 && random.IntN(2) == 0 { // the last groups have a row or two
			group++
		}
		n, x := fmt.Sprint(random.IntN(20)-10), fmt.Sprintf("%.3f", random.NormFloat64()*100)
		day := time.Date(2027, 12, 20, 0, 0, 0, 0, time.UTC).AddDate(0, 0, i*3+random.IntN(3)).Format(time.DateOnly)
		if random.IntN(6) == 0 {
			n = ""
		}
		fmt.Fprintf(&csv, "%d,%s,%s,%s\n", group, n, x, day)
		if n == "" {
			n = "NULL"
		}
		fmt.Fprintf(&insert, "INSERT INTO v VALUES (%d, %s, %s, '%s');", group, n, x, day)
	}
	csv.WriteString("77,,1.5,2030-01-01\n") // a group of nothing but a null
	insert.WriteString("INSERT INTO v VALUES (77, NULL, 1.5, '2030-01-01');")
	path := filepath.Join(dir, "v.csv")
	require.NoError(t, os.WriteFile(path, []byte(csv.String()), 0o600))
	duck, file := filepath.Join(dir, "v.duckdb"), filepath.Join(dir, "v.sqlite")
	_, err := duckdb.Freeze(context.Background(), duck, []duckdb.Source{{Table: "v", Samples: []*duckdb.Sample{{File: "v.csv", Path: path,
		Format: duckdb.CSV, Delimiter: ',', Names: []string{"g", "n", "x", "day"}}}}})
	require.NoError(t, err)
	db, err := sql.Open("sqlite", file)
	require.NoError(t, err)
	_, err = db.Exec("CREATE TABLE v (g INTEGER, n INTEGER, x REAL, day DATE);" + insert.String())
	require.NoError(t, err)
	require.NoError(t, db.Close())
	open := func(name, file string) *engine.Pool {
		p := engine.NewPool(built(t), engine.Setup{Engine: name, File: file, Limits: engine.DefaultLimits()}, 1)
		t.Cleanup(p.Close)
		return p
	}
	return open(duckdb.Name, duck), open(sqlite.Name, file)
}

// likeFunctions are queries of SQLite with those of the embedded engine that answer the same; "" for the same text.
func likeFunctions() map[string]string {
	pairs := map[string]string{ // by SQLite's text, the embedded engine's; "" for the same
		"date_trunc('week', day)": "date_trunc('week', day)::DATE", "date_trunc('month', day)": "date_trunc('month', day)::DATE",
		"date_trunc('quarter', day)": "date_trunc('quarter', day)::DATE", "date_trunc('year', day)": "date_trunc('year', day)::DATE",
		"date_trunc('day', day)": "date_trunc('day', day)::DATE", "year(day)": "", "month(day)": "", "day(day)": "", "quarter(day)": "",
	}
	queries := map[string]string{}
	for here, there := range pairs {
		if there == "" {
			there = here
		}
		queries["SELECT day, "+here+" AS v FROM v"] = "SELECT day, " + there + " AS v FROM v"
	}
	for _, column := range []string{"n", "x"} {
		for _, f := range []string{"median(%s)", "stddev(%s)", "stddev_samp(%s)", "stddev_pop(%s)", "variance(%s)", "var_samp(%s)",
			"var_pop(%s)",
			"quantile_cont(%s, 0)", "quantile_cont(%s, 0.25)", "quantile_cont(%s, 0.9)", "quantile_cont(%s, 1)"} {
			call := fmt.Sprintf(f, column)
			queries["SELECT g, "+call+" AS v FROM v GROUP BY g"] = ""
		}
		for _, p := range []string{"0", "0.1", "0.5", "0.75", "1"} {
			cont, disc := "quantile_cont("+column+", "+p+")", "quantile_disc("+column+", "+p+")"
			for here, there := range map[string]string{"percentile_cont(" + column + ", " + p + ")": cont,
				"percentile_disc(" + column + ", " + p + ")": disc, "percentile(" + column + ", " + p + " * 100)": cont} {
				queries["SELECT g, "+here+" AS v FROM v GROUP BY g"] = "SELECT g, " + there + " AS v FROM v GROUP BY g"
			}
		}
	}
	queries["SELECT g, x, median(x) OVER (PARTITION BY g ORDER BY x ROWS BETWEEN 2 PRECEDING AND CURRENT ROW) AS v FROM v"] = ""
	return queries
}
