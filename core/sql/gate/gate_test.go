package gate_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/core/sql/gate"
)

// TestCheck: what is known passes; what is not, or does more than read, is refused, wherever it stands.
func TestCheck(t *testing.T) {
	has := func(name string) bool { return name != "sume" }
	for _, c := range []struct{ tree, want string }{
		{`{"type": "SELECT_NODE", "from_table": {"type": "BASE_TABLE", "qualified_name": {"path": ["loads"]}}}`, ""},
		{`{"type": "SELECT_NODE", "where_clause": {"class": "COMPARISON", "type": "COMPARE_EQUAL", "left": {"class": ` +
			`"COLUMN_REF", "type": "COLUMN_REF"}, "right": {"class": "CONSTANT", "type": "VALUE_CONSTANT"}}}`, ""},
		{`{"type": "SET_OPERATION_NODE", "left": {"type": "SELECT_NODE"}, "right": {"type": "SELECT_NODE"}}`, ""},
		{`{"type": "DELETE_NODE"}`, "the query holds a DELETE"},
		{`{"type": "SELECT_NODE", "cte_map": {"map": [{"value": {"query": {"node": {"type": "INSERT_NODE"}}}}]}}`,
			"the query holds a INSERT"},
		{`{"from_table": {"type": "SHOW_REF"}}`, "not SHOW, DESCRIBE or SUMMARIZE"},
		{`{"from_table": {"type": "TELEPORT_REF"}}`, "a source of the kind teleport_ref is not known"},
		{`{"from_table": {"type": "JOIN", "left": {"type": "BASE_TABLE"}, "right": {"type": "TELEPORT_REF"}}}`,
			"a source of the kind teleport_ref is not known"},
		{`{"from_table": {"type": "PIVOT", "source": {"type": "DELIM_GET"}}}`, "a source of the kind delim_get is not known"},
		{`{"from_table": {"type": "BASE_TABLE", "qualified_name": {"path": ["main", "duckdb_settings"]}}}`,
			"the system table duckdb_settings is not allowed"},
		{`{"from_table": {"type": "TABLE_FUNCTION", "function": {"class": "FUNCTION", "function_name": "range"}}}`, ""},
		{`{"from_table": {"type": "TABLE_FUNCTION", "function": {"class": "FUNCTION", "function_name": "read_csv"}}}`,
			"the table function read_csv is not allowed"},
		{`{"select_list": [{"class": "TELEPATHY", "type": "X"}]}`, "an expression of the kind telepathy is not known"},
		{`{"select_list": [{"class": "FUNCTION", "function_name": "sum", "arguments": [{"expression": {"class": "FUNCTION", ` +
			`"function_name": "getenv"}}]}]}`, "the function getenv is not allowed"},
		{`{"select_list": [{"class": "FUNCTION", "function_name": "x", "qualified_name": {"path": ["main", "GetEnv"]}}]}`,
			"the function getenv is not allowed"},
		{`{"select_list": [{"class": "WINDOW", "function_name": "row_number"}]}`, ""},
		{`{"select_list": [{"class": "FUNCTION", "function_name": "of_tomorrow"}]}`,
			"the function of_tomorrow is not known to be harmless"},
		{`{"select_list": [{"class": "FUNCTION", "function_name": "sume"}]}`, ""}, // the engine says that it has none
		{`{"function": {"class": "FUNCTION", "function_name": "of_tomorrow"}}`, "the function of_tomorrow is not known"},
		{`{"select_list": [{"class": "FUNCTION", "function_name": "pg_sleep"}]}`, "the function pg_sleep is not allowed"},
		{`{"select_list": [{"class": "FUNCTION", "function_name": "pg_typeof"}]}`, ""},
	} {
		var tree map[string]any
		require.NoError(t, json.Unmarshal([]byte(c.tree), &tree), c.tree)
		err := gate.Check(ast.Of(tree).(*ast.Node), has)
		if c.want == "" {
			require.NoError(t, err, c.tree)
			continue
		}
		var refusal *gate.Refusal
		require.ErrorAs(t, err, &refusal, c.tree)
		require.Contains(t, refusal.Why, c.want, c.tree)
	}
	require.Error(t, gate.Check(ast.New(ast.Fields{field.Class: ast.Function, field.FunctionName: "sume"}), nil),
		"without the engine's word nothing unknown passes")
}

// TestLists: no function is both allowed and denied, and each denied one has its reason.
func TestLists(t *testing.T) {
	for _, name := range []string{"sum", "count_star", "date_trunc", "regexp_matches", "list_transform", "row_number", "strftime"} {
		require.True(t, gate.Allowed(name), name)
		require.Empty(t, gate.Denied(name), name)
	}
	for _, name := range []string{"getenv", "nextval", "query", "pg_sleep", "has_table_privilege", "__internal_barrier", "uuidv7"} {
		require.False(t, gate.Allowed(name), name)
		require.NotEmpty(t, gate.Denied(name), name)
	}
}
