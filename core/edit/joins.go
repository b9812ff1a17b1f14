package edit

import (
	"maps"
	"slices"
	"sort"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/sql"
)

// joins are the mistakes in how tables are put together.
func joins() []*Edit {
	return []*Edit{
		{Name: "inner-join", Doc: "an inner join drops rows that belong in the answer", Code: fault.JoinRowsLost, Inverse: fault.JoinRowsAdded, make: joinType("LEFT", "INNER")},
		{Name: "outer-join", Doc: "an outer join keeps rows that do not belong", Code: fault.JoinRowsAdded, Inverse: fault.JoinRowsLost, make: joinType("INNER", "LEFT")},
		{Name: "other-side", Doc: "an outer join keeps the rows of the other side", Code: fault.JoinRowsLost, Inverse: fault.JoinRowsLost, make: joinType("LEFT", "RIGHT")},
		{Name: "condition-to-where", Doc: "a condition of an outer join stands in WHERE, where it drops the rows without a counterpart", Code: fault.JoinRowsLost, Inverse: fault.JoinRowsAdded, make: conditionToWhere},
		{Name: "condition-from-where", Doc: "a condition of WHERE stands in an outer join, which keeps the rows that do not meet it", Code: fault.JoinRowsAdded, Inverse: fault.JoinRowsLost, make: conditionFromWhere},
		{Name: "drop-join", Doc: "a table is left out", Code: fault.JoinMissing, Inverse: fault.JoinFanOut, make: dropJoin},
		{Name: "add-table", Doc: "a further table multiplies the rows", Code: fault.JoinFanOut, Inverse: fault.JoinMissing, make: addTable},
		{Name: "other-key", Doc: "tables are joined on the wrong columns", Code: fault.JoinKey, Inverse: fault.JoinKey, make: otherKey},
	}
}

func joinType(from, to string) func(Subject, sql.Site) []Change {
	return func(s Subject, at sql.Site) []Change {
		if sql.Text(at.Node, "type") != "JOIN" || sql.Text(at.Node, "join_type") != from || sql.Text(at.Node, "ref_type") == "CROSS" {
			return nil
		}
		return one(altered(s, at, func(n map[string]any) { n["join_type"] = to }))
	}
}

func conditionToWhere(s Subject, at sql.Site) []Change {
	from := sql.Object(at.Node, "from_table")
	if sql.Text(at.Node, "type") != "SELECT_NODE" || sql.Text(from, "type") != "JOIN" || sql.Text(from, "join_type") != "LEFT" {
		return nil
	}
	all := sql.Conditions(sql.Object(from, "condition"))
	var out []Change
	for i, condition := range all {
		if isKeyEquality(condition) {
			continue
		}
		rest := append(append([]map[string]any(nil), all[:i]...), all[i+1:]...)
		c := altered(s, at, func(n map[string]any) {
			sql.Object(n, "from_table")["condition"] = sql.And(rest...)
			n["where_clause"] = sql.And(sql.Object(n, "where_clause"), condition)
		})
		c.Before, c.After = "ON … AND "+sql.Fragment(condition), "WHERE "+sql.Fragment(condition)
		out = append(out, c)
	}
	return out
}

// conditionFromWhere moves the conditions of WHERE on the joined table, but for its null tests, into the outer join.
func conditionFromWhere(s Subject, at sql.Site) []Change {
	from := sql.Object(at.Node, "from_table")
	if sql.Text(at.Node, "type") != "SELECT_NODE" || sql.Text(from, "type") != "JOIN" || sql.Text(from, "join_type") != "LEFT" || sql.Object(from, "condition") == nil {
		return nil
	}
	joined := namesOf(s, sql.Object(from, "right"))
	var moved, kept []map[string]any
	for _, condition := range sql.Conditions(sql.Object(at.Node, "where_clause")) {
		if joined[columnOf(condition)] && !strings.HasPrefix(sql.Text(condition, "type"), "OPERATOR_IS") {
			moved = append(moved, condition)
		} else {
			kept = append(kept, condition)
		}
	}
	if len(moved) == 0 {
		return nil
	}
	c := altered(s, at, func(n map[string]any) {
		join := sql.Object(n, "from_table")
		join["condition"] = sql.And(append([]map[string]any{sql.Object(join, "condition")}, moved...)...)
		delete(n, "where_clause")
		if len(kept) > 0 {
			n["where_clause"] = sql.And(kept...)
		}
	})
	what := sql.Fragment(sql.And(moved...))
	c.Before, c.After = "WHERE "+what, "ON … AND "+what
	return one(c)
}

// namesOf are the columns of a base table, in lower case.
func namesOf(s Subject, table map[string]any) map[string]bool {
	out := map[string]bool{}
	for _, c := range s.Columns[strings.ToLower(sql.TableName(table))] {
		out[strings.ToLower(c.Name)] = true
	}
	return out
}

func dropJoin(s Subject, at sql.Site) []Change {
	if sql.Text(at.Node, "type") != "JOIN" {
		return nil
	}
	var out []Change
	for _, side := range []string{"left", "right"} {
		c := replace(s, at, sql.Object(at.Node, side))
		dropped := "right"
		if side == "right" {
			dropped = "left"
		}
		c.Before, c.After = "JOIN "+sql.Fragment(sql.Object(at.Node, dropped)), ""
		out = append(out, c)
	}
	return out
}

// addTable joins a table that only the other query reads, by the columns that have the same name.
func addTable(s Subject, at sql.Site) []Change {
	if s.Other == nil || sql.Text(at.Node, "type") != "SELECT_NODE" || !at.Outermost() || sql.Object(at.Node, "from_table") == nil {
		return nil
	}
	own, others := tablesOf(s.Tree), tablesOf(s.Other)
	var names []string
	for name := range others {
		if !own[name] && s.Columns[name] != nil {
			names = append(names, name)
		}
	}
	sort.Strings(names)
	var out []Change
	for _, name := range names {
		key := sharedColumn(s, own, name)
		if key == "" {
			continue
		}
		c := altered(s, at, func(n map[string]any) {
			n["from_table"] = map[string]any{"type": "JOIN", "alias": "", "left": n["from_table"], "join_type": "INNER", "ref_type": "REGULAR", "using_columns": []any{key},
				"right":         map[string]any{"type": "BASE_TABLE", "alias": "", "schema_name": "", "catalog_name": "", "table_name": name, "column_name_alias": []any{}, "qualified_name": map[string]any{"path": []any{name}}},
				"delim_flipped": false, "duplicate_eliminated_columns": []any{}}
		})
		c.Before, c.After = "", "JOIN "+name
		out = append(out, c)
	}
	return out
}

func tablesOf(t *sql.Tree) map[string]bool {
	out := map[string]bool{}
	for _, site := range t.Sites() {
		if sql.Text(site.Node, "type") == "BASE_TABLE" {
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
	if s.Other == nil || !at.In("condition") || sql.Text(at.Node, "class") != "COLUMN_REF" || sql.Text(at.Parent, "type") != "COMPARE_EQUAL" || !isKeyEquality(at.Parent) {
		return nil
	}
	var out []Change
	seen := map[string]bool{strings.ToLower(sql.ColumnName(at.Node)): true}
	for _, site := range s.Other.Sites() {
		name := sql.ColumnName(site.Node)
		if name == "" || seen[strings.ToLower(name)] || !site.In("condition") {
			continue
		}
		seen[strings.ToLower(name)] = true
		out = append(out, replace(s, at, renamed(at.Node, name)))
	}
	return out
}
