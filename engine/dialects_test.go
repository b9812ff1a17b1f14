package engine_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"tovrel/core/dialect"
	"tovrel/core/match"
	"tovrel/core/sql"
	"tovrel/core/value"
	"tovrel/engine"
	"tovrel/engine/clickhouse"
	"tovrel/engine/duckdb"
	"tovrel/engine/mysql"
	"tovrel/engine/postgres"
	"tovrel/engine/server"
	"tovrel/expect"
)

// sale is the table, as the embedded engine reads it from its rows, on which queries are held against each other: whole numbers, decimals,
// floats, texts with nulls, days and moments.
var sale = engine.Table{Name: "sale", Columns: []engine.Column{{Name: "id", Type: "BIGINT"}, {Name: "farm", Type: "VARCHAR"},
	{Name: "day", Type: "DATE"}, {Name: "at", Type: "TIMESTAMP"}, {Name: "kg", Type: "DECIMAL(8,2)"}, {Name: "price", Type: "DOUBLE"},
	{Name: "n", Type: "BIGINT"}, {Name: "status", Type: "VARCHAR"}, {Name: "note", Type: "VARCHAR"}}}

// saleRows are the table's rows as CSV, an empty cell for null.
const saleRows = `1,Alder,2031-01-03,2031-01-03 08:15:00,12.50,2.25,1,ok,x
2,Brookside,2031-01-31,2031-01-31 23:59:59,7.25,3.5,4,late,
3,Alder,2031-02-28,2031-02-28 12:00:30,30.00,1.75,2,ok,two words
4,Cole,2031-03-01,2031-03-01 00:00:00,0.75,2.5,5,void,
5,Brookside,2031-03-15,2031-03-15 06:45:10,14.10,4.125,3,ok,x
6,Alder,2030-12-29,2030-12-29 18:30:00,9.99,2.75,3,late,
7,Dell,2031-04-30,2031-04-30 07:07:07,22.20,3.25,1,ok,Y
8,Brookside,2031-05-31,2031-05-31 21:00:00,5.05,1.2,2,void,
9,Cole,2031-06-29,2031-06-29 09:30:00,18.40,2.25,4,ok,z
`

func saleCells(_ context.Context, _ engine.Table, each func([]*string) error) error {
	for line := range strings.SplitSeq(strings.TrimSpace(saleRows), "\n") {
		var cells []*string
		for text := range strings.SplitSeq(line, ",") {
			if text == "" {
				cells = append(cells, nil)
			} else {
				cells = append(cells, &text)
			}
		}
		if err := each(cells); err != nil {
			return err
		}
	}
	return nil
}

// here is a pool of the embedded engine on the table.
func here(t *testing.T) *engine.Pool {
	t.Helper()
	csv := filepath.Join(t.TempDir(), "sale.csv")
	var names []string
	types := map[string]value.Kind{}
	for _, c := range sale.Columns {
		names = append(names, c.Name)
	}
	require.NoError(t, os.WriteFile(csv, []byte(strings.Join(names, ",")+"\n"+saleRows), 0o600))
	file := filepath.Join(t.TempDir(), "data.duckdb")
	_, err := duckdb.Freeze(context.Background(), file, []duckdb.Source{{Table: "sale", Types: types,
		Samples: []*duckdb.Sample{{File: csv, Path: csv, Format: duckdb.CSV, Delimiter: ',', Names: names}}}})
	require.NoError(t, err)
	pool := engine.NewPool(built(t), engine.Setup{Engine: duckdb.Name, File: file, AsOf: "2031-06-30", Limits: engine.DefaultLimits()}, 1)
	t.Cleanup(pool.Close)
	return pool
}

// realServer is a server of a dialect on which the table is loaded.
type realServer struct {
	name, variable, shown string
	queries               string // of the embedded engine that it can express
	endless               string // a query that runs for days
	drop                  func(context.Context, engine.Server) error
	load                  func(context.Context, engine.Server, []engine.Table, server.RowsOf) error
}

var realServers = []realServer{
	{postgres.Name, "TOVREL_TEST_POSTGRES", "postgres", "embedded.sql", endless, postgres.Drop, postgres.Load},
	{mysql.Name, "TOVREL_TEST_MYSQL", "mariadb", "embedded.sql", endless, mysql.Drop, mysql.Load},
	{clickhouse.Name, "TOVREL_TEST_CLICKHOUSE", "clickhouse", "embedded-clickhouse.sql",
		"SELECT sum(sipHash64(number)) AS endless FROM numbers(100000000000000)", clickhouse.Drop, clickhouse.Load},
}

// loaded is where the table is loaded.
func (s realServer) loaded(t *testing.T) engine.Server {
	t.Helper()
	at := engine.Server{DSN: serverDSN(t, s.variable, s.shown), Schema: "tovrel_test_sale"}
	require.NoError(t, s.drop(context.Background(), at))
	require.NoError(t, s.load(context.Background(), at, []engine.Table{sale}, saleCells))
	return at
}

// there is a pool of the server on the table.
func (s realServer) there(t *testing.T) *engine.Pool {
	t.Helper()
	at := s.loaded(t)
	pool := engine.NewPool(built(t), engine.Setup{Engine: s.name, Server: at, AsOf: "2031-06-30", Limits: engine.DefaultLimits()}, 1)
	t.Cleanup(pool.Close)
	return pool
}

// written are the queries of a file, each with what it lacks: what stands before " | ".
func written(t *testing.T, file string) (queries []string, lacks [][]string) {
	t.Helper()
	body, err := os.ReadFile("../testdata/dialects/" + file)
	require.NoError(t, err)
	for line := range strings.SplitSeq(strings.TrimSpace(string(body)), "\n") {
		if strings.HasPrefix(line, "#") || line == "" {
			continue
		}
		before, query, has := strings.Cut(line, " | ")
		if !has || strings.Contains(before, " ") {
			before, query = "", line
		}
		queries, lacks = append(queries, query), append(lacks, strings.Split(before, ","))
	}
	return queries, lacks
}

// sameResult holds two results against each other.
func sameResult(t *testing.T, query string, a, b engine.Result) {
	t.Helper()
	r := match.Match(a.Table, b.Table, expect.AsWritten, match.Known{})
	if !r.Matched { // some have more decimals
		r = match.Match(a.Table, b.Table, expect.AsWritten, match.Known{Rounded: expect.AllRounded(len(a.Table.Columns))})
	}
	assert.True(t, r.Matched, "%s\n  as %s\n  and %s\n  gives other rows: %s\n%s\n%s", query, a.Instead, b.Instead, r.Why, cells(a),
		cells(b))
}

func cells(r engine.Result) string {
	var out strings.Builder
	for i := range min(r.Table.Rows(), 4) {
		for k, v := range r.Table.Row(i) {
			fmt.Fprintf(&out, "%s:%v  ", r.Table.Columns[k].Type, v)
		}
		out.WriteString("\n")
	}
	return out.String()
}

// TestWrittenForServers: queries of the embedded engine give the same on a server, written in its dialect, and every rule is among them.
func TestWrittenForServers(t *testing.T) {
	for _, s := range realServers {
		t.Run(s.name, func(t *testing.T) {
			one, other := here(t), s.there(t)
			parser, err := duckdb.NewParser()
			require.NoError(t, err)
			used := map[string]bool{}
			queries, lacks := written(t, s.queries)
			for i, q := range queries {
				expected, err := one.Query(context.Background(), engine.Request{SQL: q})
				require.NoError(t, err, q)
				got, err := other.Query(context.Background(), engine.Request{SQL: q})
				if slices.Contains(lacks[i], s.name) {
					f, _ := expect.Failure(err)
					assert.True(t, f != nil && f.Foreign, "%s: it has a form after all: %v", q, err)
					continue
				}
				if !assert.NoError(t, err, "%s\n  as %s", q, got.Instead) {
					continue
				}
				sameResult(t, q, expected, got)
				serialised, err := parser.Parse(context.Background(), q)
				require.NoError(t, err)
				tree, err := sql.Read(serialised)
				require.NoError(t, err)
				_, rules, err := dialect.Write(tree, s.name, server.ColumnsOf([]engine.Table{sale}))
				require.NoError(t, err)
				for _, r := range rules {
					used[r] = true
				}
			}
			for _, r := range dialect.RulesTo(s.name) {
				assert.True(t, used[r], "no query tries the rule %s", r)
			}
		})
	}
}

// TestReadFromServers: queries of a server's dialect give the same on the embedded engine, and every rule is among them.
func TestReadFromServers(t *testing.T) {
	for _, s := range realServers {
		t.Run(s.name, func(t *testing.T) {
			one, other := here(t), s.there(t)
			used := map[string]bool{}
			queries, lacks := written(t, s.name+".sql")
			for i, q := range queries {
				expected, err := other.Query(context.Background(), engine.Request{SQL: strings.ReplaceAll(q, "public.", ""),
					Dialect: s.name})
				if !assert.NoError(t, err, q) {
					continue
				}
				got, err := one.Query(context.Background(), engine.Request{SQL: q, Dialect: s.name})
				if lacks[i][0] != "" {
					f, _ := expect.Failure(err)
					assert.True(t, f != nil && f.Foreign, "%s: it has a form after all: %v", q, err)
					continue
				}
				if !assert.NoError(t, err, "%s\n  as %s", q, got.Instead) {
					continue
				}
				sameResult(t, q, expected, got)
				for _, r := range got.Rules {
					used[r] = true
				}
			}
			for _, r := range dialect.RulesFrom(s.name) {
				if !dialect.Refused(s.name, r) {
					unheld := len(dialect.Unchecked(s.name, []string{r})) > 0
					assert.NotEqual(t, unheld, used[r], "the rule %s: a query tries it, or it says that none can", r)
				}
			}
		})
	}
}

// TestOtherDialects: what users of other dialects write gives what the embedded engine's own query gives; at least nine of ten are
// rewritten, and
// none gives something else.
func TestOtherDialects(t *testing.T) {
	pool := here(t)
	body, err := os.ReadFile("../testdata/dialects/matrix.txt")
	require.NoError(t, err)
	var expected engine.Result
	own := ""
	tried, done := map[string]int{}, map[string]int{}
	for line := range strings.SplitSeq(string(body), "\n") {
		name, query, _ := strings.Cut(line, " ")
		switch {
		case line == "" || strings.HasPrefix(line, "#"):
			continue
		case name == "=":
			own = query
			expected, err = pool.Query(context.Background(), engine.Request{SQL: query})
			require.NoError(t, err, query)
			continue
		case name == "?":
			from, text, _ := strings.Cut(query, " ")
			_, err := pool.Query(context.Background(), engine.Request{SQL: text, Dialect: from})
			f, _ := expect.Failure(err)
			assert.True(t, f != nil && f.Foreign, "%s is to be left to its own dialect: %v", text, err)
			continue
		}
		tried[name]++
		got, err := pool.Query(context.Background(), engine.Request{SQL: query, Dialect: name})
		if f, failed := expect.Failure(err); failed {
			assert.True(t, f.Foreign, "%s: a failure that would be held against the query: %v\n  as %s", query, f, got.Instead)
			t.Logf("%s has no form here: %s: %v", name, query, f)
			continue
		}
		require.NoError(t, err, query)
		done[name]++
		sameResult(t, own+"\n"+name+" "+query, expected, got)
	}
	for name, n := range tried {
		t.Logf("%s: %d of %d rewritten", name, done[name], n)
		assert.GreaterOrEqual(t, done[name]*10, n*9, name)
	}
}
