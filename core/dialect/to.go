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

// Writable tells whether queries of the embedded engine can be written in a dialect.
func Writable(name string) bool {
	return name == Postgres || name == MySQL || name == ClickHouse || name == Trino
}

// Write writes a query of the embedded engine in another dialect, for a dataset of some columns. Used are the rules that it took, by their
// names. The error is *Unsupported.
func Write(tree *sql.Tree, to string, columns Columns) (text string, used []string, err error) {
	t := &translation{rules: toRules()[to], columns: columns, to: to, used: map[string]bool{}}
	if t.rules == nil {
		return "", nil, &Unsupported{What: "a query", Dialect: to}
	}
	w := &writing{t, spellingsOf(tree, columns)}
	t.own = w.own
	root := withoutQualify(tree.Root(), to == MySQL || to == ClickHouse)
	if to == ClickHouse {
		root, _ = plainForClickHouse(root, nil).(*ast.Node)
	}
	tree = sql.TreeOf(root)
	style := t.style(w.name, w.typed)
	if to == ClickHouse { // on a cluster each server would ask for itself
		style.Everywhere = "GLOBAL "
	}
	text, err = t.write(style, tree)
	return text, sortedKeys(t.used), err
}

// toRules are the rules of writing, by dialect.
var toRules = sync.OnceValue(func() map[string]rules {
	return map[string]rules{Postgres: rulesOf("to-postgres"), MySQL: rulesOf("to-mysql"),
		ClickHouse: rulesOf("to-clickhouse"), Trino: rulesOf("to-trino")}
})

// writing is a translation out of the embedded dialect.
type writing struct {
	*translation
	spelled map[string]string // names by their lower case: the embedded engine knows no case in them, and others do
}

// spellingsOf are the names of a query's tables, columns and aliases as they are spelt first.
func spellingsOf(tree *sql.Tree, columns Columns) map[string]string {
	out := map[string]string{}
	_ = ast.Walk(tree.Root(), func(n *ast.Node) error { // never fails
		for _, name := range append(append(n.Names(field.ColumnNameAlias), n.Names(field.Aliases)...), n.Text(field.Alias),
			n.Text(field.Key)) {
			if key := strings.ToLower(name); name != "" && (out[key] == "" || name < out[key]) {
				out[key] = name
			}
		}
		return nil
	})
	for key, name := range columns.spelled {
		out[key] = name
	}
	return out
}

var plainLower = pattern.Of(`^[a-z_][a-z0-9_]*$`)

// name is a name as the other dialect's server knows it.
func (w *writing) name(name string) string {
	if spelled := w.spelled[strings.ToLower(name)]; spelled != "" {
		name = spelled
	}
	if w.to == Postgres && plainLower.MatchString(name) {
		return format.Name(name)
	}
	if w.to == MySQL || w.to == ClickHouse {
		return "`" + strings.ReplaceAll(name, "`", "``") + "`"
	}
	return `"` + strings.ReplaceAll(name, `"`, `""`) + `"`
}

// serverTypes are types of the embedded engine as other dialects call them in a cast.
var serverTypes = map[string]map[string]string{
	Postgres: {"TINYINT": "smallint", "SMALLINT": "smallint", "INTEGER": "int", "INT": "int", "BIGINT": "bigint",
		"HUGEINT":  "numeric(38, 0)",
		"UTINYINT": "smallint", "USMALLINT": "int", "UINTEGER": "bigint", "UBIGINT": "numeric(20, 0)", "FLOAT": "real", "REAL": "real",
		"DOUBLE": "double precision", "VARCHAR": "text", "TEXT": "text", "STRING": "text", "DATE": "date", "TIME": "time",
		"TIMESTAMP": "timestamp", "DATETIME": "timestamp", "TIMESTAMPTZ": "timestamptz", "TIMESTAMP WITH TIME ZONE": "timestamptz",
		"BOOLEAN": "boolean", "BOOL": "boolean", "INTERVAL": "interval", "JSON": "json", "UUID": "uuid"},
	Trino: {"TINYINT": "tinyint", "SMALLINT": "smallint", "INTEGER": "integer", "INT": "integer", "BIGINT": "bigint",
		"HUGEINT": "decimal(38, 0)", "FLOAT": "real", "REAL": "real", "DOUBLE": "double", "VARCHAR": "varchar", "TEXT": "varchar",
		"STRING": "varchar", "DATE": "date", "TIME": "time", "TIMESTAMP": "timestamp", "DATETIME": "timestamp",
		"TIMESTAMPTZ": "timestamp with time zone", "BOOLEAN": "boolean", "BOOL": "boolean", "JSON": "json", "UUID": "uuid"},
	MySQL: {"TINYINT": "signed", "SMALLINT": "signed", "INTEGER": "signed", "INT": "signed", "BIGINT": "signed",
		"HUGEINT":  "decimal(38, 0)",
		"UTINYINT": "unsigned", "USMALLINT": "unsigned", "UINTEGER": "unsigned", "UBIGINT": "unsigned", "FLOAT": "float", "REAL": "double",
		"DOUBLE": "double", "VARCHAR": "char", "TEXT": "char", "STRING": "char", "DATE": "date", "TIME": "time(6)",
		"TIMESTAMP": "datetime(6)", "DATETIME": "datetime(6)", "BOOLEAN": "signed", "BOOL": "signed"},
}

func (w *writing) typed(t *ast.Node) string {
	name := strings.ToUpper(t.Text(field.TypeName))
	var parts []string
	for _, c := range t.Nodes(field.Children) {
		parts = append(parts, c.Node(field.Literal).Text(field.Text))
	}
	switch {
	case name == "DECIMAL" || name == "NUMERIC":
		if len(parts) == 0 {
			parts = []string{"18", "3"}
		}
		return map[string]string{Postgres: "numeric", MySQL: "decimal", Trino: "decimal"}[w.to] + "(" + strings.Join(parts, ", ") + ")"
	case name == "VARCHAR" || len(parts) == 0:
		if is := serverTypes[w.to][name]; is != "" {
			return is
		}
	}
	return w.give("the type " + name)
}

// own writes what is written otherwise on a server than here, beside functions.
func (w *writing) own(e *ast.Node, write format.Write) (string, bool) {
	switch w.to {
	case ClickHouse:
		return w.forClickHouse(e, write)
	case Trino:
		return w.forTrino(e, write)
	}
	return w.forRows(e, write)
}

// forRows is so for PostgreSQL and MariaDB.
func (w *writing) forRows(e *ast.Node, write format.Write) (string, bool) {
	switch e.Class() {
	case ast.ColumnRef:
		if path := e.Names(field.ColumnNames); len(path) == 1 && clockWords[strings.ToLower(path[0])] {
			return strings.ToLower(path[0]), true
		}
	case ast.Constant:
		if text, is := isText(e); is && w.to == MySQL && strings.Contains(text, `\`) {
			return quoted(strings.ReplaceAll(text, `\`, `\\`)), true
		}
	case ast.Comparison:
		return w.distinctFrom(e, write)
	case ast.Cast:
		return w.cast(e)
	case ast.Operator:
		if all := e.Nodes(field.Children); e.Kind() == ast.ArrayExtract && len(all) == 2 && w.to == Postgres {
			return "(" + write(all[0], false) + ")[" + write(all[1], false) + "]", true
		}
	case ast.Lambda:
		return w.give("a lambda"), true
	case ast.Function:
		if written, is := w.filtered(e, write); is {
			return written, true
		}
		if unit, number := intervalOf(e); unit != "" {
			return w.interval(number, unit, write), true
		}
		if e.Is(field.IsOperator) {
			return w.operator(e, write)
		}
	}
	return "", false
}

var clockWords = map[string]bool{"current_date": true, "current_timestamp": true, "localtimestamp": true, "current_time": true,
	"localtime": true}

func (w *writing) distinctFrom(e *ast.Node, write format.Write) (string, bool) {
	same := write(e.Node(field.Left), true) + " <=> " + write(e.Node(field.Right), true)
	switch {
	case w.to == MySQL && e.Kind() == ast.CompareNotDistinctFrom:
		return "(" + same + ")", true
	case w.to == MySQL && e.Kind() == ast.CompareDistinctFrom:
		return "(NOT (" + same + "))", true
	}
	return "", false
}

func (w *writing) cast(e *ast.Node) (string, bool) {
	if e.Is(field.TryCast) {
		return w.give("TRY_CAST"), true
	}
	text, literal := isText(e.Node(field.Child))
	name := strings.ToUpper(e.Node(field.TypeExpr).Text(field.TypeName))
	if w.to != MySQL {
		return "", false
	}
	switch {
	case literal && name == "INTERVAL":
		number, unit, ok := strings.Cut(strings.TrimSpace(text), " ")
		if unitNames[strings.ToLower(unit)] == "" || !ok {
			return w.give("the interval " + quoted(text)), true
		}
		return "INTERVAL " + quoted(number) + " " + strings.ToUpper(unitNames[strings.ToLower(unit)]), true
	case literal && strings.HasPrefix(name, "TIMESTAMP"):
		text, _, _ = strings.Cut(text, "+")
		if !strings.Contains(text, ":") {
			text += " 00:00:00"
		}
		return "TIMESTAMP " + quoted(text), true
	}
	return "", false
}

// filtered writes an aggregate with FILTER where the dialect has none: over CASE.
func (w *writing) filtered(e *ast.Node, write format.Write) (string, bool) {
	filter := e.Node(field.Filter)
	if filter == nil || w.to == Postgres || w.to == Trino {
		return "", false
	}
	out := e.Plain()
	out.Drop(field.Filter)
	arguments := e.Nodes(field.Arguments)
	var first *ast.Node
	if len(arguments) > 0 {
		first = arguments[0].Node(field.Expression)
	} else {
		first = wholeNumber("1")
		out.Set(field.FunctionName, "count")
		out.Set(field.QualifiedName, ast.New(ast.Fields{field.Path: []any{"count"}}))
	}
	cased := ast.New(ast.Fields{field.Class: ast.Case, field.Type: ast.Case, field.CaseChecks: []*ast.Node{
		ast.New(ast.Fields{field.WhenExpr: filter, field.ThenExpr: first})}})
	all := []*ast.Node{ast.New(ast.Fields{field.Name: "", field.Expression: cased})}
	if len(arguments) > 1 {
		all = append(all, arguments[1:]...)
	}
	out.Set(field.Arguments, all)
	return write(out, true), true
}

func wholeNumber(text string) *ast.Node {
	return ast.New(ast.Fields{field.Class: ast.Constant, field.Type: ast.ValueConstant, field.Alias: "",
		field.Literal: ast.New(ast.Fields{field.Kind: "INTEGER", field.Text: text})})
}

// intervalUnits are the functions that make intervals of numbers.
var intervalUnits = map[string]string{"to_years": "year", "to_quarters": "quarter", "to_months": "month", "to_weeks": "week",
	"to_days": "day", "to_hours": "hour", "to_minutes": "minute", "to_seconds": "second"}

// intervalOf is the unit and the number of an interval that is made of a number; "" for any other call.
func intervalOf(e *ast.Node) (unit string, number *ast.Node) {
	unit = intervalUnits[e.FunctionName()]
	if unit == "" || len(e.Nodes(field.Arguments)) != 1 {
		return "", nil
	}
	number = e.Nodes(field.Arguments)[0].Node(field.Expression)
	for number.Class() == ast.Cast {
		number = number.Node(field.Child)
		if number.FunctionName() == "trunc" {
			number = number.Nodes(field.Arguments)[0].Node(field.Expression)
		}
	}
	return unit, number
}

func (w *writing) interval(number *ast.Node, unit string, write format.Write) string {
	literal := number.Node(field.Literal).Text(field.Text)
	switch {
	case w.to == MySQL:
		return "INTERVAL " + write(number, true) + " " + strings.ToUpper(unit)
	case number.Class() == ast.Constant:
		if unit == "quarter" {
			return "(" + literal + " * INTERVAL '3 months')"
		}
		return "INTERVAL " + quoted(literal+" "+unit)
	case unit == "quarter":
		return "(" + write(number, true) + " * INTERVAL '3 months')"
	}
	return "(" + write(number, true) + " * INTERVAL '1 " + unit + "')"
}

// operator writes operators that mean something else, or nothing, on a server.
func (w *writing) operator(e *ast.Node, write format.Write) (string, bool) {
	arguments := e.Nodes(field.Arguments)
	if len(arguments) != 2 {
		return "", false
	}
	left, right := arguments[0].Node(field.Expression), arguments[1].Node(field.Expression)
	a, b := w.columns.kindOf(left), w.columns.kindOf(right)
	x, y := func() string { return write(left, true) }, func() string { return write(right, true) }
	switch called := e.FunctionName(); called {
	case "/":
		return "(CAST(" + write(left, false) + " AS " + serverTypes[w.to]["DOUBLE"] + ") / nullif(" + write(right, false) + ", 0))", true
	case "//":
		switch {
		case w.to == MySQL:
			return "(" + x() + " DIV " + y() + ")", true
		case a.isWhole() && b.isWhole():
			return "(" + x() + " / nullif(" + write(right, false) + ", 0))", true
		}
		return "trunc(CAST(" + write(left, false) + " AS numeric) / nullif(" + write(right, false) + ", 0))", true
	case "%":
		return "(" + x() + " % nullif(" + write(right, false) + ", 0))", true
	case "^", "**":
		return "power(" + write(left, false) + ", " + write(right, false) + ")", true
	case "~~*", "!~~*":
		if w.to == MySQL {
			return "(lower(" + write(left, false) + ")" + map[bool]string{true: " NOT"}[called == "!~~*"] + " LIKE lower(" +
				write(right, false) + "))", true
		}
	case "+", "-":
		return w.moved(called, a, b, x, y)
	case "~~~", "@>", "<@", "&&", "^@", "->>", "->":
		return w.give("the operator " + called), true
	}
	return "", false
}

// moved writes a sum or difference that moves a day or a moment.
func (w *writing) moved(operator string, a, b kind, x, y func() string) (string, bool) {
	switch {
	case w.to != MySQL || !a.isTime():
		return "", false
	case operator == "-" && a == day && b == day:
		return "datediff(" + x() + ", " + y() + ")", true
	case b.isWhole():
		return "(" + x() + " " + operator + " INTERVAL " + y() + " DAY)", true
	case b == span:
		return "", false
	}
	return w.give("a difference of moments"), true
}

// order writes an item of ORDER BY: nulls stand last where nothing is said.
func (t *translation) order(o *ast.Node, write format.Write) string {
	e := o.Node(field.Expression)
	written := write(e, false)
	down := o.Kind() == ast.Descending
	word := map[ast.Kind]string{ast.Descending: " DESC", ast.Ascending: " ASC"}[o.Kind()]
	first := t.nullsFirst(o.Text(field.NullOrder), down)
	switch t.to {
	case MySQL:
		if first == !down {
			return written + word // as it is there
		}
		if e.Class() == ast.Constant {
			return t.give("the place of nulls in ORDER BY " + written)
		}
		if first {
			return write(e, true) + " IS NOT NULL, " + written + word
		}
		return write(e, true) + " IS NULL, " + written + word
	case Postgres:
		if first == down {
			return written + word
		}
	}
	if first {
		return written + word + " NULLS FIRST"
	}
	return written + word + " NULLS LAST"
}

// nullsFirst tells whether nulls stand first, by what is said or else by the dialect that the query is in.
func (t *translation) nullsFirst(said string, down bool) bool {
	switch said {
	case "NULLS FIRST":
		return true
	case "NULLS LAST":
		return false
	}
	switch t.nulls {
	case nullsLargest:
		return down
	case nullsSmallest:
		return !down
	}
	return false
}

// styles are the styles of formats of times that a translation is from and to.
func (t *translation) styles() (from, to int) {
	if t.to == Embedded {
		return t.format, strftime
	}
	return strftime, grammars[t.to].format
}

// unwritable is a part of a query that a dialect has no form for, whatever stands in it; "" for none.
func (t *translation) unwritable(tree *sql.Tree) string {
	if t.to == Embedded {
		return ""
	}
	what := ""
	_ = ast.Walk(tree.Root(), func(n *ast.Node) error { // never fails
		if found := t.unknownTo(n); found != "" && (what == "" || found < what) {
			what = found
		}
		return nil
	})
	return what
}

func (t *translation) unknownTo(n *ast.Node) string {
	join := n.Text(field.JoinType)
	switch {
	case n.Has(field.Qualify):
		return "QUALIFY"
	case n.Text(field.AggregateHandling) == "FORCE_AGGREGATES":
		return "GROUP BY ALL"
	case join == "SEMI" || join == "ANTI":
		return join + " JOIN"
	case n.Text(field.RefType) == "ASOF" || n.Text(field.RefType) == "POSITIONAL":
		return n.Text(field.RefType) + " JOIN"
	case n.Text(field.LimitType) == "PERCENTAGE":
		return "LIMIT with a share"
	case n.Class() == ast.Star && len(n.Names(field.ExcludeList)) > 0:
		return "EXCLUDE"
	case n.Kind() == ast.TableFunction && !strings.HasPrefix(n.Node(field.Function).FunctionName(), "generate_series"):
		return "the table function " + n.Node(field.Function).FunctionName()
	case t.to == ClickHouse:
		return t.clickHouseLacks(n)
	case t.to == Trino:
		return trinoLacks(n)
	case t.to != MySQL:
		return ""
	case plainLacks(n) != "":
		return plainLacks(n)
	case strings.HasPrefix(n.Text(field.Materialized), "CTE_MATERIALIZE_A"):
		return "MATERIALIZED"
	}
	return ""
}

// plainLacks is a part of a query that MySQL and ClickHouse have no form for; "" for none.
func plainLacks(n *ast.Node) string {
	switch join := n.Text(field.JoinType); {
	case join == "FULL" || join == "OUTER":
		return "FULL JOIN"
	case len(n.Items(field.DistinctOnTargets)) > 0:
		return "DISTINCT ON"
	case len(n.Items(field.GroupSets)) > 1:
		return "GROUPING SETS"
	case n.Kind() == ast.TableFunction, n.Kind() == ast.ExpressionList:
		return "a list of values in FROM"
	}
	return ""
}
