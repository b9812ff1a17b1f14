package sql_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/sql"
)

func TestStatements(t *testing.T) {
	for text, want := range map[string][]string{
		"SELECT 1":                     {"SELECT 1"},
		"SELECT 1;":                    {"SELECT 1;"},
		"SELECT 1; -- done":            {"SELECT 1; -- done"},
		"SELECT 1; SELECT 2":           {"SELECT 1", "SELECT 2"},
		"SELECT ';'; SELECT \";\" ;; ": {"SELECT ';'", "SELECT \";\""},
		"/* a; b */ SELECT 1 ;\nWITH x AS (SELECT 2) FROM x;": {"/* a; b */ SELECT 1", "WITH x AS (SELECT 2) FROM x"},
		"":  {""},
		";": {";"},
	} {
		require.Equal(t, want, sql.Statements(text), text)
	}
}
