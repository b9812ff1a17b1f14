package dialect

import (
	"strings"

	"tovrel/core/pattern"
	"tovrel/core/sql/ast"
	"tovrel/core/sql/ast/field"
	"tovrel/core/sql/format"
)

// liteMark begins the name of SQLite's date and datetime, which the embedded engine's parser reads as types.
const liteMark = "lite_"

// liteMoments renames calls of date and datetime, and position(a, b), which the parser has another form for.
func liteMoments(pieces []piece) ([]piece, string) {
	for i := 0; i+1 < len(pieces); i++ {
		if (pieces[i].is("date") || pieces[i].is("datetime")) && pieces[i+1].isMark("(") {
			pieces[i].text = liteMark + strings.ToLower(pieces[i].text)
		}
	}
	return pieces, ""
}

// plainPosition renames position(a, b): the parser knows position(b IN a) alone.
func plainPosition(pieces []piece) ([]piece, string) {
	for i := 0; i+1 < len(pieces); i++ {
		if !pieces[i].is("position") || !pieces[i+1].isMark("(") {
			continue
		}
		if shut := closing(pieces, i+1); shut > 0 && len(arguments(pieces[i+2:shut])) == 2 {
			pieces[i].text = "strpos"
		}
	}
	return pieces, ""
}

// modifier is a step of SQLite's dates: '-90 days', 'start of month'.
var modifier = pattern.Of(`^(?:start of (year|month|day)|([+-]?\d+) (year|month|day|hour|minute|second)s?)$`)

// liteMoment writes date(x, modifier, …) and datetime(…) of SQLite; false for another call.
func (r *reading) liteMoment(e *ast.Node, write format.Write) (string, bool) {
	called, is := strings.CutPrefix(e.FunctionName(), liteMark)
	all := e.Nodes(field.Arguments)
	if !is {
		return "", false
	}
	r.used[called] = true
	text := "current_timestamp::TIMESTAMP"
	if len(all) > 0 {
		if said, literal := isText(all[0].Node(field.Expression)); !literal || !strings.EqualFold(said, "now") {
			text = "CAST(" + write(all[0].Node(field.Expression), false) + " AS TIMESTAMP)"
		}
		all = all[1:]
	}
	for _, a := range all {
		said, literal := isText(a.Node(field.Expression))
		step := modifier.FindStringSubmatch(strings.ToLower(strings.TrimSpace(said)))
		switch {
		case !literal || step == nil:
			return r.give("this modifier of a date"), true
		case step[1] != "":
			text = "date_trunc('" + step[1] + "', " + text + ")"
		default:
			text = "(" + text + " + INTERVAL '" + step[2] + " " + step[3] + "')"
		}
	}
	if called == "date" {
		return "CAST(" + text + " AS DATE)", true
	}
	return text, true
}

// cases writes multiIf(a, x, b, y, z) as CASE WHEN a THEN x WHEN b THEN y ELSE z END.
func cases(all []*ast.Node, write format.Write) string {
	var b strings.Builder
	b.WriteString("CASE")
	for i := 0; i+1 < len(all); i += 2 {
		b.WriteString(" WHEN " + write(all[i].Node(field.Expression), false) + " THEN " + write(all[i+1].Node(field.Expression), false))
	}
	if len(all)%2 == 1 {
		b.WriteString(" ELSE " + write(all[len(all)-1].Node(field.Expression), false))
	}
	return b.String() + " END"
}
