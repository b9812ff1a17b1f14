package edit

import (
	"slices"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// unseen are the mistakes that are tried where the other query is not known: where it is, it says itself what it has in their place.
func unseen() []*Edit {
	return []*Edit{
		{Name: "number-for-rows", Doc: "a number is added up where rows were to be counted", Code: fault.AggregateFunction,
			Inverse: fault.AggregateFunction, make: numberForRows},
		{Name: "values-for-rows", Doc: "values are counted once where rows were to be counted", Code: fault.Distinct,
			Inverse: fault.Distinct, make: valuesForRows},
		{Name: "rows-for-number", Doc: "rows are counted where a number was to be added up", Code: fault.AggregateFunction,
			Inverse: fault.AggregateFunction, make: rowsForNumber},
		{Name: "turn-existence", Doc: "what exists stands for what does not", Code: fault.FilterValue, Inverse: fault.FilterValue,
			make: turnExistence},
	}
}

// readColumns are the columns of the tables that a subject's query reads, each name once.
func readColumns(s Subject) []Column {
	var out []Column
	for _, table := range s.Tree.TablesRead() {
		for _, c := range s.Columns[table] {
			if !slices.ContainsFunc(out, func(o Column) bool { return strings.EqualFold(o.Name, c.Name) }) {
				out = append(out, c)
			}
		}
	}
	return out
}

// countsRows tells a call that counts rows.
func countsRows(at sql.Site) bool {
	return at.Node.FunctionName() == "count_star" && at.Node.Class() == ast.Function
}

func numberForRows(s Subject, at sql.Site) []Change {
	if !s.Unseen || !countsRows(at) {
		return nil
	}
	var out []Change
	for _, c := range readColumns(s) {
		if c.Kind == Number && !isKeyName(c.Name) {
			out = append(out, replace(s, at, withAlias(sql.Call("sum", false, sql.Name("", c.Name)), at.Node)))
		}
	}
	return out
}

func valuesForRows(s Subject, at sql.Site) []Change {
	if !s.Unseen || !countsRows(at) && (at.Node.FunctionName() != "count" || at.Node.Is(field.Distinct)) {
		return nil
	}
	var out []Change
	for _, table := range s.Tree.TablesRead() {
		for _, c := range s.Columns[table] {
			if c.Kind != Text && !isKeyName(c.Name) {
				continue
			}
			for _, qualifier := range qualifiers(s, table) {
				distinct := sql.Call("count", false, sql.Name(qualifier, c.Name))
				distinct.Set(field.Distinct, true)
				out = append(out, replace(s, at, withAlias(distinct, at.Node)))
			}
		}
	}
	return out
}

// qualifiers are the names that a query has for a table in FROM.
func qualifiers(s Subject, table string) []string {
	var out []string
	for _, site := range s.Tree.Sites() {
		if site.Node.Kind() == ast.BaseTable && strings.EqualFold(sql.TableName(site.Node), table) {
			if name := aliasOf(site.Node); !slices.Contains(out, name) {
				out = append(out, name)
			}
		}
	}
	return out
}

func rowsForNumber(s Subject, at sql.Site) []Change {
	name := at.Node.FunctionName()
	if !s.Unseen || at.Node.Class() != ast.Function || name != "sum" && name != "avg" {
		return nil
	}
	return one(replace(s, at, withAlias(sql.Call("count_star", false), at.Node)))
}

func turnExistence(s Subject, at sql.Site) []Change {
	kind := at.Node.Text(field.SubqueryType)
	if !s.Unseen || at.Node.Class() != ast.Subquery || kind != "EXISTS" && kind != "ANY" {
		return nil
	}
	return one(replace(s, at, ast.New(ast.Fields{field.Class: ast.Operator, field.Type: ast.OperatorNot, field.Alias: "",
		field.Children: []any{at.Node}})))
}
