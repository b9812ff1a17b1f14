package dialect

import (
	"slices"
	"strings"

	"tovrel/core/sql"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/core/sql/format"
)

// indexHints leaves USE, FORCE and IGNORE INDEX (…) out: they change no row.
func indexHints(pieces []piece) ([]piece, string) {
	for i := 0; i+2 < len(pieces); i++ {
		hint := pieces[i].is("USE") || pieces[i].is("FORCE") || pieces[i].is("IGNORE")
		if !hint || !pieces[i+1].is("INDEX") && !pieces[i+1].is("KEY") || !pieces[i+2].isMark("(") {
			continue
		}
		if shut := closing(pieces, i+2); shut > 0 {
			pieces = slices.Delete(slices.Clone(pieces), i, shut+1)
			i--
		}
	}
	return pieces, ""
}

// renamed are functions whose names the parser takes for a type, or which make spans of time of numbers here.
var renamed = map[string]string{"time": "time", "timestamp": "timestamp", "to_days": "day_number", "to_seconds": "second_number"}

// renamedCalls gives them names of their own, in quotes.
func renamedCalls(pieces []piece) ([]piece, string) {
	for i := 0; i+1 < len(pieces); i++ {
		name := renamed[strings.ToLower(pieces[i].text)]
		if name != "" && pieces[i].kind == sql.WordToken && pieces[i+1].isMark("(") && (i == 0 || !pieces[i-1].is("AS")) {
			pieces[i] = piece{sql.NameToken, name}
		}
	}
	return pieces, ""
}

// spans puts what is reckoned behind INTERVAL in brackets: INTERVAL weekday(day) DAY.
func spans(pieces []piece) ([]piece, string) {
	for i := 0; i+2 < len(pieces); i++ {
		if !pieces[i].is("INTERVAL") {
			continue
		}
		if pieces[i+1].kind == sql.NumberToken && strings.Contains(pieces[i+1].text, ".") {
			return nil, "an INTERVAL of a part of a unit"
		}
		end := spanEnd(pieces, i+1)
		if end <= i+2 && pieces[i+1].kind != sql.WordToken && pieces[i+1].kind != sql.NameToken || end < 0 ||
			pieces[i+1].isMark("(") && closing(pieces, i+1) == end-1 {
			continue
		}
		pieces = slices.Concat(pieces[:i+1], []piece{mark("(")}, pieces[i+1:end], []piece{mark(")")}, pieces[end:])
	}
	return pieces, ""
}

// spanEnd is the place of the unit of time behind what is reckoned; -1 for none.
func spanEnd(pieces []piece, from int) int {
	depth := 0
	for i := from; i < len(pieces); i++ {
		call := i+1 < len(pieces) && pieces[i+1].isMark("(")
		switch p := pieces[i]; {
		case p.isMark("("):
			depth++
		case p.isMark(")"):
			if depth--; depth < 0 {
				return -1
			}
		case depth > 0 || i == from:
		case p.isMark(","):
			return -1
		case p.kind == sql.WordToken && !call && unitNames[strings.ToLower(p.text)] != "":
			return i
		}
	}
	return -1
}

// mysqlCall writes calls whose form hangs on what one of their arguments is.
func (r *reading) mysqlCall(e *ast.Node, write format.Write) (string, bool) {
	arguments := e.Nodes(field.Arguments)
	if r.from != MySQL || len(arguments) != 2 {
		return "", false
	}
	first, second := arguments[0].Node(field.Expression), arguments[1].Node(field.Expression)
	switch called := e.FunctionName(); called {
	case "week", "yearweek":
		template, is := weekModes[called+" "+second.Node(field.Literal).Text(field.Text)]
		if !is {
			return "", false
		}
		return r.filled(template, e, write), true
	case "round":
		if r.columns.kindOf(first) == floating { // as its C library rounds
			return "round_even(" + write(first, false) + ", " + write(second, false) + ")", true
		}
	case "trim", "ltrim", "rtrim":
		if text, is := isText(second); is && len(text) == 1 { // of more, all there is the text and here each of its characters
			return called + "(" + r.asText(first, write) + ", " + quoted(text) + ")", true
		}
	}
	return "", false
}

// median writes the median of decimals, which is a float there: it is one of windows alone.
func (r *reading) median(e *ast.Node, write format.Write) (string, bool) {
	arguments := e.Nodes(field.Arguments)
	if r.from != MySQL || e.FunctionName() != "median" || len(arguments) != 1 {
		return "", false
	}
	of := arguments[0].Node(field.Expression)
	if r.columns.kindOf(of) == floating {
		return "", false
	}
	out := e.Plain()
	out.Set(field.Arguments, []*ast.Node{ast.New(ast.Fields{field.Name: "", field.Expression: castNode(of, "DOUBLE")})})
	return write(out, false), true
}

// weekModes are forms of the week of a day, by the function and the mode that it names: which day begins a week, and which week is the
// first.
var weekModes = map[string]string{
	"week 0":     "CAST(strftime($moment:1, '%U') AS INTEGER)",
	"week 1":     "CASE sign(isoyear($moment:1) - year($moment:1)) WHEN -1 THEN 0 WHEN 1 THEN 53 ELSE week($moment:1) END",
	"week 3":     "week($moment:1)",
	"week 5":     "CAST(strftime($moment:1, '%W') AS INTEGER)",
	"yearweek 1": "(isoyear($moment:1) * 100 + week($moment:1))",
	"yearweek 3": "(isoyear($moment:1) * 100 + week($moment:1))",
}
