package engine_test

import (
	"context"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/engine"
	"tovrel/engine/duckdb"
)

// pool opens the built program's workers on a small dataset.
func pool(t *testing.T, limits engine.Limits) *engine.Pool {
	t.Helper()
	program, err := filepath.Abs("../tovrel")
	require.NoError(t, err)
	require.FileExists(t, program, "build the program first: make build")
	dir := t.TempDir()
	csv := filepath.Join(dir, "t.csv")
	require.NoError(t, os.WriteFile(csv, []byte("a,b\n1,x\n2,y\n"), 0o600))
	file := filepath.Join(dir, "t.duckdb")
	_, err = duckdb.Freeze(context.Background(), file,
		[]duckdb.Source{{Table: "t", Samples: []*duckdb.Sample{{File: "t.csv", Path: csv, Format: duckdb.CSV, Delimiter: ',',
			Names: []string{"a", "b"}}}}})
	require.NoError(t, err)
	p := engine.NewPool(program, engine.Setup{Engine: duckdb.Name, File: file, Limits: limits}, 1)
	t.Cleanup(p.Close)
	return p
}

func codeOf(t *testing.T, err error) fault.Code {
	t.Helper()
	var f *engine.Failure
	require.ErrorAs(t, err, &f)
	return f.Code
}

// TestTypes: every type of the engine arrives as itself.
func TestTypes(t *testing.T) {
	p := pool(t, engine.DefaultLimits())
	r, err := p.Query(context.Background(),
		engine.Request{SQL: `SELECT 1::TINYINT, 170141183460469231731687303715884105727::HUGEINT, 1.50::DECIMAL(9,2),
		12345678901234567890.123::DECIMAL(38,3), 0.1::DOUBLE, 'ä', DATE '2031-05-01', TIME '01:02:03.5', TIMESTAMP '2031-05-01 01:02:03',
		TIMESTAMPTZ '2031-05-01 01:02:03+02', INTERVAL '1 month 2 days', true, NULL, [1, 2], {'k': 'v'}, '\xAA'::BLOB, 'a'::ENUM('a', 'b'),
		18446744073709551615::UBIGINT, 'infinity'::DATE`})
	require.NoError(t, err)
	var got []string
	for _, c := range r.Table.Columns {
		got = append(got, c.Type.String()+" "+c.Value(0).String())
	}
	require.Equal(t, []string{"integer 1", "integer 170141183460469231731687303715884105727", "decimal 1.50",
		"decimal 12345678901234567890.123",
		"float 0.1", "text ä", "date 2031-05-01", "time 01:02:03.5", "timestamp 2031-05-01 01:02:03", "timestamptz 2031-04-30 23:02:03Z",
		"interval 1 months 2 days", "boolean true", "text NULL", "json [1,2]", `json {"k":"v"}`, `blob \xaa`, "text a",
		"integer 18446744073709551615", "date infinity"}, got)
}

// TestTicks: times in every unit of the engine arrive in microseconds, before and after 1970, and those without an end stay so.
func TestTicks(t *testing.T) {
	p := pool(t, engine.DefaultLimits())
	r, err := p.Query(context.Background(), engine.Request{SQL: `
		SELECT TIMESTAMP_S '2031-05-01 01:02:03', TIMESTAMP_MS '2031-05-01 01:02:03.456',
		TIMESTAMP_NS '2031-05-01 01:02:03.456789123', TIMESTAMP_NS '1960-05-01 01:02:03.5', TIMESTAMP_S '1960-05-01 01:02:03',
		TIMESTAMP 'infinity', TIMESTAMP '-infinity', 'infinity'::TIMESTAMP_S, TIME '23:59:59.999999', '00:00'::TIME, DATE '1960-02-29'`})
	require.NoError(t, err)
	var got []string
	for _, c := range r.Table.Columns {
		got = append(got, c.Value(0).String())
	}
	require.Equal(t, []string{"2031-05-01 01:02:03", "2031-05-01 01:02:03.456", "2031-05-01 01:02:03.456789", "1960-05-01 01:02:03.5",
		"1960-05-01 01:02:03", "infinity", "-infinity", "infinity", "23:59:59.999999", "00:00:00", "1960-02-29"}, got)
}

// TestFaults: the engine's errors are told by their type.
func TestFaults(t *testing.T) {
	p := pool(t, engine.DefaultLimits())
	for sql, want := range map[string]fault.Code{
		"SELEC 1":                 fault.Syntax,
		"":                        fault.Syntax,
		"-- nothing":              fault.Syntax,
		"SELECT * FROM tt":        fault.UnknownTable,
		"SELECT x.a FROM t":       fault.UnknownTable,
		"SELECT c FROM t":         fault.UnknownColumn,
		"SELECT t.c FROM t":       fault.UnknownColumn,
		"SELECT summ(a) FROM t":   fault.UnknownFunction,
		"SELECT a FROM t, t u":    fault.AmbiguousColumn,
		"SELECT b, sum(a) FROM t": fault.UngroupedColumn,
		"SELECT sum(b) FROM t":    fault.TypeMismatch,
		"SELECT a + DATE '2031-01-01' || a FROM t WHERE b = 1": fault.TypeMismatch,
		"SELECT b::INT FROM t":                                 fault.TypeMismatch,
		"DELETE FROM t":                                        fault.Forbidden,
		"SELECT * FROM pg_settings":                            fault.Catalogue,
		"SHOW TABLES":                                          fault.Catalogue,
		"SELECT 1//0":                                          fault.EngineError,
		"SELECT (SELECT a FROM t)":                             fault.EngineError,
		"SELECT 1" + strings.Repeat(" ", 64<<10):               fault.Forbidden,
		"SELECT 1\x00; DROP TABLE t":                           fault.Forbidden,
	} {
		_, err := p.Query(context.Background(), engine.Request{SQL: sql})
		require.Equal(t, want, codeOf(t, err), "%.60s: %v", sql, err)
	}
	_, err := p.Query(context.Background(), engine.Request{SQL: "SELECT nope, a FROM t"})
	var f *engine.Failure
	require.ErrorAs(t, err, &f)
	require.Equal(t, 7, f.Position)
}

// TestKilledWorker: a worker that dies costs its query, and the next one gets a new worker.
func TestKilledWorker(t *testing.T) {
	limits := engine.DefaultLimits()
	limits.Time = 3 * time.Second
	p := pool(t, limits)
	_, err := p.Query(context.Background(), engine.Request{SQL: "SELECT 1"}) // the worker is up
	require.NoError(t, err)
	done := make(chan error, 1)
	go func() {
		_, err := p.Query(context.Background(), engine.Request{SQL: "SELECT count(*) FROM range(1000000) a, range(1000000) b " +
			"WHERE a.range + b.range = 7"})
		done <- err
	}()
	require.Eventually(t, func() bool {
		return exec.Command("pkill", "-9", "-P", itself(), "tovrel").Run() == nil
	}, 10*time.Second, 300*time.Millisecond)
	require.Equal(t, fault.EngineError, codeOf(t, <-done))
	_, err = p.Query(context.Background(), engine.Request{SQL: "SELECT 1"})
	require.NoError(t, err)
}

func itself() string { return strings.TrimSpace(filepath.Base(must(os.Readlink("/proc/self")))) }

func must(s string, err error) string {
	if err != nil {
		panic(err)
	}
	return s
}

// TestCancelled: a query whose context ends stops at once.
func TestCancelled(t *testing.T) {
	p := pool(t, engine.DefaultLimits())
	ctx, cancel := context.WithTimeout(context.Background(), 300*time.Millisecond)
	defer cancel()
	_, err := p.Query(ctx, engine.Request{SQL: "SELECT count(*) FROM range(1000000) a, range(1000000) b WHERE a.range + b.range = 7"})
	require.ErrorIs(t, err, context.DeadlineExceeded)
}

// hungry are queries that want more memory than there is, each in its own way.
var hungry = []string{
	"SELECT length(repeat('x', 300000000))", "SELECT len(range(100000000))", "SELECT list(a || range) FROM t, range(20000000)",
	"SELECT * FROM range(80000000)",
	"SELECT string_agg(repeat('y', 1000)) FROM range(1000000)", "SELECT count(DISTINCT repeat(i::VARCHAR, 20)) FROM range(30000000) r(i)",
	"SELECT i, j FROM range(5000) x(i), range(5000) y(j) ORDER BY i * j % 977, i", "SELECT lpad('x', 400000000, 'y')",
	"SELECT map_from_entries(list_zip(range(20000000), range(20000000)))",
}

// innocents is how many innocent queries are run between hungry ones; INNOCENTS sets another number.
func innocents() int {
	if n, err := strconv.Atoi(os.Getenv("INNOCENTS")); err == nil {
		return n
	}
	return 300
}

// TestInnocentAmongHungry: no innocent query pays for a hungry one that its worker ran before.
func TestInnocentAmongHungry(t *testing.T) {
	limits := engine.DefaultLimits()
	limits.Memory, limits.Time = 256<<20, 5*time.Second
	p := pool(t, limits)
	n := innocents()
	every := max(15, n/200)
	for i := range n {
		before := hungry[i/every%len(hungry)]
		if i%every == 0 {
			_, err := p.Query(context.Background(), engine.Request{SQL: before})
			require.Error(t, err, before)
		}
		got, err := p.Query(context.Background(),
			engine.Request{SQL: "SELECT b, count(*) AS n, sum(i) FROM t, range(2000) r(i) GROUP BY b ORDER BY b", Tree: true})
		require.NoError(t, err, "query %d, behind %s", i, before)
		require.Equal(t, 2, got.Table.Rows())
	}
}
