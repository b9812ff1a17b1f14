package draft_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/draft"
	"tovrel/core/profile"
	"tovrel/core/value"
)

func column(name string, kind value.Kind, distinct int64, values ...string) *profile.Column {
	c := &profile.Column{Name: name, Kind: kind, Rows: 100, Distinct: distinct}
	for i, v := range values {
		c.Values = append(c.Values, profile.Count{Text: v, Rows: int64(50 - i)})
	}
	return c
}

func trips() *profile.Dataset {
	return &profile.Dataset{Name: "boats", Tables: []*profile.Table{{Name: "trips", Rows: 100, Columns: []*profile.Column{
		column("harbour", value.Text, 4, "East", "North", "South", "West"), column("fare", value.Decimal, 40),
		column("air temp", value.Float, 30),
		column("occupancy_pct", value.Float, 60), column("left_on", value.Date, 50), column("order", value.Int, 70)}}}}
}

// TestPropose: there are questions of many kinds, none twice, and each is a query over what is there.
func TestPropose(t *testing.T) {
	all := draft.Propose(trips(), nil, nil)
	require.Greater(t, len(all), 8)
	kinds, texts, queries := map[string]bool{}, map[string]bool{}, map[string]bool{}
	for i, q := range all {
		require.False(t, texts[q.Text], q.Text)
		require.False(t, queries[q.SQL], q.SQL)
		require.True(t, strings.HasPrefix(q.SQL, "SELECT ") && strings.HasSuffix(q.Text, "?"), q)
		texts[q.Text], queries[q.SQL] = true, true
		if i < 5 {
			require.False(t, kinds[q.Kind], "the first are of different kinds: %s", q.Kind)
		}
		kinds[q.Kind] = true
	}
	require.Contains(t, queries, "SELECT sum(fare) AS total FROM trips")
	require.Contains(t, queries, "SELECT count(*) AS n FROM trips")
}

// TestSums: what cannot be added up is averaged.
func TestSums(t *testing.T) {
	for _, q := range draft.Propose(trips(), nil, nil) {
		require.NotRegexp(t, `sum\(("air temp"|occupancy_pct)\)`, q.SQL)
		require.NotRegexp(t, `total (air temp|occupancy pct)`, q.Text)
	}
}

// TestCovered: what other questions ask about already comes later.
func TestCovered(t *testing.T) {
	first := func(covered map[profile.Place]bool) string {
		for _, q := range draft.Propose(trips(), nil, covered) {
			if q.Kind == "mean" {
				return q.SQL
			}
		}
		return ""
	}
	require.Equal(t, "SELECT avg(fare) AS average FROM trips", first(nil))
	require.NotEqual(t, "SELECT avg(fare) AS average FROM trips", first(map[profile.Place]bool{{Table: "trips", Column: "fare"}: true}))
}
