package engine_test

import (
	"context"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/engine"
	"tovrel/engine/clickhouse"
	"tovrel/engine/mysql"
	"tovrel/engine/postgres"
	"tovrel/expect"
)

// endless is a query that runs for hours.
const endless = "SELECT count(*) FROM sale a, sale b, sale c, sale d, sale e, sale f, sale g, sale h, sale i, sale j, sale k /* endless */"

// processes are an administrator's looks at what a server runs: how many endless queries there are, and ending their sessions.
type processes struct {
	running func(t *testing.T) int
	cut     func(t *testing.T)
}

func ofPostgres(t *testing.T, dsn string) processes {
	t.Helper()
	ask := func(t *testing.T, query string) int {
		t.Helper()
		conn, err := postgres.Connect(context.Background(), engine.Server{DSN: dsn})
		require.NoError(t, err)
		defer func() { require.NoError(t, conn.Close(context.Background())) }()
		rows, err := conn.Exec(context.Background(), query).ReadAll()
		require.NoError(t, err)
		n, err := strconv.Atoi(string(rows[0].Rows[0][0]))
		require.NoError(t, err)
		return n
	}
	const of = " FROM pg_stat_activity WHERE state = 'active' AND query LIKE '%/* endless */%' AND pid <> pg_backend_pid()"
	return processes{func(t *testing.T) int { return ask(t, "SELECT count(*)"+of) },
		func(t *testing.T) { require.Positive(t, ask(t, "SELECT count(pg_terminate_backend(pid))"+of)) }}
}

func ofMySQL(t *testing.T, dsn string) processes {
	t.Helper()
	ask := func(t *testing.T) (ids []int) {
		t.Helper()
		db, err := mysql.Connect(context.Background(), engine.Server{DSN: dsn})
		require.NoError(t, err)
		defer func() { require.NoError(t, db.Close()) }()
		rows, err := db.Query("SELECT id FROM information_schema.processlist WHERE info LIKE '%/* endless */%' " +
			"AND info NOT LIKE '%processlist%'")
		require.NoError(t, err)
		for rows.Next() {
			var id int
			require.NoError(t, rows.Scan(&id))
			ids = append(ids, id)
		}
		require.NoError(t, rows.Close())
		return ids
	}
	return processes{func(t *testing.T) int { return len(ask(t)) }, func(t *testing.T) {
		ids := ask(t)
		require.NotEmpty(t, ids)
		db, err := mysql.Connect(context.Background(), engine.Server{DSN: dsn})
		require.NoError(t, err)
		for _, id := range ids {
			_, err := db.Exec("KILL " + strconv.Itoa(id))
			require.NoError(t, err)
		}
		require.NoError(t, db.Close())
	}}
}

// ofClickHouse looks so at ClickHouse.
func ofClickHouse(_ *testing.T, dsn string) processes {
	ask := func(t *testing.T, query string) (n uint64) {
		conn, err := clickhouse.Connect(context.Background(), engine.Server{DSN: dsn}, nil)
		require.NoError(t, err)
		defer func() { require.NoError(t, conn.Close()) }()
		rows, err := conn.Query(context.Background(), query)
		require.NoError(t, err)
		for rows.Next() {
			n++
		}
		require.NoError(t, rows.Close())
		return n
	}
	const running = "FROM system.processes WHERE query LIKE '%endless%' AND query NOT LIKE '%processes%'"
	return processes{func(t *testing.T) int { return int(ask(t, "SELECT query_id "+running)) },
		func(t *testing.T) {
			require.NotZero(t, ask(t, "KILL QUERY WHERE query LIKE '%endless%' AND query NOT LIKE '%processes%'"))
		}}
}

// TestNothingRunsOn: a query that is given up, or runs into its limit, ends at the server; a session that is cut costs its
// query, and the next one is answered.
func TestNothingRunsOn(t *testing.T) {
	for _, s := range realServers {
		t.Run(s.name, func(t *testing.T) {
			at := s.loaded(t)
			within := func(limit time.Duration) *engine.Pool {
				limits := engine.DefaultLimits()
				limits.Time = limit
				pool := engine.NewPool(built(t), engine.Setup{Engine: s.name, Server: at, Limits: limits}, 1)
				t.Cleanup(pool.Close)
				return pool
			}
			look := map[string]func(*testing.T, string) processes{postgres.Name: ofPostgres, mysql.Name: ofMySQL,
				clickhouse.Name: ofClickHouse}[s.name](t, at.DSN)
			request := engine.Request{SQL: s.endless, Dialect: s.name}
			gone := func() { // a second is enough but on a busy machine; the query itself would run for days
				require.Eventually(t, func() bool { return look.running(t) == 0 }, 10*time.Second, 20*time.Millisecond)
			}
			runs := func() {
				require.Eventually(t, func() bool { return look.running(t) > 0 }, 30*time.Second, 10*time.Millisecond)
			}

			_, err := within(2*time.Second).Query(context.Background(), request)
			f, _ := expect.Failure(err)
			require.NotNil(t, f, "%v", err)
			require.Equal(t, fault.TooSlow, f.Code)
			gone()

			pool := within(time.Minute)
			ctx, cancel := context.WithCancel(context.Background())
			ended := make(chan error, 1)
			go func() {
				_, err := pool.Query(ctx, request)
				ended <- err
			}()
			runs()
			cancel()
			require.ErrorIs(t, <-ended, context.Canceled)
			gone()

			go func() {
				_, err := pool.Query(context.Background(), request)
				ended <- err
			}()
			runs()
			look.cut(t)
			err = <-ended
			f, _ = expect.Failure(err)
			require.NotNil(t, f, "%v", err)
			require.NotEqual(t, fault.TooSlow, f.Code, "it was asked again")
			gone()
			result, err := pool.Query(context.Background(), engine.Request{SQL: "SELECT count(*) FROM sale", Dialect: s.name})
			require.NoError(t, err)
			require.Equal(t, "9", result.Table.Columns[0].Value(0).String())
		})
	}
}
