package main_test

import (
	"bytes"
	"context"
	"database/sql"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
	"unicode/utf16"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	_ "modernc.org/sqlite"

	"tovrel/engine/duckdb"
)

// ran is what a command of the built program gave.
type ran struct {
	out, err string
	code     int
}

// tovrel runs the built program in a folder.
func tovrel(t *testing.T, dir string, args ...string) ran {
	t.Helper()
	cmd := exec.Command(program(t), args...)
	cmd.Dir = dir
	var out, errs bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &errs
	err := cmd.Run()
	if _, exited := err.(*exec.ExitError); err != nil && !exited {
		t.Fatal(err)
	}
	return ran{out.String(), errs.String(), cmd.ProcessState.ExitCode()}
}

func write(t *testing.T, dir, name string, body []byte) {
	t.Helper()
	require.NoError(t, os.MkdirAll(filepath.Dir(filepath.Join(dir, name)), 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(dir, name), body, 0o600))
}

// writeSQLite writes a file with dates, codes, a column of mixed kinds and a blob.
func writeSQLite(t *testing.T, path string) {
	t.Helper()
	db, err := sql.Open("sqlite", path)
	require.NoError(t, err)
	_, err = db.Exec(`CREATE TABLE loads (id INTEGER, farm_id INTEGER, day DATE, code TEXT, litres REAL, mixed, raw BLOB);
		INSERT INTO loads VALUES (1, 1, '2031-01-01', '007', 1.5, 1, x'00ff'), (2, 1, '2031-01-02', '8', 2, 'x', NULL);
		CREATE TABLE farms (farm_id INTEGER, name TEXT); INSERT INTO farms VALUES (1, 'Alder'), (2, 'Birch')`)
	require.NoError(t, err)
	require.NoError(t, db.Close())
}

// writeBook writes a workbook with a merged title above the header, dates, codes, a blank row and merged cells; and a second sheet.
func writeBook(t *testing.T, path string) {
	t.Helper()
	f := excelize.NewFile()
	require.NoError(t, f.MergeCell("Sheet1", "A1", "D1"))
	for at, row := range map[string][]any{"A1": {"Prices of 2031"}, "A3": {"code", "day", "", "price"},
		"A4": {"007", 47849, "a", 1.25}, "A6": {"008", 47850.5, "b", 3}, "A7": {"009"}} {
		require.NoError(t, f.SetSheetRow("Sheet1", at, &row))
	}
	require.NoError(t, f.MergeCell("Sheet1", "D6", "D7"))
	dates, err := f.NewStyle(&excelize.Style{NumFmt: 22})
	require.NoError(t, err)
	require.NoError(t, f.SetCellStyle("Sheet1", "B4", "B7", dates))
	_, err = f.NewSheet("Other")
	require.NoError(t, err)
	require.NoError(t, f.SetSheetRow("Other", "A1", &[]any{"x", "y"}))
	require.NoError(t, f.SetSheetRow("Other", "A2", &[]any{true, "z"}))
	require.NoError(t, f.SaveAs(path))
}

// TestBinaryFiles: databases, workbooks and other encodings are imported with their own types, and what was noticed is told.
func TestBinaryFiles(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	writeSQLite(t, filepath.Join(dir, "farm.sqlite"))
	writeBook(t, filepath.Join(dir, "book.xlsx"))
	var wide bytes.Buffer
	wide.Write([]byte{0xff, 0xfe})
	for _, u := range utf16.Encode([]rune("a,b\n1,ä\n2,ö\n")) {
		wide.Write([]byte{byte(u), byte(u >> 8)})
	}
	write(t, dir, "wide.csv", wide.Bytes())
	write(t, dir, "latin.csv", []byte("a,b\n1,K\xe4se\n"))
	write(t, dir, "plain.csv", []byte("n\n1\n"))
	_, err := duckdb.Freeze(context.Background(), filepath.Join(dir, "own.duckdb"), []duckdb.Source{{Table: "things",
		Samples: []*duckdb.Sample{{Path: filepath.Join(dir, "plain.csv"), Format: duckdb.CSV, Delimiter: ',', Names: []string{"n"}}}}})
	require.NoError(t, err)
	write(t, dir, "tovrel.yaml", []byte("tovrel: 1\ndatasets:\n  all:\n    tables:\n      wide: wide.csv\n      latin: latin.csv\n"))
	added := tovrel(t, dir, "data", "add", "all", "farm.sqlite", "book.xlsx", "own.duckdb", "--quiet")
	require.Zero(t, added.code, added.err)
	config, err := os.ReadFile(filepath.Join(dir, "tovrel.yaml"))
	require.NoError(t, err)
	require.Contains(t, string(config), `      farms: {file: "farm.sqlite", table: "farms"}`)
	require.Contains(t, string(config), `      sheet1: {file: "book.xlsx", sheet: "Sheet1"}`)
	for sql, want := range map[string]string{
		"SELECT b FROM wide ORDER BY a": "b\nä\nö\n",
		"SELECT b FROM latin":           "b\nKäse\n",
		"SELECT n FROM things":          "n\n1\n",
		"SELECT * FROM loads ORDER BY id": "id,farm_id,day,code,litres,mixed,raw\n" +
			"1,1,2031-01-01,007,1.5,1,\\x00ff\n2,1,2031-01-02,8,2,x,\n",
		"SELECT * FROM sheet1 ORDER BY code": "code,day,column_3,price\n007,2031-01-01 " +
			"00:00:00,a,1.25\n008,2031-01-02 12:00:00,b,3\n009,,,3\n",
		"SELECT * FROM other": "x,y\ntrue,z\n",
		"SELECT typeof(litres) AS l, typeof(raw) AS r FROM loads LIMIT 1": "l,r\nDOUBLE,BLOB\n",
	} {
		got := tovrel(t, dir, "data", "query", "all", sql, "--output", "csv")
		require.Equal(t, want, got.out, "%s %s", sql, got.err)
	}
	inspected := tovrel(t, dir, "data", "inspect", "all", "--output", "csv")
	require.Equal(t, 1, inspected.code)
	for _, line := range []string{"warning,merged-cells,sheet1,,book.xlsx,1,", "warning,merged-cells,sheet1,,book.xlsx,6,",
		"warning,title-rows,sheet1,,book.xlsx,1,",
		"warning,empty-header,sheet1,,book.xlsx,3,", "warning,blank-rows,sheet1,", "warning,mixed-types,loads,"} {
		require.Contains(t, inspected.out, line)
	}
}

// TestSQLiteDataset: a dataset that is an SQLite file is copied, and its queries run on SQLite.
func TestSQLiteDataset(t *testing.T) {
	dir := t.TempDir()
	writeSQLite(t, filepath.Join(dir, "farm.sqlite"))
	write(t, dir, "tovrel.yaml", []byte("tovrel: 1\ndatasets:\n  lite: {connect: sqlite, dsn: farm.sqlite, as-of: "+
		"2031-06-30}\ntranslators:\n  r@1: {kind: recorded, file: r.jsonl}\n"))
	write(t, dir, "r.jsonl", []byte(`{"id": "q/all", "reply": {"query": "SELECT strftime('%Y', day) AS y, sum(litres) AS s `+
		`FROM loads WHERE day < date('now') GROUP BY 1"}}`))
	write(t, dir, "golden/q.md", []byte("---\ngolden-set: q\ndataset: lite\n---\n\n## Litres by year? {#all}\n\n```yaml\n"+
		"dialect: sqlite\n```\n\n```sql\nSELECT year(day) AS year, sum(litres) AS litres FROM loads GROUP BY 1\n```\n\n| "+
		"year | litres |\n| ---: | -----: |\n| 2031 |    3.5 |\n"))
	require.Contains(t, tovrel(t, dir, "data", "freeze", "--output", "csv", "--quiet").out, "lite,frozen,2031-06-30,farms,2,")
	require.Equal(t, "m,today\n1.75,2031-06-30\n",
		tovrel(t, dir, "data", "query", "lite", "SELECT median(litres) AS m, date('now') AS today FROM loads", "--output", "csv").out)
	require.Contains(t, tovrel(t, dir, "data", "profile", "lite").out, "loads.farm_id  farms.farm_id")
	require.Zero(t, tovrel(t, dir, "set", "check").code)
	run := tovrel(t, dir, "run", "--output", "json")
	require.Contains(t, run.out, `"right": 1`, run.out+run.err)
	liteCauses(t, dir)
	refused := tovrel(t, dir, "data", "query", "lite", "DELETE FROM farms")
	require.Equal(t, 2, refused.code)
	require.Contains(t, refused.err, "forbidden")
}

// liteCauses: on SQLite too, the order that a reference asks for is held, causes are found by edits and proved, and it is said where a
// query
// is written as only SQLite reads it.
func liteCauses(t *testing.T, dir string) {
	t.Helper()
	ask := func(reference, answer string) string {
		write(t, dir, "right.sql", []byte(reference))
		write(t, dir, "wrong.sql", []byte(answer))
		got := tovrel(t, dir, "why", "--dataset", "lite", "--reference", "right.sql", "--answer", "wrong.sql", "--output", "json")
		require.Equal(t, 1, got.code, got.err)
		return got.out
	}
	ordered := ask("SELECT name FROM farms ORDER BY name DESC", "SELECT name FROM farms ORDER BY name")
	require.Contains(t, ordered, `"code": "wrong-order"`)
	limited := ask("SELECT code, sum(litres) AS litres FROM loads WHERE date(day) < '2031-01-02' GROUP BY code",
		"SELECT code, sum(litres) AS litres FROM loads GROUP BY code")
	require.Contains(t, limited, `"code": "filter-missing"`)
	require.Contains(t, limited, `"certainty": "proved"`)
	require.Contains(t, limited, `date(day) < '2031-01-02'`)
	require.NotContains(t, limited, "tovrel_lite")
	own := ask("SELECT id, litres FROM loads WHERE id = 1", "SELECT id, litres FROM loads NOT INDEXED WHERE id IS NOT 7")
	require.Contains(t, own, "its cause was looked for in its table alone")
	require.Contains(t, own, `"code": "filter-missing"`)
	blind := ask("SELECT id FROM loads NOT INDEXED WHERE id = 1", "SELECT id FROM loads")
	require.Contains(t, blind, "its order and ties are not known here")
}

// TestSQLiteStrength: on SQLite too, rows are found that would strengthen answers: they have keys of their own, and lie on the boundaries
// of the reference, which are texts there.
func TestSQLiteStrength(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	db, err := sql.Open("sqlite", filepath.Join(dir, "yard.sqlite"))
	require.NoError(t, err)
	_, err = db.Exec(`CREATE TABLE hires (hire_id INTEGER PRIMARY KEY, boat TEXT, begun TEXT, hours REAL);
		WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 60)
		INSERT INTO hires SELECT i, 'boat ' || (i % 7), date('2031-01-02', (i * 5) || ' days'), i % 4 + 0.5 FROM n WHERE i <> 30`)
	require.NoError(t, err)
	require.NoError(t, db.Close())
	write(t, dir, "tovrel.yaml", []byte("tovrel: 1\ndatasets:\n  yard: {connect: sqlite, dsn: yard.sqlite, as-of: 2031-12-31}\n"))
	write(t, dir, "golden/yard.md", []byte("---\ngolden-set: yard\ndataset: yard\n---\n\n## Hours from June on? {#june}\n\n```sql\n"+
		"SELECT sum(hours) AS hours FROM hires WHERE begun > '2031-06-01'\n```\n"))
	require.Zero(t, tovrel(t, dir, "data", "freeze", "--quiet").code)
	got := tovrel(t, dir, "set", "strength", "yard", "--add-rows")
	require.Contains(t, got.out+got.err, "Wrote added-rows/yard/hires.csv")
	rows, err := os.ReadFile(filepath.Join(dir, "added-rows", "yard", "hires.csv"))
	require.NoError(t, err)
	require.Regexp(t, `(?m)^(6[1-9]|[7-9][0-9]|[1-9][0-9]{2,}),boat [0-6],2031-06-01,`, string(rows))
}

// TestMatchReadsSamples: a sheet and a database file are matched as the files that samples come from.
func TestMatchReadsSamples(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	f := excelize.NewFile()
	for at, row := range map[string][]any{"A1": {"code", "price"}, "A2": {"a", 1.25}, "A3": {"b", 3}} {
		require.NoError(t, f.SetSheetRow("Sheet1", at, &row))
	}
	require.NoError(t, f.SaveAs(filepath.Join(dir, "prices.xlsx")))
	db, err := sql.Open("sqlite", filepath.Join(dir, "prices.sqlite"))
	require.NoError(t, err)
	_, err = db.Exec("CREATE TABLE prices (code TEXT, price REAL); INSERT INTO prices VALUES ('a', 1.25), ('b', 3)")
	require.NoError(t, err)
	require.NoError(t, db.Close())
	write(t, dir, "prices.csv", []byte("code,price\na,1.25\nb,3\n"))
	write(t, dir, "other.csv", []byte("code,price\na,1.25\nb,4\n"))
	for _, file := range []string{"prices.xlsx", "prices.sqlite"} {
		got := tovrel(t, dir, "match", "prices.csv", file)
		require.Zero(t, got.code, "%s: %s %s", file, got.out, got.err)
		require.Equal(t, 1, tovrel(t, dir, "match", file, "other.csv").code, file)
	}
}
