package sqltext

import (
	"slices"
	"strconv"
	"strings"

	"tovrel/core/pattern"
)

// Described is a table as a dataset is described to translators.
type Described struct {
	Name    string
	Columns []DescribedColumn
}

// DescribedColumn is a column with its type.
type DescribedColumn struct{ Name, Type string }

var (
	showTables = pattern.Of(`(?is)^\s*show\s+(?:all\s+)?tables(?:\s+from\s+\S+)?\s*;?\s*$`)
	describe   = pattern.Of(`(?is)^\s*(?:describe|desc|show\s+columns\s+(?:from|in)` +
		`|pragma\s+table_info)\s*\(?\s*["'\x60]?([^"'\x60();]+?)["'\x60]?\s*\)?\s*;?\s*$`)
	tablesOf = pattern.Of(`(?i)(?:\b\w+\.)?\binformation_schema\.tables\b|\bduckdb_tables\s*\(\s*\)` +
		`|\b(?:main\.)?sqlite_(?:master|schema)\b`)
	columnsOf    = pattern.Of(`(?i)(?:\b\w+\.)?\binformation_schema\.columns\b|\bduckdb_columns\s*\(\s*\)`)
	tableInfo    = pattern.Of(`(?i)\bpragma_table_info\s*\(\s*['"]([^'"]+)['"]\s*\)`)
	beginsWith   = pattern.Of(`(?is)^\s*with\s+`)
	beginsWithRe = pattern.Of(`(?is)^\s*with\s+recursive\s+`)
)

// Catalogue rewrites a query about the tables themselves to one on their description, so that nothing of the engine's own is read; other
// queries stay as they are.
func Catalogue(query string, tables []Described) string {
	if showTables.MatchString(query) {
		return "SELECT table_name AS name FROM (" + tableRows(tables) + ") ORDER BY 1"
	}
	if m := describe.FindStringSubmatch(query); m != nil {
		return "SELECT column_name, data_type AS column_type FROM (" + columnRows(tables) + ") WHERE lower(table_name) = lower(" +
			Text(m[1]) +
			") ORDER BY ordinal_position"
	}
	rewritten := tablesOf.ReplaceAllString(query, "described_tables")
	rewritten = columnsOf.ReplaceAllString(rewritten, "described_columns")
	rewritten = tableInfo.ReplaceAllStringFunc(rewritten, func(call string) string {
		return "(SELECT * FROM described_columns WHERE lower(table_name) = lower(" + Text(tableInfo.FindStringSubmatch(call)[1]) + "))"
	})
	if rewritten == query {
		return query
	}
	described := "described_tables AS (" + tableRows(tables) + "), described_columns AS (" + columnRows(tables) + ")"
	switch {
	case beginsWithRe.MatchString(rewritten):
		return "WITH RECURSIVE " + described + ", " + beginsWithRe.ReplaceAllString(rewritten, "")
	case beginsWith.MatchString(rewritten):
		return "WITH " + described + ", " + beginsWith.ReplaceAllString(rewritten, "")
	}
	return "WITH " + described + " " + rewritten
}

// tableRows selects a row for each table, under the names that catalogues have for them.
func tableRows(tables []Described) string {
	var rows [][]string
	for _, t := range tables {
		name := Text(t.Name)
		rows = append(rows, []string{"'main'", "'main'", "'main'", name, name, name, "'BASE TABLE'", "'table'",
			strconv.Itoa(len(t.Columns))})
	}
	return selected(rows, "table_catalog", "table_schema", "schema_name", "table_name", "name", "tbl_name", "table_type", "type",
		"column_count")
}

// columnRows selects a row for each column.
func columnRows(tables []Described) string {
	var rows [][]string
	for _, t := range tables {
		for i, c := range t.Columns {
			name, kind := Text(c.Name), Text(c.Type)
			rows = append(rows, []string{"'main'", "'main'", "'main'", Text(t.Name), name, name, kind, kind, strconv.Itoa(i + 1),
				strconv.Itoa(i + 1), strconv.Itoa(i), "'YES'", "NULL"})
		}
	}
	return selected(rows, "table_catalog", "table_schema", "schema_name", "table_name", "column_name", "name", "data_type", "type",
		"ordinal_position", "column_index", "cid", "is_nullable", "column_default")
}

// selected selects rows of expressions under names; none where there are none.
func selected(rows [][]string, names ...string) string {
	row := func(values []string) string {
		parts := make([]string, len(names))
		for i, name := range names {
			parts[i] = values[i] + " AS " + name
		}
		return "SELECT " + strings.Join(parts, ", ")
	}
	if len(rows) == 0 {
		return row(slices.Repeat([]string{"NULL"}, len(names))) + " WHERE 1 = 0"
	}
	var all []string
	for _, r := range rows {
		all = append(all, row(r))
	}
	return strings.Join(all, " UNION ALL ")
}
