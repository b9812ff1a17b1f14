// Package warehouse measures a profile and a run of 30 questions over 20,000,000 rows on the database servers that .ci/servers starts,
// beside the same queries one after another through the server's own client: how long, how much memory, and how much of the time is
// Tovrel's own.
package warehouse

import (
	"context"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"tovrel/bench/held"
	"tovrel/engine"
	"tovrel/engine/clickhouse"
	"tovrel/engine/postgres"
)

// farms is how many farms there are.
const farms = 5_000

// rows is how many loads there are; TOVREL_BENCH_ROWS makes them fewer.
var rows = func() int {
	if n, err := strconv.Atoi(os.Getenv("TOVREL_BENCH_ROWS")); err == nil {
		return n
	}
	return 20_000_000
}()

// warehouse is a server, how it is filled, and how a day is written in its queries.
type warehouse struct {
	kind, variable string
	fill           func(ctx context.Context, dsn string) error
	ask            func(ctx context.Context, dsn string, queries []string) error
	day            string
}

var warehouses = []warehouse{
	{"postgres", "TOVREL_TEST_POSTGRES", fillPostgres, askPostgres, "DATE '%s'"},
	{"clickhouse", "TOVREL_TEST_CLICKHOUSE", fillClickHouse, askClickHouse, "toDate('%s')"},
}

// Measure measures the program on every server that runs.
func Measure(program string) error {
	for _, w := range warehouses {
		dsn := os.Getenv(w.variable)
		if dsn == "" {
			fmt.Printf("warehouse: %s does not run (set %s, as .ci/servers start says): not measured\n", w.kind, w.variable)
			continue
		}
		if err := w.measure(program, dsn); err != nil {
			return fmt.Errorf("%s: %w", w.kind, err)
		}
	}
	return nil
}

func (w warehouse) measure(program, dsn string) error {
	ctx := context.Background()
	if err := w.fill(ctx, dsn); err != nil {
		return err
	}
	dir, err := os.MkdirTemp("", "tovrel-warehouse-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir) //nolint:errcheck // scratch
	queries, err := w.workspace(dir)
	if err != nil {
		return err
	}
	profile, err := held.Run(dir, program, "data", "profile", "big", "--quiet")
	if err != nil {
		return err
	}
	start := time.Now()
	if err := w.ask(ctx, dsn, queries); err != nil {
		return err
	}
	raw := time.Since(start)
	fmt.Printf("%s, %d rows: profile %.1f s, %d MB; its client asks the 60 queries in %.1f s\n", w.kind, rows, profile.Time.Seconds(),
		profile.Memory>>20, raw.Seconds())
	for _, more := range [][]string{{"--no-diagnosis"}, {}} {
		took, err := held.Run(dir, program, append([]string{"run", "-t", "bot@1", "--quiet"}, more...)...)
		if err != nil {
			return err
		}
		fmt.Printf("  run %s: %.1f s (%.2f of its client's), own processor time %.2f s, %.1f %% of the run, %d MB in the largest process\n",
			strings.Join(more, " "), took.Time.Seconds(), took.Time.Seconds()/raw.Seconds(), took.Processor.Seconds(),
			100*took.Processor.Seconds()/took.Time.Seconds(), took.Memory>>20)
	}
	return nil
}

// question is a reference and a mistaken answer; %[1]s and %[2]s are days.
type question struct{ reference, mistaken, from, to string }

// questions are 30: sums in a month, sums by district, the largest farms, means of a tanker.
func questions() (all []question) {
	for m := 1; m <= 10; m++ {
		all = append(all, question{
			"SELECT count(*) AS n, sum(litres) AS total FROM loads WHERE day >= %[1]s AND day < %[2]s AND status = 'ok'",
			"SELECT count(*) AS n, sum(litres) AS total FROM loads WHERE day >= %[1]s AND day < %[2]s",
			fmt.Sprintf("2030-%02d-01", m), fmt.Sprintf("2030-%02d-01", m+1)})
	}
	byDistrict := "SELECT district, sum(litres) AS total FROM loads JOIN farms USING (farm_id) " + // no aliases: the old cluster loses them
		"WHERE day >= %[1]s AND day < %[2]s AND status = 'ok' GROUP BY district"
	for m := 1; m <= 6; m++ {
		all = append(all, question{byDistrict, strings.Replace(byDistrict, " AND status = 'ok'", "", 1),
			fmt.Sprintf("2029-%02d-01", m), fmt.Sprintf("2029-%02d-01", m+2)})
	}
	const byFarm = "SELECT farm_id, sum(litres) AS total FROM loads WHERE day >= %[1]s AND day < %[2]s GROUP BY farm_id ORDER BY "
	for m := 1; m <= 6; m++ {
		all = append(all, question{
			byFarm + "total DESC, farm_id LIMIT 5", byFarm + "total, farm_id LIMIT 5",
			fmt.Sprintf("2029-%02d-01", m), fmt.Sprintf("2029-%02d-01", m+1)})
	}
	for n := 1; n <= 8; n++ {
		all = append(all, question{fmt.Sprintf("SELECT avg(litres) AS mean FROM loads WHERE tanker = 'T%d' AND day >= %%[1]s", n),
			fmt.Sprintf("SELECT avg(litres) AS mean FROM loads WHERE tanker = 'T%d' AND day >= %%[1]s", n+1), "2029-06-01", "2029-06-01"})
	}
	return all
}

// workspace writes the golden set and a translator that makes a mistake in every third answer, and gives all queries as the server reads
// them.
func (w warehouse) workspace(dir string) (queries []string, err error) {
	golden := "---\ngolden-set: big\ndataset: big\n---\n\n# Big\n"
	var replies strings.Builder
	for i, q := range questions() {
		filled := func(query, day string) string {
			days := fmt.Sprintf(day, q.from)
			until := fmt.Sprintf(day, q.to)
			return strings.NewReplacer("%[1]s", days, "%[2]s", until).Replace(query)
		}
		golden += fmt.Sprintf("\n## Question %d? {#q%d}\n\n```sql\n%s\n```\n", i, i, filled(q.reference, "DATE '%s'"))
		answer := q.reference
		if i%3 == 0 {
			answer = q.mistaken
		}
		line, err := json.Marshal(map[string]any{"id": fmt.Sprintf("big/q%d", i), "reply": map[string]any{"query": filled(answer, w.day)}})
		if err != nil {
			return nil, err
		}
		replies.Write(append(line, '\n'))
		queries = append(queries, filled(q.reference, w.day), filled(answer, w.day))
	}
	config := fmt.Sprintf("tovrel: 1\ndatasets:\n"+
		"  big: {connect: %s, dsn: \"${%s}\", schema: big, as-of: 2031-06-30, limits: {time: 120s}}\n"+
		"translators:\n  bot@1: {kind: recorded, file: bot.jsonl}\n", w.kind, w.variable)
	for name, body := range map[string]string{"tovrel.yaml": config, "bot.jsonl": replies.String(), "golden/big.md": golden} {
		path := filepath.Join(dir, name)
		if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
			return nil, err
		}
		if err := os.WriteFile(path, []byte(body), 0o600); err != nil {
			return nil, err
		}
	}
	return queries, nil
}

func fillPostgres(ctx context.Context, dsn string) error {
	return askPostgres(ctx, dsn, []string{"DROP SCHEMA IF EXISTS big CASCADE", "CREATE SCHEMA big",
		fmt.Sprintf(`CREATE UNLOGGED TABLE farms AS SELECT i::int AS farm_id, 'Farm ' || i AS name,
			(ARRAY['North', 'South', 'East', 'West'])[1 + i %% 4] AS district FROM generate_series(1, %d) i`, farms),
		"ALTER TABLE farms ADD PRIMARY KEY (farm_id)",
		fmt.Sprintf(`CREATE UNLOGGED TABLE loads AS SELECT i AS load_id, (1 + (i * 7919) %% %d)::int AS farm_id,
			date '2029-01-01' + (i %% 900)::int AS day, ((i * 31) %% 9000 / 10.0)::numeric(8, 1) AS litres,
			(ARRAY['ok', 'late', 'void'])[1 + (i %% 17 / 8)::int] AS status,
			CASE WHEN i %% 50 = 0 THEN NULL ELSE 'T' || i %% 40 END AS tanker FROM generate_series(1::bigint, %d) i`, farms, rows),
		"ANALYZE loads", "ANALYZE farms"})
}

func askPostgres(ctx context.Context, dsn string, queries []string) error {
	conn, err := postgres.Connect(ctx, engine.Server{DSN: dsn})
	if err != nil {
		return err
	}
	defer conn.Close(ctx) //nolint:errcheck // all was said
	for _, q := range append([]string{"SET search_path = big"}, queries...) {
		if _, err := conn.Exec(ctx, q).ReadAll(); err != nil {
			return fmt.Errorf("%s: %w", q, err)
		}
	}
	return nil
}

// fillClickHouse fills the cluster: half of the rows on each of its servers, whose second port is two above the first's.
func fillClickHouse(ctx context.Context, dsn string) error {
	first, err := clickhouse.Connect(ctx, engine.Server{DSN: dsn}, nil)
	if err != nil {
		return err
	}
	defer first.Close() //nolint:errcheck // all was said
	var addresses []string
	list, err := first.Query(ctx, "SELECT concat(host_address, ':', toString(port)) FROM system.clusters WHERE cluster = 'pair'")
	if err != nil {
		return err
	}
	for list.Next() {
		var address string
		if err := list.Scan(&address); err != nil {
			return err
		}
		addresses = append(addresses, address)
	}
	if err := list.Close(); err != nil {
		return err
	}
	for k, address := range addresses {
		_, behind, _ := strings.Cut(dsn, "@")
		here := strings.Replace(dsn, behind, address+"/default", 1)
		if err := askClickHouse(ctx, here, append(tablesOfCluster(), fmt.Sprintf(`INSERT INTO big.part SELECT i, 1 + (i * 7919) %% %d,
			toDate('2029-01-01') + i %% 900, toDecimal32(i * 31 %% 9000, 1) / 10,
			arrayElement(['ok', 'late', 'void'], 1 + intDiv(i %% 17, 8)),
			if(i %% 50 = 0, NULL, concat('T', toString(i %% 40))) FROM (SELECT toInt64(number * %d + 1 + %d) AS i FROM numbers(%d))`,
			farms, len(addresses), k, rows/len(addresses)))); err != nil {
			return err
		}
	}
	return nil
}

func tablesOfCluster() []string {
	return []string{"CREATE DATABASE IF NOT EXISTS big", "DROP TABLE IF EXISTS big.loads", "DROP TABLE IF EXISTS big.farms",
		"DROP TABLE IF EXISTS big.part", `CREATE TABLE big.part (load_id Int64, farm_id Int64, day Date, litres Decimal(8, 1),
			status String, tanker Nullable(String)) ENGINE = MergeTree ORDER BY (farm_id, day)`,
		"CREATE TABLE big.loads AS big.part ENGINE = Distributed(pair, big, part, load_id)",
		"CREATE TABLE big.farms (farm_id Int64, name String, district String) ENGINE = MergeTree ORDER BY farm_id",
		fmt.Sprintf(`INSERT INTO big.farms SELECT number + 1, concat('Farm ', toString(number + 1)),
			arrayElement(['North', 'South', 'East', 'West'], 1 + (number + 1) %% 4) FROM numbers(%d)`, farms)}
}

func askClickHouse(ctx context.Context, dsn string, queries []string) error {
	conn, err := clickhouse.Connect(ctx, engine.Server{DSN: dsn}, nil)
	if err != nil {
		return err
	}
	defer conn.Close() //nolint:errcheck // all was said
	for _, q := range queries {
		if !strings.HasPrefix(q, "SELECT") {
			if err := conn.Exec(ctx, q); err != nil {
				return fmt.Errorf("%s: %w", q, err)
			}
			continue
		}
		asked := strings.ReplaceAll(strings.ReplaceAll(q, "FROM loads", "FROM big.loads"), "JOIN farms", "JOIN big.farms")
		r, err := conn.Query(ctx, asked)
		if err != nil {
			return fmt.Errorf("%s: %w", asked, err)
		}
		for r.Next() {
			continue
		}
		if err := r.Close(); err != nil {
			return err
		}
	}
	return nil
}
