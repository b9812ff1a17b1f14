package sql

import (
	"maps"
	"slices"
	"strings"
)

// Column names a column that a query reads; Table is "" where that cannot be told from the query alone.
type Column struct {
	Table string
	Name  string
}

// Item is what a select item shows of one column: its values as they are, or an amount in its unit.
type Item struct {
	Column
	Values bool // the column's own values
	Unit   bool // its values, or a sum, mean or extreme of them
}

// unitKeeping are the aggregates whose result is in the unit of their argument.
var unitKeeping = map[string]bool{"sum": true, "avg": true, "mean": true, "median": true, "fsum": true, "favg": true, "quantile_cont": true, "quantile_disc": true}

// valueKeeping are those whose result is a value of their argument.
var valueKeeping = map[string]bool{"min": true, "max": true, "any_value": true, "first": true, "last": true, "mode": true, "arg_min": true, "arg_max": true, "max_by": true, "min_by": true}

// Items tells of each select item of the outermost SELECT which column it shows; the zero Item where it shows none or more.
// Items after a star have no known place and are left out.
func (t *Tree) Items() []Item {
	node := t.root
	for text(node, "type") == "SET_OPERATION_NODE" {
		children := list(node, "children")
		if len(children) == 0 {
			return nil
		}
		node = children[0]
	}
	tables := map[string]string{}
	fromTables(object(node, "from_table"), tables)
	var out []Item
	for _, item := range list(node, "select_list") {
		if text(item, "class") == "STAR" {
			break
		}
		out = append(out, itemOf(item, tables))
	}
	return out
}

func itemOf(expression map[string]any, tables map[string]string) Item {
	switch text(expression, "class") {
	case "COLUMN_REF":
		return Item{resolve(expression, tables), true, true}
	case "FUNCTION":
		arguments := list(expression, "arguments")
		name := functionName(expression)
		if len(arguments) == 0 || !unitKeeping[name] && !valueKeeping[name] && name != "round" && name != "coalesce" {
			return Item{}
		}
		inner := itemOf(object(arguments[0], "expression"), tables)
		inner.Values = inner.Values && valueKeeping[name]
		return inner
	case "OPERATOR":
		if children := list(expression, "children"); text(expression, "type") == "OPERATOR_COALESCE" && len(children) > 0 {
			return itemOf(children[0], tables)
		}
	case "CAST":
		inner := itemOf(object(expression, "child"), tables)
		inner.Values = false
		return inner
	}
	return Item{}
}

// fromTables maps the names under which a FROM knows its base tables to the tables.
func fromTables(from map[string]any, into map[string]string) {
	switch text(from, "type") {
	case "BASE_TABLE":
		name := text(from, "table_name")
		if path, _ := object(from, "qualified_name")["path"].([]any); len(path) > 0 {
			name, _ = path[len(path)-1].(string)
		}
		alias := text(from, "alias")
		if alias == "" {
			alias = name
		}
		into[strings.ToLower(alias)] = name
	case "JOIN":
		fromTables(object(from, "left"), into)
		fromTables(object(from, "right"), into)
	}
}

func resolve(reference map[string]any, tables map[string]string) Column {
	names, _ := reference["column_names"].([]any)
	c := Column{Name: columnName(reference)}
	if len(names) > 1 {
		qualifier, _ := names[len(names)-2].(string)
		c.Table = tables[strings.ToLower(qualifier)]
	} else if len(tables) == 1 {
		for _, t := range tables {
			c.Table = t
		}
	}
	return c
}

// Reads tells whether a query names a column of a table anywhere. A name without its table counts where the query reads that
// table.
func (t *Tree) Reads(table, column string) bool {
	tables := map[string]string{}
	_ = walk(t.root, func(node map[string]any) error { // never fails
		fromTables(node, tables)
		return nil
	})
	if !under(t.root, table) {
		return false
	}
	found := false
	_ = walk(t.root, func(node map[string]any) error {
		found = found || joinsBy(node, table, column)
		if text(node, "class") != "COLUMN_REF" || !strings.EqualFold(columnName(node), column) {
			return nil
		}
		names, _ := node["column_names"].([]any)
		if len(names) == 1 {
			found = true
			return nil
		}
		qualifier, _ := names[len(names)-2].(string)
		found = found || strings.EqualFold(tables[strings.ToLower(qualifier)], table)
		return nil
	})
	return found
}

// joinsBy tells whether a node is a join of a table USING a column.
func joinsBy(node map[string]any, table, column string) bool {
	using, _ := node["using_columns"].([]any)
	for _, name := range using {
		if name, _ := name.(string); strings.EqualFold(name, column) {
			return under(node, table)
		}
	}
	return false
}

// under tells whether a table is read below a node.
func under(node map[string]any, table string) bool {
	tables := map[string]string{}
	_ = walk(node, func(node map[string]any) error { // never fails
		fromTables(node, tables)
		return nil
	})
	for _, name := range tables {
		if strings.EqualFold(name, table) {
			return true
		}
	}
	return false
}

// TablesRead are the tables that a query names, in lower case and in order.
func (t *Tree) TablesRead() []string {
	seen := map[string]bool{}
	for _, site := range t.Sites() {
		if Text(site.Node, "type") == "BASE_TABLE" {
			seen[strings.ToLower(TableName(site.Node))] = true
		}
	}
	return slices.Sorted(maps.Keys(seen))
}
