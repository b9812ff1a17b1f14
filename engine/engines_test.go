package engine_test

import (
	"context"
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/sql/gate"
	"tovrel/engine/duckdb"
	"tovrel/engine/enginetest"
	"tovrel/engine/sqlite"
)

// fixture is the suite's tables as CSV.
func fixture() (t, u string) {
	var b strings.Builder
	b.WriteString("a,b\n")
	for i := 1; i <= 3000; i++ {
		fmt.Fprintf(&b, "%d,x%d\n", i, i)
	}
	return b.String(), "a,day\n1,2031-05-01\n2,\n"
}

// makeDuckDB freezes the fixture for DuckDB.
func makeDuckDB(t *testing.T, path string) {
	t.Helper()
	one, two := fixture()
	var sources []duckdb.Source
	for name, text := range map[string]string{"t": one, "u": two} {
		csv := filepath.Join(t.TempDir(), name+".csv")
		require.NoError(t, os.WriteFile(csv, []byte(text), 0o600))
		header, _, _ := strings.Cut(text, "\n")
		sources = append(sources, duckdb.Source{Table: name,
			Samples: []*duckdb.Sample{{File: csv, Path: csv, Format: duckdb.CSV, Delimiter: ',', Names: strings.Split(header, ",")}}})
	}
	_, err := duckdb.Freeze(context.Background(), path, sources)
	require.NoError(t, err)
}

// makeSQLite writes the fixture as an SQLite file.
func makeSQLite(t *testing.T, path string) {
	t.Helper()
	db, err := sql.Open("sqlite", path)
	require.NoError(t, err)
	_, err = db.Exec(`CREATE TABLE t (a INTEGER, b TEXT); CREATE TABLE u (a INTEGER, day DATE);
		WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 3000) INSERT INTO t SELECT i, 'x' || i FROM n;
		INSERT INTO u VALUES (1, '2031-05-01'), (2, NULL)`)
	require.NoError(t, err)
	require.NoError(t, db.Close())
}

// TestDuckDB: the embedded engine passes the suite.
func TestDuckDB(t *testing.T) {
	enginetest.Run(t, built(t), enginetest.Engine{
		Name: duckdb.Name, Hostile: "../testdata/hostile/duckdb.txt",
		Make: makeDuckDB,
		Answers: map[string]string{
			"SELECT now(), today(), localtimestamp": "2031-06-30 " +
				"23:59:59Z 2031-06-30 2031-06-30 23:59:59",
			"SELECT current_timestamp, get_current_timestamp()": "2031-06-30 " +
				"23:59:59Z 2031-06-30 23:59:59Z",
			"SELECT age(DATE '2031-06-01')":                                                               "29 days",
			"SELECT age(TIMESTAMP '2031-06-02', TIMESTAMP '2031-06-01')":                                  "1 days",
			"SELECT (SELECT max(d) FROM (SELECT current_date - 1 AS d))":                                  "2031-06-29",
			"SELECT \"current_date\" FROM (SELECT 7 AS \"current_date\")":                                 "7",
			"SELECT 'today'::DATE, CAST('now' AS TIMESTAMP)":                                              "2031-06-30 2031-06-30 23:59:59",
			"SELECT a FROM t WHERE a < 3 GROUP BY a HAVING today() > DATE '2031-01-01' ORDER BY now(), a": "1/2",
		},
		Faults: map[string]fault.Code{"SELECT b, sum(a) FROM t": fault.UngroupedColumn, "SELECT sum(b) FROM t": fault.TypeMismatch},
	})
}

// TestSQLite: so does SQLite, in its own dialect.
func TestSQLite(t *testing.T) {
	enginetest.Run(t, built(t), enginetest.Engine{
		Name: sqlite.Name, Hostile: "../testdata/hostile/sqlite.txt",
		Make: makeSQLite,
		Answers: map[string]string{
			"SELECT date('now'), datetime('now'), time('now')": "2031-06-30 " +
				"2031-06-30 23:59:59 23:59:59",
			"SELECT date('now', '-1 day'), date('NOW', 'start of month')":                               "2031-06-29 2031-06-01",
			"SELECT date(), strftime('%Y'), strftime('%Y-%m', 'now')":                                   "2031-06-30 2031 2031-06",
			"SELECT julianday('now') - julianday('2031-06-30 23:59:59')":                                "0",
			"SELECT unixepoch() = unixepoch('now'), current_timestamp":                                  "1 2031-06-30 23:59:59",
			"SELECT 'date(''now'')', \"a\" AS \"now\" FROM u WHERE a = 1":                               "date('now') 1",
			"SELECT percentile(a, 50), percentile_cont(a, 0.5), var_pop(a) FROM t WHERE a < 4":          "2 2 0.6666666666666666",
			"SELECT year(day), month(day), quarter(day), date_trunc('quarter', day) FROM u WHERE a = 1": "2031 5 2 2031-04-01",
			"SELECT a, day FROM u ORDER BY a":                                                           "1 2031-05-01/2 NULL",
			"SELECT 1.5, 2, x'00ff'":                                                                    `1.5 2 \x00ff`,
			"SELECT 1/2, 7 % 4, 'a' || 'b'":                                                             "0 3 ab",
		},
		Faults: map[string]fault.Code{"SELECT abs(1, 2, 3)": fault.TypeMismatch, "SELECT load_extension('x')": fault.Forbidden},
	})
}

func built(t *testing.T) string {
	t.Helper()
	program, err := filepath.Abs("../tovrel")
	require.NoError(t, err)
	require.FileExists(t, program, "build the program first: make build")
	return program
}

// TestClocks: on both engines.
func TestClocks(t *testing.T) {
	for name, make := range map[string]func(*testing.T, string){duckdb.Name: makeDuckDB, sqlite.Name: makeSQLite} {
		t.Run(name, func(t *testing.T) {
			file := filepath.Join(t.TempDir(), "data."+name)
			make(t, file)
			clockIsStopped(t, name, file)
		})
	}
}

// TestFunctionsAreListed: every function that the engine has was looked at by a person: it stands in one of the gate's lists. After an
// upgrade of the engine this names what is new.
func TestFunctionsAreListed(t *testing.T) {
	db, err := sql.Open("duckdb", "")
	require.NoError(t, err)
	defer func() { require.NoError(t, db.Close()) }()
	rows, err := db.Query("SELECT DISTINCT lower(function_name) FROM duckdb_functions() WHERE function_type IN ('scalar', " +
		"'aggregate', 'macro', 'window') ORDER BY 1")
	require.NoError(t, err)
	defer func() { require.NoError(t, rows.Close()) }()
	seen := 0
	for rows.Next() {
		var name string
		require.NoError(t, rows.Scan(&name))
		seen++
		require.True(t, gate.Allowed(name) || gate.Denied(name) != "",
			"the function %s is new: read what it does, and put it into functions.txt or denied.txt of core/gate", name)
	}
	require.NoError(t, rows.Err())
	require.Greater(t, seen, 700)
}
