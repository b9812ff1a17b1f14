package briefing_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/briefing"
	"tovrel/core/profile"
)

// told is a telling of two tables.
func told() briefing.Told {
	return briefing.Told{Dataset: briefing.Dataset{Name: "shop", About: "A shop.", Tables: []briefing.ToldTable{
		{Name: "sales", Rows: 3, About: "One row each.", Columns: []briefing.ToldColumn{
			{Name: "n", Type: "BIGINT", Role: "measure", Unit: "pieces", Synonyms: []string{"count"}},
			{Name: "shop", Type: "VARCHAR", Values: map[string]string{"E": "East", "W": "West"}}}},
		{Name: "shops", Columns: []briefing.ToldColumn{{Name: "shop", Type: "VARCHAR"}}}},
		Joins: []string{"sales.shop = shops.shop"}},
		Beyond: &briefing.Beyond{Terms: map[string]string{"best": "most pieces"}, Notes: []string{"In euro."},
			Examples: []briefing.ToldExample{{Question: "How many?", Query: "SELECT 1"}}}}
}

// changes are all the things that can change in a telling, with the entry that each is.
var changes = map[string]func(*briefing.Told){
	"about":              func(t *briefing.Told) { t.Dataset.About = "Two shops." },
	"sales: about":       func(t *briefing.Told) { t.Dataset.Tables[0].About = "" },
	"sales.n: role":      func(t *briefing.Told) { t.Dataset.Tables[0].Columns[0].Role = profile.Role("key") },
	"sales.n: about":     func(t *briefing.Told) { t.Dataset.Tables[0].Columns[0].About = "How many." },
	"sales.n: unit":      func(t *briefing.Told) { t.Dataset.Tables[0].Columns[0].Unit = "boxes" },
	"sales.n: synonyms":  func(t *briefing.Told) { t.Dataset.Tables[0].Columns[0].Synonyms = []string{"count", "pieces"} },
	"sales.shop: values": func(t *briefing.Told) { t.Dataset.Tables[0].Columns[1].Values = map[string]string{"E": "East"} },
	"shops.shop: hidden": func(t *briefing.Told) { t.Dataset.Tables[1].Columns = nil },
	"sales.price: told":  func(t *briefing.Told) { addColumn(&t.Dataset.Tables[0]) },
	"towns": func(t *briefing.Told) {
		t.Dataset.Tables = append(t.Dataset.Tables, briefing.ToldTable{Name: "towns", About: "All."})
	},
	"join a.b = c.d": func(t *briefing.Told) { t.Dataset.Joins = append(t.Dataset.Joins, "a.b = c.d") },
	"term best":      func(t *briefing.Told) { t.Beyond.Terms["best"] = "most money" },
	"term late":      func(t *briefing.Told) { t.Beyond.Terms["late"] = "after the day" },
	"note In cent.":  func(t *briefing.Told) { t.Beyond.Notes = append(t.Beyond.Notes, "In cent.") },
	"example Which shop?": func(t *briefing.Told) {
		t.Beyond.Examples = append(t.Beyond.Examples, briefing.ToldExample{Question: "Which shop?", Query: "SELECT 2"})
	},
}

func addColumn(t *briefing.ToldTable) {
	t.Columns = append(t.Columns, briefing.ToldColumn{Name: "price", Type: "DOUBLE"})
}

// TestEntries: whatever set of things changes, each is an entry of its own, which is the earlier telling with that one change; and the
// lines of all entries are the lines of the whole change.
func TestEntries(t *testing.T) {
	require.Empty(t, briefing.Entries(told(), told()))
	names := make([]string, 0, len(changes))
	for name := range changes {
		names = append(names, name)
	}
	slices.Sort(names)
	r := rand.New(rand.NewPCG(3, 1)) //nolint:gosec // a test's
	for n := range 200 {
		var chosen []string
		after := told()
		for i, name := range names {
			if n < len(names) && i == n || n >= len(names) && r.IntN(4) == 0 {
				changes[name](&after)
				chosen = append(chosen, name)
			}
		}
		var found, lines []string
		for _, e := range briefing.Entries(told(), after) {
			alone := told()
			changes[e.Name](&alone)
			require.Equal(t, alone.Lines(), e.Told.Lines(), "%v: %s", chosen, e.Name)
			require.Equal(t, briefing.Changed(told().Lines(), alone.Lines()), e.Changed)
			found, lines = append(found, e.Name), append(lines, e.Changed...)
		}
		slices.Sort(found)
		require.Equal(t, chosen, found)
		slices.Sort(lines)
		whole := briefing.Changed(told().Lines(), after.Lines())
		slices.Sort(whole)
		require.Equal(t, whole, lines)
	}
	gone := told()
	gone.Beyond = nil
	var found []string
	for _, e := range briefing.Entries(told(), gone) {
		found = append(found, e.Name)
	}
	require.Equal(t, []string{"term best", "note In euro.", "example How many?"}, found, "what is told at a lower level")
}

// TestChanged: the lines that only one side has, in the order of the texts, and nothing for equal ones.
func TestChanged(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 1)) //nolint:gosec // a test's
	draw := func() []string {
		var out []string
		for i := range 12 {
			if r.IntN(3) > 0 {
				out = append(out, fmt.Sprint("line ", i))
			}
		}
		return out
	}
	for range 300 {
		before, after := draw(), draw()
		rebuilt := slices.Clone(before)
		for _, line := range briefing.Changed(before, after) {
			text := line[2:]
			if line[0] == '-' {
				require.Contains(t, before, text)
				require.NotContains(t, after, text)
				rebuilt = slices.DeleteFunc(rebuilt, func(l string) bool { return l == text })
			} else {
				require.NotContains(t, before, text)
				rebuilt = append(rebuilt, text)
			}
		}
		require.ElementsMatch(t, after, rebuilt)
		require.Empty(t, briefing.Changed(before, before))
	}
	require.Equal(t, []string{"- a", "+ b"}, briefing.Changed([]string{"a", "c"}, []string{"b", "c"}))
}

// TestJudging: what answers are judged by tells two briefings apart, and what is only said to translators does not.
func TestJudging(t *testing.T) {
	base := parse(t, "dataset: quarry\ntables:\n  trips:\n    columns:\n      a: {unit: t, synonyms: [x], values: {1: one}}\n      b: "+
		"{hide: true}\n")
	for text, same := range map[string]bool{
		"a: {unit: t, synonyms: [x], values: {1: one}, about: Words, role: measure}\n      b: {hide: true}\n": true,
		"b: {hide: true}\n      a: {unit: t, synonyms: [x], values: {1: one}}\n":                              true,
		"a: {unit: kg, synonyms: [x], values: {1: one}}\n      b: {hide: true}\n":                             false,
		"a: {unit: t, synonyms: [y], values: {1: one}}\n      b: {hide: true}\n":                              false,
		"a: {unit: t, synonyms: [x], values: {1: two}}\n      b: {hide: true}\n":                              false,
		"a: {unit: t, synonyms: [x], values: {1: one}}\n      b: {hide: false}\n":                             false,
	} {
		other := parse(t, "dataset: quarry\nnotes: [Something.]\ntables:\n  trips:\n    columns:\n      "+text)
		require.Equal(t, same, slices.Equal(base.Judging(), other.Judging()), text)
	}
	require.Empty(t, (*briefing.Briefing)(nil).Judging())
}
