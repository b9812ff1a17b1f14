package dialect

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"tovrel/core/pattern"
	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/core/sql/format"
	"tovrel/core/value"
)

// Unsupported says what of a query has no form in a dialect.
type Unsupported struct{ What, Dialect string }

func (e *Unsupported) Error() string {
	return fmt.Sprintf("%s cannot be written in the dialect %s", e.What, e.Dialect)
}

// Column is a column of a dataset.
type Column struct {
	Table, Name string
	Kind        value.Kind
	Wide        bool // a whole number of 64 bits or more
}

// Columns are what is known of a dataset's columns where a query on it is rewritten.
type Columns struct {
	spelled map[string]string // tables and columns, by their names in lower case
	kinds   map[string]kind   // of columns, by their names in lower case; of those that several tables have only where all agree
}

// ColumnsOf takes down columns.
func ColumnsOf(all []Column) Columns {
	c := Columns{spelled: map[string]string{}, kinds: map[string]kind{}}
	for _, column := range all {
		c.spelled[strings.ToLower(column.Table)] = column.Table
		key := strings.ToLower(column.Name)
		c.spelled[key] = column.Name
		is := kindOf(column)
		if before, seen := c.kinds[key]; seen && before != is {
			is = unknown
		}
		c.kinds[key] = is
	}
	return c
}

// translation writes one query in another dialect.
type translation struct {
	rules    rules
	columns  Columns
	to       string
	lastUnit bool   // a call's unit of time is its last argument
	nulls    int    // where the dialect of the query puts them
	format   int    // its style of formats of times
	failed   string // the first part that has no form
	own      func(e *ast.Node, write format.Write) (string, bool)
	used     map[string]bool // the rules that were used
}

// give notes a part that has no form.
func (t *translation) give(what string) string {
	if t.failed == "" {
		t.failed = what
	}
	return ""
}

// expression writes what a rule or the direction has a form for.
func (t *translation) expression(e *ast.Node, write format.Write) (string, bool) {
	if t.own != nil {
		if written, is := t.own(e, write); is {
			return written, true
		}
	}
	called := e.FunctionName()
	if unit, _ := intervalOf(e); unit != "" && t.to == Embedded {
		return "", false
	}
	if called == "" || e.Is(field.IsOperator) && !operatorCalls[called] {
		return "", false
	}
	template, key, found := t.rule(e)
	switch {
	case !found:
		return t.give("the function " + called), true
	case template == "!":
		return t.give("the function " + called), true
	case strings.HasPrefix(template, "="):
		t.used[key] = true
		return "", false
	}
	t.used[key] = true
	if e.Class() == ast.Window {
		return t.give("the function " + called + " over a window"), true
	}
	return t.filled(template, e, write), true
}

// operatorCalls are operators that rules have forms for.
var operatorCalls = map[string]bool{"regexp_full_match": true}

// rule finds the template of a call, as it is named: of this many arguments, of the unit of time that it is about, or of any.
func (t *translation) rule(e *ast.Node) (template, key string, found bool) {
	called, arguments := e.FunctionName(), e.Nodes(field.Arguments)
	keys := []string{called + "/" + strconv.Itoa(len(arguments)), called + "/*"}
	if unit := t.unitOf(arguments); unit != "" {
		keys = append([]string{called + "/" + unit}, keys...)
	}
	for _, k := range keys {
		if template, found := t.rules[k]; found {
			return template, k, true
		}
	}
	return "", "", false
}

// unitOf is the unit of time that a call is about: its last argument in BigQuery, its first elsewhere; "" for none.
func (t *translation) unitOf(arguments []*ast.Node) string {
	if len(arguments) < 2 {
		return ""
	}
	at := 0
	if t.lastUnit {
		at = len(arguments) - 1
	}
	return unitOf(arguments[at].Node(field.Expression))
}

// unitOf is a unit of time that an argument names, as a text or as if it were a column; "" for any other.
func unitOf(e *ast.Node) string {
	text := ""
	switch e.Class() {
	case ast.Constant:
		if e.Node(field.Literal).Text(field.Kind) == "STRING" {
			text = e.Node(field.Literal).Text(field.Text)
		}
	case ast.ColumnRef:
		if path := e.Names(field.ColumnNames); len(path) == 1 {
			text = path[0]
		}
	}
	return unitNames[strings.ToLower(text)]
}

// unitNames are units of time by what dialects call them.
var unitNames = map[string]string{"year": "year", "yyyy": "year", "yy": "year", "years": "year", "quarter": "quarter", "qq": "quarter",
	"month": "month", "mm": "month", "months": "month", "mon": "month", "week": "week", "wk": "week", "weeks": "week", "isoweek": "isoweek",
	"day": "day", "dd": "day", "days": "day", "hour": "hour", "hh": "hour", "hours": "hour", "minute": "minute", "mi": "minute",
	"minutes": "minute", "second": "second", "ss": "second", "seconds": "second", "dow": "dow", "isodow": "isodow", "doy": "doy",
	"epoch": "epoch", "year_month": "year_month", "dayofweek": "dow", "dayofyear": "doy"}

var placeholder = pattern.Of(`\$(\*|order|distinct|joined|nullable|months|cases|[a-z]+:[0-9]|[0-9])`)

// filled is a template with a call's arguments: $1 as an operand, $* all of them, $unit:1 the unit of time that one names, $format:1 a
// format in the other dialect's style, $moment:1 a day or a moment, $text:1 a text, $order and $distinct what stands beside the arguments.
func (t *translation) filled(template string, e *ast.Node, write format.Write) string {
	orders := e.Node(field.OrderBys).Nodes(field.Orders)
	switch {
	case e.Is(field.Distinct) && !strings.Contains(template, "$distinct"):
		return t.give("DISTINCT within " + e.FunctionName())
	case len(orders) > 0 && !strings.Contains(template, "$order"):
		return t.give("ORDER BY within " + e.FunctionName())
	}
	beside := map[string]string{"order": "", "distinct": ""}
	if len(orders) > 0 && strings.Contains(template, "$order") {
		beside["order"] = t.ordered(orders, write)
	}
	if e.Is(field.Distinct) {
		beside["distinct"] = "DISTINCT "
	}
	text := placeholder.ReplaceAllStringFunc(template, func(found string) string {
		what, number, _ := strings.Cut(found[1:], ":")
		if written, is := beside[what]; is {
			return written
		}
		return t.placed(what, number, e, write)
	})
	if filter := e.Node(field.Filter); filter != nil {
		text += " FILTER (WHERE " + write(filter, false) + ")"
	}
	return text
}

// placed is what stands in one place of a template: an argument, or something made of one or of all.
func (t *translation) placed(what, number string, e *ast.Node, write format.Write) string {
	arguments := e.Nodes(field.Arguments)
	at := func(number string) *ast.Node {
		i, err := strconv.Atoi(number)
		if err != nil || i < 1 || i > len(arguments) {
			t.give("the function " + e.FunctionName())
			return nil
		}
		return arguments[i-1].Node(field.Expression)
	}
	switch what {
	case "*":
		return each(arguments, write, "", ", ")
	case "joined":
		return each(arguments, write, "", " || ")
	case "nullable":
		return each(arguments, write, " IS NULL", " OR ")
	case "cases":
		return cases(arguments, write)
	case "months":
		return wholeMonths(write(at("2"), true), write(at("3"), true))
	case "unit":
		if unit := unitOf(at(number)); unit != "" {
			return unit
		}
		return t.give("a unit of time that is computed")
	case "format":
		from, to := t.styles()
		return t.reformatted(at(number), from, to)
	case "moment": // a text there is read as one
		if literal := momentOf(at(number)); literal != "" {
			return literal
		}
		return write(at(number), true)
	case "text":
		return t.asText(at(number), write)
	case "percent": // Trino has both styles
		return t.reformatted(at(number), percent, strftime)
	}
	return write(at(what), true)
}

// asText writes an operand that is read as a text, whatever it is. A number that is not exact has another text in each dialect.
func (t *translation) asText(e *ast.Node, write format.Write) string {
	switch t.columns.kindOf(e) {
	case whole, wide, broken, day:
		return "CAST(" + write(e, false) + " AS VARCHAR)"
	case floating, moment, span:
		return t.give("a text of a number or a moment")
	}
	return write(e, true)
}

// wholeMonths are the months that are over between two moments, of whatever length: one more when the day and the time of the first are
// reached.
func wholeMonths(a, b string) string {
	a, b = "CAST("+a+" AS TIMESTAMP)", "CAST("+b+" AS TIMESTAMP)"
	within := func(m string) string { return "(" + m + " - date_trunc('month', " + m + "))" }
	return "(date_diff('month', " + a + ", " + b + ") - CASE WHEN " + b + " >= " + a + " AND " + within(b) + " < " + within(a) +
		" THEN 1 WHEN " + b + " < " + a + " AND " + within(b) + " > " + within(a) + " THEN -1 ELSE 0 END)"
}

// each writes all arguments as operands, with something behind each and between them.
func each(arguments []*ast.Node, write format.Write, behind, between string) string {
	var all []string
	for _, a := range arguments {
		all = append(all, write(a.Node(field.Expression), true)+behind)
	}
	return strings.Join(all, between)
}

func (t *translation) ordered(orders []*ast.Node, write format.Write) string {
	var all []string
	for _, o := range orders {
		all = append(all, t.order(o, write))
	}
	if len(all) == 0 {
		return ""
	}
	return " ORDER BY " + strings.Join(all, ", ")
}

// reformatted is a format that is a literal, in the style of the other dialect.
func (t *translation) reformatted(e *ast.Node, from, to int) string {
	literal := e.Node(field.Literal)
	written, ok := reformatted(literal.Text(field.Text), from, to)
	if literal.Text(field.Kind) != "STRING" || !ok {
		return t.give("this format of times")
	}
	return quoted(written)
}

// quoted is a text as a literal.
func quoted(text string) string { return "'" + strings.ReplaceAll(text, "'", "''") + "'" }

// isText tells a literal text, and which.
func isText(e *ast.Node) (string, bool) {
	literal := e.Node(field.Literal)
	return literal.Text(field.Text), e.Class() == ast.Constant && literal.Text(field.Kind) == "STRING"
}

// called is the name under which a call is written.
func (t *translation) called(e *ast.Node) string {
	template, _, _ := t.rule(e)
	if name, is := strings.CutPrefix(template, "= "); is {
		return strings.TrimSpace(name)
	}
	return e.FunctionName()
}

// style is how the translation writes, with the forms of names and types that the direction gives it.
func (t *translation) style(name func(string) string, typed func(*ast.Node) string) format.Style {
	return format.Style{Name: name, Type: typed, Expression: t.expression, Order: t.order, Called: t.called}
}

// write writes a tree. The error is *Unsupported.
func (t *translation) write(style format.Style, tree *sql.Tree) (string, error) {
	if what := t.unwritable(tree); what != "" {
		t.give(what)
	}
	text, ok := style.Query(tree.Root())
	if !ok {
		t.give("a part of the query")
	}
	if t.failed != "" {
		return "", &Unsupported{What: t.failed, Dialect: t.to}
	}
	return text, nil
}

func sortedKeys(set map[string]bool) []string { return slices.Sorted(maps.Keys(set)) }
