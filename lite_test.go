package main_test

import (
	"database/sql"
	"fmt"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// writeRentals writes an SQLite file with cells of all kinds, a computed column, an index, a view and a trigger.
func writeRentals(t *testing.T, path string) {
	t.Helper()
	db, err := sql.Open("sqlite", path)
	require.NoError(t, err)
	statements := []string{
		`CREATE TABLE bikes (bike_id INTEGER PRIMARY KEY, name TEXT NOT NULL)`,
		`CREATE TABLE rentals (rental_id INTEGER PRIMARY KEY, bike_id INTEGER REFERENCES bikes, day DATE, at TEXT, minutes INTEGER,
			price REAL, 			state TEXT, "odd ""one""", raw BLOB, hours REAL GENERATED ALWAYS AS (minutes / 60.0))`,
		`CREATE INDEX of_bike ON rentals (bike_id)`, `CREATE TABLE log (n)`,
		`CREATE VIEW done AS SELECT * FROM rentals WHERE state = 'done'`,
	}
	for i := 1; i <= 30; i++ {
		statements = append(statements, fmt.Sprintf("INSERT INTO bikes VALUES (%d, 'Bike %d')", i, i))
	}
	seed := 5
	next := func(n int) int { seed = seed * 16807 % 2147483647; return seed % n }
	for i := 1; i <= 300; i++ {
		odd := []string{"NULL", fmt.Sprint(i), fmt.Sprintf("'x%d'", i)}[i%3]
		minutes, state := 5+next(300), "done"
		if minutes == 60 {
			minutes++
		}
		if next(9) == 0 {
			state = "open"
		}
		statements = append(statements, fmt.Sprintf("INSERT INTO rentals VALUES (%d, %d, '2031-%02d-%02d', '2031-01-%02dT%02d:15:00', "+
			"%d, %d.25, "+
			"'%s', %s, x'00%02x')", i, 1+next(30), 1+next(6), 1+next(28), 1+next(28), next(24), minutes, next(40), state, odd, i%200))
	}
	statements = append(statements, "CREATE TRIGGER noted AFTER INSERT ON rentals BEGIN INSERT INTO log VALUES (new.rental_id); END")
	for _, s := range statements {
		_, err := db.Exec(s)
		require.NoError(t, err, s)
	}
	require.NoError(t, db.Close())
}

// classes are how a column's cells are stored, in words.
func classes(t *testing.T, db *sql.DB, column string) string {
	t.Helper()
	var out sql.NullString
	require.NoError(t, db.QueryRow("SELECT group_concat(class || CASE WHEN class = 'text' THEN ' of ' || n ELSE '' END, ', ') FROM "+
		"(SELECT "+
		"typeof("+column+") AS class, max(length("+column+")) AS n FROM rentals GROUP BY 1 ORDER BY 1)").Scan(&out))
	return out.String
}

// TestTwinsOfSQLite: a twin of an SQLite file is an SQLite file: its schema, and cells that are stored as in the sample, in other rows. A
// right answer that is lucky is found out on it.
func TestTwinsOfSQLite(t *testing.T) {
	dir := t.TempDir()
	writeRentals(t, filepath.Join(dir, "rentals.sqlite"))
	write(t, dir, "tovrel.yaml", []byte("tovrel: 1\ndatasets:\n  rentals: {as-of: 2031-06-30, connect: sqlite, dsn: rentals.sqlite}\n"+
		"translators:\n  parrot@1: {kind: recorded, file: replies.jsonl}\n"))
	write(t, dir, "golden/rentals.md", []byte("---\ngolden-set: rentals\ndataset: rentals\n---\n\n## How many rentals has each bike? "+
		"{#each}\n\n"+
		"```sql\nSELECT b.bike_id, count(r.rental_id) AS n FROM bikes b LEFT JOIN rentals r USING (bike_id) GROUP BY 1\n```\n\n"+
		"## How many lasted more than an hour? {#hour}\n\n```sql\nSELECT count(*) AS n FROM rentals WHERE minutes > 60\n```\n"))
	write(t, dir, "replies.jsonl",
		[]byte(`{"id": "rentals/each", "reply": {"query": "SELECT bike_id, count(*) AS n FROM rentals GROUP BY 1"}}`+
			"\n"+`{"id": "rentals/hour", "reply": {"query": "SELECT count(*) AS n FROM rentals WHERE minutes >= 60"}}`+"\n"))

	facts := tovrel(t, dir, "data", "twin", "rentals", "--facts")
	require.Zero(t, facts.code, facts.err)
	require.Contains(t, facts.out, "rentals: bike_id is met by bikes.bike_id")
	run := tovrel(t, dir, "run", "--twins", "1", "--output", "json")
	require.Zero(t, run.code, run.err)
	require.Contains(t, run.out, `"lucky": 2`)
	require.Contains(t, run.err, "One twin of rentals is made first, of ")
	shown := tovrel(t, dir, "show", "latest", "rentals/hour")
	require.Regexp(t, `not on twin 1: 1 cell differs; with rentals\.rental_id \d+ in the sample as there the answer is \d+, expected \d+`,
		shown.out)
	require.Contains(t, tovrel(t, dir, "show", "latest", "rentals/each").out,
		"and no row of rentals there the answer is no row, expected (")

	twins, err := filepath.Glob(filepath.Join(dir, ".tovrel", "twins", "*.sqlite"))
	require.NoError(t, err)
	require.Len(t, twins, 1)
	made, err := sql.Open("sqlite", twins[0])
	require.NoError(t, err)
	defer made.Close() //nolint:errcheck // only read
	sample, err := sql.Open("sqlite", filepath.Join(dir, "rentals.sqlite"))
	require.NoError(t, err)
	defer sample.Close() //nolint:errcheck // only read
	for _, column := range strings.Fields(`rental_id bike_id day at minutes price state "odd_""one""" raw hours`) {
		column = strings.ReplaceAll(column, "_\"\"one", " \"\"one")
		require.Equal(t, classes(t, sample, column), classes(t, made, column), column)
	}
	for query, want := range map[string]string{
		"SELECT group_concat(type || ' ' || name, ', ') FROM (SELECT * FROM sqlite_master ORDER BY name)": "table bikes, view done, " +
			"table log, " +
			"trigger noted, index of_bike, table rentals",
		"SELECT count(*) FROM log":                                   "0",
		"PRAGMA integrity_check":                                     "ok",
		"PRAGMA foreign_key_check(rentals)":                          "",
		"SELECT count(*) FROM rentals WHERE hours <> minutes / 60.0": "0",
		"SELECT sum(minutes = 60) > 0 FROM rentals":                  "1",
	} {
		var got sql.NullString
		if err := made.QueryRow(query).Scan(&got); err != sql.ErrNoRows {
			require.NoError(t, err, query)
		}
		require.Equal(t, want, got.String, query)
	}
}
