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

// measures are the mistakes in what is measured, and how.
func measures() []*Edit {
	return []*Edit{
		{Name: "other-measure", Doc: "another column is measured", Code: fault.WrongMeasure, Inverse: fault.WrongMeasure,
			make: otherMeasure},
		{Name: "other-aggregate", Doc: "another aggregate is taken", Code: fault.AggregateFunction,
			Inverse: fault.AggregateFunction, make: otherAggregate},
		{Name: "distinct-in-aggregate", Doc: "DISTINCT is missing or too much", Code: fault.Distinct, Inverse: fault.Distinct,
			make: distinctInAggregate},
		{Name: "count-rows", Doc: "rows are counted where values were meant, or the reverse", Code: fault.NullHandling,
			Inverse: fault.NullHandling, make: countRows},
		{Name: "strip-coalesce", Doc: "nulls are not turned to a value", Code: fault.NullHandling, Inverse: fault.NullHandling,
			make: stripCoalesce},
		{Name: "zero-for-null", Doc: "nulls are turned to zero before they are measured", Code: fault.NullHandling,
			Inverse: fault.NullHandling, make: zeroForNull},
		{Name: "drop-term", Doc: "a term of a formula is left out", Code: fault.Formula, Inverse: fault.Formula, make: dropTerm},
		{Name: "other-operator", Doc: "the sign or the operation is wrong", Code: fault.Formula, Inverse: fault.Formula,
			make: otherOperator},
		{Name: "mean-of-ratios", Doc: "ratios are averaged where a ratio of sums was asked", Code: fault.RatioOfAverages,
			Inverse: fault.RatioOfAverages, make: meanOfRatios},
		{Name: "whole-division", Doc: "a division drops what is behind the point", Code: fault.Rounding,
			Inverse: fault.Rounding, make: wholeDivision},
		{Name: "round", Doc: "a value is rounded too far", Code: fault.Rounding, Inverse: fault.Rounding, make: rounded},
		{Name: "factor", Doc: "a value is off by a factor of 100 or 1000", Code: fault.OffByFactor, Inverse: fault.OffByFactor,
			make: factor},
	}
}

// inItem tells places in what is shown or ordered by, of any SELECT.
func inItem(at sql.Site) bool { return at.In(field.SelectList) || at.In(field.Orders) }

// otherMeasure takes a column that the other query measures, or another number of the same table.
func otherMeasure(s Subject, at sql.Site) []Change {
	name := sql.ColumnName(at.Node)
	if name == "" || !inItem(at) && !at.In(field.Having) || at.In(field.Partitions) {
		return nil
	}
	var out []Change
	for _, n := range otherMeasures(s, name) {
		node := renamed(at.Node, n)
		from := len(out)
		out = append(out, replace(s, at, node))
		if plain := withAlias(sql.Name("", n), at.Node); !sql.Same(plain, node) { // of another table
			out = append(out, replace(s, at, plain))
		}
		if tree, places := s.Tree.EveryWhere(at.Node, node); places > 1 {
			c := replace(s, at, node)
			c.Tree = tree
			out = append(out, c)
		}
		for i := range out[from:] {
			nameOther(s, at, name, n, &out[from+i])
		}
	}
	return out
}

// keyed tells an item that its SELECT groups by.
func keyed(at sql.Site) bool {
	for i, item := range at.Parent.Nodes(field.SelectList) {
		if item == at.Node {
			return isKey(at.Parent, i)
		}
	}
	return false
}

// nameOther names the fault of a column in another one's place by where it stands: a key, a text and a time are no measure.
func nameOther(s Subject, at sql.Site, was, is string, c *Change) {
	bare := at.Role == field.SelectList || at.Role == field.Expression && at.In(field.Orders)
	switch c.Key = at.Role == field.SelectList && keyed(at); {
	case c.Key && !at.Outermost():
		c.Code = fault.GroupKeyMissing
	case isMoment(s, []string{was, is}):
		c.Code = fault.TimeWindow
	case bare && (isText(s, was) || isText(s, is) || isKeyName(was) || isKeyName(is)):
		c.Code = fault.Label // codes are shown where labels were asked, or the reverse
	case c.Key:
		c.Code = fault.GroupKeyMissing
	}
}

// otherMeasures are the columns that the other query measures, and the other numbers of a column's table.
func otherMeasures(s Subject, name string) []string {
	seen := map[string]bool{strings.ToLower(name): true}
	var names []string
	add := func(n string) {
		if n != "" && !seen[strings.ToLower(n)] {
			seen[strings.ToLower(n)] = true
			names = append(names, n)
		}
	}
	if s.Other != nil {
		for _, site := range s.Other.Sites() {
			if inItem(site) {
				add(sql.ColumnName(site.Node))
			}
		}
	}
	for _, table := range slices.Sorted(maps.Keys(s.Columns)) {
		columns := s.Columns[table]
		if kindOf(columns, name) == Number {
			for _, c := range columns {
				if c.Kind == Number {
					add(c.Name)
				}
			}
		}
	}
	return names
}

// isKeyName tells a name that keys have.
func isKeyName(name string) bool {
	lower := strings.ToLower(name)
	return strings.HasSuffix(lower, "_id") || strings.HasSuffix(lower, "_no") || lower == "id" || strings.HasSuffix(lower, "code")
}

func isText(s Subject, name string) bool {
	for _, columns := range s.Columns {
		if kindOf(columns, name) == Text {
			return true
		}
	}
	return false
}

var swappable = []string{"sum", "avg", "min", "max", "count", "median"}

func otherAggregate(s Subject, at sql.Site) []Change {
	name := at.Node.FunctionName()
	if at.Node.Class() != ast.Function || !contains(swappable, name) || len(at.Node.Nodes(field.Arguments)) != 1 {
		return nil
	}
	var out []Change
	for _, other := range swappable {
		if other != name {
			out = append(out, altered(s, at, func(n *ast.Node) { rename(n, other) }))
		}
	}
	return out
}

func contains(list []string, s string) bool {
	return slices.Contains(list, s)
}

func rename(call *ast.Node, name string) {
	call.Set(field.FunctionName, name)
	call.Set(field.QualifiedName, ast.New(ast.Fields{field.Path: []any{name}}))
}

func distinctInAggregate(s Subject, at sql.Site) []Change {
	if at.Node.Class() != ast.Function || !sql.IsAggregate(at.Node.FunctionName()) || len(at.Node.Nodes(field.Arguments)) != 1 {
		return nil
	}
	return one(altered(s, at, func(n *ast.Node) {
		distinct := n.Is(field.Distinct)
		n.Set(field.Distinct, !distinct)
	}))
}

// countRows turns count(x) into count(*) and back; back over the columns that the other query counts or tests.
func countRows(s Subject, at sql.Site) []Change {
	switch {
	case at.Node.FunctionName() == "count" && len(at.Node.Nodes(field.Arguments)) == 1:
		c := replace(s, at, withAlias(sql.Call("count_star", false), at.Node))
		if distinct := at.Node.Is(field.Distinct); distinct {
			c.Code = fault.Distinct
		}
		return one(c)
	case at.Node.FunctionName() == "count_star" && s.Other != nil:
		var out []Change
		seen := map[string]bool{}
		for _, site := range s.Other.Sites() {
			if name := sql.ColumnName(site.Node); name != "" && !seen[name] {
				seen[name] = true
				out = append(out, replace(s, at, withAlias(sql.Call("count", false, sql.Name("", name)), at.Node)))
				distinct := sql.Call("count", false, sql.Name("", name))
				distinct.Set(field.Distinct, true)
				c := replace(s, at, withAlias(distinct, at.Node))
				c.Code = fault.Distinct
				out = append(out, c)
			}
		}
		return out
	}
	return nil
}

func withAlias(node, from *ast.Node) *ast.Node {
	node.Set(field.Alias, from.Text(field.Alias))
	return node
}

func stripCoalesce(s Subject, at sql.Site) []Change {
	inner := at.Node.Nodes(field.Children)
	if at.Node.Kind() != ast.OperatorCoalesce || len(inner) == 0 {
		return nil
	}
	return one(replace(s, at, withAlias(ast.Copy(inner[0]), at.Node)))
}

func zeroForNull(s Subject, at sql.Site) []Change {
	if at.Node.Class() != ast.ColumnRef || at.Role != field.Expression || !at.In(field.SelectList) {
		return nil
	}
	return one(replace(s, at, ast.New(ast.Fields{field.Class: ast.Operator, field.Type: ast.OperatorCoalesce, field.Alias: "",
		field.Children: []any{at.Node, sql.Number("0")}})))
}

// operands are the two sides of an arithmetic operator; nil for other nodes.
func operands(node *ast.Node) []*ast.Node {
	name := node.FunctionName()
	arguments := node.Nodes(field.Arguments)
	if node.Class() != ast.Function || len(arguments) != 2 || name != "+" && name != "-" && name != "*" && name != "/" && name != "//" {
		return nil
	}
	left, right := arguments[0].Node(field.Expression), arguments[1].Node(field.Expression)
	if left == nil || right == nil { // a tree that no engine made
		return nil
	}
	return []*ast.Node{left, right}
}

func dropTerm(s Subject, at sql.Site) []Change {
	sides := operands(at.Node)
	if sides == nil {
		return nil
	}
	var out []Change
	for _, side := range sides {
		c := replace(s, at, withAlias(ast.Copy(side), at.Node))
		switch {
		case isMoment(s, sql.ColumnsIn(at.Node)):
			c.Code = fault.TimeWindow
		case at.Node.FunctionName() == "*":
			c.Code = fault.WrongMeasure
		}
		out = append(out, c)
	}
	return out
}

var operators = []string{"+", "-", "*", "/"}

func otherOperator(s Subject, at sql.Site) []Change {
	if operands(at.Node) == nil {
		return nil
	}
	var out []Change
	for _, other := range operators {
		if other != at.Node.FunctionName() {
			out = append(out, altered(s, at, func(n *ast.Node) { rename(n, other) }))
		}
	}
	return out
}

// meanOfRatios turns sum(a) / sum(b) into avg(a / b), and back; and sum(a) / count(b) into avg(a).
func meanOfRatios(s Subject, at sql.Site) []Change {
	if sides := operands(at.Node); sides != nil && at.Node.FunctionName() == "/" && sides[0].FunctionName() == "sum" &&
		strings.HasPrefix(sides[1].FunctionName(), "count") {
		c := replace(s, at, withAlias(sql.Call("avg", false, argument(sides[0])), at.Node))
		c.Code = fault.AggregateFunction
		return one(c)
	}
	if sides := operands(at.Node); sides != nil && at.Node.FunctionName() == "/" && sides[0].FunctionName() == "sum" &&
		sides[1].FunctionName() == "sum" {
		ratio := sql.Call("/", true, argument(sides[0]), argument(sides[1]))
		return one(replace(s, at, withAlias(sql.Call("avg", false, ratio), at.Node)))
	}
	if at.Node.FunctionName() != "avg" {
		return nil
	}
	sides := operands(argument(at.Node))
	if sides == nil || argument(at.Node).FunctionName() != "/" {
		return nil
	}
	return one(replace(s, at, withAlias(sql.Call("/", true, sql.Call("sum", false, sides[0]), sql.Call("sum", false, sides[1])), at.Node)))
}

func argument(call *ast.Node) *ast.Node {
	arguments := call.Nodes(field.Arguments)
	if len(arguments) == 0 {
		return nil
	}
	return arguments[0].Node(field.Expression)
}

func wholeDivision(s Subject, at sql.Site) []Change {
	if operands(at.Node) == nil {
		return nil
	}
	switch at.Node.FunctionName() {
	case "/":
		return one(altered(s, at, func(n *ast.Node) { rename(n, "//") }))
	case "//":
		return one(altered(s, at, func(n *ast.Node) { rename(n, "/") }))
	}
	return nil
}

// shownNumber tells the select items of the outermost SELECT that are computed.
func shownNumber(at sql.Site) bool {
	return at.Role == field.SelectList && at.Outermost() && at.Node.Class() == ast.Function
}

func rounded(s Subject, at sql.Site) []Change {
	if at.Node.FunctionName() == "round" && argument(at.Node) != nil {
		return one(replace(s, at, withAlias(ast.Copy(argument(at.Node)), at.Node)))
	}
	if !shownNumber(at) {
		return nil
	}
	var out []Change
	for _, digits := range []string{"0", "1"} {
		out = append(out, replace(s, at, withAlias(sql.Call("round", false, at.Node, sql.Number(digits)), at.Node)))
	}
	return out
}

func factor(s Subject, at sql.Site) []Change {
	if !shownNumber(at) {
		return nil
	}
	var out []Change
	for _, f := range []string{"100", "1000"} {
		for _, operator := range []string{"*", "/"} {
			out = append(out, replace(s, at, withAlias(sql.Call(operator, true, at.Node, sql.Number(f)), at.Node)))
		}
	}
	return out
}
