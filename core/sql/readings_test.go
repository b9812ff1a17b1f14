package sql_test

import (
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/sql"
	"tovrel/sqltest"
)

// TestReadings: what each known query reads of the tables is as approved: tables, conditions, ties and uses.
func TestReadings(t *testing.T) {
	columns := map[string][]string{}
	for table, all := range sqltest.Columns() {
		for _, c := range all {
			columns[table] = append(columns[table], strings.ToLower(c.Name))
		}
	}
	queries, trees := sqltest.Known(t)
	var out []string
	for i, tree := range trees {
		out = append(out, queries[i])
		out = append(out, written(tree.Readings(columns))...)
	}
	text := strings.Join(out, "\n") + "\n"
	file := sqltest.File(t, "gallery/readings.txt")
	if *update {
		require.NoError(t, os.WriteFile(file, []byte(text), 0o600))
	}
	approved, err := os.ReadFile(file)
	require.NoError(t, err)
	have, want := strings.Split(text, "\n"), strings.Split(string(approved), "\n")
	for i := range have {
		require.Less(t, i, len(want))
		require.Equal(t, want[i], have[i], "line %d", i+1)
	}
	require.Len(t, have, len(want))
}

func written(r sql.Readings) []string {
	var out []string
	for i, t := range r.Tables {
		line := fmt.Sprintf("  %d %s", i+1, t.Table)
		if t.Tested {
			line += ", tested"
		}
		if t.Outer {
			line += ", outer"
		}
		for _, h := range t.Held {
			line += fmt.Sprintf("; %s: %s", strings.Join(h.Columns, " "), h.Condition)
			if h.Part {
				line += " (in part)"
			}
		}
		for _, tie := range t.Tied {
			line += fmt.Sprintf("; %s = %d.%s", tie.Column, slices.Index(r.Tables, tie.Other)+1, tie.With)
		}
		out = append(out, line)
	}
	var uses []string
	for _, u := range r.Uses {
		uses = append(uses, fmt.Sprintf("%d.%s %s", slices.Index(r.Tables, u.Reading)+1, u.Column, [...]string{"shown", "measured",
			"grouped", "parted"}[u.As]))
	}
	if len(uses) > 0 {
		out = append(out, "  "+strings.Join(uses, ", "))
	}
	return out
}
