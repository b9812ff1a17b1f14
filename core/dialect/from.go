package dialect

import (
	"strings"
	"sync"

	"tovrel/core/pattern"
	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/core/sql/format"
)

// Readable tells whether queries of a dialect can be written for the embedded engine.
func Readable(name string) bool { _, is := grammars[name]; return is }

// Local writes a query of another dialect, whose plain text (Plain) the embedded engine's parser has read, for the embedded engine. Used
// are the rules that it took, by their names. The error is *Unsupported.
func Local(tree *sql.Tree, from string, columns Columns) (text string, used []string, err error) {
	g := grammars[from]
	t := &translation{rules: fromRules()[from], columns: columns, to: Embedded, nulls: g.nulls, lastUnit: from == BigQuery,
		format: g.format, used: map[string]bool{}}
	r := &reading{t, g, from}
	t.own = r.own
	if from == MySQL || from == SQLite || from == ClickHouse {
		root, _ := numbered(tree.Root()).(*ast.Node)
		tree = sql.TreeOf(root)
	}
	if from == Postgres {
		root, _ := seriesAsRows(tree.Root()).(*ast.Node)
		tree = sql.TreeOf(root)
	}
	if from == ClickHouse {
		_ = ast.Walk(tree.Root(), func(n *ast.Node) error { // never fails
			if alias := t.hidingAlias(n); alias != "" {
				t.give(alias)
			}
			return nil
		})
	}
	text, err = t.write(t.style(nil, r.typed), tree)
	if err != nil {
		err.(*Unsupported).Dialect = Embedded
		return "", nil, err
	}
	return text, sortedKeys(t.used), nil
}

// fromRules are the rules of reading, by dialect.
var fromRules = sync.OnceValue(func() map[string]rules {
	out := map[string]rules{}
	shared := rulesOf("shared")
	for name := range grammars {
		all := rules{}
		for call, template := range shared {
			all[call] = template
		}
		for call, template := range rulesOf("from-" + name) {
			if template == "!" {
				delete(all, call)
				continue
			}
			all[call] = template
		}
		out[name] = all
	}
	return out
})

// reading is a translation into the embedded dialect.
type reading struct {
	*translation
	grammar
	from string
}

func (r *reading) typed(t *ast.Node) string {
	name := strings.ToUpper(t.Text(field.TypeName))
	if is := moreTypes[r.from][name]; is != "" {
		name = is
	} else if kindOfType(name) == unknown && name != "BOOLEAN" && name != "BOOL" && name != "TIME" {
		return r.give("the type " + name)
	}
	var parts []string
	for _, c := range t.Nodes(field.Children) {
		parts = append(parts, c.Node(field.Literal).Text(field.Text))
	}
	if len(parts) == 1 && kindOfType(name) == broken { // as all read it
		parts = append(parts, "0")
	}
	if len(parts) == 0 || kindOfType(name) == text || kindOfType(name) == moment {
		return name
	}
	bare, _, _ := strings.Cut(name, "(")
	if kindOfType(bare) != broken || bare == "DOUBLE" || bare == "FLOAT" {
		return bare
	}
	return bare + "(" + strings.Join(parts, ", ") + ")"
}

// own writes what means something else in the other dialect than here, beside functions.
func (r *reading) own(e *ast.Node, write format.Write) (string, bool) {
	switch e.Class() {
	case ast.ColumnRef:
		if path := e.Names(field.ColumnNames); len(path) == 1 && strings.EqualFold(path[0], "sysdate") {
			return "current_timestamp", true
		}
	case ast.Comparison:
		if out := r.comparedTimes(e); out != nil {
			return write(out, true), true
		}
	case ast.Cast:
		return r.cast(e, write)
	case ast.Window:
		return r.median(e, write)
	case ast.Function:
		if written, is := r.liteMoment(e, write); is {
			return written, true
		}
		if written, is := r.ordered1(e, write); is {
			return written, true
		}
		if written, is := r.mysqlCall(e, write); is {
			return written, true
		}
		if e.Is(field.IsOperator) {
			return r.operator(e, write)
		}
		if unit := r.datePart(e); unit != "" {
			return "extract(" + unit + " FROM " + write(e.Nodes(field.Arguments)[1].Node(field.Expression), false) + ")", true
		}
	}
	return "", false
}

// ordered1 writes percentile_cont(p) WITHIN GROUP (ORDER BY x) and mode() so.
func (r *reading) ordered1(e *ast.Node, write format.Write) (string, bool) {
	called, orders, arguments := e.FunctionName(), e.Node(field.OrderBys).Nodes(field.Orders), e.Nodes(field.Arguments)
	if len(orders) != 1 || called != "quantile_cont" && called != "quantile_disc" && called != "mode" || r.rules[called] == "!" {
		return "", false
	}
	r.used[called+"/within"] = true
	of := write(orders[0].Node(field.Expression), false)
	if called == "mode" {
		return "mode(" + of + ")", true
	}
	if len(arguments) != 1 {
		return r.give("the function " + called), true
	}
	share := write(arguments[0].Node(field.Expression), false)
	if orders[0].Kind() == ast.Descending {
		share = "1 - (" + share + ")"
	}
	return called + "(" + of + ", " + share + ")", true
}

// seriesAsRows is a query in which generate_series makes rows where it is a select item, too.
func seriesAsRows(v any) any {
	switch x := v.(type) {
	case *ast.Node:
		if x == nil {
			return x
		}
		out := x.Map(func(_ field.Field, v any) (any, bool) { return seriesAsRows(v), true })
		items := out.Nodes(field.SelectList)
		for i, item := range items {
			if item.FunctionName() != "generate_series" {
				continue
			}
			plain := item.Plain()
			plain.Set(field.Alias, "")
			alias := item.Text(field.Alias)
			if alias == "" {
				alias = "generate_series"
			}
			items[i] = ast.New(ast.Fields{field.Class: ast.Function, field.Type: ast.Function, field.Alias: alias,
				field.FunctionName:  "unnest",
				field.QualifiedName: ast.New(ast.Fields{field.Path: []any{"unnest"}}),
				field.Arguments:     []*ast.Node{ast.New(ast.Fields{field.Name: "", field.Expression: plain})}})
			out.Set(field.SelectList, items)
		}
		return out
	case []any:
		out := make([]any, len(x))
		for i, child := range x {
			out[i] = seriesAsRows(child)
		}
		return out
	}
	return v
}

// numberCalls are functions and operators to which a condition is a number.
var numberCalls = map[string]bool{"sum": true, "avg": true, "max": true, "min": true, "+": true, "-": true, "*": true, "/": true}

// numbered is a query whose conditions that stand where a value is shown, aggregated or reckoned with are 0 or 1.
func numbered(v any) any {
	switch x := v.(type) {
	case *ast.Node:
		if x == nil {
			return x
		}
		out := x.Map(func(_ field.Field, v any) (any, bool) { return numbered(v), true })
		if out.Kind() == ast.SelectNode {
			items := out.Nodes(field.SelectList)
			for i := range items {
				items[i] = asNumber(items[i])
			}
			out.Set(field.SelectList, items)
		}
		if numberCalls[out.FunctionName()] {
			for _, a := range out.Nodes(field.Arguments) {
				a.Set(field.Expression, asNumber(a.Node(field.Expression)))
			}
		}
		return out
	case []any:
		out := make([]any, len(x))
		for i, child := range x {
			out[i] = numbered(child)
		}
		return out
	}
	return v
}

// asNumber is a condition as a whole number; any other expression as it is.
func asNumber(e *ast.Node) *ast.Node {
	switch {
	case e.Class() == ast.Comparison, e.Class() == ast.Conjunction, e.Class() == ast.Between,
		e.Class() == ast.Operator && e.Kind() != ast.OperatorCoalesce && e.Kind() != ast.ArrayExtract,
		e.Class() == ast.Subquery && e.Text(field.SubqueryType) != "SCALAR", e.FunctionName() == "~~", e.FunctionName() == "!~~":
	default:
		return e
	}
	plain := e.Plain()
	plain.Set(field.Alias, "")
	return ast.New(ast.Fields{field.Class: ast.Cast, field.Type: ast.OperatorCast, field.Alias: e.Text(field.Alias), field.Child: plain,
		field.TryCast: false, field.TypeExpr: ast.New(ast.Fields{field.Class: ast.TypeExpression, field.Type: ast.TypeExpression,
			field.TypeName: "INTEGER", field.Children: []any{}, field.QualifiedName: ast.New(ast.Fields{field.Path: []any{"INTEGER"}})})})
}

// datePart is the unit of EXTRACT(unit FROM x), which the parser reads as a call with the unit in capitals; "" for another call.
func (r *reading) datePart(e *ast.Node) string {
	if e.FunctionName() != "date_part" || len(e.Nodes(field.Arguments)) != 2 {
		return ""
	}
	text, is := isText(e.Nodes(field.Arguments)[0].Node(field.Expression))
	switch unit := unitNames[strings.ToLower(text)]; unit {
	case "dow", "isodow", "week":
		if is && (r.from == Postgres || r.from == Snowflake) { // elsewhere they are counted otherwise
			return unit
		}
	case "year", "quarter", "month", "day", "hour", "minute", "second", "epoch", "doy":
		if is {
			return unit
		}
	}
	return ""
}

// cast writes a cast; one to a whole number rounds in some dialects and cuts in others.
func (r *reading) cast(e *ast.Node, write format.Write) (string, bool) {
	into := kindOfType(e.Node(field.TypeExpr).Text(field.TypeName))
	if is := moreTypes[r.from][strings.ToUpper(e.Node(field.TypeExpr).Text(field.TypeName))]; is != "" {
		into = kindOfType(is)
	}
	if text, is := isText(e.Node(field.Child)); is && r.from == Trino && into == moment {
		if at, utc := strings.CutSuffix(text, " UTC"); utc { // a literal with a zone
			return "TIMESTAMPTZ " + quoted(at+"+00"), true
		}
	}
	cuts := r.from == SQLite || r.from == TSQL || r.from == Spark || r.from == ClickHouse
	if !into.isWhole() || !cuts || e.Is(field.TryCast) {
		return "", false
	}
	child := e.Node(field.Child)
	if asNumber(child) != child {
		return "", false // a condition
	}
	if k := r.columns.kindOf(child); k != broken && k != unknown && k != text {
		return "", false
	}
	if r.columns.kindOf(child) == text {
		return "", false
	}
	return "CAST(trunc(" + write(child, false) + ") AS " + r.typed(e.Node(field.TypeExpr)) + ")", true
}

// wholeTypes are the types whose quotient is a whole number, as the embedded engine names them.
const wholeTypes = "('TINYINT', 'SMALLINT', 'INTEGER', 'BIGINT', 'UTINYINT', 'USMALLINT', 'UINTEGER', 'UBIGINT')"

func (r *reading) operator(e *ast.Node, write format.Write) (string, bool) {
	arguments := e.Nodes(field.Arguments)
	if len(arguments) != 2 {
		return "", false
	}
	left, right := arguments[0].Node(field.Expression), arguments[1].Node(field.Expression)
	a, b := r.columns.kindOf(left), r.columns.kindOf(right)
	if at := momentOf(left); at != "" && b == span { // a text that is moved is read as a day or a moment
		return "(" + at + " " + e.FunctionName() + " " + write(right, true) + ")", true
	}
	switch called := e.FunctionName(); called {
	case "/":
		return r.quotient(left, right, a, b, write)
	case "+":
		if r.plusJoins && (a == text || b == text) {
			return "(" + write(left, true) + " || " + write(right, true) + ")", true
		}
	case "-":
		if a.isTime() && b.isTime() && (r.from == MySQL || r.from == SQLite) {
			return r.give("a difference of moments in numbers"), true
		}
	case "^":
		if r.bitwise {
			return r.give("the operator ^ of bits"), true
		}
	case "~~", "!~~":
		return r.like(called, left, right, a, write)
	}
	return "", false
}

// like writes LIKE and NOT LIKE: without case where the dialect knows none; a day, a moment or a whole number is read as its text.
func (r *reading) like(operator string, left, right *ast.Node, k kind, write format.Write) (string, bool) {
	asText := r.from != Postgres && r.from != ClickHouse && r.from != BigQuery && r.from != Trino // which refuse it
	asText = asText && (k == day || k.isWhole() || k == moment && r.from == MySQL)
	if !r.looseLike && !asText {
		return "", false
	}
	of, word := write(left, true), "LIKE"
	if asText {
		of = "CAST(" + write(left, false) + " AS VARCHAR)"
	}
	if r.looseLike {
		r.used["like"] = true
		word = "ILIKE"
	}
	if operator == "!~~" {
		word = "NOT " + word
	}
	return "(" + of + " " + word + " " + write(right, true) + ")", true
}

// dayText and momentText are texts that are read as days and as moments.
var (
	dayText    = pattern.Of(`^\d{4}-\d\d?-\d\d?$`)
	momentText = pattern.Of(`^\d{4}-\d\d?-\d\d?[ T]\d\d?:\d\d(:\d\d(\.\d+)?)?$`)
)

// momentOf is a literal text that is one of a day or a moment, as a literal of that type; "" for any other expression.
func momentOf(e *ast.Node) string {
	switch text, is := isText(e); {
	case is && dayText.MatchString(text):
		return "DATE " + quoted(text)
	case is && momentText.MatchString(text):
		return "TIMESTAMP " + quoted(text)
	}
	return ""
}

// comparedTimes is a comparison of a day or a moment with a text that is computed, which MySQL and Spark read as one; nil for any other.
func (r *reading) comparedTimes(e *ast.Node) *ast.Node {
	if r.from != MySQL && r.from != Spark {
		return nil
	}
	for _, sides := range [][2]field.Field{{field.Left, field.Right}, {field.Right, field.Left}} {
		one, other := e.Node(sides[0]), e.Node(sides[1])
		into := map[kind]string{day: "DATE", moment: "TIMESTAMP"}[r.columns.kindOf(one)]
		if _, literal := isText(other); into == "" || literal || r.columns.kindOf(other) != text {
			continue
		}
		out := e.Plain()
		out.Set(sides[1], castNode(other, into))
		return out
	}
	return nil
}

// castNode is an expression that is cast to a type.
func castNode(e *ast.Node, into string) *ast.Node {
	return ast.New(ast.Fields{field.Class: ast.Cast, field.Type: ast.OperatorCast, field.Alias: "", field.Child: e,
		field.TypeExpr: ast.New(ast.Fields{field.TypeName: into})})
}

// quotient writes a division: of whole numbers it is whole in some dialects.
func (r *reading) quotient(left, right *ast.Node, a, b kind, write format.Write) (string, bool) {
	x, y := write(left, true), write(right, true)
	switch {
	case !r.wholeDivision, a == broken, b == broken, a == floating, b == floating:
		return "", false
	case a.isWhole() && b.isWhole():
		return "(" + x + " // " + y + ")", true
	}
	return "(CASE WHEN typeof(" + x + ") IN " + wholeTypes + " AND typeof(" + y + ") IN " + wholeTypes + " THEN " + x + " // " + y +
		" ELSE " + x + " / " + y + " END)", true
}
