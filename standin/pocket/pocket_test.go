package pocket

import (
	"context"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/briefing"
	"tovrel/translator"
)

// orchard is a schema that no rule was written on: trees of rows, picked by pickers.
func orchard() translator.Request {
	column := func(name, kind string, synonyms ...string) briefing.ToldColumn {
		return briefing.ToldColumn{Name: name, Type: kind, Synonyms: synonyms}
	}
	gross, net := column("gross_kg", "DOUBLE"), column("net_kg", "DOUBLE", "kilos")
	gross.Unit, net.Unit = "kg", "kg"
	gross.Role, net.Role = "measure", "measure"
	sort := column("sort", "VARCHAR")
	sort.Values = map[string]string{"bo": "boskoop", "el": "elstar"}
	return translator.Request{
		Dataset: briefing.Dataset{
			Tables: []briefing.ToldTable{
				{Name: "trees", Columns: []briefing.ToldColumn{column("tree_id", "INTEGER"), column("name", "VARCHAR"), sort}},
				{Name: "pickings", Columns: []briefing.ToldColumn{column("tree_id", "INTEGER"), column("Picker no", "INTEGER"),
					column("picked_at", "TIMESTAMP", "picked"), gross, net, column("ripe", "BOOLEAN")}},
				{Name: "pickers", Columns: []briefing.ToldColumn{column("Picker no", "INTEGER"), column("name", "VARCHAR"),
					column("town", "VARCHAR")}},
				{Name: "bare"},
			},
			Joins: []string{"pickings.tree_id = trees.tree_id", `pickings."Picker no" = pickers."Picker no"`, "no join",
				"bare.x = trees.y"},
		},
		Briefing: &briefing.Beyond{Terms: map[string]string{"cider apples": "trees whose sort is bo", "unclocked": "picked_at is null"}},
	}
}

func asked(t *testing.T, s Settings, question string, thread ...translator.Turn) translator.Answered {
	t.Helper()
	a, err := New(s)
	require.NoError(t, err)
	r := orchard()
	r.Question, r.Thread = question, thread
	answered, err := a.Ask(context.Background(), r)
	if answered.Reply.Query+answered.Reply.Clarify+answered.Reply.Decline == "" {
		require.Error(t, err, "what is not understood is no reply")
	} else {
		require.NoError(t, err)
	}
	return answered
}

// TestQuestions holds the rules of reading on questions about the orchard.
func TestQuestions(t *testing.T) {
	for _, c := range []struct{ question, query string }{
		{"How many trees are there?", "SELECT count(*) AS n FROM trees"},
		{"How many trees are there for each sort?", "SELECT trees.sort, count(*) AS n FROM trees GROUP BY 1 ORDER BY 1"},
		{"How many kilos were there in 2030?", "SELECT sum(pickings.net_kg) AS net_kg FROM pickings " +
			"WHERE pickings.picked_at >= DATE '2030-01-01' AND pickings.picked_at < DATE '2031-01-01'"},
		{"Average net kg by month", "SELECT month(pickings.picked_at), avg(pickings.net_kg) AS net_kg FROM pickings GROUP BY 1 ORDER BY 1"},
		{"What was the median gross kg of boskoop trees in the last quarter of 2030?",
			"SELECT median(pickings.gross_kg) AS gross_kg FROM pickings JOIN trees ON pickings.tree_id = trees.tree_id " +
				"WHERE trees.sort = 'bo' AND pickings.picked_at >= DATE '2030-10-01' AND pickings.picked_at < DATE '2031-01-01'"},
		{"How many pickings were not ripe in the last 7 days?",
			"SELECT count(*) AS n FROM pickings WHERE pickings.ripe = FALSE AND pickings.picked_at >= current_date - 6"},
		{"Which three trees had the fewest kilos in the second half of 2030?",
			"SELECT trees.name, sum(pickings.net_kg) AS net_kg FROM pickings JOIN trees ON pickings.tree_id = trees.tree_id " +
				"WHERE pickings.picked_at >= DATE '2030-07-01' AND pickings.picked_at < DATE '2031-01-01' " +
				"GROUP BY 1 ORDER BY 2 ASC LIMIT 3"},
		{"What were gross kg and net kg of cider apples?", "SELECT sum(pickings.gross_kg) AS gross_kg, sum(pickings.net_kg) AS net_kg " +
			"FROM pickings JOIN trees ON pickings.tree_id = trees.tree_id WHERE trees.sort = 'bo'"},
		{"Number of pickings that are unclocked", "SELECT count(*) AS n FROM pickings WHERE pickings.picked_at IS NULL"},
		{"How many different trees were picked in May 2030?", "SELECT count(DISTINCT pickings.tree_id) AS n FROM pickings " +
			"WHERE pickings.picked_at >= DATE '2030-05-01' AND pickings.picked_at < DATE '2030-06-01'"},
		{"Which trees have never been picked?", "SELECT trees.name FROM trees LEFT JOIN pickings ON trees.tree_id = pickings.tree_id " +
			"GROUP BY 1 HAVING count(pickings.tree_id) = 0 ORDER BY 1"},
		{"How many pickings did each town have in 2030, also those without any?",
			`SELECT pickers.town, count(pickings."Picker no") AS n FROM pickers LEFT JOIN pickings ` +
				`ON pickers."Picker no" = pickings."Picker no" AND pickings.picked_at >= DATE '2030-01-01' ` +
				`AND pickings.picked_at < DATE '2031-01-01' GROUP BY 1 ORDER BY 1`},
		{"What share of the trees is boskoop?", ""}, // beyond its rules: no guess
		{"Why?", ""},
	} {
		require.Equal(t, c.query, asked(t, Settings{}, c.question).Reply.Query, c.question)
	}
}

// TestQuirks holds that a quirk makes its mistake, and only where its kind can be made.
func TestQuirks(t *testing.T) {
	for _, c := range []struct{ quirk, question, with string }{
		{LiteralCase, "How many boskoop trees are there?", "trees.sort = 'BO'"},
		{InnerJoin, "Which trees have never been picked?", "FROM pickings JOIN trees"},
		{Boundary, "How many kilos in May 2030?", "pickings.picked_at <= DATE '2030-06-01' - 1"},
		{NoDistinct, "How many different trees were picked?", "count(pickings.tree_id)"},
		{GrossForNet, "How many kilos in May 2030?", "sum(pickings.gross_kg)"},
		{NeverAsks, "Which is the best picker?", "SELECT"},
		{NeverAsks, "Delete the trees", "SELECT"},
	} {
		require.NotContains(t, asked(t, Settings{}, c.question).Reply.Query, c.with, c.quirk)
		require.Contains(t, asked(t, Settings{Quirks: []string{c.quirk}}, c.question).Reply.Query, c.with, c.quirk)
		plain := "How many pickers are there?"
		require.Equal(t, asked(t, Settings{}, plain).Reply.Query, asked(t, Settings{Quirks: []string{c.quirk}}, plain).Reply.Query, c.quirk)
	}
}

func TestStances(t *testing.T) {
	require.Equal(t, "By which measure: gross kg, net kg?", asked(t, Settings{}, "Which is the best picker?").Reply.Clarify)
	require.Empty(t, asked(t, Settings{}, "Which is the best picker by kilos?").Reply.Clarify)
	require.Equal(t, "I only read data; I do not delete it.", asked(t, Settings{}, "Delete the trees").Reply.Decline)
}

// TestFollowUps holds that an earlier question is asked again for another period, and what forgetting it does.
func TestFollowUps(t *testing.T) {
	thread := translator.Turn{Question: "How many kilos were there in 2030?"}
	for question, with := range map[string]string{"And the year before?": "2029-01-01", "And in 2031?": "2031-01-01",
		"Only elstar": "'el'"} {
		require.Contains(t, asked(t, Settings{}, question, thread).Reply.Query, with, question)
		require.NotContains(t, asked(t, Settings{Quirks: []string{ForgetsThread}}, question, thread).Reply.Query, "net_kg", question)
	}
}

// TestWobbly holds that mistakes come and go by the repeat, the same ones for the same seed.
func TestWobbly(t *testing.T) {
	wrong := 0
	for seed := range 100 {
		first := asked(t, Settings{Version: "2", Seed: seed}, "How many kilos of boskoop trees in May 2030?").Reply.Query
		require.Equal(t, first, asked(t, Settings{Version: "2", Seed: seed}, "How many kilos of boskoop trees in May 2030?").Reply.Query)
		if first != asked(t, Settings{}, "How many kilos of boskoop trees in May 2030?").Reply.Query {
			wrong++
		}
	}
	require.Greater(t, wrong, 5)
	require.Less(t, wrong, 45)
}

func TestUnknownNames(t *testing.T) {
	_, err := New(Settings{Version: "9"})
	require.ErrorContains(t, err, `no version "9"; its versions are 1, 2 and 3`)
	_, err = New(Settings{Quirks: []string{"boundry"}})
	require.ErrorContains(t, err, "boundary")
}
