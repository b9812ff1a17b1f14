package cause

import (
	"fmt"
	"strings"

	"tovrel/core/dialect"
	"tovrel/core/fault"
	"tovrel/core/pattern"
	"tovrel/core/sql"
	"tovrel/engine"
	"tovrel/expect"
)

// FailureFault is the fault of a query that does not run, with its place, the nearest name, and the dialect that it belongs to.
func FailureFault(query string, f *engine.Failure) fault.Fault {
	evidence := f.Error()
	if at := expect.Where(query, f.Position); at != "" {
		evidence += " (" + at + ")"
	}
	if foreign, name, ok := foreignOf(query, f); ok {
		evidence += fmt.Sprintf("; %s belongs to the dialect of %s: here it is %s", name, foreign.Dialects, foreign.Local)
	}
	return fault.Fault{Code: f.Code, Certainty: fault.Proved, Evidence: evidence}
}

var missingFunction = pattern.Of(`(?i)function with name (\S+) does not exist|no such function: (\S+)`)

// unknownFunction is the function that a query calls and the engine does not have; "" for another failure.
func unknownFunction(f *engine.Failure) string {
	m := missingFunction.FindStringSubmatch(f.Message)
	if f.Code != fault.UnknownFunction || m == nil {
		return ""
	}
	return strings.Trim(m[1]+m[2], `"`)
}

// foreignOf recognises what a failing query has of another dialect.
func foreignOf(query string, f *engine.Failure) (dialect.Foreign, string, bool) {
	if name := unknownFunction(f); name != "" {
		foreign, ok := dialect.Function(name)
		return foreign, name, ok
	}
	if f.Code == fault.Syntax {
		piece, foreign, ok := dialect.Syntax(query)
		return foreign, "`" + piece + "`", ok
	}
	return dialect.Foreign{}, "", false
}

// Mend writes the local name in place of an unknown one: another dialect's function of the same arguments, or the nearest name;
// "" where there is none.
func Mend(query string, f *engine.Failure) string {
	wrong, local := "", ""
	if name := unknownFunction(f); name != "" {
		foreign, _ := dialect.Function(name)
		wrong, local = name, foreign.Renamed()
	}
	if (f.Code == fault.UnknownColumn || f.Code == fault.UnknownTable) && len(f.Candidates) > 0 && f.Position >= 0 &&
		f.Position < len(query) {
		local = f.Candidates[0]
		for _, token := range sql.Tokens(query) {
			if token.Start == f.Position {
				wrong = strings.Trim(token.Text, `"`)
			}
		}
		if strings.Contains(local, ".") {
			return ""
		}
	}
	if wrong == "" || local == "" {
		return ""
	}
	var b strings.Builder
	done := 0
	for _, token := range sql.Tokens(query) {
		if strings.EqualFold(strings.Trim(token.Text, `"`), wrong) && (token.Kind == sql.WordToken || token.Kind == sql.NameToken) {
			b.WriteString(query[done:token.Start] + local)
			done = token.Start + len(token.Text)
		}
	}
	return b.String() + query[done:]
}
