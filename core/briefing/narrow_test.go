package briefing_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/briefing"
)

func wide(tables int) briefing.Dataset {
	d := briefing.Dataset{Name: "wide"}
	add := func(name string, columns ...string) {
		t := briefing.ToldTable{Name: name}
		for _, c := range columns {
			t.Columns = append(t.Columns, briefing.ToldColumn{Name: c})
		}
		d.Tables = append(d.Tables, t)
	}
	for i := range tables {
		add(fmt.Sprintf("ledger_%03d", i), "entry_id", "amount", "booked_on")
	}
	add("milkLoads", "load_id", "farm_id", "litres")
	add("farms", "farm_id", "name")
	add("lab_results", "test_id", "load_id", "fat")
	return d
}

// TestNarrow: the tables of a question's words are told, and what joins them; a schema that is small enough is told whole.
func TestNarrow(t *testing.T) {
	for question, want := range map[string][]string{
		"How many litres of milk came from each farm?": {"milkLoads", "farms"},
		"What is the mean fat of the results?":         {"lab_results"},
		"Which lab results belong to which farms?":     {"lab_results", "farms", "milkLoads"},
	} {
		told, left := briefing.Narrow(wide(200), question, 4)
		require.Len(t, told.Tables, 4, question)
		require.Len(t, left, 199, question)
		var names []string
		for _, table := range told.Tables {
			names = append(names, table.Name)
		}
		for _, name := range want {
			require.Contains(t, names, name, question)
		}
	}
	whole, left := briefing.Narrow(wide(1), "anything", 4)
	require.Len(t, whole.Tables, 4)
	require.Empty(t, left)
	all, left := briefing.Narrow(wide(200), "anything", 0)
	require.Len(t, all.Tables, 203)
	require.Empty(t, left)
}

// TestNarrowLaws: whatever is asked, each table is told or left out, once, and those that are told keep their order.
func TestNarrowLaws(t *testing.T) {
	d := wide(30)
	rapid.Check(t, func(t *rapid.T) {
		most := rapid.IntRange(1, 40).Draw(t, "most")
		asked := strings.Join(rapid.SliceOf(rapid.SampledFrom([]string{"farm", "litres", "ledgers", "amount", "Fat", "entries"})).Draw(t,
			"words"), " ")
		told, left := briefing.Narrow(d, asked, most)
		require.Len(t, told.Tables, min(most, len(d.Tables)))
		require.Len(t, left, len(d.Tables)-len(told.Tables))
		at := 0
		for _, table := range told.Tables {
			require.NotContains(t, left, table.Name)
			for d.Tables[at].Name != table.Name {
				at++
			}
		}
		again, _ := briefing.Narrow(d, asked, most)
		require.Equal(t, told, again)
	})
}
