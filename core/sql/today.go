package sql

import (
	"slices"
	"strings"
	"time"

	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
)

// Today is a dataset's "today": what stands for the clock in its queries. The zero Today leaves the clock alone.
type Today struct {
	Date   string // 2031-06-30
	Moment string // 2031-06-30 23:59:59: a date's last second, or the timestamp itself
}

// TodayOf reads an as-of, an ISO date or timestamp; "" gives the zero Today.
func TodayOf(asOf string) Today {
	if asOf == "" {
		return Today{}
	}
	date, clock, timed := strings.Cut(strings.Replace(asOf, "T", " ", 1), " ")
	if !timed {
		clock = "23:59:59"
	}
	return Today{Date: date, Moment: date + " " + clock}
}

func (t Today) clock() string {
	_, clock, _ := strings.Cut(t.Moment, " ")
	return clock
}

// clockCalls are the functions and keywords that read the clock, and the type of what they give.
var clockCalls = map[string]string{
	"current_date": "DATE", "today": "DATE",
	"now": "TIMESTAMPTZ", "current_timestamp": "TIMESTAMPTZ", "get_current_timestamp": "TIMESTAMPTZ",
	"transaction_timestamp": "TIMESTAMPTZ",
	"localtimestamp":        "TIMESTAMP", "current_localtimestamp": "TIMESTAMP",
	"current_time": "TIME", "get_current_time": "TIME", "localtime": "TIME", "current_localtime": "TIME",
}

// clockKeywords are those of them that are written without parentheses: the tree has them as columns.
var clockKeywords = map[string]bool{"current_date": true, "current_timestamp": true, "localtimestamp": true,
	"current_time": true, "localtime": true}

// SeeToday replaces what reads the clock by a dataset's today, wherever it stands, and tells whether there was any. Names that
// are quoted in the query's text, and names of aliases, are no keywords.
func (t *Tree) SeeToday(today Today, sql string) bool {
	if today.Date == "" {
		return false
	}
	f := &freezer{today: today, sql: sql, aliases: map[string]bool{}}
	_ = ast.Walk(t.root, func(node *ast.Node) error { // never fails
		f.collect(node)
		return nil
	})
	t.root = f.freeze(t.root).(*ast.Node)
	return f.found
}

type freezer struct {
	today   Today
	sql     string
	aliases map[string]bool
	found   bool
}

// collect notes the names that a query gives to its own expressions and columns.
func (f *freezer) collect(node *ast.Node) {
	if alias := node.Text(field.Alias); alias != "" {
		f.aliases[strings.ToLower(alias)] = true
	}
	for _, name := range slices.Concat(node.Names(field.ColumnNameAlias), node.Names(field.Aliases)) {
		f.aliases[strings.ToLower(name)] = true
	}
}

func (f *freezer) freeze(v any) any {
	switch x := v.(type) {
	case *ast.Node:
		if x == nil {
			return x
		}
		if out := f.replaced(x); out != nil {
			f.found = true
			return out
		}
		for _, under := range x.Fields() {
			x.Set(under, f.freeze(x.Get(under)))
		}
		return x
	case []any:
		for i, child := range x {
			x[i] = f.freeze(child)
		}
	}
	return v
}

// replaced is what stands for an expression that reads the clock; nil for any other.
func (f *freezer) replaced(node *ast.Node) *ast.Node {
	switch node.Class() {
	case ast.ColumnRef:
		names := node.Names(field.ColumnNames)
		if name := strings.ToLower(columnName(node)); len(names) == 1 && clockKeywords[name] && !f.aliases[name] && !f.quoted(node) {
			return f.constant(clockCalls[name], aliasOr(node, name))
		}
	case ast.Function:
		name := node.FunctionName()
		arguments := node.Nodes(field.Arguments)
		if kind := clockCalls[name]; kind != "" && len(arguments) == 0 {
			return f.constant(kind, aliasOr(node, name))
		}
		if name == "age" && len(arguments) == 1 {
			date := f.constant("TIMESTAMP", "")
			date.Set(field.Child, textConstant(f.today.Date))
			today := ast.New(ast.Fields{field.Name: "", field.Expression: date})
			out := ast.Copy(node)
			out.Set(field.Arguments, append([]any{today}, f.freeze(out.Get(field.Arguments)).([]any)...))
			return out
		}
	case ast.Cast:
		return f.castOfNow(node)
	}
	return nil
}

// castOfNow replaces 'now'::TIMESTAMP and its kin, which the engine reads as the clock.
func (f *freezer) castOfNow(node *ast.Node) *ast.Node {
	kind := strings.ToUpper(node.Node(field.TypeExpr).Text(field.TypeName))
	literal := node.Node(field.Child).Node(field.Literal)
	word := strings.ToLower(strings.TrimSpace(literal.Text(field.Text)))
	if literal.Text(field.Kind) != "STRING" || word != "now" && word != "today" || kind != "DATE" && !strings.HasPrefix(kind, "TIMESTAMP") {
		return nil
	}
	out := ast.Copy(node)
	out.Set(field.Child, textConstant(map[string]string{"now": f.today.Moment, "today": f.today.Date}[word]))
	return out
}

// quoted tells whether a name is written in quotes.
func (f *freezer) quoted(node *ast.Node) bool {
	at, ok := node.Get(field.QueryLocation).(interface{ Int64() (int64, error) })
	if !ok {
		return false
	}
	place, err := at.Int64()
	return err == nil && place >= 0 && place < int64(len(f.sql)) && f.sql[place] == '"'
}

// constant is today as an expression of a type, under the name that the replaced expression's column had.
func (f *freezer) constant(kind, alias string) *ast.Node {
	written := map[string]string{"DATE": f.today.Date, "TIME": f.today.clock()}[kind]
	if written == "" {
		written = f.today.Moment
	}
	if kind == "TIMESTAMPTZ" && !strings.ContainsAny(f.today.clock(), "+Z") {
		written += "+00"
	}
	return ast.New(ast.Fields{field.Class: ast.Cast, field.Type: ast.OperatorCast, field.Alias: alias,
		field.Child: textConstant(written), field.TryCast: false,
		field.TypeExpr: ast.New(ast.Fields{field.Class: ast.TypeExpression, field.Type: ast.TypeExpression, field.Alias: "",
			field.Catalog: "", field.Schema: "", field.TypeName: kind,
			field.QualifiedName: ast.New(ast.Fields{field.Path: []any{kind}}), field.Children: []any{}})})
}

func aliasOr(node *ast.Node, name string) string {
	if alias := node.Text(field.Alias); alias != "" {
		return alias
	}
	return name
}

func textConstant(written string) *ast.Node {
	return ast.New(ast.Fields{field.Class: ast.Constant, field.Type: ast.ValueConstant, field.Alias: "",
		field.Literal: ast.New(ast.Fields{field.Kind: "STRING", field.Text: written})})
}

// Before is the day some days before today; "" where today is none.
func (t Today) Before(days int) string {
	day, err := time.Parse(time.DateOnly, t.Date)
	if err != nil {
		return ""
	}
	return day.AddDate(0, 0, -days).Format(time.DateOnly)
}
