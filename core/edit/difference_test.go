package edit_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/edit"
	"tovrel/core/fault"
	"tovrel/sqltest"
)

// TestDifference: what the other query shows, put in an item's place, makes the other query, and is named by what differs within, the
// same
// from both sides where no side has more than the other.
func TestDifference(t *testing.T) {
	queries, trees := sqltest.Known(t)
	for _, c := range []struct {
		reference, answer string
		code              fault.Code
		key               bool
	}{
		{"SELECT sum(gross) AS n FROM payments", "SELECT sum(net) AS n FROM payments", fault.WrongMeasure, false},
		{"SELECT round(sum(gross), 2) AS n FROM payments", "SELECT sum(gross) AS n FROM payments", fault.Rounding, false},
		{"SELECT coalesce(sum(gross), 0) AS n FROM payments", "SELECT sum(gross) AS n FROM payments", fault.NullHandling, false},
		{"SELECT sum(gross) AS n FROM payments", "SELECT 0.01 * sum(gross) AS n FROM payments", fault.OffByFactor, false},
		{"SELECT sum(gross) FILTER (WHERE net > 5) AS n FROM payments", "SELECT 0.01 * sum(gross) AS n FROM payments",
			fault.OffByFactor, false},
		{"SELECT sum(gross) AS n FROM payments", "SELECT avg(gross) AS n FROM payments", fault.AggregateFunction, false},
		{"SELECT sum(gross) AS n FROM payments", "SELECT sum(gross - deductions) AS n FROM payments", fault.Formula, false},
		{"SELECT sum(gross - deductions) AS n FROM payments", "SELECT sum(deductions - gross) AS n FROM payments", fault.Formula, false},
		{"SELECT sum(net) AS n FROM payments", "SELECT sum(gross - deductions) AS n FROM payments", fault.WrongMeasure, false},
		{"SELECT sum(gross) AS n FROM payments", "SELECT sum(gross) FILTER (WHERE net > 5) AS n FROM payments", fault.FilterExtra, false},
		{"SELECT sum(gross) FILTER (WHERE net > 5) AS n FROM payments", "SELECT sum(gross) AS n FROM payments",
			fault.FilterMissing, false},
		{"SELECT count(DISTINCT farm_id) AS n FROM payments", "SELECT count(farm_id) AS n FROM payments", fault.Distinct, false},
		{"SELECT sum(litres) / count(*) AS n FROM loads", "SELECT sum(litres) // count(*) AS n FROM loads", fault.Rounding, false},
		{"SELECT max(loaded_at) AS n FROM loads", "SELECT max(loaded_at + INTERVAL 1 DAY) AS n FROM loads", fault.TimeWindow, false},
		{"SELECT status AS k, sum(litres) AS n FROM loads GROUP BY status",
			"SELECT farm_id AS k, sum(litres) AS n FROM loads GROUP BY farm_id",
			fault.Label, true},
	} {
		reference, answer := trees[slices.Index(queries, c.reference)], trees[slices.Index(queries, c.answer)]
		found := false
		for _, change := range edit.Changes(edit.Subject{Tree: reference, Other: answer, Columns: sqltest.Columns()}) {
			if change.Edit.Name == "other-item" && change.Tree.SameFeatures(answer) {
				found = true
				require.Equal(t, c.code, change.Code, "%s for %s", c.answer, c.reference)
				require.Equal(t, c.key, change.Key)
				require.False(t, change.Unsure)
			}
		}
		require.True(t, found, "%s for %s", c.answer, c.reference)
	}
}

// TestWindowOrder: an order within a window that is turned round as a whole is one mistake.
func TestWindowOrder(t *testing.T) {
	queries, trees := sqltest.Known(t)
	at := slices.IndexFunc(queries, func(q string) bool {
		return q == "SELECT load_id FROM loads QUALIFY row_number() OVER (PARTITION BY farm_id ORDER BY litres DESC, load_id DESC) = 1"
	})
	require.False(t, trees[at].SameFeatures(trees[at+1]))
	require.True(t, slices.ContainsFunc(edit.Changes(edit.Subject{Tree: trees[at], Other: trees[at+1], Columns: sqltest.Columns()}),
		func(c edit.Change) bool { return c.Code == fault.WrongOrder && c.Tree.SameFeatures(trees[at+1]) }))
}
