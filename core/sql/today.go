package sql

import (
	"strings"
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
	"now": "TIMESTAMPTZ", "current_timestamp": "TIMESTAMPTZ", "get_current_timestamp": "TIMESTAMPTZ", "transaction_timestamp": "TIMESTAMPTZ",
	"localtimestamp": "TIMESTAMP", "current_localtimestamp": "TIMESTAMP",
	"current_time": "TIME", "get_current_time": "TIME", "localtime": "TIME", "current_localtime": "TIME",
}

// clockKeywords are those of them that are written without parentheses: the tree has them as columns.
var clockKeywords = map[string]bool{"current_date": true, "current_timestamp": true, "localtimestamp": true, "current_time": true, "localtime": true}

// SeeToday replaces what reads the clock by a dataset's today, wherever it stands, and tells whether there was any. Names that
// are quoted in the query's text, and names of aliases, are no keywords.
func (t *Tree) SeeToday(today Today, sql string) bool {
	if today.Date == "" {
		return false
	}
	f := &freezer{today: today, sql: sql, aliases: map[string]bool{}}
	_ = walk(t.root, func(node map[string]any) error { // never fails
		f.collect(node)
		return nil
	})
	t.root = f.freeze(t.root).(map[string]any)
	return f.found
}

type freezer struct {
	today   Today
	sql     string
	aliases map[string]bool
	found   bool
}

// collect notes the names that a query gives to its own expressions and columns.
func (f *freezer) collect(node map[string]any) {
	if alias := text(node, "alias"); alias != "" {
		f.aliases[strings.ToLower(alias)] = true
	}
	for _, key := range []string{"column_name_alias", "aliases"} {
		names, _ := node[key].([]any)
		for _, n := range names {
			if name, ok := n.(string); ok {
				f.aliases[strings.ToLower(name)] = true
			}
		}
	}
}

func (f *freezer) freeze(v any) any {
	switch x := v.(type) {
	case map[string]any:
		if out := f.replaced(x); out != nil {
			f.found = true
			return out
		}
		for k, child := range x {
			x[k] = f.freeze(child)
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
func (f *freezer) replaced(node map[string]any) map[string]any {
	switch text(node, "class") {
	case "COLUMN_REF":
		names, _ := node["column_names"].([]any)
		if name := strings.ToLower(columnName(node)); len(names) == 1 && clockKeywords[name] && !f.aliases[name] && !f.quoted(node) {
			return f.constant(clockCalls[name], aliasOr(node, name))
		}
	case "FUNCTION":
		name := functionName(node)
		arguments := list(node, "arguments")
		if kind := clockCalls[name]; kind != "" && len(arguments) == 0 {
			return f.constant(kind, aliasOr(node, name))
		}
		if name == "age" && len(arguments) == 1 {
			today := map[string]any{"name": "", "expression": f.constant("TIMESTAMP", "")}
			today["expression"].(map[string]any)["child"] = textConstant(f.today.Date)
			out := copyOf(node).(map[string]any)
			out["arguments"] = append([]any{today}, f.freeze(out["arguments"]).([]any)...)
			return out
		}
	case "CAST":
		return f.castOfNow(node)
	}
	return nil
}

// castOfNow replaces 'now'::TIMESTAMP and its kin, which the engine reads as the clock.
func (f *freezer) castOfNow(node map[string]any) map[string]any {
	kind := strings.ToUpper(text(object(node, "type_expr"), "type_name"))
	literal := object(object(node, "child"), "literal")
	word := strings.ToLower(strings.TrimSpace(text(literal, "text")))
	if text(literal, "kind") != "STRING" || word != "now" && word != "today" || kind != "DATE" && !strings.HasPrefix(kind, "TIMESTAMP") {
		return nil
	}
	out := copyOf(node).(map[string]any)
	out["child"] = textConstant(map[string]string{"now": f.today.Moment, "today": f.today.Date}[word])
	return out
}

// quoted tells whether a name is written in quotes.
func (f *freezer) quoted(node map[string]any) bool {
	at, ok := node["query_location"].(interface{ Int64() (int64, error) })
	if !ok {
		return false
	}
	place, err := at.Int64()
	return err == nil && place >= 0 && place < int64(len(f.sql)) && f.sql[place] == '"'
}

// constant is today as an expression of a type, under the name that the replaced expression's column had.
func (f *freezer) constant(kind, alias string) map[string]any {
	written := map[string]string{"DATE": f.today.Date, "TIME": f.today.clock()}[kind]
	if written == "" {
		written = f.today.Moment
	}
	if kind == "TIMESTAMPTZ" && !strings.ContainsAny(f.today.clock(), "+Z") {
		written += "+00"
	}
	return map[string]any{"class": "CAST", "type": "OPERATOR_CAST", "alias": alias, "child": textConstant(written), "try_cast": false,
		"type_expr": map[string]any{"class": "TYPE", "type": "TYPE", "alias": "", "catalog": "", "schema": "", "type_name": kind,
			"qualified_name": map[string]any{"path": []any{kind}}, "children": []any{}}}
}

func aliasOr(node map[string]any, name string) string {
	if alias := text(node, "alias"); alias != "" {
		return alias
	}
	return name
}

func textConstant(written string) map[string]any {
	return map[string]any{"class": "CONSTANT", "type": "VALUE_CONSTANT", "alias": "", "literal": map[string]any{"kind": "STRING", "text": written}}
}
