package dialect

import (
	"strconv"
	"strings"

	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/core/sql/format"
)

// What ClickHouse writes otherwise than the embedded engine. Older servers have no CTE, no boolean, no literal of a day and no numbers for
// items, so that none of these is written.

// clickHouseTypes are the functions that make a value of a type.
var clickHouseTypes = map[string]string{"TINYINT": "toInt8", "SMALLINT": "toInt16", "INTEGER": "toInt32", "INT": "toInt32",
	"BIGINT": "toInt64", "UTINYINT": "toUInt8", "USMALLINT": "toUInt16", "UINTEGER": "toUInt32", "UBIGINT": "toUInt64",
	"FLOAT": "toFloat32", "REAL": "toFloat32", "DOUBLE": "toFloat64", "VARCHAR": "toString", "TEXT": "toString", "STRING": "toString",
	"DATE": "toDate", "TIMESTAMP": "toDateTime", "DATETIME": "toDateTime"}

// forClickHouse writes what that dialect has in its own form; false for the common one.
func (w *writing) forClickHouse(e *ast.Node, write format.Write) (string, bool) {
	if out := w.withMoments(e); out != nil {
		return write(out, true), true
	}
	switch e.Class() {
	case ast.ColumnRef:
		if path := e.Names(field.ColumnNames); len(path) == 1 && clockWords[strings.ToLower(path[0])] {
			return map[string]string{"current_date": "today()", "current_timestamp": "now()",
				"localtimestamp": "now()"}[strings.ToLower(path[0])], true
		}
	case ast.Constant:
		if text, is := isText(e); is {
			return quoted(strings.ReplaceAll(text, `\`, `\\`)), true
		}
		if literal := e.Node(field.Literal); literal.Text(field.Kind) == "BOOLEAN" {
			return map[bool]string{true: "1", false: "0"}[strings.EqualFold(literal.Text(field.Text), "true")], true
		}
	case ast.Comparison:
		return w.clickHouseDistinct(e, write)
	case ast.Cast:
		return w.clickHouseCast(e, write), true
	case ast.Lambda:
		return w.give("a lambda"), true
	case ast.Window:
		return w.give("a window function"), true
	case ast.Subquery:
		if kind := e.Text(field.SubqueryType); kind == "EXISTS" || kind == "NOT_EXISTS" {
			return w.give("EXISTS"), true
		}
	case ast.Function:
		return w.clickHouseCall(e, write)
	}
	return "", false
}

// withMoments is a comparison of a moment with texts of days, read as moments, which the server does not do; nil for any other expression.
func (w *writing) withMoments(e *ast.Node) *ast.Node {
	sides := []field.Field{field.Left, field.Right}
	if e.Class() == ast.Between {
		sides = []field.Field{field.Input, field.Lower, field.Upper}
	} else if e.Class() != ast.Comparison {
		return nil
	}
	isMoment := false
	for _, f := range sides {
		isMoment = isMoment || w.columns.kindOf(e.Node(f)) == moment
	}
	out, changed := e.Plain(), false
	for _, f := range sides {
		if text, is := isText(e.Node(f)); is && isMoment && !strings.Contains(text, ":") {
			out.Set(f, castNode(e.Node(f), "TIMESTAMP"))
			changed = true
		}
	}
	if !changed {
		return nil
	}
	return out
}

func (w *writing) clickHouseDistinct(e *ast.Node, write format.Write) (string, bool) {
	a, b := write(e.Node(field.Left), true), write(e.Node(field.Right), true)
	differ := "ifNull(" + a + " <> " + b + ", (" + a + " IS NULL) <> (" + b + " IS NULL))"
	switch e.Kind() {
	case ast.CompareDistinctFrom:
		return differ, true
	case ast.CompareNotDistinctFrom:
		return "(NOT " + differ + ")", true
	}
	return "", false
}

func (w *writing) clickHouseCast(e *ast.Node, write format.Write) string {
	of, child := e.Node(field.TypeExpr), e.Node(field.Child)
	name := strings.ToUpper(of.Text(field.TypeName))
	if e.Is(field.TryCast) {
		return w.give("TRY_CAST")
	}
	if literal, is := isText(child); is {
		if written := w.clickHouseLiteral(name, literal); written != "" || w.failed != "" {
			return written
		}
	}
	return w.clickHouseConverted(name, of, child, write)
}

// clickHouseLiteral is a literal of a type that is read from a text; "" for other types.
func (w *writing) clickHouseLiteral(name, literal string) string {
	switch {
	case name == "BOOLEAN": // as the parser reads true and false
		return map[bool]string{true: "1", false: "0"}[strings.HasPrefix(strings.ToLower(literal), "t")]
	case name == "INTERVAL":
		return w.give("an interval that moves nothing")
	case strings.HasPrefix(name, "TIMESTAMP"):
		literal, _, _ = strings.Cut(literal, "+")
		if !strings.Contains(literal, ":") {
			literal += " 00:00:00"
		}
		return "toDateTime(" + quoted(literal) + ")"
	}
	return ""
}

// clickHouseConverted is an expression as a value of a type.
func (w *writing) clickHouseConverted(name string, of, child *ast.Node, write format.Write) string {
	is, written := w.columns.kindOf(child), write(child, false)
	_, isLiteral := isText(child)
	var sizes []string
	for _, c := range of.Nodes(field.Children) {
		sizes = append(sizes, c.Node(field.Literal).Text(field.Text))
	}
	switch {
	case name == "DECIMAL" && len(sizes) == 2:
		if !is.isWhole() && !isLiteral { // there the digits that are too many are cut off
			written = "toString(if(" + written + " < 0, -1, 1) * floor(abs(toFloat64(" + written + ")) * pow(10, " + sizes[1] +
				") + 0.5) / pow(10, " + sizes[1] + "))"
		}
		return "toDecimal128(" + written + ", " + sizes[1] + ")"
	case clickHouseTypes[name] == "toString" && (is == floating || is == broken || is == unknown || is == other):
		return w.give("a text of what is no whole number, text or day")
	case strings.Contains(name, "INT") && (is == broken || is == floating || is == unknown):
		return clickHouseTypes[name] + "(round(" + written + "))"
	case clickHouseTypes[name] == "" || len(sizes) > 0 && name != "VARCHAR":
		return w.give("the type " + name)
	}
	return clickHouseTypes[name] + "(" + written + ")"
}

func (w *writing) clickHouseCall(e *ast.Node, write format.Write) (string, bool) {
	if written, is := w.filtered(e, write); is {
		return written, true
	}
	if unit, _ := intervalOf(e); unit != "" {
		return w.give("an interval that moves nothing"), true
	}
	arguments := e.Nodes(field.Arguments)
	if e.FunctionName() == "concat" {
		for i, a := range arguments {
			arguments[i] = ast.New(ast.Fields{field.Name: "", field.Expression: emptyForNull(a.Node(field.Expression))})
		}
		out := e.Plain()
		out.Set(field.Arguments, arguments)
		return w.filled(w.rules["concat/*"], out, write), w.took("concat/*")
	}
	if !e.Is(field.IsOperator) || len(arguments) != 2 {
		return "", false
	}
	left, right := arguments[0].Node(field.Expression), arguments[1].Node(field.Expression)
	if moved := w.clickHouseMoved(e.FunctionName(), left, right, write); moved != "" {
		return moved, true
	}
	x, y := write(left, false), write(right, false)
	switch called := e.FunctionName(); called {
	case "/":
		return "(toFloat64(" + x + ") / toFloat64(" + y + "))", true
	case "//":
		return "intDiv(" + x + ", nullIf(" + y + ", 0))", true
	case "%":
		return "(" + write(left, true) + " % nullIf(" + y + ", 0))", true
	case "^", "**":
		return "pow(" + x + ", " + y + ")", true
	case "~~*", "!~~*":
		not := map[bool]string{true: " NOT"}[called == "!~~*"]
		return "(lowerUTF8(" + x + ")" + not + " LIKE lowerUTF8(" + y + "))", true
	case "-":
		if a, b := w.columns.kindOf(left), w.columns.kindOf(right); a.isTime() && b.isTime() && (a != day || b != day) {
			return w.give("a difference of moments"), true
		}
	case "||":
		return "concat(" + x + ", " + y + ")", true
	case "~~~", "@>", "<@", "&&", "^@", "->>", "->", "~", "!~":
		return w.give("the operator " + called), true
	}
	return "", false
}

// clickHouseMoved is a sum or a difference of a day or a moment and an interval; "" for any other.
func (w *writing) clickHouseMoved(operator string, left, right *ast.Node, write format.Write) string {
	verb := map[string]string{"+": "add", "-": "subtract"}[operator]
	interval := strings.EqualFold(right.Node(field.TypeExpr).Text(field.TypeName), "INTERVAL")
	if literal, is := isText(right.Node(field.Child)); is && interval {
		number, unit, _ := strings.Cut(strings.TrimSpace(literal), " ")
		if _, err := strconv.Atoi(number); err == nil && verb != "" {
			return movedBy(verb, unitNames[strings.ToLower(unit)], write(left, false), number)
		}
	}
	unit, number := intervalOf(right)
	if unit == "" || verb == "" {
		return ""
	}
	return movedBy(verb, unit, write(left, false), write(number, true))
}

// movedBy calls the function that moves a moment by a number of units, such as addDays; "" for no unit.
func movedBy(verb, unit, moment, number string) string {
	switch unit {
	case "":
		return ""
	case "quarter":
		unit, number = "month", number+" * 3"
	}
	return verb + strings.ToUpper(unit[:1]) + unit[1:] + "s(" + moment + ", " + number + ")"
}

// took notes that a rule was taken.
func (w *writing) took(rule string) bool {
	w.used[rule] = true
	return true
}

// emptyForNull is an expression that is an empty text where another is null.
func emptyForNull(e *ast.Node) *ast.Node {
	argument := func(e *ast.Node) *ast.Node { return ast.New(ast.Fields{field.Name: "", field.Expression: e}) }
	empty := ast.New(ast.Fields{field.Class: ast.Constant, field.Type: ast.ValueConstant, field.Alias: "",
		field.Literal: ast.New(ast.Fields{field.Kind: "STRING", field.Text: ""})})
	return ast.New(ast.Fields{field.Class: ast.Function, field.Type: ast.Function, field.Alias: "", field.FunctionName: "ifnull",
		field.QualifiedName: ast.New(ast.Fields{field.Path: []any{"ifnull"}}),
		field.Arguments:     []*ast.Node{argument(e), argument(empty)}})
}

// clickHouseLacks is a part of a query that ClickHouse has no form for; "" for none.
func (t *translation) clickHouseLacks(n *ast.Node) string {
	switch {
	case plainLacks(n) != "":
		return plainLacks(n)
	case n.Kind() == ast.SetOperationNode && !(n.Text(field.SetopType) == "UNION" && n.Is(field.SetopAll)):
		return n.Text(field.SetopType) + " of sets"
	case n.Kind() == ast.SelectNode:
		return t.hidingAlias(n)
	}
	return ""
}

// hidingAlias is an alias that hides a column which the SELECT reads beside the aliased item: ClickHouse reads the alias there.
func (t *translation) hidingAlias(n *ast.Node) string {
	for _, item := range n.Nodes(field.SelectList) {
		alias := item.Text(field.Alias)
		if _, column := t.columns.kinds[strings.ToLower(alias)]; alias == "" || !column || isColumn(item, alias) {
			continue
		}
		read := false
		for _, f := range []field.Field{field.SelectList, field.Where, field.GroupExpressions, field.Having, field.Modifiers} {
			read = read || reads(n.Get(f), alias, item)
		}
		if read {
			return "the alias " + alias + ", which is a column's name"
		}
	}
	return ""
}

// isColumn tells a reference to a column of a name.
func isColumn(e *ast.Node, name string) bool {
	path := e.Names(field.ColumnNames)
	return e.Class() == ast.ColumnRef && len(path) > 0 && strings.EqualFold(path[len(path)-1], name)
}

// reads tells whether a column of a name is read, but for an item's own sake and where rows are ordered by it.
func reads(v any, name string, item *ast.Node) bool {
	switch x := v.(type) {
	case *ast.Node:
		if x == nil || x == item {
			return false
		}
		if isColumn(x, name) {
			return true
		}
		found := false
		x.Map(func(f field.Field, v any) (any, bool) {
			e, is := v.(*ast.Node)
			ordered := f == field.Expression && is && isColumn(e, name) && (x.Kind() == ast.Ascending || x.Kind() == ast.Descending ||
				x.Has(field.NullOrder))
			found = found || !ordered && reads(v, name, item)
			return nil, false
		})
		return found
	case []any:
		for _, child := range x {
			if reads(child, name, item) {
				return true
			}
		}
	case []*ast.Node:
		for _, child := range x {
			if reads(child, name, item) {
				return true
			}
		}
	}
	return false
}

// plainForClickHouse is a query with its CTEs in the places where they are read, and with names for numbers in GROUP BY.
func plainForClickHouse(v any, ctes map[string]*ast.Node) any {
	switch x := v.(type) {
	case *ast.Node:
		if x == nil {
			return x
		}
		if x.Kind() == ast.BaseTable {
			if body := ctes[strings.ToLower(x.Text(field.TableName))]; body != nil && x.Text(field.SchemaName) == "" {
				alias := x.Text(field.Alias)
				if alias == "" {
					alias = x.Text(field.TableName)
				}
				return ast.New(ast.Fields{field.Type: ast.Subquery, field.Alias: alias, field.ColumnNameAlias: []any{},
					field.Subquery: body})
			}
		}
		if named := x.Node(field.CteMap).Nodes(field.Map); len(named) > 0 {
			ctes = withCTEs(ctes, named)
			x = x.Plain()
			x.Set(field.CteMap, ast.New(ast.Fields{field.Map: []any{}}))
		}
		out := x.Map(func(_ field.Field, v any) (any, bool) { return plainForClickHouse(v, ctes), true })
		if out.Kind() == ast.SelectNode {
			out = withNamedGroups(out)
		}
		return out
	case []any:
		out := make([]any, len(x))
		for i, child := range x {
			out[i] = plainForClickHouse(child, ctes)
		}
		return out
	}
	return v
}

// withCTEs adds CTEs, each with those before it in their places. One that names its columns, or reads itself, stays out.
func withCTEs(before map[string]*ast.Node, named []*ast.Node) map[string]*ast.Node {
	all := map[string]*ast.Node{}
	for name, body := range before {
		all[name] = body
	}
	for _, c := range named {
		info := c.Node(field.Value)
		if len(info.Names(field.Aliases)) > 0 {
			continue
		}
		query := info.Node(field.QueryNode)
		if query == nil {
			query = info.Node(field.Query).Node(field.Node)
		}
		if body, is := plainForClickHouse(query, all).(*ast.Node); is {
			all[strings.ToLower(c.Text(field.Key))] = ast.New(ast.Fields{field.Node: body})
		}
	}
	return all
}

// withNamedGroups is a SELECT whose GROUP BY has no numbers of items, but the items.
func withNamedGroups(n *ast.Node) *ast.Node {
	items := n.Nodes(field.SelectList)
	var groups []*ast.Node
	for _, g := range n.Nodes(field.GroupExpressions) {
		literal := g.Node(field.Literal)
		at, err := strconv.Atoi(literal.Text(field.Text))
		if err == nil && literal.Text(field.Kind) == "INTEGER" && at >= 1 && at <= len(items) && !sql.HasAggregate(items[at-1]) {
			g = items[at-1].Plain()
			g.Set(field.Alias, "")
		}
		groups = append(groups, g)
	}
	if len(groups) == 0 {
		return n
	}
	out := n.Plain()
	out.Set(field.GroupExpressions, groups)
	return out
}
