package gate

// statements are the kinds of statements that only read. A DELETE or COPY inside a CTE passes the parser's serialiser, so every node of the
// tree is held against this list.
var statements = map[string]bool{"SELECT_NODE": true, "SET_OPERATION_NODE": true, "RECURSIVE_CTE_NODE": true, "CTE_NODE": true}

// places are the keys under which sources stand.
var places = map[string]bool{"from_table": true, "left": true, "right": true, "source": true}

// sources are the kinds of things that may stand in FROM, and what else stands under the same keys: the two sides of a comparison and of a set
// operation are looked at as expressions and statements.
var sources = map[string]bool{"BASE_TABLE": true, "JOIN": true, "SUBQUERY": true, "TABLE_FUNCTION": true, "EXPRESSION_LIST": true, "PIVOT": true, "EMPTY": true,
	"EMPTY_FROM": true, "COLUMN_DATA": true}

// classes are the classes of expressions.
var classes = map[string]bool{"BETWEEN": true, "CASE": true, "CAST": true, "COLLATE": true, "COLUMN_REF": true, "COMPARISON": true, "CONJUNCTION": true, "CONSTANT": true,
	"FUNCTION": true, "LAMBDA": true, "LAMBDA_REF": true, "OPERATOR": true, "POSITIONAL_REFERENCE": true, "STAR": true, "SUBQUERY": true, "TYPE": true, "WINDOW": true}

// tableFunctions are the functions that may stand in FROM: they make rows out of nothing but their arguments.
var tableFunctions = map[string]bool{"range": true, "generate_series": true, "unnest": true, "repeat": true, "repeat_row": true, "json_each": true, "json_tree": true,
	"generate_subscripts": true, "regexp_split_to_table": true}

// systemPrefixes are of tables that tell about the machine and the engine.
var systemPrefixes = []string{"information_schema", "duckdb_", "pragma_", "pg_", "sqlite_"}

// cataloguePrefixes are of functions that list tables, columns and the like.
var cataloguePrefixes = []string{"duckdb_tables", "duckdb_columns", "duckdb_views", "duckdb_schemas", "duckdb_constraints", "duckdb_indexes", "duckdb_types",
	"pragma_table_info", "pragma_show", "pragma_table_list", "pg_get_", "pg_table", "pg_description"}
