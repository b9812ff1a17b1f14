package engine_test

import (
	"context"
	"errors"
	"math"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/engine"
)

// clockQueries are ways to ask an engine for the time: functions by forms of their arguments.
func clockQueries(name string) []string {
	if name == "duckdb" {
		var out []string
		calls := []string{"now()", "today()", "current_date", "current_timestamp", "current_time", "localtimestamp",
			"localtime", "get_current_timestamp()", "get_current_time()", "transaction_timestamp()",
			"current_localtime()", "current_localtimestamp()", "'now'::TIMESTAMP", "'today'::DATE",
			"CAST('now' AS TIMESTAMPTZ)", "TIMESTAMP 'now'", "DATE 'today'", "TRY_CAST('no' || 'w' AS TIMESTAMP)", "age(DATE '2020-01-01')",
			"uuidv7()", "uuid_extract_timestamp(uuidv7())", "strptime('now', '%Y')", "try_strptime('now', '%Y')", "\"now\"()",
			"main.now()", "NOW()", "pg_postmaster_start_time()", "txid_current()"}
		forms := []string{"SELECT %s", "SELECT epoch_ms(%s::TIMESTAMP)", "SELECT %s::VARCHAR",
			"SELECT strftime(%s, '%%Y-%%m-%%d')", "SELECT (SELECT %s)", "WITH c AS (SELECT %s AS c) SELECT c FROM c",
			"SELECT max(%s) FROM t", "SELECT list_transform([1], x -> %s::VARCHAR)",
			"SELECT a FROM t WHERE %s IS NOT NULL ORDER BY a DESC LIMIT 1", "SELECT %s FROM t GROUP BY ALL",
			"SELECT CASE WHEN true THEN %s END", "SELECT date_diff('day', DATE '2000-01-01', %s::DATE)", "VALUES (%s)",
			"SELECT coalesce(NULL, %s)", "FROM (SELECT %s)", "SELECT x FROM (SELECT %s AS x) UNION ALL SELECT NULL"}
		for _, c := range calls {
			for _, f := range forms {
				out = append(out, strings.ReplaceAll(strings.ReplaceAll(f, "%s", c), "%%", "%"))
			}
		}
		return out
	}
	var out []string
	nows := []string{"'now'", "'NOW'", "' now '", "'no' || 'w'", "char(110, 111, 119)", "lower('NOW')", "(SELECT 'now')",
		"substr('xnow', 2)", "replace('n-w', '-', 'o')", "coalesce(NULL, 'now')", "printf('%s', 'now')", "CAST('now' AS TEXT)",
		"CASE WHEN 1 THEN 'now' END", "trim('now')", "\"now\""}
	modifiers := []string{"", ", 'subsec'", ", 'localtime'", ", 'utc'", ", '+0 days'", ", 'start of day'", ", 'sub' || 'sec'", ", 'auto'"}
	for _, now := range nows {
		for _, m := range modifiers {
			for _, f := range []string{"date", "time", "datetime", "julianday", "unixepoch", "DATE"} {
				out = append(out, "SELECT "+f+"("+now+m+")")
			}
			out = append(out, "SELECT strftime('%Y-%m-%d %s', "+now+m+")", "SELECT strftime('%' || 'Y', "+now+m+")")
		}
		out = append(out, "SELECT timediff("+now+", '2000-01-01')", "SELECT timediff('2000-01-01', "+now+")", "SELECT year("+
			now+"), month("+now+")", "SELECT date_trunc('month', date("+now+"))")
	}
	return append(out, "SELECT date(), time(), datetime(), julianday(), unixepoch()", "SELECT strftime('%Y'), strftime('%s')",
		"SELECT current_date, current_time, current_timestamp", "SELECT CURRENT_TIMESTAMP || ''",
		"SELECT unixepoch('subsec'), julianday('subsec'), datetime('subsec'), date('subsec'), time('subsec')",
		"SELECT date(c) FROM (SELECT 'now' AS c)",
		"WITH c(n) AS (VALUES ('now')) SELECT datetime(n), timediff(n, date(n)) FROM c",
		"SELECT group_concat(date('now')) FROM t WHERE a < 3", "SELECT date('now', (SELECT '+1 day'))",
		"SELECT /* x */ date /* y */ ( /* z */ 'now' )")
}

var numbers = regexp.MustCompile(`-?\d+(?:\.\d+)?`)

// showsClock tells whether a result holds the machine's own day or time, in any of the usual counts.
func showsClock(text string, at time.Time) bool {
	if strings.Contains(text, at.Format("2006-01")) || strings.Contains(text, at.Format("2006")) {
		return true
	}
	since := at.Sub(time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC)).Hours() / 24
	for _, n := range numbers.FindAllString(text, -1) {
		f, err := strconv.ParseFloat(n, 64)
		if err != nil {
			continue
		}
		for unit, clock := range map[float64]float64{86400: float64(at.Unix()), 86400e3: float64(at.UnixMilli()),
			86400e6: float64(at.UnixMicro()), 1: float64(at.Unix())/86400 + 2440587.5} {
			if math.Abs(f-clock) < 2*unit {
				return true
			}
		}
		if math.Abs(f-since) < 2 {
			return true
		}
	}
	return false
}

// clockIsStopped: no query of the list sees the machine's date, and those that see one see the dataset's.
func clockIsStopped(t *testing.T, name, file string) {
	t.Helper()
	p := engine.NewPool(built(t), engine.Setup{Engine: name, File: file, AsOf: "2031-06-30", Limits: engine.DefaultLimits()}, 1)
	defer p.Close()
	answered, seen := 0, 0
	for _, sql := range clockQueries(name) {
		got, err := p.Query(context.Background(), engine.Request{SQL: sql})
		var f *engine.Failure
		if errors.As(err, &f) {
			continue // refused, or no query of this dialect
		}
		require.NoError(t, err, sql)
		answered++
		var cells []string
		for _, c := range got.Table.Columns {
			for row := range c.Len() {
				cells = append(cells, c.Value(row).String())
			}
		}
		text := strings.Join(cells, " ")
		require.False(t, showsClock(text, time.Now().UTC()), "%s gives %s", sql, text)
		if strings.Contains(text, "2031-06") {
			seen++
		}
	}
	t.Logf("%s: %d queries answered, %d of them with the dataset's month", name, answered, seen)
	require.Greater(t, answered, 200)
	require.Greater(t, seen, 100)
}
