package sqltext_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/engine/sqltext"
)

// TestCatalogue: queries about the tables are answered from their description, however they ask; others stay as they are.
func TestCatalogue(t *testing.T) {
	tables := []sqltext.Described{{Name: "boats", Columns: []sqltext.DescribedColumn{{Name: "boat_id", Type: "INTEGER"},
		{Name: "harbour's", Type: "TEXT"}}},
		{Name: "Trips", Columns: []sqltext.DescribedColumn{{Name: "trip_id", Type: "INTEGER"}}}}
	db := open(t)
	for query, want := range map[string][]string{
		"SHOW TABLES":                {"Trips", "boats"},
		"show all tables;":           {"Trips", "boats"},
		"DESCRIBE boats":             {"boat_id|INTEGER", "harbour's|TEXT"},
		"describe \"trips\" ;":       {"trip_id|INTEGER"},
		"SHOW COLUMNS FROM boats":    {"boat_id|INTEGER", "harbour's|TEXT"},
		"PRAGMA table_info('Trips')": {"trip_id|INTEGER"},
		"DESCRIBE nothing":           nil,
		"SELECT table_name FROM information_schema.tables WHERE table_schema = 'main' ORDER BY 1": {"Trips",
			"boats"},
		"SELECT count(*) FROM INFORMATION_SCHEMA.COLUMNS c WHERE c.table_name = 'boats'": {"2"},
		"SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY name": {"Trips",
			"boats"},
		"SELECT name, type FROM pragma_table_info('trips')":                                        {"trip_id|INTEGER"},
		"WITH t AS (SELECT table_name AS n FROM information_schema.tables) SELECT count(*) FROM t": {"2"},
		"WITH RECURSIVE t(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM t WHERE n < 3) " +
			"SELECT max(n) FROM t, duckdb_tables()": {"3"},
	} {
		require.Equal(t, want, rows(t, db, sqltext.Catalogue(query, tables)), query)
	}
	require.Equal(t, "SELECT 1", sqltext.Catalogue("SELECT 1", tables))
	require.Empty(t, rows(t, db, sqltext.Catalogue("SHOW TABLES", nil)))
	require.Empty(t, rows(t, db, sqltext.Catalogue("SELECT column_name FROM information_schema.columns", nil)))
}
