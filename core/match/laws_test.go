package match_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/match"
	"tovrel/core/table"
	"tovrel/core/value"
)

// lookAlikes makes a table of small integers and flags, many of whose columns hold the same cells.
func lookAlikes(columns, rows int) *table.Table {
	t := &table.Table{}
	state := uint64(7)
	for c := range columns {
		column := table.NewColumn(fmt.Sprintf("c%d", c), value.Type{Kind: value.Int}, rows)
		for range rows {
			state = state*6364136223846793005 + 1442695040888963407
			column.AppendInt(int64(state>>33) % 3)
		}
		t.Columns = append(t.Columns, column)
	}
	return t
}

// TestLookAlikeColumns: thirty columns of small integers under other names are told apart by rows as wholes.
func TestLookAlikeColumns(t *testing.T) {
	e := lookAlikes(30, 300)
	rapid.Check(t, func(t *rapid.T) {
		a := shuffled(t, e, true)
		r := match.Match(e, a, match.Rules{}, match.Known{})
		require.True(t, r.Matched, "%s %v", r.Why, r.Notes)
		for _, p := range r.Columns {
			require.Equal(t, fmt.Sprintf("other%d", p.Expected), a.Columns[p.Answer].Name)
		}
	})
}

// TestManyColumns: a thousand columns, no columns, and names that repeat.
func TestManyColumns(t *testing.T) {
	wide := lookAlikes(1000, 3)
	require.True(t, match.Match(wide, wide, match.Rules{}, match.Known{}).Matched)
	require.True(t, match.Match(&table.Table{}, &table.Table{}, match.Rules{}, match.Known{}).Matched)
	twice := tableOf("n n/1 2/3 4")
	require.True(t, match.Match(twice, tableOf("n n/3 4/1 2"), match.Rules{}, match.Known{}).Matched)
	require.True(t, match.Match(twice, tableOf("n n/2 1/4 3"), match.Rules{}, match.Known{}).Matched)
	require.False(t, match.Match(twice, tableOf("n n/2 1/3 4"), match.Rules{}, match.Known{}).Matched)
}

// drawRules draws a rule set that a table's own order fulfils.
func drawRules(t *rapid.T) match.Rules {
	var rules match.Rules
	for _, values := range [][]string{
		{"rows=exact", "rows=contains"}, {"order=auto", "order=any", "order=strict"}, {"columns=auto", "columns=name", "columns=position"},
		{"extra-columns=note", "extra-columns=wrong"},
		{"numbers=shown", "numbers=exact", "numbers=rel:0.01", "numbers=abs:0.5", "numbers=digits:1"},
		{"scale=strict", "scale=fraction", "scale=percent"}, {"text=exact", "text=fold"}, {"format=read", "format=strict"},
		{"null=strict", "null=zero", "null=blank"}, {"layout=long", "layout=any"}, {"ties=fair", "ties=strict"},
	} {
		require.NoError(t, rules.ParseRule(rapid.SampledFrom(values).Draw(t, "rule")))
	}
	return rules
}

// TestSelfLaw: a table matches itself under every rule set, with closeness 1 where there is anything to score.
func TestSelfLaw(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		e := drawTable(t)
		r := match.Match(e, e, drawRules(t), match.Known{})
		require.True(t, r.Matched, r.Why)
		if r.Closeness != nil {
			require.InDelta(t, 1, *r.Closeness, 1e-12)
		}
	})
}

// TestDistanceSymmetryLaw: under a distance, swapping the tables swaps missing and extra.
func TestDistanceSymmetryLaw(t *testing.T) {
	var rules match.Rules
	for _, r := range []string{"numbers=abs:0.1", "extra-columns=wrong", "columns=position"} {
		require.NoError(t, rules.ParseRule(r))
	}
	rapid.Check(t, func(t *rapid.T) {
		a, b := drawSmall(t, "a"), drawSmall(t, "b")
		x, y := match.Match(a, b, rules, match.Known{}), match.Match(b, a, rules, match.Known{})
		require.Equal(t, x.Matched, y.Matched)
		if len(a.Columns) == len(b.Columns) {
			require.Equal(t, len(x.Missing), len(y.ExtraRows))
			require.Equal(t, len(x.ExtraRows), len(y.Missing))
		}
	})
}

// TestPairingLaw: the pairing is one to one, and cells, missing and extra rows account for every row.
func TestPairingLaw(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		e, a := drawTable(t), drawTable(t)
		r := match.Match(e, a, match.Rules{}, match.Known{})
		used := map[int]bool{}
		for _, j := range r.AnswerOf {
			if j >= 0 {
				require.False(t, used[j], "an answer row is paired twice")
				used[j] = true
			}
		}
		require.Equal(t, e.Rows(), len(used)+len(r.Missing))
		require.Equal(t, a.Rows(), len(used)+len(r.ExtraRows))
	})
}
