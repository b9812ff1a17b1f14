package dialect

import (
	"slices"
	"strings"

	"tovrel/core/sql"
)

// pass puts one thing that some dialects write into words that the embedded engine's parser reads; refused says what it cannot.
type pass struct {
	only    []string // dialects; nil for all
	rewrite func(pieces []piece) (out []piece, refused string)
}

var passes = []pass{
	{[]string{ClickHouse}, refusedWords}, {[]string{TSQL, Snowflake}, tops}, {[]string{MySQL, ClickHouse, SQLite, Spark}, limitPairs},
	{nil, withinGroups}, {[]string{MySQL}, separators}, {[]string{MySQL}, indexHints}, {[]string{MySQL}, renamedCalls},
	{[]string{MySQL, BigQuery}, spans}, {[]string{MySQL, TSQL}, converts}, {[]string{ClickHouse}, parameters},
	{[]string{MySQL, Spark}, rollups}, {[]string{BigQuery, Spark}, dottedNames}, {[]string{BigQuery, Snowflake, Spark}, setWords}, {nil,
		qualifiers}, {[]string{SQLite},
		liteMoments}, {nil, plainPosition}, {[]string{Trino}, literalDecimals},
}

// literalDecimals puts DECIMAL '1.50', whose digits are its own, into a number.
func literalDecimals(pieces []piece) ([]piece, string) {
	var out []piece
	for i := 0; i < len(pieces); i++ {
		if pieces[i].is("DECIMAL") && i+1 < len(pieces) && pieces[i+1].kind == sql.StringToken {
			i++
			out = append(out, mark(strings.Trim(pieces[i].text, "'")))
			continue
		}
		out = append(out, pieces[i])
	}
	return out, ""
}

// swaps are runs of words by what stands for them; "" for nothing.
var swaps = []struct {
	only []string
	run  []string
	by   string
}{
	{[]string{MySQL, Spark}, []string{"DIV"}, "//"}, {[]string{MySQL}, []string{"MOD"}, "%"}, {[]string{MySQL}, []string{"STRAIGHT_JOIN"},
		"JOIN"},
	{[]string{MySQL, Spark}, []string{"NOT", "REGEXP"}, "!~"}, {[]string{MySQL, Spark}, []string{"NOT", "RLIKE"}, "!~"},
	{[]string{MySQL, Spark}, []string{"REGEXP"}, "~"}, {[]string{MySQL, Spark}, []string{"RLIKE"}, "~"},
	{[]string{MySQL, Spark}, []string{"<", "=", ">"}, "IS NOT DISTINCT FROM"}, {[]string{MySQL}, []string{"FROM", "DUAL"}, ""},
	{[]string{MySQL}, []string{"ORDER", "BY", "NULL"}, ""}, {[]string{MySQL}, []string{"SQL_NO_CACHE"}, ""},
	{[]string{MySQL}, []string{"&", "&"}, "AND"}, {[]string{Snowflake, Spark}, []string{"MINUS", "SELECT"}, "EXCEPT SELECT"},
	{[]string{BigQuery}, []string{"SAFE_CAST"}, "TRY_CAST"},
	{[]string{TSQL}, []string{"WITH", "(", "NOLOCK", ")"}, ""}, {[]string{SQLite, ClickHouse}, []string{"=", "="}, "="},
	{[]string{ClickHouse}, []string{"ANY", "("}, "any_value ("}, {[]string{ClickHouse}, []string{"GLOBAL"}, ""},
	{[]string{ClickHouse}, []string{"ALL", "INNER"}, "INNER"}, {[]string{ClickHouse}, []string{"ALL", "LEFT"}, "LEFT"},
}

// swapped are pieces with a dialect's swaps.
func swapped(pieces []piece, from string) []piece {
	var out []piece
	for i := 0; i < len(pieces); {
		took := 0
		for _, s := range swaps {
			if slices.Contains(s.only, from) && begins(pieces[i:], s.run) && !isName(pieces, i, len(s.run)) {
				if s.by != "" {
					out = append(out, mark(s.by))
				}
				took = len(s.run)
				break
			}
		}
		if took == 0 {
			out = append(out, pieces[i])
			took = 1
		}
		i += took
	}
	return out
}

// begins tells pieces that begin with a run of words and marks.
func begins(pieces []piece, run []string) bool {
	if len(pieces) < len(run) {
		return false
	}
	for i, r := range run {
		if !pieces[i].is(r) && !pieces[i].isMark(r) {
			return false
		}
	}
	return true
}

// isName tells a single word that is a name or a call: mod(a, b), t.mod.
func isName(pieces []piece, at, size int) bool {
	if size != 1 || pieces[at].kind != sql.WordToken {
		return false
	}
	behindDot := at > 0 && pieces[at-1].isMark(".")
	call := at+1 < len(pieces) && pieces[at+1].isMark("(") && strings.EqualFold(pieces[at].text, "mod") && !endsOperand(pieces, at)
	return behindDot || call
}

// endsOperand tells whether an operand ends before a place.
func endsOperand(pieces []piece, at int) bool {
	if at == 0 {
		return false
	}
	before := pieces[at-1]
	return before.isMark(")") || before.kind == sql.NumberToken || before.kind == sql.NameToken || before.kind == sql.StringToken ||
		before.kind == sql.WordToken && !operators[strings.ToLower(before.text)]
}

// operators are words behind which an operand begins.
var operators = map[string]bool{"select": true, "where": true, "and": true, "or": true, "not": true, "on": true, "by": true, "when": true,
	"then": true, "else": true, "having": true, "in": true, "between": true, "like": true, "case": true, "distinct": true}

// refusedWords are clauses that nothing here has the meaning of.
func refusedWords(pieces []piece) ([]piece, string) {
	for i, p := range pieces {
		for _, w := range []string{"FINAL", "PREWHERE", "SETTINGS", "FORMAT"} {
			if p.is(w) && i > 0 && !pieces[i-1].isMark(".") && !pieces[i-1].is("AS") {
				return nil, w
			}
		}
		for _, run := range [][]string{{"ARRAY", "JOIN"}, {"WITH", "TOTALS"}, {"ANY", "LEFT"}, {"ANY", "INNER"}, {"ANY", "JOIN"}} {
			if begins(pieces[i:], run) {
				return nil, strings.Join(run, " ")
			}
		}
		if p.is("LIMIT") && i+2 < len(pieces) && pieces[i+2].is("BY") {
			return nil, "LIMIT n BY"
		}
	}
	return pieces, ""
}

// closing is the place of the bracket that closes the one at a place; -1 for none.
func closing(pieces []piece, open int) int { return partner(pieces, open, 1, "(", ")") }

// opening is the place of the bracket that the one at a place closes; -1 for none.
func opening(pieces []piece, shut int) int { return partner(pieces, shut, -1, ")", "(") }

// partner is the place of the bracket that belongs to the one at a place, looked for in steps; -1 for none.
func partner(pieces []piece, at, step int, same, other string) int {
	depth := 0
	for i := at; i >= 0 && i < len(pieces); i += step {
		switch {
		case pieces[i].isMark(same):
			depth++
		case pieces[i].isMark(other):
			if depth--; depth == 0 {
				return i
			}
		}
	}
	return -1
}

// selectEnd is the place behind a SELECT's own clauses: of the bracket that closes it, of a set operation, or the end.
func selectEnd(pieces []piece, at int) int {
	depth := 0
	for i := at + 1; i < len(pieces); i++ {
		switch p := pieces[i]; {
		case p.isMark("("):
			depth++
		case p.isMark(")"):
			if depth--; depth < 0 {
				return i
			}
		case depth == 0 && (p.is("UNION") || p.is("EXCEPT") || p.is("INTERSECT") || p.isMark(";")):
			return i
		}
	}
	return len(pieces)
}

// tops puts SELECT TOP n as LIMIT n behind the SELECT.
func tops(pieces []piece) ([]piece, string) {
	for i := 0; i < len(pieces); i++ {
		at := i + 1
		if !pieces[i].is("SELECT") {
			continue
		}
		if at < len(pieces) && pieces[at].is("DISTINCT") {
			at++
		}
		if at+1 >= len(pieces) || !pieces[at].is("TOP") {
			continue
		}
		number, end := pieces[at+1:at+2], at+2
		if pieces[at+1].isMark("(") {
			shut := closing(pieces, at+1)
			if shut < 0 {
				return nil, "TOP"
			}
			number, end = pieces[at+2:shut], shut+1
		}
		if end < len(pieces) && (pieces[end].is("PERCENT") || pieces[end].is("WITH")) {
			return nil, "TOP … " + strings.ToUpper(pieces[end].text)
		}
		last := selectEnd(pieces, i)
		pieces = slices.Concat(pieces[:at], pieces[end:last], []piece{word("LIMIT")}, number, pieces[last:])
	}
	return pieces, ""
}

// limitPairs puts LIMIT a, b as LIMIT b OFFSET a.
func limitPairs(pieces []piece) ([]piece, string) {
	for i := 0; i+3 < len(pieces); i++ {
		if pieces[i].is("LIMIT") && pieces[i+2].isMark(",") {
			pieces[i+1], pieces[i+2], pieces[i+3] = pieces[i+3], word("OFFSET"), pieces[i+1]
		}
	}
	return pieces, ""
}

// withinGroups puts the order of string_agg(…) WITHIN GROUP (ORDER BY …) into its call.
func withinGroups(pieces []piece) ([]piece, string) {
	for i := 1; i+2 < len(pieces); i++ {
		if !pieces[i].is("WITHIN") || !pieces[i+1].is("GROUP") || !pieces[i-1].isMark(")") {
			continue
		}
		open := opening(pieces, i-1)
		shut := closing(pieces, i+2)
		if open < 1 || shut < 0 {
			continue
		}
		switch strings.ToLower(pieces[open-1].text) {
		case "string_agg", "listagg", "group_concat", "array_agg":
			pieces = slices.Concat(pieces[:i-1], pieces[i+3:shut], pieces[shut:])
			if strings.EqualFold(pieces[open-1].text, "listagg") {
				pieces[open-1] = word("string_agg")
			}
		}
	}
	return pieces, ""
}

// separators puts GROUP_CONCAT(x ORDER BY y SEPARATOR s) as string_agg(x, s ORDER BY y).
func separators(pieces []piece) ([]piece, string) {
	for i := 0; i+1 < len(pieces); i++ {
		if !pieces[i].is("GROUP_CONCAT") || !pieces[i+1].isMark("(") {
			continue
		}
		shut := closing(pieces, i+1)
		if shut < 0 {
			return nil, "GROUP_CONCAT"
		}
		value, order, separator := splitConcat(pieces[i+2 : shut])
		pieces = slices.Concat(pieces[:i], []piece{word("string_agg"), mark("(")}, value, []piece{mark(","), separator}, order,
			pieces[shut:])
	}
	return pieces, ""
}

// splitConcat takes the arguments of GROUP_CONCAT apart; the separator is a comma where none is said.
func splitConcat(pieces []piece) (value, order []piece, separator piece) {
	separator = piece{sql.StringToken, ","}
	value = pieces
	depth := 0
	for i, p := range pieces {
		switch {
		case p.isMark("("):
			depth++
		case p.isMark(")"):
			depth--
		case depth == 0 && p.is("SEPARATOR") && i+1 < len(pieces):
			separator = pieces[i+1]
			if order != nil {
				order = order[:len(order)-(len(pieces)-i)]
			} else {
				value = pieces[:i]
			}
		case depth == 0 && p.is("ORDER") && order == nil:
			value, order = pieces[:i], pieces[i:]
		}
	}
	return value, order, separator
}

// converts puts CONVERT(type, x) and CONVERT(x, type) as CAST(x AS type).
func converts(pieces []piece) ([]piece, string) {
	for i := 0; i+1 < len(pieces); i++ {
		if !pieces[i].is("CONVERT") || !pieces[i+1].isMark("(") {
			continue
		}
		shut := closing(pieces, i+1)
		if shut < 0 {
			return nil, "CONVERT"
		}
		parts := arguments(pieces[i+2 : shut])
		if n := len(parts[0]); len(parts) == 1 && n > 2 && parts[0][n-2].is("USING") { // of what is written in some alphabet
			pieces = slices.Concat(pieces[:i], []piece{word("convert_using"), mark("(")}, parts[0][:n-2], pieces[shut:])
			continue
		}
		if len(parts) != 2 {
			return nil, "CONVERT with a style"
		}
		value, into := parts[0], parts[1]
		if isType(parts[0]) {
			value, into = parts[1], parts[0]
		}
		pieces = slices.Concat(pieces[:i], []piece{word("CAST"), mark("(")}, value, []piece{word("AS")}, into, pieces[shut:])
	}
	return pieces, ""
}

// isType tells the name of a type, maybe with its size.
func isType(pieces []piece) bool {
	if len(pieces) == 0 || pieces[0].kind != sql.WordToken || len(pieces) > 1 && !pieces[1].isMark("(") {
		return false
	}
	name := strings.ToUpper(pieces[0].text)
	return moreTypes[TSQL][name] != "" || moreTypes[MySQL][name] != "" || kindOfType(name) != unknown
}

// arguments are pieces between commas outside brackets.
func arguments(pieces []piece) [][]piece {
	var out [][]piece
	depth, from := 0, 0
	for i, p := range pieces {
		switch {
		case p.isMark("("):
			depth++
		case p.isMark(")"):
			depth--
		case depth == 0 && p.isMark(","):
			out = append(out, pieces[from:i])
			from = i + 1
		}
	}
	return append(out, pieces[from:])
}

// parameters puts quantile(p)(x) as quantile_cont(x, p).
func parameters(pieces []piece) ([]piece, string) {
	for i := 0; i+1 < len(pieces); i++ {
		if pieces[i].kind != sql.WordToken || !pieces[i+1].isMark("(") {
			continue
		}
		shut := closing(pieces, i+1)
		if shut < 0 || shut+1 >= len(pieces) || !pieces[shut+1].isMark("(") || spaced[strings.ToLower(pieces[i].text)] {
			continue
		}
		end := closing(pieces, shut+1)
		if !pieces[i].is("quantile") && !pieces[i].is("quantileExactInclusive") || end < 0 {
			return nil, "the function " + pieces[i].text + " with parameters"
		}
		pieces = slices.Concat(pieces[:i], []piece{word("quantile_cont"), mark("(")}, pieces[shut+2:end], []piece{mark(",")},
			pieces[i+2:shut], pieces[end:])
	}
	return pieces, ""
}

// dottedNames takes a path in one pair of quotes apart: `project.dataset.table`.
func dottedNames(pieces []piece) ([]piece, string) {
	var out []piece
	for _, p := range pieces {
		if p.kind != sql.NameToken || !strings.Contains(p.text, ".") {
			out = append(out, p)
			continue
		}
		for i, part := range strings.Split(p.text, ".") {
			if i > 0 {
				out = append(out, mark("."))
			}
			out = append(out, piece{sql.NameToken, part})
		}
	}
	return out, ""
}

// setWords puts UNION DISTINCT as UNION, and * EXCEPT (…) as * EXCLUDE (…).
func setWords(pieces []piece) ([]piece, string) {
	var out []piece
	for i, p := range pieces {
		before := piece{}
		if i > 0 {
			before = pieces[i-1]
		}
		switch {
		case p.is("DISTINCT") && (before.is("UNION") || before.is("EXCEPT") || before.is("INTERSECT")):
		case p.is("EXCEPT") && before.isMark("*"):
			out = append(out, word("EXCLUDE"))
		default:
			out = append(out, p)
		}
	}
	return out, ""
}

// qualifiers takes schemas off tables behind FROM and JOIN: a dataset has one.
func qualifiers(pieces []piece) ([]piece, string) {
	var out []piece
	for i := 0; i < len(pieces); i++ {
		out = append(out, pieces[i])
		if !pieces[i].is("FROM") && !pieces[i].is("JOIN") {
			continue
		}
		for i+3 < len(pieces) && pieces[i+2].isMark(".") && isNamed(pieces[i+1]) && isNamed(pieces[i+3]) {
			i += 2
		}
	}
	return out, ""
}

func isNamed(p piece) bool { return p.kind == sql.WordToken || p.kind == sql.NameToken }

// rollups puts GROUP BY a, b WITH ROLLUP as GROUP BY ROLLUP (a, b).
func rollups(pieces []piece) ([]piece, string) {
	by := -1
	for i := 0; i+1 < len(pieces); i++ {
		switch {
		case pieces[i].is("GROUP") && pieces[i+1].is("BY"):
			by = i + 2
		case pieces[i].is("WITH") && pieces[i+1].is("ROLLUP"):
			if by < 0 {
				return nil, "WITH ROLLUP"
			}
			pieces = slices.Concat(pieces[:by], []piece{word("ROLLUP"), mark("(")}, pieces[by:i], []piece{mark(")")}, pieces[i+2:])
		}
	}
	return pieces, ""
}
