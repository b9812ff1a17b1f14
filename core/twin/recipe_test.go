package twin_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/twin"
)

// TestRecipes: a plan is read as it was written, whatever its steps are; a step that no plan holds is refused both ways.
func TestRecipes(t *testing.T) {
	tables, joined := school(t)
	kinds := map[string]bool{}
	for seed := range uint64(12) {
		facts := twin.Find(append([]twin.Rows{drawnTable(t, seed)}, tables...), joined)
		facts.Keep([]twin.Law{{Kind: twin.Ordered, Table: "lessons", Columns: []string{"held", "marked"}, Rows: 90, Chance: 12}})
		plan := twin.Make(facts, []twin.Boundary{{Column: "fee", Values: []string{"2.50"}}, {Column: "n", Values: []string{"7"}},
			{Column: "held", Values: []string{"2030-09-15"}, Others: []string{"marked"}}}, int(seed)+1) //nolint:gosec // small
		body, err := json.Marshal(plan)
		require.NoError(t, err)
		var again twin.Plan
		require.NoError(t, json.Unmarshal(body, &again))
		require.Equal(t, plan, again)
		var raw struct {
			Tables []struct{ Steps []map[string]any }
		}
		require.NoError(t, json.Unmarshal(body, &raw))
		for _, table := range raw.Tables {
			for _, step := range table.Steps {
				for name := range step {
					kinds[name] = true
				}
			}
		}
	}
	require.GreaterOrEqual(t, len(kinds), 9, "%v", kinds)
	_, err := json.Marshal(twin.TablePlan{Steps: []twin.Step{twin.Present{Column: "a"}}})
	require.ErrorContains(t, err, "no plan holds the step Present")
	var plan twin.TablePlan
	require.ErrorContains(t, json.Unmarshal([]byte(`{"Steps": [{"Present": {}}]}`), &plan), `"Present" of a twin's plan is not known`)
	require.ErrorContains(t, json.Unmarshal([]byte(`{"Steps": [{"Drop": 7}]}`), &plan), `"Drop" of a twin's plan`)
	require.Error(t, json.Unmarshal([]byte(`[]`), &plan))
}
