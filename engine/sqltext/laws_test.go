package sqltext_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/profile"
	"tovrel/core/twin"
	"tovrel/engine/sqltext"
)

// lawCases are laws over a table of nine rows in three groups, with how many rows break each and on how many it is seen.
var lawCases = []struct {
	law          twin.Law
	broken, seen string
}{
	{twin.Law{Kind: twin.Ordered, Columns: []string{"a", "b"}}, "1", "8"},
	{twin.Law{Kind: twin.NoOverlap, By: "g", Columns: []string{"a", "b"}}, "6", "6"},
	{twin.Law{Kind: twin.NoGap, By: "g", Columns: []string{"a", "b"}}, "9", "6"},
	{twin.Law{Kind: twin.NoGap, By: "g", Columns: []string{"a", "b"}, Number: 1}, "6", "6"},
	{twin.Law{Kind: twin.OneOpen, By: "g", Columns: []string{"b"}}, "6", "5"},
	{twin.Law{Kind: twin.OneOf, By: "g", Columns: []string{"s"}, Values: []string{"x"}}, "3", "6"},
	{twin.Law{Kind: twin.Counts, By: "g", Columns: []string{"n"}, Number: 1}, "3", "6"},
	{twin.Law{Kind: twin.Rises, By: "g", Columns: []string{"a", "v"}}, "3", "6"},
	{twin.Law{Kind: twin.Follows, By: "g", Columns: []string{"s", "a"}, Values: []string{"x", "y"}}, "3", "3"},
	{twin.Law{Kind: twin.AddsUp, By: "g", Columns: []string{"a", "v", "so_far"}}, "3", "6"},
	{twin.Law{Kind: twin.Complete, By: "g", Columns: []string{"n"}}, "9", "6"},
	{twin.Law{Kind: twin.EveryDay, Columns: []string{"a"}}, "9", "9"},
	{twin.Law{Kind: twin.EveryDay, Columns: []string{"d"}}, "0", "9"},
	{twin.Law{Kind: twin.Forest, Columns: []string{"up", "id"}}, "2", "7"},
	{twin.Law{Kind: twin.Deep, Columns: []string{"up", "id"}, Number: 4}, "0", "7"},
	{twin.Law{Kind: twin.Deep, Columns: []string{"up", "id"}, Number: 3}, "9", "7"},
	{twin.Law{Kind: twin.Refers, Columns: []string{"n"}, Other: profile.Place{Table: "others", Column: "id"}}, "1", "9"},
	{twin.Law{Kind: twin.OrderedAcross, Columns: []string{"g", "a"}, Values: []string{"id"}, Other: profile.Place{Table: "others",
		Column: "day"}}, "3", "9"},
	{twin.Law{Kind: twin.OrderedAcross, Columns: []string{"g", "a"}, Values: []string{"id"}, Number: 1,
		Other: profile.Place{Table: "others", Column: "moment"}}, "4", "9"},
	{twin.Law{Kind: twin.Determines, Columns: []string{"n", "s"}}, "3", "9"},
	{twin.Law{Kind: twin.Determines, Columns: []string{"v", "b"}}, "3", "9"},
	{twin.Law{Kind: twin.Determines, Columns: []string{"id", "b"}}, "0", "9"},
	{twin.Law{Kind: twin.Determines, Columns: []string{"up", "d"}}, "2", "7"},
	{twin.Law{Kind: twin.Unlike, Columns: []string{"g", "n"}}, "0", "9"},
	{twin.Law{Kind: twin.Unlike, Columns: []string{"g", "s"}}, "6", "9"},
	{twin.Law{Kind: twin.Meets, SQL: "v > 1 -- or so"}, "3", "9"},
}

// TestLawQueries: each law is broken by as many rows as are counted by hand, and seen on as many.
func TestLawQueries(t *testing.T) {
	db := open(t)
	for _, statement := range []string{
		"CREATE TABLE rows (id INTEGER, g INTEGER, n INTEGER, a DATE, b DATE, s VARCHAR, v INTEGER, so_far INTEGER, d DATE, up INTEGER)",
		// group 1: days that follow one another, the last open; group 2: with a gap, a wrong end and two open; group 3: they overlap
		`INSERT INTO rows VALUES (1, 1, 1, '2031-01-01', '2031-01-05', 'x', 1, 1, '2031-05-01', NULL),
			(2, 1, 2, '2031-01-06', '2031-01-09', 'y', 2, 3, '2031-05-02', 1), (3, 1, 3, '2031-01-10', NULL, 'y', 3, 6, '2031-05-03', 2),
			(4, 2, 1, '2031-01-01', '2031-01-02', 'x', 1, 1, '2031-05-04', 3), (5, 2, 2, '2031-01-08', '2031-01-07', 'y', 1, 2,
			'2031-05-05', 1), (6, 2, 4, '2031-01-09', '2031-02-01', 'y', 9, 11, '2031-05-06', NULL),
			(7, 3, 1, '2031-01-01', '2031-01-09', 'y', 5, 5, '2031-05-07', 8), (8, 3, 2, '2031-01-03', '2031-01-20', 'x', 4, 9,
			'2031-05-08', 7), (9, 3, 3, '2031-01-21', '2031-01-22', 'x', 2, 10, '2031-05-09', 1)`,
		"CREATE TABLE others (id INTEGER, day DATE, moment TIMESTAMP)",
		`INSERT INTO others VALUES (1, '2031-01-01', '2031-01-06 12:00'), (2, '2031-01-01', '2031-01-08 00:00'),
			(3, '2031-01-30', '2031-01-01 09:00')`,
	} {
		_, err := db.Exec(statement)
		require.NoError(t, err)
	}
	laws := sqltext.Laws{From: sqltext.Numbered}
	for _, c := range lawCases {
		c.law.Table = "rows"
		got := rows(t, db, laws.Counted(c.law))
		require.Len(t, got, 1)
		require.Equal(t, c.broken+"|"+c.seen, got[0], c.law.Words())
	}
	across := twin.Law{Kind: twin.OrderedAcross, Table: "rows", Columns: []string{"g", "a"}, Values: []string{"id"},
		Other: profile.Place{Table: "others", Column: "day"}}
	for _, c := range []struct {
		law twin.Law
		min int
	}{{across, 1}, {twin.Law{Kind: twin.Ordered, Table: "rows", Columns: []string{"a", "b"}}, 1},
		{twin.Law{Kind: twin.Ordered, Table: "rows", Columns: []string{"a", "d"}}, 0}} {
		got := rows(t, db, laws.ByChance(c.law))
		require.Equal(t, c.min == 0, got[0] == "0", "%s: %v", c.law.Words(), got)
	}
	require.Equal(t, []string{"0"}, rows(t, db, laws.ByChance(twin.Law{Kind: twin.Counts, Table: "rows"})))
	follows := twin.Law{Kind: twin.Follows, Table: "rows", By: "g", Columns: []string{"s", "a"}}
	require.Empty(t, rows(t, db, laws.Following(follows)), "in group 3 it is the other way round")
	_, err := db.Exec("DELETE FROM rows WHERE g = 3")
	require.NoError(t, err)
	require.Equal(t, []string{"x|y|2|0"}, rows(t, db, laws.Following(follows)))
}
