package sqltext_test

import (
	"database/sql"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	_ "modernc.org/sqlite" // the other dialect

	"tovrel/core/twin"
	"tovrel/engine/sqltext"
)

// openLite makes the same tables for SQLite.
func openLite(t *testing.T) *sql.DB {
	t.Helper()
	db, err := sql.Open("sqlite", ":memory:")
	require.NoError(t, err)
	db.SetMaxOpenConns(1)
	t.Cleanup(func() { require.NoError(t, db.Close()) })
	for _, statement := range []string{
		`CREATE TABLE "the ""parents""" ("the key" INTEGER, "select" TEXT)`,
		`WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 10)
			INSERT INTO "the ""parents""" SELECT i, 'p' || i FROM n`,
		`CREATE TABLE child (id INTEGER, "of" INTEGER, amount REAL, word TEXT, "nothing" INTEGER)`,
		`WITH RECURSIVE n(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM n WHERE i < 29)
			INSERT INTO child SELECT i, CASE WHEN i = 0 THEN NULL WHEN i = 1 THEN 99 ELSE i % 8 + 1 END, i * 1.5,
			CASE i % 3 WHEN 0 THEN 'it''s' WHEN 1 THEN 'b' ELSE 'c' END, NULL FROM n`,
	} {
		_, err := db.Exec(statement)
		require.NoError(t, err)
	}
	return db
}

// engines are the engines by name, each with the tables.
func engines(t *testing.T) map[string]*sql.DB {
	return map[string]*sql.DB{"duckdb": open(t), "sqlite": openLite(t)}
}

var childColumns = []string{"id", "of", "amount", "word", "nothing"}

// alterations are steps on the table of thirty children, with a query and what it gives then.
var alterations = map[string]struct {
	step  twin.Step
	query string
	want  []string
}{
	"agree":           {twin.Agree{One: "amount > 10", Other: "amount > 20"}, "SELECT count(*) FROM child", []string{"23"}},
	"agree with none": {twin.Agree{One: "id < 4"}, "SELECT count(*) FROM child", []string{"4"}},
	"agree on nulls":  {twin.Agree{One: `"nothing" = 1`, Other: `"nothing" = 2`}, "SELECT count(*) FROM child", []string{"30"}},
	"take":            {twin.Take{Column: "amount", Other: "id", Type: "DOUBLE"}, "SELECT sum(amount) FROM child", []string{"435"}},
	"trade": {twin.Trade{Column: "word", Type: "VARCHAR", A: "b", B: "it's"}, "SELECT word FROM child WHERE id < 3",
		[]string{"b", "it's", "c"}},
	"only": {twin.Only{Rows: twin.Spans{{1, 3}, {29, 30}}}, "SELECT id FROM child ORDER BY 1", []string{"1", "2", "29"}},
	"none": {twin.Only{}, "SELECT count(*) FROM child", []string{"0"}},
	"without": {twin.Without{Column: "of", Type: "INTEGER", Values: []string{"1", "2"}}, "SELECT count(*) FROM child",
		[]string{"24"}},
	"set to a text": {twin.Set{Column: "word", Type: "VARCHAR", Cells: []twin.Put{{Rows: twin.Spans{{0, 2}}, Text: new("it's new")}}},
		"SELECT word FROM child WHERE id < 3 ORDER BY id", []string{"it's new", "it's new", "c"}},
	"set to another column": {twin.Set{Column: "of", Type: "INTEGER", Cells: []twin.Put{{Rows: twin.Spans{{7, 8}}, Other: "id"}}},
		`SELECT "of" FROM child WHERE id IN (7, 8) ORDER BY id`, []string{"7", "1"}},
	"set to another row, the last counts": {twin.Set{Column: "amount", Type: "DOUBLE", Cells: []twin.Put{{Rows: twin.Spans{{4, 6}},
		Of: new(int64(2))}, {Rows: twin.Spans{{5, 6}}}}}, "SELECT coalesce(amount, -1) FROM child WHERE id IN (4, 5) ORDER BY id",
		[]string{"3", "-1"}},
	"present": {twin.Present{Column: "of"}, "SELECT count(*) FROM child", []string{"29"}},
	"fill":    {twin.Fill{Column: "nothing", Type: "INTEGER", Value: "0"}, `SELECT sum("nothing") FROM child`, []string{"0"}},
	"met": {twin.Met{Column: "of", Table: `the "parents"`, With: "the key"}, "SELECT count(*) FROM child",
		[]string{"28"}},
	"met where": {twin.Met{Column: "of", Table: `the "parents"`, With: "the key", Where: `"the key" < 3`},
		"SELECT count(*) FROM child",
		[]string{"6"}},
	"first of": {twin.FirstOf{Columns: []string{"word"}}, "SELECT id FROM child ORDER BY id", []string{"0", "1", "2"}},
	"first of where": {twin.FirstOf{Columns: []string{"word"}, Where: "id > 10"}, "SELECT id FROM child ORDER BY id",
		[]string{"11", "12", "13"}},
	"times": {twin.Times{Column: "of", Table: `the "parents"`, With: "the key"}, "SELECT count(*), sum(id) FROM child",
		[]string{"28|434"}},
	"overwritten": {twin.Overwrite{Column: "word", Type: "VARCHAR", Values: []string{"new"}}, "SELECT count(DISTINCT word) FROM child",
		[]string{"4"}},
	"overwritten by what is no number": {twin.Overwrite{Column: "of", Type: "BIGINT", Values: []string{"new"}},
		"SELECT count(DISTINCT \"of\") FROM child", []string{"9"}},
	"kept": {twin.Kept{Column: "of", Table: `the "parents"`, Key: "the key", By: []twin.Step{twin.Agree{One: `"the key" <> 3`}}},
		`SELECT count(*), sum("of" = 3) FROM child`, []string{"26|0"}},
	"kept with its own": {twin.Kept{Column: "of", Table: `the "parents"`, Key: "the key",
		By: []twin.Step{twin.Agree{One: `"the key" < 8`}, twin.Kept{Column: "the key", Table: "child", Key: "id",
			By: []twin.Step{twin.Agree{One: "id <> 2"}}}}}, `SELECT count(*), sum("of" = 2), sum("of" = 8) FROM child`,
		[]string{"24|0|0"}},
	"kept by another of the same key": {twin.Kept{Column: "of", Table: "child", Key: "of", By: []twin.Step{twin.Agree{One: "id > 9"}}},
		"SELECT count(*) FROM child", []string{"29"}},
	"no level": {twin.Levels{Column: "of", Table: "child", Key: "id", Depth: 1}, `SELECT count(*), count("of") FROM child`,
		[]string{"30|0"}},
	"one level": {twin.Levels{Column: "of", Table: "child", Key: "id", Depth: 2}, `SELECT count(*), count("of") FROM child`,
		[]string{"30|0"}},
	"one level of words": {twin.Levels{Column: "word", Table: "child", Key: "word", Depth: 2},
		"SELECT count(*), count(word) FROM child", []string{"30|0"}},
	"some": {twin.Head{Rows: 0}, "SELECT count(*) FROM child", []string{"0"}},
}

// TestAlteredTables: each step makes the rows that it says, of a table of thirty children and of ten parents, in every dialect.
func TestAlteredTables(t *testing.T) {
	dbs := engines(t)
	for name, c := range alterations {
		for engine, db := range dbs {
			text, err := sqltext.Shadowed(c.query, []sqltext.Shadow{{Table: "child", Columns: childColumns, Steps: []twin.Step{c.step}}},
				sqltext.In(engine))
			require.NoError(t, err)
			require.Equal(t, c.want, rows(t, db, text), "%s on %s: %s", name, engine, text)
		}
	}
	db := dbs["duckdb"]
	_, err := db.Exec("CREATE TABLE days AS SELECT DATE '2031-01-31' AS day")
	require.NoError(t, err)
	text, err := sqltext.Shadowed("SELECT day::VARCHAR FROM days", []sqltext.Shadow{{Table: "days",
		Steps: []twin.Step{twin.Later{Column: "day",
			Type: "DATE", Months: -12}}}}, sqltext.Dialect{})
	require.NoError(t, err)
	require.Equal(t, []string{"2030-01-31"}, rows(t, db, text))
	lite := dbs["sqlite"]
	_, err = lite.Exec("CREATE TABLE days AS SELECT '2031-01-31' AS day, '2031-01-31 10:20:30' AS moment")
	require.NoError(t, err)
	text, err = sqltext.Shadowed("SELECT day, moment FROM days", []sqltext.Shadow{{Table: "days", Columns: []string{"day", "moment"},
		Steps: []twin.Step{twin.Later{Column: "day", Type: "DATE", Months: -12}, twin.Later{Column: "moment", Type: "DATETIME",
			Months: 2}}}},
		sqltext.In("sqlite"))
	require.NoError(t, err)
	require.Equal(t, []string{"2030-01-31|2031-03-31 10:20:30"}, rows(t, lite, text))
}

// TestThinnedAlike: rows are dropped by chance, about as many as is asked, and the same for the same seed.
func TestThinnedAlike(t *testing.T) {
	for engine, db := range engines(t) {
		seen := map[string]bool{}
		for seed := range 12 {
			text, err := sqltext.Shadowed("SELECT id FROM child ORDER BY 1", []sqltext.Shadow{{Table: "child", Columns: childColumns,
				Steps: []twin.Step{twin.Thin{OneIn: 2, Seed: seed * 1_000_003}}}}, sqltext.In(engine))
			require.NoError(t, err)
			left := rows(t, db, text)
			require.Equal(t, left, rows(t, db, text))
			require.Greater(t, len(left), 4, "%s, seed %d", engine, seed)
			require.Less(t, len(left), 26, "%s, seed %d", engine, seed)
			seen[strings.Join(left, " ")] = true
		}
		require.Greater(t, len(seen), 8, "%s: other seeds drop other rows", engine)
	}
}

// TestLeftOut: the rows that steps leave out, and how many they are.
func TestLeftOut(t *testing.T) {
	for engine, db := range engines(t) {
		for want, steps := range map[string][]twin.Step{
			"1|99|1.5|b|<nil>|8":     {twin.Agree{One: "id < 9", Other: "id = 0"}},
			"0|<nil>|0|it's|<nil>|1": {twin.Present{Column: "of"}},
			"0|<nil>|0|it's|<nil>|2": {twin.Met{Column: "of", Table: `the "parents"`, With: "the key"}},
		} {
			text, err := sqltext.LeftOut(sqltext.Shadow{Table: "child", Columns: childColumns, Steps: steps}, 1, sqltext.In(engine))
			require.NoError(t, err)
			got := rows(t, db, text)
			require.Equal(t, []string{want}, got, "%s: %s", engine, text)
		}
		_, err := sqltext.LeftOut(sqltext.Shadow{Table: "child", Steps: []twin.Step{twin.Fill{}}}, 1, sqltext.In(engine))
		require.ErrorContains(t, err, "leaves no rows out")
	}
}

// TestAlteredTogether: a table is met by another one as that is changed too, whatever their names.
func TestAlteredTogether(t *testing.T) {
	db := open(t)
	text, err := sqltext.Shadowed("SELECT count(*) FROM child", []sqltext.Shadow{
		{Table: "child", Steps: []twin.Step{twin.Met{Column: "of", Table: `the "parents"`, With: "the key"}}},
		{Table: `the "parents"`, Steps: []twin.Step{twin.Agree{One: `"the key" = 3`}}}}, sqltext.Dialect{})
	require.NoError(t, err)
	require.Equal(t, []string{"4"}, rows(t, db, text))
}

// TestLevels: a hierarchy is cut at its depth: below it nothing has a parent, and above it all keep theirs.
func TestLevels(t *testing.T) {
	for engine, db := range engines(t) {
		for _, statement := range []string{"CREATE TABLE kinds (kind INTEGER, above INTEGER)",
			"INSERT INTO kinds VALUES (1, NULL), (2, 1), (3, 2), (4, 3), (5, 1), (6, NULL), (7, 6)"} {
			_, err := db.Exec(statement)
			require.NoError(t, err)
		}
		for depth, want := range map[int]string{1: "", 2: "2 5 7"} {
			text, err := sqltext.Shadowed("SELECT kind FROM kinds WHERE above IS NOT NULL ORDER BY 1", []sqltext.Shadow{{Table: "kinds",
				Columns: []string{"kind", "above"}, Steps: []twin.Step{twin.Levels{Column: "above", Table: "kinds", Key: "kind",
					Depth: depth}}}}, sqltext.In(engine))
			require.NoError(t, err)
			require.Equal(t, want, strings.Join(rows(t, db, text), " "), "depth %d: %s", depth, text)
		}
	}
}

// TestChanged: how many rows steps leave out, change and add.
func TestChanged(t *testing.T) {
	for engine, db := range engines(t) {
		for want, steps := range map[string][]twin.Step{
			"21": {twin.Agree{One: "id < 9"}},
			"1":  {twin.Present{Column: "of"}},
			"20": {twin.Trade{Column: "word", Type: "VARCHAR", A: "b", B: "c"}},
			"30": {twin.Same{Column: "amount", Type: "DOUBLE", Value: "1"}},
			"29": {twin.Take{Column: "amount", Other: "id", Type: "DOUBLE"}},
			"27": {twin.FirstOf{Columns: []string{"word"}}},
			"2":  {twin.Met{Column: "of", Table: `the "parents"`, With: "the key"}},
			"10": {twin.Trade{Column: "word", Type: "VARCHAR", A: "b", B: "b2"}},
			"22": {twin.Agree{One: "id < 9"}, twin.Fill{Column: "of", Type: "INTEGER", Value: "5"}},
		} {
			text, err := sqltext.Changed(sqltext.Shadow{Table: "child", Columns: childColumns, Steps: steps}, sqltext.In(engine))
			require.NoError(t, err)
			require.Equal(t, []string{want}, rows(t, db, text), "%s, %+v: %s", engine, steps, text)
		}
		_, err := sqltext.Changed(sqltext.Shadow{Table: "child", Steps: []twin.Step{twin.Deal{}}}, sqltext.In(engine))
		require.ErrorContains(t, err, "no view makes the step")
	}
}
