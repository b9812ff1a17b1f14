package sqltext_test

import (
	"database/sql"
	"fmt"
	"strings"
	"testing"

	_ "github.com/duckdb/duckdb-go/v2" // the statements are for it
	"github.com/stretchr/testify/require"

	"tovrel/core/twin"
	"tovrel/engine/sqltext"
)

// open makes tables whose names need quotes: parents 1 to 10, and children of the first eight, one of them an orphan.
func open(t *testing.T) *sql.DB {
	t.Helper()
	db, err := sql.Open("duckdb", "")
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, db.Close()) })
	for _, statement := range []string{
		`CREATE TABLE "the ""parents""" AS SELECT range + 1 AS "the key", 'p' || (range + 1) AS "select" FROM range(10)`,
		`CREATE TABLE child AS SELECT range AS id, CASE WHEN range = 0 THEN NULL WHEN range = 1 THEN 99 ELSE range % 8 + 1 END AS "of",
			range * 1.5 AS amount,
			CASE range % 3 WHEN 0 THEN 'it''s' WHEN 1 THEN 'b' ELSE 'c' END AS word, NULL::INTEGER AS nothing FROM range(30)`,
	} {
		_, err := db.Exec(statement)
		require.NoError(t, err)
	}
	return db
}

// rows runs a statement and gives its rows, cells apart by a bar.
func rows(t *testing.T, db *sql.DB, statement string) []string {
	t.Helper()
	r, err := db.Query(statement)
	require.NoError(t, err, statement)
	defer r.Close() //nolint:errcheck // read to its end
	names, err := r.Columns()
	require.NoError(t, err)
	var out []string
	for r.Next() {
		cells, targets := make([]any, len(names)), make([]any, len(names))
		for i := range cells {
			targets[i] = &cells[i]
		}
		require.NoError(t, r.Scan(targets...))
		var words []string
		for _, c := range cells {
			words = append(words, fmt.Sprint(c))
		}
		out = append(out, strings.Join(words, "|"))
	}
	require.NoError(t, r.Err())
	return out
}

// TestStatements: each statement asks what its comment says, also of names that need quotes.
func TestStatements(t *testing.T) {
	db := open(t)
	parents := `the "parents"`
	link := sqltext.Link{From: "child", FromColumn: "of", To: parents, ToColumn: "the key"}
	for name, c := range map[string]struct {
		statement string
		want      []string
	}{
		"head":           {sqltext.Head(parents, 2), []string{"1|p1", "2|p2"}},
		"row at":         {sqltext.RowAt(parents, 9), []string{"10|p10"}},
		"all of some":    {sqltext.Some(parents, 1, 1), []string{"1|p1"}},
		"distinct":       {sqltext.Distinct("child", "word", 2), []string{"b", "c"}},
		"commonest":      {sqltext.Commonest("child", "word", 9), []string{"b|10", "c|10", "it's|10"}},
		"nulls":          {sqltext.Nulls("child", []string{"id", "of", "nothing"}), []string{"0|1|30"}},
		"unique numbers": {sqltext.Unique("child", "id", true), []string{"true|29"}},
		"repeated texts": {sqltext.Unique("child", "word", false), []string{"false|30"}},
		"counts": {sqltext.Counts("child",
			[]sqltext.Counted{{Name: "id", Ordered: true, Summed: true}, {Name: "word"}}),
			[]string{"30|30|0|29|435|30|3|<nil>|<nil>|<nil>"}},
		"blank":           {sqltext.Blank("child", []string{"nothing", "of"}), []string{"1"}},
		"repeats":         {sqltext.Repeats("child", []string{"word"}), []string{"3"}},
		"no repeats":      {sqltext.Repeats("child", []string{"word", "id"}), []string{"0"}},
		"referring":       {link.Referring(), []string{"29|9"}},
		"orphans":         {link.Orphans(), []string{"99|1"}},
		"childless":       {link.Childless(), []string{"2"}},
		"first childless": {link.FirstChildless(), []string{"9"}},
		"as text":         {sqltext.AsText("1 + 1"), []string{"2"}},
		"cast":            {"SELECT " + sqltext.Cast(nil, "DATE") + ", " + sqltext.Cast(new("it's"), "VARCHAR"), []string{"<nil>|it's"}},
		"bins":            {"SELECT * FROM (" + sqltext.Bins("child", "id", 0, 30, 3) + ") ORDER BY 1", []string{"0|10", "1|10", "2|10"}},
	} {
		require.Equal(t, c.want, rows(t, db, c.statement), "%s: %s", name, c.statement)
	}
	require.Len(t, rows(t, db, link.Joined(1)), 28)
	require.Len(t, rows(t, db, link.Sums(1, []string{"count(*)"})), 10)
	some := len(rows(t, db, sqltext.Some("child", 3, 0)))
	require.Positive(t, some)
	require.Less(t, some, 30)
}

// TestShadowed: a query sees the tables after the steps, and the tables are as they were.
func TestShadowed(t *testing.T) {
	db := open(t)
	count := "SELECT count(*), count(DISTINCT word) FROM child -- of all"
	ask := func(steps ...twin.Step) string {
		text, err := sqltext.Shadowed(count, []sqltext.Shadow{{Table: "child", Steps: steps, Once: true}}, sqltext.Dialect{})
		require.NoError(t, err)
		return rows(t, db, text)[0]
	}
	require.Equal(t, "30|3", ask())
	require.Equal(t, "12|3", ask(twin.Head{Rows: 12}))
	require.Equal(t, "30|4", ask(twin.Overwrite{Column: "word", Type: "VARCHAR", Values: []string{"new"}, Seed: 7}))
	require.Equal(t, "30|3", ask(twin.Overwrite{Column: "of", Type: "BIGINT", Values: []string{"no number"}, Seed: 7}),
		"what is none of the type changes nothing")
	thinned := ask(twin.Thin{OneIn: 5, Seed: 3})
	require.NotEqual(t, "30|3", thinned)
	require.Equal(t, thinned, ask(twin.Thin{OneIn: 5, Seed: 3}), "the same rows for the same seed")
	cells := []twin.TypedCell{{Text: new("100"), Type: "BIGINT"}, {Type: "BIGINT"}, {Text: new("1.5"), Type: "DECIMAL(20,1)"},
		{Text: new("d"), Type: "VARCHAR"}, {Type: "INTEGER"}}
	require.Equal(t, "32|4", ask(twin.Add{Cells: cells}, twin.Add{Cells: cells}))
	require.Equal(t, "30|3", rows(t, db, count)[0], "nothing is stored")
	_, err := sqltext.Shadowed(count, []sqltext.Shadow{{Table: "child", Steps: []twin.Step{twin.Deal{}}}}, sqltext.Dialect{})
	require.ErrorContains(t, err, "no view makes")
	plain, err := sqltext.Shadowed("SELECT 1;", nil, sqltext.Dialect{})
	require.NoError(t, err)
	require.Equal(t, "SELECT 1", plain)
}
