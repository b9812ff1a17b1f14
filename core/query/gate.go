package query

import (
	"fmt"
	"strings"
)

// Refusal says why a query may not run.
type Refusal struct {
	Why       string
	Catalogue bool // it would only read what the engine knows of itself
}

func (e *Refusal) Error() string { return e.Why }

// readingNodes are the statement nodes that only read. A DELETE or COPY inside a CTE passes the serialiser, so
// every node of the tree is held against this list.
var readingNodes = map[string]bool{"SELECT_NODE": true, "SET_OPERATION_NODE": true, "RECURSIVE_CTE_NODE": true, "CTE_NODE": true}

// sources are the kinds of things that may stand in FROM.
var sources = map[string]bool{"BASE_TABLE": true, "JOIN": true, "SUBQUERY": true, "TABLE_FUNCTION": true,
	"EXPRESSION_LIST": true, "PIVOT": true, "EMPTY": true, "EMPTY_FROM": true, "COLUMN_DATA": true, "DELIM_GET": false, "SHOW_REF": false}

// tableFunctions are the functions that may stand in FROM: they make rows out of nothing but their arguments.
var tableFunctions = map[string]bool{"range": true, "generate_series": true, "unnest": true, "repeat": true,
	"repeat_row": true, "json_each": true, "json_tree": true, "generate_subscripts": true, "regexp_split_to_table": true}

// forbiddenFunctions read or change what is not the data: settings, sequences, logs, the clock of the machine, other queries.
var forbiddenFunctions = map[string]bool{"current_setting": true, "getvariable": true, "getenv": true, "nextval": true, "currval": true,
	"setval": true, "setseed": true, "sleep_ms": true, "pg_sleep": true, "write_log": true, "query": true, "query_table": true,
	"json_execute_serialized_sql": true, "json_serialize_sql": true, "json_deserialize_sql": true, "json_serialize_plan": true,
	"current_query": true, "current_query_id": true, "current_database": true, "current_catalog": true, "in_search_path": true,
	"current_connection_id": true, "txid_current": true, "current_transaction_id": true, "parse_duckdb_log_message": true,
	"uuidv7": true}

// systemPrefixes are of system tables and functions that tell about the machine and the engine.
var systemPrefixes = []string{"information_schema", "duckdb_", "pragma_", "pg_", "sqlite_"}

// cataloguePrefixes are of functions that list tables, columns and the like.
var cataloguePrefixes = []string{"duckdb_tables", "duckdb_columns", "duckdb_views", "duckdb_schemas", "duckdb_constraints", "duckdb_indexes", "duckdb_types", "pragma_table_info", "pragma_show", "pragma_table_list", "pg_get_", "pg_table", "pg_description"}

// internalPrefixes are of functions alone that do so.
var internalPrefixes = []string{"inet_", "__internal", "icu_", "has_", "sql_auto_complete"}

// harmless are the exceptions from systemPrefixes.
var harmless = map[string]bool{"pg_typeof": true, "pg_size_pretty": true}

// Check refuses every tree that does anything but read the dataset. The error is *Refusal.
func (t *Tree) Check() error {
	if walk(t.root, checkNode) == nil {
		return nil
	}
	for _, site := range t.Sites() { // in order, so that the same query is refused with the same words
		if err := checkNode(site.Node); err != nil {
			return err
		}
	}
	return nil
}

func checkNode(node map[string]any) error {
	kind := text(node, "type")
	if strings.HasSuffix(kind, "_NODE") && !readingNodes[kind] {
		verb, _, _ := strings.Cut(kind, "_")
		return &Refusal{Why: fmt.Sprintf("only reading is allowed, and the query holds a %s", strings.ToUpper(verb))}
	}
	if kind == "SHOW_REF" {
		return &Refusal{"only SELECT is allowed, not SHOW, DESCRIBE or SUMMARIZE", true}
	}
	if allowed, known := sources[kind]; known && !allowed {
		return &Refusal{Why: fmt.Sprintf("a source of kind %s is not allowed", strings.ToLower(kind))}
	}
	if kind == "TABLE_FUNCTION" {
		if name := functionName(object(node, "function")); !tableFunctions[name] {
			return &Refusal{fmt.Sprintf("the table function %s is not allowed", name), hasPrefix(name, cataloguePrefixes)}
		}
	}
	if kind == "BASE_TABLE" {
		return checkTable(node)
	}
	if _, called := node["function_name"]; called {
		return checkFunction(functionName(node))
	}
	return nil
}

func checkTable(node map[string]any) error {
	path, _ := object(node, "qualified_name")["path"].([]any)
	for _, part := range path {
		name, _ := part.(string)
		if hasPrefix(strings.ToLower(name), systemPrefixes) {
			return &Refusal{fmt.Sprintf("the system table %s is not allowed", name), true}
		}
	}
	return nil
}

func checkFunction(name string) error {
	if hasPrefix(name, cataloguePrefixes) {
		return &Refusal{fmt.Sprintf("the function %s is not allowed", name), true}
	}
	if forbiddenFunctions[name] || hasPrefix(name, systemPrefixes) || hasPrefix(name, internalPrefixes) {
		return &Refusal{Why: fmt.Sprintf("the function %s is not allowed", name)}
	}
	return nil
}

func hasPrefix(name string, prefixes []string) bool {
	for _, prefix := range prefixes {
		if strings.HasPrefix(name, prefix) && !harmless[name] {
			return true
		}
	}
	return false
}

// functionName is what the engine resolves: the last part of the qualified name, else the plain name.
func functionName(call map[string]any) string {
	if path, _ := object(call, "qualified_name")["path"].([]any); len(path) > 0 {
		if name, ok := path[len(path)-1].(string); ok {
			return strings.ToLower(name)
		}
	}
	return strings.ToLower(text(call, "function_name"))
}

// CheckText refuses a text that may not even be parsed. The error is *Refusal.
func CheckText(sql string) error {
	if len(sql) > MaxBytes {
		return &Refusal{Why: fmt.Sprintf("the query is %d bytes long; at most %d are taken", len(sql), MaxBytes)}
	}
	if strings.ContainsRune(sql, 0) {
		return &Refusal{Why: "the query holds a NUL character"}
	}
	return nil
}
