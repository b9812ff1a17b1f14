// Package enginetest is the suite that every engine must pass: what its workers answer, what they refuse, and that hostile
// statements cost nothing but themselves. It drives the built program's own workers.
package enginetest

import (
	"context"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"text/template"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/engine"
)

// Engine is one to test: how its fixture is made, and what only it knows.
type Engine struct {
	Name string
	// Make writes the fixture: a table t (a whole number, b text) of 3,000 rows from 1 with the texts x1, x2, …, and a table u
	// (a, day) with the rows 1, 2031-05-01 and 2, null.
	Make func(t *testing.T, path string)
	// Answers are queries with their cells by row, separated by spaces and "/".
	Answers map[string]string
	// Faults are queries that fail, with their code; of a query that all have, with the engine's own.
	Faults map[string]fault.Code
	// Hostile is the file of hostile statements.
	Hostile string
	// Serve loads the fixture into a server instead, and says where it is; nil for a file.
	Serve func(t *testing.T) engine.Server
	// State tells what the server holds, to be the same after the suite.
	State func(t *testing.T) string
	// Lacks are the shared queries that cannot be written in the server's dialect.
	Lacks []string
}

// setup makes the fixture, and gives what a worker is told and what tells whether anything has changed.
func (e Engine) setup(t *testing.T) (engine.Setup, func() string) {
	setup := engine.Setup{Engine: e.Name, AsOf: asOf, Limits: Limits}
	if e.Serve != nil {
		setup.Server = e.Serve(t)
		return setup, func() string { return e.State(t) }
	}
	setup.File = filepath.Join(t.TempDir(), "data."+e.Name)
	e.Make(t, setup.File)
	return setup, func() string {
		body, err := os.ReadFile(setup.File)
		require.NoError(t, err)
		return string(body)
	}
}

// asOf is today in the fixture.
const asOf = "2031-06-30"

// shared are answers that every engine gives.
var shared = map[string]string{
	"SELECT count(*) FROM t":                                            "3000",
	"SELECT a, b FROM t ORDER BY a LIMIT 2":                             "1 x1/2 x2",
	"SELECT 9007199254740993":                                           "9007199254740993",
	"SELECT 'ä''\"'":                                                    "ä'\"",
	"SELECT NULL":                                                       "NULL",
	"SELECT a FROM t WHERE a < 0":                                       "",
	"SELECT median(a) FROM t":                                           "1500.5",
	"SELECT round(stddev(a), 3) FROM t WHERE a <= 4":                    "1.291",
	"SELECT current_date":                                               "2031-06-30",
	"SELECT 'current_date', 'now()'":                                    "current_date now()",
	"SELECT b AS current_date FROM t WHERE a = 1":                       "x1",
	"SELECT count(*) FROM u WHERE day < current_date":                   "1",
	"WITH r AS (SELECT 1 AS n UNION ALL SELECT 2) SELECT sum(n) FROM r": "3",
}

// sharedFaults are failures that every engine tells apart.
var sharedFaults = map[string]fault.Code{
	"SELEC 1": fault.Syntax, "": fault.Syntax, "-- nothing": fault.Syntax, "SELECT * FROM nowhere": fault.UnknownTable,
	"SELECT c FROM t":       fault.UnknownColumn,
	"SELECT summ(a) FROM t": fault.UnknownFunction, "SELECT a FROM t, t v": fault.AmbiguousColumn,
	"DELETE FROM t": fault.Forbidden, "SELECT 1; SELECT 2": fault.Forbidden,
}

// Limits are those under which hostile statements run.
var Limits = engine.Limits{Time: 3 * time.Second, Memory: 1 << 30, Rows: 1_000_000, Result: 256 << 20}

// Run runs the suite on an engine; program is the built program.
func Run(t *testing.T, program string, e Engine) {
	t.Parallel()
	setup, state := e.setup(t)
	before := state()
	pool := engine.NewPool(program, setup, 1)
	t.Cleanup(pool.Close)
	t.Run("answers", func(t *testing.T) {
		for sql, want := range shared {
			request := engine.Request{SQL: sql}
			if e.Serve != nil {
				request.Dialect = engine.DuckDB
			}
			if slices.Contains(e.Lacks, sql) {
				_, err := pool.Query(context.Background(), request)
				var f *engine.Failure
				require.ErrorAs(t, err, &f, sql)
				require.True(t, f.Foreign, "%s: %v", sql, err)
				continue
			}
			require.Equal(t, want, answer(t, pool, request), sql)
		}
		for sql, want := range e.Answers {
			require.Equal(t, want, ask(t, pool, e, sql), sql)
		}
	})
	t.Run("faults", func(t *testing.T) {
		for _, faults := range []map[string]fault.Code{sharedFaults, e.Faults} {
			for sql, want := range faults {
				if own, is := e.Faults[sql]; is {
					want = own
				}
				_, err := pool.Query(context.Background(), e.asked(sql))
				var f *engine.Failure
				require.ErrorAs(t, err, &f, sql)
				require.Equal(t, want, f.Code, "%s: %v", sql, f)
			}
		}
	})
	t.Run("nearest name", func(t *testing.T) {
		_, err := pool.Query(context.Background(), e.asked("SELECT dya FROM u"))
		require.ErrorContains(t, err, `"day"`)
	})
	t.Run("hostile", func(t *testing.T) { hostile(t, pool, e) })
	require.True(t, before == state(), "what holds the dataset must not change")
}

// ask gives a result's cells in the form of Engine.Answers.
func ask(t *testing.T, pool *engine.Pool, e Engine, sql string) string {
	t.Helper()
	return answer(t, pool, e.asked(sql))
}

// asked is a query in the engine's own dialect.
func (e Engine) asked(sql string) engine.Request { return engine.Request{SQL: sql, Dialect: e.Name} }

func answer(t *testing.T, pool *engine.Pool, request engine.Request) string {
	t.Helper()
	r, err := pool.Query(context.Background(), request)
	require.NoError(t, err, request.SQL)
	var rows []string
	for i := range r.Table.Rows() {
		var cells []string
		for _, v := range r.Table.Row(i) {
			cells = append(cells, v.String())
		}
		rows = append(rows, strings.Join(cells, " "))
	}
	return strings.Join(rows, "/")
}

// statement is one of the corpus.
type statement struct {
	outcomes []string
	sql      string
}

// corpus reads a file of hostile statements: a line each, what may come of it before a bar.
func corpus(t *testing.T, path string) []statement {
	t.Helper()
	body, err := os.ReadFile(path)
	require.NoError(t, err)
	expand := template.FuncMap{"n": func(text string, times int) string { return strings.Repeat(text, times) },
		"nul": func() string { return "\x00" }, "nl": func() string { return "\n" }}
	var all []statement
	for line := range strings.SplitSeq(string(body), "\n") {
		if line == "" || strings.HasPrefix(line, "#") {
			continue
		}
		outcomes, text, ok := strings.Cut(line, " | ")
		require.True(t, ok, line)
		tmpl, err := template.New("").Delims("<<", ">>").Funcs(expand).Parse(text)
		require.NoError(t, err, line)
		var sql strings.Builder
		require.NoError(t, tmpl.Execute(&sql, nil))
		all = append(all, statement{strings.Split(outcomes, ","), sql.String()})
	}
	return all
}
