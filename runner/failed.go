package runner

import (
	"context"
	"fmt"
	"regexp"
	"strings"

	"tovrel/core/dialect"
	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/query"
	"tovrel/core/run"
	"tovrel/core/score"
	"tovrel/engine"
)

// failed judges a query that does not run: what is wrong with it, whose dialect it is, and whether it would be right with that
// mended.
func (w *running) failed(ctx context.Context, t *task, a run.Attempt, f *engine.Failure) (judged, error) {
	a.Verdict, a.Why = score.Failed, f.Message
	found := FailureFault(a.Query, f)
	if mended := mend(a.Query, f); mended != "" && w.plan.Diagnose.Runs > 0 {
		isRight, err := w.wouldBeRight(ctx, t, mended)
		if err != nil {
			return judged{}, err
		}
		if isRight {
			found.Query = mended
			found.Evidence += "; with that mended, the query gives what was expected"
		}
	}
	a.Faults = []fault.Fault{found}
	if t.chosen.Question.Answer.Query != "" {
		a.Reference = t.chosen.Question.Answer.Query
	}
	return judged{attempt: a}, nil
}

// FailureFault is the fault of a query that does not run, with its place, the nearest name, and the dialect that it belongs to.
func FailureFault(sql string, f *engine.Failure) fault.Fault {
	evidence := f.Error()
	if at := where(sql, f.Position); at != "" {
		evidence += " (" + at + ")"
	}
	if foreign, name, ok := foreignOf(sql, f); ok {
		evidence += fmt.Sprintf("; %s belongs to the dialect of %s: here it is %s", name, foreign.Dialects, foreign.Local)
	}
	return fault.Fault{Code: f.Code, Certainty: fault.Proved, Evidence: evidence}
}

var missingFunction = regexp.MustCompile(`(?i)function with name (\S+) does not exist|no such function: (\S+)`)

// unknownFunction is the function that a query calls and the engine does not have; "" for another failure.
func unknownFunction(f *engine.Failure) string {
	m := missingFunction.FindStringSubmatch(f.Message)
	if f.Code != fault.UnknownFunction || m == nil {
		return ""
	}
	return strings.Trim(m[1]+m[2], `"`)
}

// foreignOf recognises what a failing query has of another dialect.
func foreignOf(sql string, f *engine.Failure) (dialect.Foreign, string, bool) {
	if name := unknownFunction(f); name != "" {
		foreign, ok := dialect.Function(name)
		return foreign, name, ok
	}
	if f.Code == fault.Syntax {
		piece, foreign, ok := dialect.Syntax(sql)
		return foreign, "`" + piece + "`", ok
	}
	return dialect.Foreign{}, "", false
}

// mend writes the local name in place of an unknown one: another dialect's function of the same arguments, or the nearest name;
// "" where there is none.
func mend(sql string, f *engine.Failure) string {
	wrong, local := "", ""
	if name := unknownFunction(f); name != "" {
		foreign, _ := dialect.Function(name)
		wrong, local = name, foreign.Renamed()
	}
	if (f.Code == fault.UnknownColumn || f.Code == fault.UnknownTable) && len(f.Candidates) > 0 && f.Position >= 0 && f.Position < len(sql) {
		local = f.Candidates[0]
		for _, token := range query.Tokens(sql) {
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
	for _, token := range query.Tokens(sql) {
		if strings.EqualFold(strings.Trim(token.Text, `"`), wrong) && (token.Kind == query.WordToken || token.Kind == query.NameToken) {
			b.WriteString(sql[done:token.Start] + local)
			done = token.Start + len(token.Text)
		}
	}
	return b.String() + sql[done:]
}

// wouldBeRight runs a mended query and matches its answer.
func (w *running) wouldBeRight(ctx context.Context, t *task, sql string) (bool, error) {
	result, err := t.place.pool.Query(ctx, engine.Request{SQL: sql})
	if _, own := Failure(err); own {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	expectations, err := t.place.expectations(ctx, t.chosen)
	if err != nil {
		return false, ctx.Err() // the reference does not run: there is nothing to match
	}
	for _, e := range t.counting(expectations) {
		if match.Match(e.Table, result.Table, t.rules, e.Known).Matched {
			return true, nil
		}
	}
	return false, nil
}
