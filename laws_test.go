package main_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/dataset"
	"tovrel/engine"
	"tovrel/workspace"
)

// house draws tables in which laws of every kind hold.
type house struct {
	*rand.Rand
	tables map[string]*strings.Builder
}

func (h house) add(table string, cells ...any) {
	if h.tables[table] == nil {
		h.tables[table] = &strings.Builder{}
	}
	line := make([]string, len(cells))
	for i, c := range cells {
		if line[i] = fmt.Sprint(c); c == nil {
			line[i] = ""
		}
	}
	h.tables[table].WriteString(strings.Join(line, ",") + "\n")
}

func dayAt(n int) string { return time.Date(2030, 1, 1+n, 0, 0, 0, 0, time.UTC).Format(time.DateOnly) }

func cents(n int) string { return fmt.Sprintf("%.2f", float64(n)/100) }

// staff have bosses: a hierarchy.
func (h house) staff() {
	for i := range 120 {
		var boss any
		if i >= 4 {
			boss = max(1, i/4) + h.IntN(i-max(1, i/4)+1)
		}
		h.add("staff", i+1, fmt.Sprintf("Staff %d", i), boss, []string{"north", "south", "west"}[h.IntN(3)], 1800+h.IntN(4000))
	}
}

// items have prices, each valid from the day after the one before.
func (h house) items() {
	price := 0
	for item := range 40 {
		h.add("items", item+1, fmt.Sprintf("Item %d", item), []string{"tea", "tin", "rope", "oil"}[h.IntN(4)])
		versions, from := 3+h.IntN(5), h.IntN(60)
		for v := range versions {
			price++
			to := from + 30 + h.IntN(130)
			var end any
			if v < versions-1 {
				end = dayAt(to)
			}
			h.add("prices", price, item+1, dayAt(from), end, cents(100+h.IntN(900)), v == versions-1)
			from = to + 1
		}
	}
}

// orders have numbered lines, and states that follow one another.
func (h house) orders() {
	event := 0
	for order := range 400 {
		on := h.IntN(600)
		h.add("orders", order+1, 1+h.IntN(60), dayAt(on), []string{"EUR", "EUR", "SEK"}[h.IntN(3)])
		for line := range 1 + h.IntN(6) {
			h.add("lines", order+1, line+1, 1+h.IntN(40), 1+h.IntN(9), cents(100+h.IntN(900)))
		}
		at := time.Date(2030, 1, 1+on, 8, h.IntN(600), 0, 0, time.UTC)
		for _, state := range []string{"placed", "paid", "packed", "sent"}[:1+h.IntN(4)] {
			event++
			h.add("events", event, order+1, state, at.Format(time.DateTime))
			at = at.Add(time.Duration(5+h.IntN(3000)) * time.Minute)
		}
	}
}

// accounts have postings with the sum so far, and a reading that never falls for every month.
func (h house) accounts() {
	posting, reading := 0, 0
	for account := range 30 {
		balance, on := 0, h.IntN(30)
		for range 5 + h.IntN(10) {
			posting++
			amount := h.IntN(14000) - 5000
			balance, on = balance+amount, on+1+h.IntN(20)
			h.add("postings", posting, account+1, dayAt(on), cents(amount), cents(balance))
		}
		kwh := h.IntN(500)
		for month := range 12 {
			reading++
			kwh += h.IntN(90)
			h.add("readings", reading, account+1, fmt.Sprintf("2030-%02d-01", month+1), kwh)
		}
	}
}

// days are those of a year; parcels arrive after they were given, nearly always.
func (h house) days() {
	for n := range 365 {
		h.add("days", dayAt(n), n%7 < 5)
	}
	for n := range 600 {
		on := h.IntN(300)
		h.add("parcels", n+1, dayAt(on), dayAt(on+h.IntN(20)-50*yes(n%150 == 149)), 1+h.IntN(99))
	}
}

// houseOf is a workspace with such tables.
func houseOf(t *testing.T, seed uint64) string {
	t.Helper()
	dir := t.TempDir()
	h := house{rand.New(rand.NewPCG(seed, 5)), map[string]*strings.Builder{}} //nolint:gosec // a test's
	for head, columns := range map[string]string{"staff": "staff_id,name,boss_id,office,wage", "items": "item_id,label,family",
		"prices": "price_id,item_id,valid_from,valid_to,price,is_current", "orders": "order_id,client_id,ordered_on,currency",
		"lines": "order_id,line_no,item_id,qty,price", "events": "event_id,order_id,state,at", "days": "day,open",
		"postings": "posting_id,account_id,posted_on,amount,balance", "readings": "reading_id,meter_id,read_on,kwh",
		"parcels": "parcel_id,given_on,arrived_on,weight"} {
		h.add(head, columns)
	}
	h.staff()
	h.items()
	h.orders()
	h.accounts()
	h.days()
	config := "tovrel: 1\ndatasets:\n  house:\n    tables:\n"
	for name, text := range h.tables {
		write(t, dir, name+".csv", []byte(text.String()))
		config += fmt.Sprintf("      %s: %s.csv\n", name, name)
	}
	write(t, dir, "tovrel.yaml", []byte(config))
	return dir
}

func yes(b bool) int {
	if b {
		return 1
	}
	return 0
}

// lawful are counts of what breaks the laws of a house, in words of their own.
var lawful = []string{
	"SELECT count(*) FROM staff WHERE boss_id NOT IN (SELECT staff_id FROM staff)",
	"SELECT count(*) - 120 FROM staff",
	`WITH RECURSIVE up AS (SELECT staff_id, boss_id, 0 AS steps FROM staff UNION ALL SELECT up.staff_id, s.boss_id, steps + 1
		FROM up JOIN staff s ON s.staff_id = up.boss_id WHERE steps < 150) SELECT count(*) FROM up WHERE steps = 150`,
	`SELECT count(*) FROM prices a JOIN prices b ON a.item_id = b.item_id AND a.price_id <> b.price_id
		WHERE a.valid_from <= b.valid_from AND coalesce(a.valid_to, DATE '2099-01-01') >= b.valid_from`,
	`SELECT count(*) FROM prices a WHERE valid_to IS NOT NULL AND NOT EXISTS
		(FROM prices b WHERE b.item_id = a.item_id AND b.valid_from = a.valid_to + 1)`,
	"SELECT count(DISTINCT item_id) - count(*) FILTER (valid_to IS NULL) FROM prices",
	"SELECT count(*) FROM prices WHERE is_current <> (valid_to IS NULL)",
	"SELECT count(*) FROM (SELECT order_id FROM lines GROUP BY 1 HAVING count(*) <> max(line_no) OR min(line_no) <> 1)",
	`SELECT count(*) FROM events a JOIN events b USING (order_id) WHERE a.at > b.at AND (a.state = 'placed' OR b.state = 'sent'
		OR a.state = 'paid' AND b.state = 'packed')`,
	"SELECT count(*) FROM events JOIN orders USING (order_id) WHERE events.at < ordered_on",
	`SELECT count(*) FROM postings p WHERE abs(balance - (SELECT sum(amount) FROM postings q WHERE q.account_id = p.account_id
		AND q.posted_on <= p.posted_on)) > 0.001`,
	"SELECT count(*) FROM readings a JOIN readings b USING (meter_id) WHERE a.read_on < b.read_on AND a.kwh > b.kwh",
	"SELECT count(*) FROM (SELECT meter_id FROM readings GROUP BY 1 HAVING count(DISTINCT read_on) <> 12)",
	"SELECT 365 - count(DISTINCT day) FROM days",
	"SELECT greatest(0, count(*) - 4) FROM parcels WHERE arrived_on < given_on",
}

// TestLaws: what holds on drawn data holds on their twins, whose other rows are others.
func TestLaws(t *testing.T) {
	t.Parallel()
	for seed := range uint64(2) {
		dir := houseOf(t, seed)
		made := tovrel(t, dir, "data", "twin", "house", "--count", "3", "--quiet")
		require.Zero(t, made.code, made.err)
		w, err := workspace.Open(dir)
		require.NoError(t, err)
		twins, err := dataset.Of(w).Twins("house")
		require.NoError(t, err)
		require.Len(t, twins, 3)
		frozen, _, err := dataset.Of(w).Freeze(context.Background(), w.Datasets[0], "test")
		require.NoError(t, err)
		totals := map[string]bool{}
		for n, file := range append([]string{frozen.Path}, paths(twins)...) {
			pool := engine.NewPool(program(t), engine.Setup{Engine: "duckdb", File: file, Limits: engine.DefaultLimits()}, 2)
			t.Cleanup(pool.Close)
			for _, query := range lawful {
				got, err := pool.Query(context.Background(), engine.Request{SQL: query})
				require.NoError(t, err, query)
				require.Equal(t, "0", got.Table.Columns[0].Value(0).String(), "seed %d, twin %d: %s", seed, n, query)
			}
			for _, query := range []string{"SELECT sum(price * item_id) FROM prices", "SELECT sum(qty * line_no) FROM lines",
				"SELECT sum(wage * staff_id) FROM staff", "SELECT sum(weight * parcel_id) FROM parcels"} {
				got, err := pool.Query(context.Background(), engine.Request{SQL: query})
				require.NoError(t, err, query)
				total := query + got.Table.Columns[0].Value(0).String()
				require.False(t, totals[total], "twin %d is as another: %s", n, total)
				totals[total] = true
			}
		}
	}
}

func paths(twins []*dataset.Twin) []string {
	var out []string
	for _, one := range twins {
		out = append(out, one.Path)
	}
	return out
}

// inOtherForms are answers that are right because of what holds in a house, each with the reference.
var inOtherForms = [][2]string{
	{"SELECT item_id, price FROM prices WHERE valid_to IS NULL", "SELECT item_id, price FROM prices WHERE is_current"},
	{"SELECT item_id, price FROM prices WHERE valid_to IS NULL",
		"SELECT item_id, arg_max(price, valid_from) AS price FROM prices GROUP BY item_id"},
	{"SELECT sum(price) AS n FROM prices WHERE valid_from <= DATE '2030-06-01' AND (valid_to IS NULL OR valid_to >= DATE '2030-06-01')",
		`SELECT sum(price) AS n FROM prices p WHERE valid_from = (SELECT max(valid_from) FROM prices q WHERE q.item_id = p.item_id AND
			q.valid_from <= DATE '2030-06-01')`},
	{"SELECT item_id, count(*) AS n FROM prices GROUP BY 1 HAVING count(*) > 4",
		`SELECT item_id, count(valid_to) + 1 AS n FROM prices GROUP BY 1 HAVING count(valid_to) >= 4`},
	{"SELECT order_id, count(*) AS n FROM lines GROUP BY 1", "SELECT order_id, max(line_no) AS n FROM lines GROUP BY 1"},
	{"SELECT count(DISTINCT order_id) AS n FROM lines", "SELECT count(*) AS n FROM lines WHERE line_no = 1"},
	{"SELECT account_id, sum(amount) AS n FROM postings GROUP BY 1",
		"SELECT account_id, arg_max(balance, posted_on) AS n FROM postings GROUP BY 1"},
	{"SELECT meter_id, max(kwh) - min(kwh) AS n FROM readings GROUP BY 1",
		"SELECT meter_id, arg_max(kwh, read_on) - arg_min(kwh, read_on) AS n FROM readings GROUP BY 1"},
	{"SELECT meter_id, avg(kwh) AS n FROM readings GROUP BY 1", "SELECT meter_id, sum(kwh) / 12.0 AS n FROM readings GROUP BY 1"},
	{"SELECT order_id, arg_max(state, events.at) AS last FROM events GROUP BY 1",
		`SELECT order_id, CASE WHEN bool_or(state = 'sent') THEN 'sent' WHEN bool_or(state = 'packed') THEN 'packed'
			WHEN bool_or(state = 'paid') THEN 'paid' ELSE 'placed' END AS last FROM events GROUP BY 1`},
	{"SELECT count(*) AS n FROM staff", `WITH RECURSIVE r AS (SELECT staff_id FROM staff WHERE boss_id IS NULL UNION ALL
		SELECT s.staff_id FROM staff s JOIN r ON s.boss_id = r.staff_id) SELECT count(*) AS n FROM r`},
	{"SELECT office, count(boss_id) AS n FROM staff GROUP BY 1",
		"SELECT s.office, count(*) AS n FROM staff s JOIN staff b ON s.boss_id = b.staff_id GROUP BY 1"},
	{"SELECT count(*) AS n FROM days WHERE open", `SELECT (DATE '2030-12-31' - DATE '2030-01-01') + 1 - count(*) AS n FROM days
		WHERE NOT open`},
	{"SELECT name, wage FROM staff WHERE wage = (SELECT max(wage) FROM staff)", "SELECT name, wage FROM staff ORDER BY wage DESC LIMIT 1"},
	{"SELECT name FROM staff ORDER BY wage DESC LIMIT 1", "SELECT name FROM staff WHERE wage = (SELECT max(wage) FROM staff)"},
	{"SELECT name, wage FROM staff ORDER BY wage DESC, name LIMIT 5", "SELECT name, wage FROM staff ORDER BY wage DESC LIMIT 5"},
	{"SELECT name, wage FROM staff QUALIFY rank() OVER (ORDER BY wage) <= 4", "SELECT name, wage FROM staff ORDER BY wage, name LIMIT 4"},
	{"SELECT avg(n) AS mean FROM (SELECT count(*) AS n FROM lines WHERE qty > 8 AND price > 9 GROUP BY order_id)",
		"SELECT count(*) * 1.0 / count(DISTINCT order_id) AS mean FROM lines WHERE qty > 8 AND price > 9"},
	{"SELECT max(part) AS most FROM (SELECT count(*) AS part FROM lines WHERE qty > 8 GROUP BY order_id)",
		"SELECT count(*) AS most FROM lines WHERE qty > 8 GROUP BY order_id ORDER BY 1 DESC LIMIT 1"},
}

// TestLawsSpare: what is right because of what holds in the data is right on their twins too.
func TestLawsSpare(t *testing.T) {
	t.Parallel()
	dir := houseOf(t, 11)
	config, err := os.ReadFile(filepath.Join(dir, "tovrel.yaml"))
	require.NoError(t, err)
	write(t, dir, "tovrel.yaml", append(config, "translators:\n  other@1: {kind: recorded, file: replies.jsonl}\n"...))
	set, replies := "---\ngolden-set: forms\ndataset: house\n---\n", ""
	for i, pair := range inOtherForms {
		set += fmt.Sprintf("\n## What is asked in form %d? {#form-%d}\n\n```sql\n%s\n```\n", i, i, pair[0])
		line, err := json.Marshal(map[string]any{"id": fmt.Sprintf("forms/form-%d", i), "reply": map[string]string{"query": pair[1]}})
		require.NoError(t, err)
		replies += string(line) + "\n"
	}
	write(t, dir, "golden/forms.md", []byte(set))
	write(t, dir, "replies.jsonl", []byte(replies))
	ran := tovrel(t, dir, "run", "--twins", "5", "--no-diagnosis", "--quiet")
	require.LessOrEqual(t, ran.code, 1, ran.err)
	shown := tovrel(t, dir, "show", "1", "--output", "csv")
	for line := range strings.Lines(shown.out) {
		if !strings.HasPrefix(line, "verdict,") {
			require.True(t, strings.HasPrefix(line, "right,"), line)
		}
	}
	require.Equal(t, len(inOtherForms)+1, strings.Count(shown.out, "\n"))
}
