package gate

import (
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

func set[T comparable](all ...T) map[T]bool {
	out := map[T]bool{}
	for _, one := range all {
		out[one] = true
	}
	return out
}

// statements are the kinds of statements that only read. A DELETE or COPY inside a CTE passes the parser's serialiser, so every node of the
// tree is held against this list.
var statements = set(ast.SelectNode, ast.SetOperationNode, ast.RecursiveCteNode, ast.CteNode)

// places are the fields in which sources stand. The two sides of a comparison and of a set operation stand under the same names: they are
// looked at as expressions and statements.
var places = set(field.FromTable, field.Left, field.Right, field.Source)

// sources are the kinds of things that may stand in FROM.
var sources = set(ast.BaseTable, ast.Join, ast.Subquery, ast.TableFunction, ast.ExpressionList, ast.Pivot, ast.Empty,
	ast.EmptyFrom, ast.ColumnData)

// classes are the classes of expressions.
var classes = set(ast.Between, ast.Case, ast.Cast, ast.Collate, ast.ColumnRef, ast.Comparison, ast.Conjunction, ast.Constant, ast.Function,
	ast.Lambda, ast.LambdaRef, ast.Operator, ast.PositionalReference, ast.Star, ast.Subquery, ast.TypeExpression, ast.Window)

// tableFunctions are the functions that may stand in FROM: they make rows out of nothing but their arguments.
var tableFunctions = set("range", "generate_series", "unnest", "repeat", "repeat_row", "json_each", "json_tree", "generate_subscripts",
	"regexp_split_to_table")

// systemPrefixes are of tables that tell about the machine and the engine.
var systemPrefixes = []string{"information_schema", "duckdb_", "pragma_", "pg_", "sqlite_"}

// cataloguePrefixes are of functions that list tables, columns and the like.
var cataloguePrefixes = []string{"duckdb_tables", "duckdb_columns", "duckdb_views", "duckdb_schemas", "duckdb_constraints",
	"duckdb_indexes",
	"duckdb_types", "pragma_table_info", "pragma_show", "pragma_table_list", "pg_get_", "pg_table", "pg_description"}
