package engine_test

import (
	"context"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/engine"
	"tovrel/engine/clickhouse"
	"tovrel/engine/enginetest"
	"tovrel/engine/mysql"
	"tovrel/engine/postgres"
	"tovrel/servertest"
)

// serverDSN is where a test's server is; a test that has none is skipped, or fails where the gate says that it needs it.
func serverDSN(t *testing.T, variable, name string) string {
	t.Helper()
	dsn := os.Getenv(variable)
	if dsn == "" {
		require.NotContains(t, os.Getenv("TOVREL_NEEDS"), name, "it does not run: see .ci/servers")
		t.Skipf("%s does not run: set %s, as .ci/servers start says", name, variable)
	}
	t.Cleanup(servertest.Alone())
	return dsn
}

// fixtureTables are the suite's tables, and their rows.
func fixtureTables() ([]engine.Table, func(context.Context, engine.Table, func([]*string) error) error) {
	tables := []engine.Table{
		{Name: "t", Columns: []engine.Column{{Name: "a", Type: "BIGINT"}, {Name: "b", Type: "VARCHAR"}}},
		{Name: "u", Columns: []engine.Column{{Name: "a", Type: "BIGINT"}, {Name: "day", Type: "DATE"}}},
	}
	text := func(s string) *string { return &s }
	return tables, func(_ context.Context, t engine.Table, each func([]*string) error) error {
		if t.Name == "u" {
			if err := each([]*string{text("1"), text("2031-05-01")}); err != nil {
				return err
			}
			return each([]*string{text("2"), nil})
		}
		for i := 1; i <= 3000; i++ {
			if err := each([]*string{text(fmt.Sprint(i)), text(fmt.Sprintf("x%d", i))}); err != nil {
				return err
			}
		}
		return nil
	}
}

// TestPostgres: PostgreSQL passes the suite.
func TestPostgres(t *testing.T) {
	dsn := serverDSN(t, "TOVREL_TEST_POSTGRES", "postgres")
	at := engine.Server{DSN: dsn, Schema: "tovrel_suite"}
	enginetest.Run(t, built(t), enginetest.Engine{
		Name: postgres.Name, Hostile: "../testdata/hostile/postgres.txt",
		Serve: func(t *testing.T) engine.Server {
			require.NoError(t, postgres.Drop(context.Background(), at))
			tables, rows := fixtureTables()
			require.NoError(t, postgres.Load(context.Background(), at, tables, rows))
			harmPostgres(t, dsn)
			return at
		},
		State: func(t *testing.T) string { return postgresState(t, dsn) },
		Answers: map[string]string{
			"SELECT current_date, localtimestamp": "2031-06-30 2031-06-30 23:59:59",
			"SELECT now()":                        "2031-06-30 23:59:59Z",
			"SELECT age(DATE '2031-06-01')":       "29 days",
			"SELECT 'today'::date, DATE 'yesterday', CAST('now' AS timestamp)":              "2031-06-30 2031-06-29 2031-06-30 23:59:59",
			"SELECT 'current_date', \"current_date\" FROM (SELECT 7 AS \"current_date\") x": "current_date 7",
			"SELECT 1/2, 7 % 4, 'a' || 'b'":                                                 "0 3 ab",
			"SELECT 1.50::numeric(10,2), 'NaN'::float8, 2::numeric":                         "1.50 NaN 2",
			"SELECT percentile_cont(0.5) WITHIN GROUP (ORDER BY a) FROM t":                  "1500.5",
			"SELECT to_char(day, 'YYYY-MM') FROM u WHERE a = 1":                             "2031-05",
			"SELECT count(*) FILTER (WHERE a > 2990) FROM t":                                "10",
			"WITH r (n) AS (SELECT 1) SELECT n FROM r":                                      "1",
			"SELECT x.v FROM (VALUES (1), (2)) AS x (v) ORDER BY 1":                         "1/2",
			"SELECT INTERVAL '1 month 3 days', DATE '1900-01-01', ARRAY[1,2]":               "1 months 3 days 1900-01-01 {1,2}",
			"SELECT string_agg(b, ',' ORDER BY a) FROM t WHERE a < 3":                       "x1,x2",
			"SELECT true, a > 1, NULL::boolean FROM u WHERE a = 1":                          "true false NULL",
			"SELECT a FROM u ORDER BY day DESC":                                             "2/1",
		},
		Faults: map[string]fault.Code{"SELECT b, sum(a) FROM t": fault.UngroupedColumn, "SELECT sum(b) FROM t": fault.UnknownFunction,
			"SELECT a FROM t WHERE b = 1": fault.TypeMismatch},
	})
}

// harmPostgres adds what users of a server may have defined, and a schema that is none of the dataset's.
func harmPostgres(t *testing.T, dsn string) {
	t.Helper()
	conn, err := postgres.Connect(context.Background(), engine.Server{DSN: dsn, Schema: "tovrel_suite"})
	require.NoError(t, err)
	_, err = conn.Exec(context.Background(), `CREATE FUNCTION harmful() RETURNS int LANGUAGE sql AS 'SELECT 666';
		CREATE FUNCTION harmful_of(t) RETURNS int LANGUAGE sql AS 'SELECT 666';
		CREATE FUNCTION harmful_sum(int, int) RETURNS int LANGUAGE sql AS 'SELECT 666';
		CREATE OPERATOR <!> (FUNCTION = harmful_sum, LEFTARG = int, RIGHTARG = int);
		CREATE DOMAIN harmful_text AS text CHECK (harmful() > 0);
		CREATE TABLE IF NOT EXISTS public.secrets AS SELECT 1 AS a`).ReadAll()
	require.NoError(t, err)
	require.NoError(t, conn.Close(context.Background()))
}

// harmMySQL does so on MariaDB.
func harmMySQL(t *testing.T, dsn string) {
	t.Helper()
	db, err := mysql.Connect(context.Background(), engine.Server{DSN: dsn, Schema: "tovrel_suite"})
	require.NoError(t, err)
	for _, s := range []string{"CREATE FUNCTION harmful_of(x int) RETURNS int DETERMINISTIC RETURN 666", "CREATE SEQUENCE s",
		"CREATE PROCEDURE harmful() SELECT 666", "CREATE DATABASE IF NOT EXISTS tovrel_suite_secrets",
		"CREATE TABLE IF NOT EXISTS tovrel_suite_secrets.secrets AS SELECT 1 AS a"} {
		_, err := db.Exec(s)
		require.NoError(t, err, s)
	}
	require.NoError(t, db.Close())
}

// postgresState is what a server holds: its schemas, tables and their rows, roles and sequences.
func postgresState(t *testing.T, dsn string) string {
	t.Helper()
	conn, err := postgres.Connect(context.Background(), engine.Server{DSN: dsn})
	require.NoError(t, err)
	defer func() { require.NoError(t, conn.Close(context.Background())) }()
	results, err := conn.Exec(context.Background(), `SELECT n.nspname, c.relname, c.relkind FROM pg_class c JOIN pg_namespace n ON n.oid =
			c.relnamespace WHERE n.nspname LIKE 'tovrel_suite%' OR n.nspname = 'public' ORDER BY 1, 2;
		SELECT rolname FROM pg_roles ORDER BY 1;
		SELECT count(*), sum(a), min(b), max(b) FROM tovrel_suite.t; SELECT count(*), sum(a), min(day) FROM tovrel_suite.u;
		SELECT count(*) FROM pg_largeobject_metadata;
		SELECT proname FROM pg_proc WHERE pronamespace::regnamespace::text NOT IN ('pg_catalog',
			'information_schema') ORDER BY 1`).ReadAll()
	require.NoError(t, err)
	var out strings.Builder
	for _, r := range results {
		fmt.Fprintf(&out, "%q\n", r.Rows)
	}
	return out.String()
}

// TestMySQL: so does MariaDB.
func TestMySQL(t *testing.T) {
	dsn := serverDSN(t, "TOVREL_TEST_MYSQL", "mariadb")
	at := engine.Server{DSN: dsn, Schema: "tovrel_suite"}
	enginetest.Run(t, built(t), enginetest.Engine{
		Name: mysql.Name, Hostile: "../testdata/hostile/mysql.txt",
		Lacks: []string{"SELECT median(a) FROM t"},
		Serve: func(t *testing.T) engine.Server {
			require.NoError(t, mysql.Drop(context.Background(), at))
			tables, rows := fixtureTables()
			require.NoError(t, mysql.Load(context.Background(), at, tables, rows))
			harmMySQL(t, dsn)
			return at
		},
		State: func(t *testing.T) string { return mysqlState(t, dsn) },
		Answers: map[string]string{
			"SELECT now(), curdate(), utc_date()":                                "2031-06-30 23:59:59 2031-06-30 2031-06-30",
			"SELECT 1/2, 7 DIV 2, 7 % 4, 'a' || 'b'":                             "0.5000 3 3 ab",
			"SELECT `a`, \"b\" FROM `t` WHERE a = 1":                             "1 x1",
			"SELECT date_format(day, '%Y-%m'), year(day) FROM u WHERE a = 1":     "2031-05 2031",
			"SELECT group_concat(b ORDER BY a SEPARATOR ',') FROM t WHERE a < 3": "x1,x2",
			"SELECT 'X1' = 'x1', 'a ' = 'a'":                                     "0 0",
			"SELECT count(*) FROM t WHERE b = 'X1'":                              "0",
			"SELECT cast(18446744073709551615 AS unsigned), 1.50":                "18446744073709551615 1.50",
			"SELECT date_add(day, INTERVAL 1 MONTH) FROM u WHERE a = 1":          "2031-06-01",
			"WITH r (n) AS (SELECT 1) SELECT n FROM r":                           "1",
			"SELECT 1--1":                                       "2",
			"SELECT a FROM u ORDER BY day":                      "2/1",
			"SELECT 'it\\'s', 'a\\\\b'":                         `it's a\b`,
			"SELECT if(a > 1, 'more', 'one') FROM u ORDER BY a": "one/more",
		},
		Faults: map[string]fault.Code{"SELECT abs(1, 2)": fault.TypeMismatch, "SELECT sleep(9)": fault.Forbidden},
	})
}

// mysqlState is what a server holds: its tables and their rows, users and routines.
func mysqlState(t *testing.T, dsn string) string {
	t.Helper()
	db, err := mysql.Connect(context.Background(), engine.Server{DSN: dsn, Schema: "tovrel_suite"})
	require.NoError(t, err)
	defer func() { require.NoError(t, db.Close()) }()
	var out strings.Builder
	for _, q := range []string{"SELECT group_concat(table_schema, '.', table_name ORDER BY 1) FROM information_schema.tables WHERE " +
		"table_schema LIKE 'tovrel\\_suite%' OR table_schema = 'mysql'",
		"SELECT group_concat(user ORDER BY 1) FROM mysql.user", "SELECT concat(count(*), sum(a), min(b), max(b)) FROM t",
		"SELECT concat(count(*), sum(a), min(day)) FROM u", "SELECT count(*) FROM information_schema.routines"} {
		var text string
		require.NoError(t, db.QueryRow(q).Scan(&text), q)
		out.WriteString(text + "\n")
	}
	return out.String()
}

// TestClickHouse: so does ClickHouse, of a version that knows no median of ours, no window and no UNION in a WITH.
func TestClickHouse(t *testing.T) {
	dsn := serverDSN(t, "TOVREL_TEST_CLICKHOUSE", "clickhouse")
	at := engine.Server{DSN: dsn, Schema: "tovrel_suite"}
	enginetest.Run(t, built(t), enginetest.Engine{
		Name: clickhouse.Name, Hostile: "../testdata/hostile/clickhouse.txt",
		Lacks: []string{"SELECT median(a) FROM t"},
		Serve: func(t *testing.T) engine.Server {
			require.NoError(t, clickhouse.Drop(context.Background(), at))
			tables, rows := fixtureTables()
			require.NoError(t, clickhouse.Load(context.Background(), at, tables, rows))
			for _, s := range []string{"CREATE DATABASE IF NOT EXISTS tovrel_suite_secrets",
				"CREATE TABLE IF NOT EXISTS tovrel_suite_secrets.secrets (a Int64) ENGINE = Log"} {
				execClickHouse(t, dsn, s)
			}
			return at
		},
		State: func(t *testing.T) string { return clickhouseState(t, dsn) },
		Answers: map[string]string{
			"SELECT now('UTC'), toDate(now('Asia/Tokyo'))":                               "2031-06-30 23:59:59 2031-06-30",
			"SELECT now(), today(), yesterday(), toYear(today())":                        "2031-06-30 23:59:59 2031-06-30 2031-06-29 2031",
			"SELECT 1/2, intDiv(7, 2), 7 % 4, 'a' || 'b'":                                "0.5 3 3 ab",
			"SELECT `a`, \"b\" FROM `t` WHERE a = 1":                                     "1 x1",
			"SELECT formatDateTime(day, '%Y-%m'), toYear(day) FROM u WHERE a = 1":        "2031-05 2031",
			"SELECT count() FROM t WHERE b = 'X1'":                                       "0",
			"SELECT toUInt64(18446744073709551615), toDecimal64('1.50', 2)":              "18446744073709551615 1.50",
			"SELECT toInt64(-9223372036854775808), toUInt8(255), toInt8(-128)":           "-9223372036854775808 255 -128",
			"SELECT [1, 2], ['a', 'it\\'s'], [toNullable(1), NULL], tuple(1, 'x')":       `[1,2] ["a","it's"] [1,null] [1,"x"]`,
			"SELECT toFixedString('ab', 4), CAST('x' AS Enum8('x' = 1)), 'a\\tb'":        "ab x a\tb",
			"SELECT 1 / 0, -1 / 0, isNaN(0 / 0)":                                         "Infinity -Infinity 1",
			"SELECT toDateTime('2031-05-01 10:00:00', 'Europe/Berlin')":                  "2031-05-01 10:00:00",
			"SELECT toUUID('61f0c404-5cb3-11e7-907b-a6006ad3dba0')":                      "61f0c404-5cb3-11e7-907b-a6006ad3dba0",
			"SELECT a FROM u ORDER BY day":                                               "1/2",
			"SELECT if(a > 1, 'more', 'one') FROM u ORDER BY a":                          "one/more",
			"SELECT t.a, u.day FROM t LEFT JOIN u ON t.a = u.a WHERE a = 3 ORDER BY t.a": "3 NULL",
			"SELECT number FROM numbers(3)":                                              "0/1/2",
		},
		Faults: map[string]fault.Code{"SELECT abs(1, 2)": fault.TypeMismatch, "SELECT a + 'x' FROM t": fault.TypeMismatch,
			"SELECT sleep(3)": fault.Forbidden, "SELECT a FROM t, t v": fault.EngineError},
	})
}

func execClickHouse(t *testing.T, dsn, statement string) {
	t.Helper()
	conn, err := clickhouse.Connect(context.Background(), engine.Server{DSN: dsn}, nil)
	require.NoError(t, err)
	require.NoError(t, conn.Exec(context.Background(), statement))
	require.NoError(t, conn.Close())
}

// clickhouseState is what a server holds: its tables with their parts, and the rows of the suite's.
func clickhouseState(t *testing.T, dsn string) string {
	t.Helper()
	conn, err := clickhouse.Connect(context.Background(), engine.Server{DSN: dsn}, nil)
	require.NoError(t, err)
	defer func() { require.NoError(t, conn.Close()) }()
	var out strings.Builder
	for _, q := range []string{"SELECT arrayStringConcat(groupArray(concat(database, '.', name)), ' ') FROM (SELECT database, name FROM " +
		"system.tables WHERE database LIKE 'tovrel_suite%' OR database = 'default' ORDER BY database, name)",
		"SELECT arrayStringConcat(groupArray(name), ' ') FROM (SELECT name FROM system.databases WHERE name NOT LIKE 'tovrel_test%' AND " +
			"name NOT LIKE 'tovrel\\_________________%' ORDER BY name)",
		"SELECT toString((count(), sum(a), min(b), max(b))) FROM tovrel_suite.t",
		"SELECT toString((count(), sum(a), min(day))) FROM tovrel_suite.u"} {
		var text string
		require.NoError(t, conn.QueryRow(context.Background(), q).Scan(&text), q)
		out.WriteString(text + "\n")
	}
	return out.String()
}

// TestClickHouseReader: a user who may neither write nor set anything is enough.
func TestClickHouseReader(t *testing.T) {
	dsn := serverDSN(t, "TOVREL_TEST_CLICKHOUSE", "clickhouse")
	for _, s := range realServers {
		if s.name == clickhouse.Name {
			s.loaded(t)
		}
	}
	reader := engine.Server{DSN: strings.Replace(dsn, "tovrel_owner:owner", "tovrel_reader:reader", 1), Schema: "tovrel_test_sale"}
	pool := engine.NewPool(built(t), engine.Setup{Engine: clickhouse.Name, Server: reader, AsOf: "2031-06-30",
		Limits: engine.DefaultLimits()}, 1)
	t.Cleanup(pool.Close)
	r, err := pool.Query(context.Background(), engine.Request{SQL: "SELECT count(), toString(today()) FROM sale", Dialect: clickhouse.Name})
	require.NoError(t, err)
	require.Equal(t, "9", r.Table.Columns[0].Value(0).String())
	conn, err := clickhouse.Connect(context.Background(), reader, nil)
	require.NoError(t, err)
	require.ErrorContains(t, conn.Exec(context.Background(), "DROP TABLE sale"), "readonly")
	require.NoError(t, conn.Close())
}
