package main_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"tovrel/cause"
	"tovrel/core/match"
	"tovrel/dataset"
	"tovrel/engine"
	"tovrel/engine/duckdb"
	"tovrel/engine/sqltext"
	"tovrel/expect"
	"tovrel/gallerytest"
	"tovrel/workspace"
)

// tried is one query of testdata/twins.txt.
type tried struct {
	dataset, reference, query string
	lucky                     bool
}

func readTried(t *testing.T) []tried {
	t.Helper()
	body, err := os.ReadFile("testdata/twins.txt")
	require.NoError(t, err)
	var all []tried
	var now tried
	for line := range strings.SplitSeq(string(body), "\n") {
		switch {
		case line == "" || strings.HasPrefix(line, "#"):
		case strings.HasPrefix(line, "@ "):
			now.dataset = line[2:]
		case strings.HasPrefix(line, "= "):
			now.reference = line[2:]
		default:
			want, query, ok := strings.Cut(line, " | ")
			require.True(t, ok, line)
			one := now
			one.query, one.lucky = query, want == "lucky"
			all = append(all, one)
		}
	}
	return all
}

// theTried is where the workspace of the tried queries is, beside the demo.
func theTried() string { return filepath.Join(filepath.Dir(theDemo()), "tried") }

// triedWorkspace is a workspace with the demo's data, whose golden sets hold the reference queries; five twins of each dataset are made
// for them. It is made once for all tests.
func triedWorkspace(t *testing.T, all []tried) string {
	t.Helper()
	makingTried.Lock()
	defer makingTried.Unlock()
	dir, demo := theTried(), demoWorkspace(t)
	if _, err := os.Stat(dir); err == nil {
		return dir
	}
	for _, folder := range []string{"data", "briefings"} {
		require.NoError(t, os.CopyFS(filepath.Join(dir, folder), os.DirFS(filepath.Join(demo, folder))))
	}
	config, err := os.ReadFile(filepath.Join(demo, "tovrel.yaml"))
	require.NoError(t, err)
	write(t, dir, "tovrel.yaml", config)
	sets, before := map[string]string{}, ""
	for i, one := range all {
		if sets[one.dataset] == "" {
			sets[one.dataset] = "---\ngolden-set: " + one.dataset + "\ndataset: " + one.dataset + "\n---\n"
		}
		if one.reference != before {
			sets[one.dataset] += fmt.Sprintf("\n## Question %d? {#q%d}\n\n```sql\n%s\n```\n", i, i, one.reference)
		}
		before = one.reference
	}
	for name, text := range sets {
		write(t, dir, "golden/"+name+".md", []byte(text))
		made := tovrel(t, dir, "data", "twin", name, "--count", "5", "--quiet")
		require.Zero(t, made.code, made.err)
	}
	return dir
}

// TestTwins: of the wrong queries that give the right answer on the sample, most are caught by five twins, and hardly a right one is
// called lucky. It prints the figures that docs/measurements.md keeps.
func TestTwins(t *testing.T) {
	t.Parallel()
	all := readTried(t)
	dir := triedWorkspace(t, all)
	w, err := workspace.Open(dir)
	require.NoError(t, err)
	sample, twins := map[string]*engine.Pool{}, map[string][]expect.Queries{}
	for _, d := range w.Datasets {
		f, _, err := dataset.Of(w).Freeze(context.Background(), d, "test")
		require.NoError(t, err)
		sample[d.Name] = engine.NewPool(program(t), engine.Setup{Engine: "duckdb", File: f.Path, AsOf: f.AsOf, Limits: d.Limits}, 2)
		t.Cleanup(sample[d.Name].Close)
		kept, err := dataset.Of(w).Twins(d.Name)
		require.NoError(t, err)
		require.Len(t, kept, 5)
		for _, one := range kept {
			pool := engine.NewPool(program(t), engine.Setup{Engine: "duckdb", File: one.Path, AsOf: one.AsOf, Limits: d.Limits}, 1)
			t.Cleanup(pool.Close)
			twins[d.Name] = append(twins[d.Name], pool)
		}
	}
	var mu sync.Mutex
	lucky, caught, right, accused := 0, 0, 0, 0
	var failing []string
	var g errgroup.Group
	g.SetLimit(2)
	for _, one := range all {
		g.Go(func() error {
			on, err := cause.TwinVerdict(context.Background(), []expect.Queries{sample[one.dataset]}, one.reference, one.query,
				match.Rules{})
			if err != nil {
				return err
			}
			missed, err := cause.TwinVerdict(context.Background(), twins[one.dataset], one.reference, one.query, match.Rules{})
			mu.Lock()
			defer mu.Unlock()
			switch {
			case on > 0:
				t.Errorf("it does not coincide on the sample: %s", one.query)
			case one.lucky:
				lucky++
				if missed > 0 {
					caught++
				} else {
					failing = append(failing, "not caught | "+one.dataset+" | "+oneLine(one.query))
				}
			default:
				right++
				if missed > 0 {
					accused++
					failing = append(failing, "called lucky | "+one.dataset+" | "+oneLine(one.query))
				}
			}
			return err
		})
	}
	require.NoError(t, g.Wait())
	t.Logf("%d wrong queries that coincide on the sample: %.0f %% caught by five twins; %d right ones: %.1f %% called lucky",
		lucky, share(caught, lucky), right, share(accused, right))
	onlyKnown(t, "twins-known.txt", failing)
}

// kept are facts of the sample, as counts of what breaks them.
var kept = map[string][]string{
	"dairy": {
		"SELECT count(*) - count(DISTINCT load_id) FROM loads", "SELECT count(*) - count(DISTINCT name) FROM farms",
		"SELECT count(*) - count(DISTINCT (farm_id, loaded_at)) FROM loads",
		"SELECT count(*) FROM loads WHERE farm_id NOT IN (SELECT farm_id FROM farms)",
		"SELECT count(*) FROM lab_tests WHERE load_id NOT IN (SELECT load_id FROM loads)",
		"SELECT count(*) FROM loads WHERE litres IS NULL OR farm_id IS NULL OR status IS NULL",
		"SELECT count(*) FROM loads WHERE status NOT IN ('acc', 'rej', 'pen') OR litres < 612 OR litres > 11471.2",
		"SELECT count(*) FROM payments WHERE net <> gross - deductions", "SELECT count(*) FROM payments WHERE paid_on < month",
		"SELECT count(*) FROM lab_tests JOIN loads USING (load_id) WHERE tested_on < CAST(loaded_at AS DATE)",
		"SELECT count(*) FROM lab_tests WHERE (fat_pct IS NULL) <> (protein_pct IS NULL)",
		"SELECT count(*) FROM loads JOIN farms USING (farm_id) WHERE left(tanker, 2) <> 'TM' AND substr(tanker, 2, 1) <> " +
			"left(district, 1)", "SELECT count(*) FROM codes WHERE label IS NULL OR kind NOT IN ('district', 'load status')",
		"SELECT 30 - count(DISTINCT date_trunc('month', loaded_at)) FROM loads",
		"SELECT count(*) FROM loads WHERE status = 'pen' AND loaded_at < '2031-06-01'",
	},
	"toolshed": {
		"SELECT count(*) FROM loans WHERE back_on < out_on", "SELECT count(*) FROM loans WHERE due_on <> out_on + 7",
		"SELECT count(*) FROM loans WHERE tool_no NOT IN (SELECT tool_no FROM tools)",
		"SELECT count(*) - count(DISTINCT tool_no) FROM tools",
		"SELECT count(*) FROM (SELECT tool_no FROM loans GROUP BY 1 HAVING count(DISTINCT fee_eur) = 0)",
		"SELECT count(*) FROM (SELECT member_id FROM members GROUP BY 1 HAVING count(DISTINCT home) > 1)",
		"SELECT count(*) FROM repairs WHERE (repair_id IS NULL) <> (tool_no IS NULL)",
	},
}

// TestTwinsKeepFacts: what holds on the sample holds on its twins, and the same number gives the same twin.
func TestTwinsKeepFacts(t *testing.T) { // not beside others: it makes a twin anew
	dir := triedWorkspace(t, readTried(t))
	w, err := workspace.Open(dir)
	require.NoError(t, err)
	for name, facts := range kept {
		d, err := w.Dataset(name)
		require.NoError(t, err)
		f, _, err := dataset.Of(w).Freeze(context.Background(), d, "test")
		require.NoError(t, err)
		twins, err := dataset.Of(w).Twins(name)
		require.NoError(t, err)
		files := []string{f.Path}
		for _, one := range twins {
			files = append(files, one.Path)
		}
		for i, file := range files {
			pool := engine.NewPool(program(t), engine.Setup{Engine: "duckdb", File: file, AsOf: f.AsOf, Limits: d.Limits}, 2)
			for _, sql := range facts {
				result, err := pool.Query(context.Background(), engine.Request{SQL: sql})
				require.NoError(t, err, sql)
				require.Equal(t, "0", result.Table.Columns[0].Value(0).String(), "twin %d of %s: %s", i, name, sql)
			}
			pool.Close()
		}
		first := twins[0]
		once := first.Path + ".once"
		require.NoError(t, os.Rename(first.Path, once))
		again := tovrel(t, dir, "data", "twin", name, "--count", "1", "--quiet")
		require.Zero(t, again.code, again.err)
		for _, table := range first.Tables {
			gone, added, err := duckdb.Differ(context.Background(), once, first.Path, table.Name)
			require.NoError(t, err)
			require.Zero(t, gone+added, table.Name)
		}
	}
}

// TestTwinsGallery holds what the twins of the demo's data are: how many rows each table has, and a checksum of each column with its rows.
func TestTwinsGallery(t *testing.T) {
	t.Parallel()
	w, err := workspace.Open(triedWorkspace(t, readTried(t)))
	require.NoError(t, err)
	var out strings.Builder
	for _, d := range w.Datasets {
		twins, err := dataset.Of(w).Twins(d.Name)
		require.NoError(t, err)
		for i, one := range twins {
			pool := engine.NewPool(program(t), engine.Setup{Engine: "duckdb", File: one.Path, AsOf: one.AsOf, Limits: d.Limits}, 1)
			t.Cleanup(pool.Close)
			for _, of := range one.Tables {
				query := "SELECT count(*)"
				for _, c := range of.Columns {
					query += fmt.Sprintf(", format('{:08x}', bit_xor(hash(rowid, %s)) %% 4294967296)", sqltext.Name(c.Name))
				}
				got, err := pool.Query(context.Background(), engine.Request{SQL: query + " FROM " + sqltext.Name(of.Name)})
				require.NoError(t, err, query)
				fmt.Fprintf(&out, "%s, twin %d: %s, %s rows;", d.Name, i+1, of.Name, got.Table.Columns[0].Value(0))
				for n, c := range of.Columns {
					fmt.Fprintf(&out, " %s %s", c.Name, got.Table.Columns[n+1].Value(0))
				}
				out.WriteString("\n")
			}
		}
	}
	gallerytest.Holds(t, "twins-made.txt", out.String(), *update)
}
