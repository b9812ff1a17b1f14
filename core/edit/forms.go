package edit

import (
	"sort"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/sql"
)

// forms are the mistakes of taking one form of a question for another that looks much the same.
func forms() []*Edit {
	return []*Edit{
		{Name: "other-join-columns", Doc: "tables are joined on other columns than the ones that belong together", Code: fault.JoinKey, Inverse: fault.JoinKey, make: otherJoinColumns},
		{Name: "largest-by-limit", Doc: "the first row stands for all that share the largest value", Code: fault.Limit, Inverse: fault.Limit, make: largestByLimit},
		{Name: "all-largest", Doc: "all that share the largest value stand for the first row", Code: fault.Limit, Inverse: fault.Limit, make: allLargest},
		{Name: "regroup-alternatives", Doc: "alternatives are combined crosswise: (a AND b) OR (c AND d) became (a OR c) AND (b OR d)", Code: fault.FilterValue, Inverse: fault.FilterValue, make: regroupAlternatives},
		{Name: "column-conditions", Doc: "all conditions on a column are left out", Code: fault.FilterMissing, Inverse: fault.FilterExtra, make: dropColumnConditions},
	}
}

// otherJoinColumns takes over the other query's pair of columns for a join by USING.
func otherJoinColumns(s Subject, at sql.Site) []Change {
	using, _ := at.Node["using_columns"].([]any)
	if s.Other == nil || sql.Text(at.Node, "type") != "JOIN" || len(using) == 0 {
		return nil
	}
	left, right := aliases(sql.Object(at.Node, "left")), aliases(sql.Object(at.Node, "right"))
	var out []Change
	for _, site := range s.Other.Sites() {
		if !isKeyEquality(site.Node) {
			continue
		}
		x, y := sql.ColumnName(sql.Object(site.Node, "left")), sql.ColumnName(sql.Object(site.Node, "right"))
		for _, pair := range [][2]string{{x, y}, {y, x}} {
			a, b := owner(s, left, pair[0]), owner(s, right, pair[1])
			if strings.EqualFold(x, y) || a == "" || b == "" {
				continue
			}
			on := sql.Compare("COMPARE_EQUAL", sql.Name(a, pair[0]), sql.Name(b, pair[1]))
			c := altered(s, at, func(n map[string]any) { n["using_columns"], n["condition"] = []any{}, on })
			c.Before, c.After = "USING ("+usingText(using)+")", "ON "+sql.Fragment(on)
			out = append(out, c)
		}
	}
	return append(out, otherUsing(s, at, using)...)
}

// otherUsing takes over the other query's column for a join by USING.
func otherUsing(s Subject, at sql.Site, using []any) []Change {
	var out []Change
	for _, site := range s.Other.Sites() {
		others, _ := site.Node["using_columns"].([]any)
		if sql.Text(site.Node, "type") != "JOIN" || len(others) == 0 || usingText(others) == usingText(using) {
			continue
		}
		c := altered(s, at, func(n map[string]any) { n["using_columns"] = others })
		c.Before, c.After = "USING ("+usingText(using)+")", "USING ("+usingText(others)+")"
		out = append(out, c)
	}
	return out
}

func usingText(columns []any) string {
	var names []string
	for _, c := range columns {
		name, _ := c.(string)
		names = append(names, name)
	}
	return strings.Join(names, ", ")
}

// aliases are the base tables within a part of FROM, by the name that the query has for them.
func aliases(from map[string]any) map[string]string {
	out := map[string]string{}
	switch sql.Text(from, "type") {
	case "BASE_TABLE":
		name := sql.TableName(from)
		alias := sql.Text(from, "alias")
		if alias == "" {
			alias = name
		}
		out[alias] = strings.ToLower(name)
	case "JOIN":
		for _, side := range []string{"left", "right"} {
			for alias, name := range aliases(sql.Object(from, side)) {
				out[alias] = name
			}
		}
	}
	return out
}

// owner is the alias of the table that has a column; "" for none.
func owner(s Subject, aliases map[string]string, column string) string {
	var names []string
	for alias := range aliases {
		names = append(names, alias)
	}
	sort.Strings(names)
	for _, alias := range names {
		for _, c := range s.Columns[aliases[alias]] {
			if strings.EqualFold(c.Name, column) {
				return alias
			}
		}
	}
	return ""
}

// largestByLimit turns `x = (SELECT max(x) …)` of WHERE into ORDER BY x DESC LIMIT 1, and min into ascending order.
func largestByLimit(s Subject, at sql.Site) []Change {
	if sql.Text(at.Node, "type") != "SELECT_NODE" {
		return nil
	}
	parts := sql.Conditions(sql.Object(at.Node, "where_clause"))
	var out []Change
	for i, part := range parts {
		column, function := extremeOf(part)
		if column == nil {
			continue
		}
		direction := "DESCENDING"
		if function == "min" {
			direction = "ASCENDING"
		}
		rest := append(append([]map[string]any(nil), parts[:i]...), parts[i+1:]...)
		c := altered(s, at, func(n map[string]any) {
			delete(n, "where_clause")
			if len(rest) > 0 {
				n["where_clause"] = sql.And(rest...)
			}
			if cut := othersCut(s); cut != nil {
				n["modifiers"] = cut
				return
			}
			n["modifiers"] = []any{
				map[string]any{"type": "ORDER_MODIFIER", "orders": []any{map[string]any{"type": direction, "null_order": "ORDER_DEFAULT", "expression": sql.Copy(column)}}},
				map[string]any{"type": "LIMIT_MODIFIER", "limit": sql.Number("1")},
			}
		})
		c.Before, c.After = sql.Fragment(column)+" = (SELECT "+function+" …)", "ORDER BY "+sql.Fragment(column)+" LIMIT 1"
		out = append(out, c)
	}
	return out
}

// allLargest takes over the other query's `x = (SELECT max(x) …)` in place of ORDER BY and LIMIT 1.
func allLargest(s Subject, at sql.Site) []Change {
	if s.Other == nil || sql.Text(at.Node, "type") != "SELECT_NODE" {
		return nil
	}
	modifiers := sql.List(at.Node, "modifiers")
	isCut := false
	for _, m := range modifiers {
		isCut = isCut || sql.Text(m, "type") == "LIMIT_MODIFIER"
	}
	if !isCut {
		return nil
	}
	var out []Change
	for _, site := range s.Other.Sites() {
		column, function := extremeOf(site.Node)
		if column == nil {
			continue
		}
		c := altered(s, at, func(n map[string]any) {
			n["modifiers"] = []any{}
			n["where_clause"] = sql.And(sql.Object(n, "where_clause"), site.Node)
		})
		c.Before, c.After = "ORDER BY … LIMIT 1", sql.Fragment(column)+" = (SELECT "+function+" …)"
		out = append(out, c)
	}
	return out
}

// othersCut are the modifiers of the other query, where it keeps some rows only; nil else.
func othersCut(s Subject) any {
	if s.Other == nil {
		return nil
	}
	for _, m := range sql.List(s.Other.Root(), "modifiers") {
		if sql.Text(m, "type") == "LIMIT_MODIFIER" {
			return s.Other.Root()["modifiers"]
		}
	}
	return nil
}

// extremeOf is the column of `x = (SELECT max(…) …)`, and which extreme it is; nil for another condition.
func extremeOf(condition map[string]any) (column map[string]any, function string) {
	if sql.Text(condition, "type") != "COMPARE_EQUAL" {
		return nil, ""
	}
	for _, sides := range [][2]string{{"left", "right"}, {"right", "left"}} {
		column, other := sql.Object(condition, sides[0]), sql.Object(condition, sides[1])
		items := sql.List(sql.Object(sql.Object(other, "subquery"), "node"), "select_list")
		if sql.ColumnName(column) == "" || sql.Text(other, "class") != "SUBQUERY" || len(items) != 1 {
			continue
		}
		if name := sql.FunctionName(items[0]); name == "max" || name == "min" {
			return column, name
		}
	}
	return nil, ""
}

// regroupAlternatives combines two pairs of conditions crosswise.
func regroupAlternatives(s Subject, at sql.Site) []Change {
	either := sql.List(at.Node, "children")
	if sql.Text(at.Node, "type") != "CONJUNCTION_OR" || len(either) != 2 {
		return nil
	}
	a, b := sql.Conditions(either[0]), sql.Conditions(either[1])
	if len(a) != 2 || len(b) != 2 {
		return nil
	}
	var out []Change
	for _, second := range [][2]int{{0, 1}, {1, 0}} {
		out = append(out, replace(s, at, sql.And(sql.Or(a[0], b[second[0]]), sql.Or(a[1], b[second[1]]))))
	}
	return out
}

// dropColumnConditions leaves out all conditions of a WHERE that hold one column to something, where there are several.
func dropColumnConditions(s Subject, at sql.Site) []Change {
	parts := sql.Conditions(sql.Object(at.Node, "where_clause"))
	if sql.Text(at.Node, "type") != "SELECT_NODE" || len(parts) < 2 {
		return nil
	}
	byColumn := map[string][]map[string]any{}
	var names []string
	for _, part := range parts {
		if name := columnOf(part); name != "" && !isKeyEquality(part) {
			if byColumn[name] == nil {
				names = append(names, name)
			}
			byColumn[name] = append(byColumn[name], part)
		}
	}
	var out []Change
	for _, name := range names {
		if len(byColumn[name]) < 2 {
			continue
		}
		var rest []map[string]any
		for _, part := range parts {
			if columnOf(part) != name {
				rest = append(rest, part)
			}
		}
		c := altered(s, at, func(n map[string]any) {
			delete(n, "where_clause")
			if len(rest) > 0 {
				n["where_clause"] = sql.And(rest...)
			}
		})
		c.Before, c.After = sql.Fragment(sql.And(byColumn[name]...)), ""
		out = append(out, c)
	}
	return out
}
