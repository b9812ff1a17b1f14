package sql

import (
	"maps"
	"slices"
	"strings"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
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
var unitKeeping = map[string]bool{"sum": true, "avg": true, "mean": true, "median": true, "fsum": true, "favg": true,
	"quantile_cont": true, "quantile_disc": true}

// valueKeeping are those whose result is a value of their argument.
var valueKeeping = map[string]bool{"min": true, "max": true, "any_value": true, "first": true, "last": true, "mode": true,
	"arg_min": true, "arg_max": true, "max_by": true, "min_by": true}

// Items tells of each select item of the outermost SELECT which column it shows; the zero Item where it shows none or more.
// Items after a star have no known place and are left out.
func (t *Tree) Items() []Item {
	node := t.root
	for node.Kind() == ast.SetOperationNode {
		children := node.Nodes(field.Children)
		if len(children) == 0 {
			return nil
		}
		node = children[0]
	}
	tables := map[string]string{}
	fromTables(node.Node(field.FromTable), tables)
	var out []Item
	for _, item := range node.Nodes(field.SelectList) {
		if item.Class() == ast.Star {
			break
		}
		out = append(out, itemOf(item, tables))
	}
	return out
}

func itemOf(expression *ast.Node, tables map[string]string) Item {
	switch expression.Class() {
	case ast.ColumnRef:
		return Item{resolve(expression, tables), true, true}
	case ast.Function:
		arguments := expression.Nodes(field.Arguments)
		name := expression.FunctionName()
		if len(arguments) == 0 || !unitKeeping[name] && !valueKeeping[name] && name != "round" && name != "coalesce" {
			return Item{}
		}
		inner := itemOf(arguments[0].Node(field.Expression), tables)
		inner.Values = inner.Values && valueKeeping[name]
		return inner
	case ast.Operator:
		if children := expression.Nodes(field.Children); expression.Kind() == ast.OperatorCoalesce && len(children) > 0 {
			return itemOf(children[0], tables)
		}
	case ast.Cast:
		inner := itemOf(expression.Node(field.Child), tables)
		inner.Values = false
		return inner
	}
	return Item{}
}

// fromTables maps the names under which a FROM knows its base tables to the tables.
func fromTables(from *ast.Node, into map[string]string) {
	switch from.Kind() {
	case ast.BaseTable:
		name := from.Text(field.TableName)
		if path := from.Node(field.QualifiedName).Items(field.Path); len(path) > 0 {
			name, _ = path[len(path)-1].(string)
		}
		alias := from.Text(field.Alias)
		if alias == "" {
			alias = name
		}
		into[strings.ToLower(alias)] = name
	case ast.Join:
		fromTables(from.Node(field.Left), into)
		fromTables(from.Node(field.Right), into)
	}
}

func resolve(reference *ast.Node, tables map[string]string) Column {
	names := reference.Names(field.ColumnNames)
	c := Column{Name: columnName(reference)}
	if len(names) > 1 {
		qualifier := names[len(names)-2]
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
	_ = ast.Walk(t.root, func(node *ast.Node) error { // never fails
		fromTables(node, tables)
		return nil
	})
	if !under(t.root, table) {
		return false
	}
	found := false
	_ = ast.Walk(t.root, func(node *ast.Node) error {
		found = found || joinsBy(node, table, column)
		if node.Class() != ast.ColumnRef || !strings.EqualFold(columnName(node), column) {
			return nil
		}
		names := node.Names(field.ColumnNames)
		if len(names) == 1 {
			found = true
			return nil
		}
		qualifier := names[len(names)-2]
		found = found || strings.EqualFold(tables[strings.ToLower(qualifier)], table)
		return nil
	})
	return found
}

// joinsBy tells whether a node is a join of a table USING a column.
func joinsBy(node *ast.Node, table, column string) bool {
	for _, name := range node.Names(field.UsingColumns) {
		if strings.EqualFold(name, column) {
			return under(node, table)
		}
	}
	return false
}

// under tells whether a table is read below a node.
func under(node *ast.Node, table string) bool {
	tables := map[string]string{}
	_ = ast.Walk(node, func(node *ast.Node) error { // never fails
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
		if site.Node.Kind() == ast.BaseTable {
			seen[strings.ToLower(TableName(site.Node))] = true
		}
	}
	return slices.Sorted(maps.Keys(seen))
}
