package sqltext_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/twin"
	"tovrel/engine/sqltext"
)

// TestAlteredTables: each step makes the rows that it says, of a table of thirty children and of ten parents.
func TestAlteredTables(t *testing.T) {
	db := open(t)
	for name, c := range map[string]struct {
		step  twin.Step
		query string
		want  []string
	}{
		"agree":           {twin.Agree{One: "amount > 10", Other: "amount > 20"}, "SELECT count(*) FROM child", []string{"23"}},
		"agree with none": {twin.Agree{One: "id < 4"}, "SELECT count(*) FROM child", []string{"4"}},
		"agree on nulls":  {twin.Agree{One: "nothing = 1", Other: "nothing = 2"}, "SELECT count(*) FROM child", []string{"30"}},
		"take":            {twin.Take{Column: "amount", Other: "id", Type: "DOUBLE"}, "SELECT sum(amount) FROM child", []string{"435"}},
		"trade": {twin.Trade{Column: "word", Type: "VARCHAR", A: "b", B: "it's"}, "SELECT word FROM child WHERE id < 3",
			[]string{"b", "it's", "c"}},
		"present": {twin.Present{Column: "of"}, "SELECT count(*) FROM child", []string{"29"}},
		"fill":    {twin.Fill{Column: "nothing", Type: "INTEGER", Value: "0"}, "SELECT sum(nothing) FROM child", []string{"0"}},
		"met": {twin.Met{Column: "of", Table: `the "parents"`, With: "the key"}, "SELECT count(*) FROM child",
			[]string{"28"}},
		"met where": {twin.Met{Column: "of", Table: `the "parents"`, With: "the key", Where: `"the key" < 3`},
			"SELECT count(*) FROM child",
			[]string{"6"}},
		"first of": {twin.FirstOf{Columns: []string{"word"}}, "SELECT id FROM child ORDER BY id", []string{"0", "1", "2"}},
		"first of where": {twin.FirstOf{Columns: []string{"word"}, Where: "id > 10"}, "SELECT id FROM child ORDER BY id",
			[]string{"11", "12", "13"}},
	} {
		text, err := sqltext.Shadowed(c.query, []sqltext.Shadow{{Table: "child", Steps: []twin.Step{c.step}}})
		require.NoError(t, err)
		require.Equal(t, c.want, rows(t, db, text), "%s: %s", name, text)
	}
	_, err := db.Exec("CREATE TABLE days AS SELECT DATE '2031-01-31' AS day")
	require.NoError(t, err)
	text, err := sqltext.Shadowed("SELECT day::VARCHAR FROM days", []sqltext.Shadow{{Table: "days",
		Steps: []twin.Step{twin.Later{Column: "day",
			Type: "DATE", Months: -12}}}})
	require.NoError(t, err)
	require.Equal(t, []string{"2030-01-31"}, rows(t, db, text))
}

// TestAlteredTogether: a table is met by another one as that is changed too, whatever their names.
func TestAlteredTogether(t *testing.T) {
	db := open(t)
	text, err := sqltext.Shadowed("SELECT count(*) FROM child", []sqltext.Shadow{
		{Table: "child", Steps: []twin.Step{twin.Met{Column: "of", Table: `the "parents"`, With: "the key"}}},
		{Table: `the "parents"`, Steps: []twin.Step{twin.Agree{One: `"the key" = 3`}}}})
	require.NoError(t, err)
	require.Equal(t, []string{"4"}, rows(t, db, text))
}
