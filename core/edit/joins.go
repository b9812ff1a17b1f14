package edit

import (
	"maps"
	"slices"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// joins are the mistakes in how tables are put together.
func joins() []*Edit {
	return []*Edit{
		{Name: "inner-join", Doc: "an inner join drops rows that belong in the answer", Code: fault.JoinRowsLost,
			Inverse: fault.JoinRowsAdded, make: joinType("LEFT", "INNER")},
		{Name: "outer-join", Doc: "an outer join keeps rows that do not belong", Code: fault.JoinRowsAdded,
			Inverse: fault.JoinRowsLost, make: joinType("INNER", "LEFT")},
		{Name: "other-side", Doc: "an outer join keeps the rows of the other side", Code: fault.JoinRowsLost,
			Inverse: fault.JoinRowsLost, make: joinType("LEFT", "RIGHT")},
		{Name: "condition-to-where", Doc: "a condition of an outer join stands in WHERE, where it drops the rows without a " +
			"counterpart", Code: fault.JoinRowsLost, Inverse: fault.JoinRowsAdded, make: conditionToWhere},
		{Name: "condition-from-where", Doc: "a condition of WHERE stands in an outer join, which keeps the rows that do not " +
			"meet it", Code: fault.JoinRowsAdded, Inverse: fault.JoinRowsLost, make: conditionFromWhere},
		{Name: "drop-join", Doc: "a table is left out", Code: fault.JoinMissing, Inverse: fault.JoinFanOut, make: dropJoin},
		{Name: "add-table", Doc: "a further table multiplies the rows", Code: fault.JoinFanOut, Inverse: fault.JoinMissing, make: addTable},
		{Name: "other-key", Doc: "tables are joined on the wrong columns", Code: fault.JoinKey, Inverse: fault.JoinKey, make: otherKey},
	}
}

func joinType(from, to string) func(Subject, sql.Site) []Change {
	return func(s Subject, at sql.Site) []Change {
		if at.Node.Kind() != ast.Join || at.Node.Text(field.JoinType) != from || at.Node.Text(field.RefType) == "CROSS" {
			return nil
		}
		return one(altered(s, at, func(n *ast.Node) { n.Set(field.JoinType, to) }))
	}
}

func conditionToWhere(s Subject, at sql.Site) []Change {
	from := at.Node.Node(field.FromTable)
	if at.Node.Kind() != ast.SelectNode || from.Kind() != ast.Join || from.Text(field.JoinType) != "LEFT" {
		return nil
	}
	all := sql.Conditions(from.Node(field.Condition))
	var out []Change
	for i, condition := range all {
		if isKeyEquality(condition) {
			continue
		}
		rest := append(append([]*ast.Node(nil), all[:i]...), all[i+1:]...)
		c := altered(s, at, func(n *ast.Node) {
			n.Node(field.FromTable).Set(field.Condition, sql.And(rest...))
			n.Set(field.Where, sql.And(n.Node(field.Where), condition))
		})
		c.Before, c.After = "ON "+sql.Fragment(from.Node(field.Condition)), "WHERE "+sql.Fragment(condition)
		out = append(out, c)
	}
	return out
}

// conditionFromWhere moves the conditions of WHERE on the joined table, but for its null tests, into the outer join.
func conditionFromWhere(s Subject, at sql.Site) []Change {
	from := at.Node.Node(field.FromTable)
	if at.Node.Kind() != ast.SelectNode || from.Kind() != ast.Join || from.Text(field.JoinType) != "LEFT" ||
		from.Node(field.Condition) == nil {
		return nil
	}
	joined := namesOf(s, from.Node(field.Right))
	var moved, kept []*ast.Node
	for _, condition := range sql.Conditions(at.Node.Node(field.Where)) {
		if joined[columnOf(condition)] && !strings.HasPrefix(condition.Kind().String(), "OPERATOR_IS") {
			moved = append(moved, condition)
		} else {
			kept = append(kept, condition)
		}
	}
	if len(moved) == 0 {
		return nil
	}
	c := altered(s, at, func(n *ast.Node) {
		join := n.Node(field.FromTable)
		join.Set(field.Condition, sql.And(append([]*ast.Node{join.Node(field.Condition)}, moved...)...))
		n.Drop(field.Where)
		if len(kept) > 0 {
			n.Set(field.Where, sql.And(kept...))
		}
	})
	what := sql.Fragment(sql.And(moved...))
	c.Before, c.After = "WHERE "+what, "ON "+what
	return one(c)
}

// namesOf are the columns of a base table, in lower case.
func namesOf(s Subject, table *ast.Node) map[string]bool {
	out := map[string]bool{}
	for _, c := range s.Columns[strings.ToLower(sql.TableName(table))] {
		out[strings.ToLower(c.Name)] = true
	}
	return out
}

func dropJoin(s Subject, at sql.Site) []Change {
	if at.Node.Kind() != ast.Join {
		return nil
	}
	var out []Change
	for _, sides := range [][2]field.Field{{field.Left, field.Right}, {field.Right, field.Left}} {
		kept, dropped := at.Node.Node(sides[0]), at.Node.Node(sides[1])
		c := replace(s, at, kept)
		c.Before, c.After = "JOIN "+joinedText(dropped), ""
		out = append(out, c)
	}
	return out
}

// joinedText is what is joined: a table, or several with their joins.
func joinedText(from *ast.Node) string {
	if from.Kind() != ast.Join {
		return sql.Fragment(from)
	}
	return joinedText(from.Node(field.Left)) + " " + sql.Fragment(from)
}

// addTable joins a table that only the other query reads, by the columns that have the same name.
func addTable(s Subject, at sql.Site) []Change {
	if s.Other == nil || at.Node.Kind() != ast.SelectNode || !at.Outermost() || at.Node.Node(field.FromTable) == nil {
		return nil
	}
	own, others := tablesOf(s.Tree), tablesOf(s.Other)
	var names []string
	for name := range others {
		if !own[name] && s.Columns[name] != nil {
			names = append(names, name)
		}
	}
	slices.Sort(names)
	var out []Change
	for _, name := range names {
		key := sharedColumn(s, own, name)
		if key == "" {
			continue
		}
		c := altered(s, at, func(n *ast.Node) {
			n.Set(field.FromTable, innerJoin(n.Node(field.FromTable), baseTable(name), []string{key}, nil))
		})
		c.Before, c.After = "", "JOIN "+name
		out = append(out, c)
	}
	return out
}

// innerJoin joins by columns of the same name, or by a condition; nil for none.
func innerJoin(left, right *ast.Node, using []string, on *ast.Node) *ast.Node {
	join := ast.New(ast.Fields{field.Type: ast.Join, field.Alias: "", field.Left: left, field.Right: right,
		field.JoinType: "INNER", field.RefType: "REGULAR",
		field.UsingColumns: using, field.DelimFlipped: false, field.DuplicateEliminatedColumns: []any{}})
	if on != nil {
		join.Set(field.Condition, on)
	}
	return join
}

func baseTable(name string) *ast.Node {
	return ast.New(ast.Fields{field.Type: ast.BaseTable, field.Alias: "", field.SchemaName: "", field.CatalogName: "",
		field.TableName:       name,
		field.ColumnNameAlias: []any{}, field.QualifiedName: ast.New(ast.Fields{field.Path: []any{name}})})
}

func tablesOf(t *sql.Tree) map[string]bool {
	out := map[string]bool{}
	for _, site := range t.Sites() {
		if site.Node.Kind() == ast.BaseTable {
			out[strings.ToLower(sql.TableName(site.Node))] = true
		}
	}
	return out
}

// sharedColumn is a column that a table shares with one of others; "" for none.
func sharedColumn(s Subject, own map[string]bool, table string) string {
	for _, c := range s.Columns[table] {
		for _, other := range slices.Sorted(maps.Keys(own)) {
			for _, d := range s.Columns[other] {
				if strings.EqualFold(c.Name, d.Name) && strings.HasSuffix(strings.ToLower(c.Name), "id") {
					return c.Name
				}
			}
		}
	}
	return ""
}

// otherKey compares another column of the other query in a join's equality.
func otherKey(s Subject, at sql.Site) []Change {
	if s.Other == nil || !at.In(field.Condition) || at.Node.Class() != ast.ColumnRef || at.Parent.Kind() != ast.CompareEqual ||
		!isKeyEquality(at.Parent) {
		return nil
	}
	var out []Change
	seen := map[string]bool{strings.ToLower(sql.ColumnName(at.Node)): true}
	for _, site := range s.Other.Sites() {
		name := sql.ColumnName(site.Node)
		if name == "" || seen[strings.ToLower(name)] || !site.In(field.Condition) {
			continue
		}
		seen[strings.ToLower(name)] = true
		out = append(out, replace(s, at, renamed(at.Node, name)))
	}
	return out
}
