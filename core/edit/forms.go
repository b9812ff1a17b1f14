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

// forms are the mistakes of taking one form of a question for another that looks much the same.
func forms() []*Edit {
	return []*Edit{
		{Name: "other-join-columns", Doc: "tables are joined on other columns than the ones that belong together",
			Code: fault.JoinKey, Inverse: fault.JoinKey, make: otherJoinColumns},
		{Name: "largest-by-limit", Doc: "the first row stands for all that share the largest value", Code: fault.Limit,
			Inverse: fault.Limit, make: largestByLimit},
		{Name: "all-largest", Doc: "all that share the largest value stand for the first row", Code: fault.Limit,
			Inverse: fault.Limit, make: allLargest},
		{Name: "regroup-alternatives", Doc: "alternatives are combined crosswise: (a AND b) OR (c AND d) became (a OR c) AND " +
			"(b OR d)", Code: fault.FilterValue, Inverse: fault.FilterValue, make: regroupAlternatives},
		{Name: "column-conditions", Doc: "all conditions on a column are left out", Code: fault.FilterMissing,
			Inverse: fault.FilterExtra, make: dropColumnConditions},
	}
}

// otherJoinColumns takes over the other query's pair of columns for a join by USING.
func otherJoinColumns(s Subject, at sql.Site) []Change {
	using := at.Node.Names(field.UsingColumns)
	if s.Other == nil || at.Node.Kind() != ast.Join || len(using) == 0 {
		return nil
	}
	left, right := aliases(at.Node.Node(field.Left)), aliases(at.Node.Node(field.Right))
	var out []Change
	for _, site := range s.Other.Sites() {
		if !isKeyEquality(site.Node) {
			continue
		}
		x, y := sql.ColumnName(site.Node.Node(field.Left)), sql.ColumnName(site.Node.Node(field.Right))
		for _, pair := range [][2]string{{x, y}, {y, x}} {
			a, b := owner(s, left, pair[0]), owner(s, right, pair[1])
			if strings.EqualFold(x, y) || a == "" || b == "" {
				continue
			}
			on := sql.Compare(ast.CompareEqual, sql.Name(a, pair[0]), sql.Name(b, pair[1]))
			c := altered(s, at, func(n *ast.Node) {
				n.Set(field.UsingColumns, []any{})
				n.Set(field.Condition, on)
			})
			c.Before, c.After = "USING ("+usingText(using)+")", "ON "+sql.Fragment(on)
			out = append(out, c)
		}
	}
	return append(out, otherUsing(s, at, using)...)
}

// otherUsing takes over the other query's column for a join by USING.
func otherUsing(s Subject, at sql.Site, using []string) []Change {
	var out []Change
	for _, site := range s.Other.Sites() {
		others := site.Node.Names(field.UsingColumns)
		if site.Node.Kind() != ast.Join || len(others) == 0 || usingText(others) == usingText(using) {
			continue
		}
		c := altered(s, at, func(n *ast.Node) { n.Set(field.UsingColumns, others) })
		c.Before, c.After = "USING ("+usingText(using)+")", "USING ("+usingText(others)+")"
		out = append(out, c)
	}
	return out
}

func usingText(columns []string) string { return strings.Join(columns, ", ") }

// aliases are the base tables within a part of FROM, by the name that the query has for them.
func aliases(from *ast.Node) map[string]string {
	out := map[string]string{}
	switch from.Kind() {
	case ast.BaseTable:
		name := sql.TableName(from)
		alias := from.Text(field.Alias)
		if alias == "" {
			alias = name
		}
		out[alias] = strings.ToLower(name)
	case ast.Join:
		for _, side := range []field.Field{field.Left, field.Right} {
			maps.Copy(out, aliases(from.Node(side)))
		}
	}
	return out
}

// owner is the alias of the table that has a column; "" for none.
func owner(s Subject, aliases map[string]string, column string) string {
	names := slices.Sorted(maps.Keys(aliases))
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
	if at.Node.Kind() != ast.SelectNode {
		return nil
	}
	parts := sql.Conditions(at.Node.Node(field.Where))
	var out []Change
	for i, part := range parts {
		column, function := extremeOf(part)
		if column == nil {
			continue
		}
		direction := ast.Descending
		if function == "min" {
			direction = ast.Ascending
		}
		rest := append(append([]*ast.Node(nil), parts[:i]...), parts[i+1:]...)
		c := altered(s, at, func(n *ast.Node) {
			n.Drop(field.Where)
			if len(rest) > 0 {
				n.Set(field.Where, sql.And(rest...))
			}
			if cut := othersCut(s); cut != nil {
				n.Set(field.Modifiers, cut)
				return
			}
			n.Set(field.Modifiers, []any{
				ast.New(ast.Fields{field.Type: ast.OrderModifier,
					field.Orders: []any{ast.New(ast.Fields{field.Type: direction, field.NullOrder: "ORDER_DEFAULT",
						field.Expression: ast.Copy(column)})}}),
				ast.New(ast.Fields{field.Type: ast.LimitModifier, field.Limit: sql.Number("1")}),
			})
		})
		c.Before, c.After = sql.Fragment(part), "ORDER BY "+sql.Fragment(column)+
			map[bool]string{true: " DESC"}[direction == ast.Descending]+" LIMIT 1"
		out = append(out, c)
	}
	return out
}

// allLargest takes over the other query's `x = (SELECT max(x) …)` in place of ORDER BY and LIMIT 1.
func allLargest(s Subject, at sql.Site) []Change {
	if s.Other == nil || at.Node.Kind() != ast.SelectNode {
		return nil
	}
	modifiers := at.Node.Nodes(field.Modifiers)
	isCut := false
	for _, m := range modifiers {
		isCut = isCut || m.Kind() == ast.LimitModifier
	}
	if !isCut {
		return nil
	}
	var out []Change
	for _, site := range s.Other.Sites() {
		if column, _ := extremeOf(site.Node); column == nil {
			continue
		}
		c := altered(s, at, func(n *ast.Node) {
			n.Set(field.Modifiers, []any{})
			n.Set(field.Where, sql.And(n.Node(field.Where), site.Node))
		})
		c.Before, c.After = modifiersText(modifiers), sql.Fragment(site.Node)
		out = append(out, c)
	}
	return out
}

// modifiersText are the order and the limit of a query, in one text.
func modifiersText(modifiers []*ast.Node) string {
	var parts []string
	for _, m := range modifiers {
		parts = append(parts, sql.Fragment(m))
	}
	return strings.Join(parts, " ")
}

// othersCut are the modifiers of the other query, where it keeps some rows only; nil else.
func othersCut(s Subject) []any {
	if s.Other == nil {
		return nil
	}
	for _, m := range s.Other.Root().Nodes(field.Modifiers) {
		if m.Kind() == ast.LimitModifier {
			return s.Other.Root().Items(field.Modifiers)
		}
	}
	return nil
}

// extremeOf is the column of `x = (SELECT max(…) …)`, and which extreme it is; nil for another condition.
func extremeOf(condition *ast.Node) (column *ast.Node, function string) {
	if condition.Kind() != ast.CompareEqual {
		return nil, ""
	}
	for _, sides := range [][2]field.Field{{field.Left, field.Right}, {field.Right, field.Left}} {
		column, other := condition.Node(sides[0]), condition.Node(sides[1])
		items := other.Node(field.Subquery).Node(field.Node).Nodes(field.SelectList)
		if sql.ColumnName(column) == "" || other.Class() != ast.Subquery || len(items) != 1 {
			continue
		}
		if name := items[0].FunctionName(); name == "max" || name == "min" {
			return column, name
		}
	}
	return nil, ""
}

// regroupAlternatives combines two pairs of conditions crosswise.
func regroupAlternatives(s Subject, at sql.Site) []Change {
	either := at.Node.Nodes(field.Children)
	if at.Node.Kind() != ast.ConjunctionOr || len(either) != 2 {
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
	parts := sql.Conditions(at.Node.Node(field.Where))
	if at.Node.Kind() != ast.SelectNode || len(parts) < 2 {
		return nil
	}
	byColumn := map[string][]*ast.Node{}
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
		var rest []*ast.Node
		for _, part := range parts {
			if columnOf(part) != name {
				rest = append(rest, part)
			}
		}
		c := altered(s, at, func(n *ast.Node) {
			n.Drop(field.Where)
			if len(rest) > 0 {
				n.Set(field.Where, sql.And(rest...))
			}
		})
		c.Before, c.After = sql.Fragment(sql.And(byColumn[name]...)), ""
		out = append(out, c)
	}
	return out
}
