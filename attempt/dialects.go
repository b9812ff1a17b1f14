package attempt

import (
	"context"
	"strings"

	"tovrel/core/dialect"
	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/engine"
	"tovrel/expect"
)

// translated remarks that an answer's query was rewritten from the translator's dialect for the embedded engine.
const translatedRemark = match.Remark("translated")

// otherWay notes that a query could not be seen as the embedded engine would run it.
const otherWay = "the answer's query has no form in which the embedded engine gives the same: causes were looked for in its table " +
	"alone, and it was not tried on twins"

// dialect is what the translator's queries on a place are written in.
func (w *running) dialect(p *Place) string {
	if w.plan.Dialect != "" {
		return w.plan.Dialect
	}
	return p.Dialect
}

// seenLocally adds to what a query of another dialect gave its form for the embedded engine, on which its causes are looked for and it is
// tried on twins: the one that ran, or where it ran on a server, one that gives the same there and here. The error is of a worker or the
// context.
func (w *running) seenLocally(ctx context.Context, p *Place, got *given, r engine.Result) error {
	got.rules = r.Rules
	switch {
	case r.Rules != nil:
		got.local = r.Instead
		return nil
	case w.dialect(p) == engine.DuckDB || p.Pool == nil || len(r.Tree) == 0 || !p.Beside:
		return nil
	}
	here, err := p.Pool.Query(ctx, engine.Request{Serialised: string(r.Tree)})
	if _, failed := expect.Failure(err); err != nil && !failed {
		return err
	}
	if err != nil || !match.Match(r.Table, here.Table, expect.AsWritten, match.Known{}).Matched {
		got.tree, got.unlike = nil, true
		return nil
	}
	got.local = here.Instead
	return nil
}

// here is the query as the embedded engine runs it: "" where it cannot.
func (g given) here() string {
	if g.local != "" || g.unlike {
		return g.local
	}
	return g.query
}

// unchecked are the rules by which a query was rewritten that were never held against a server of that dialect, in words; "" for none.
func (g given) unchecked() string {
	if len(g.rules) == 0 {
		return ""
	}
	last := len(g.rules) - 1
	from := strings.TrimPrefix(g.rules[last], "dialect/")
	unchecked := dialect.Unchecked(from, g.rules[:last])
	if len(unchecked) == 0 {
		return ""
	}
	return strings.Join(unchecked[:min(len(unchecked), 3)], ", ") + " of the dialect " + from
}

// inDialect notes of an attempt that its query was rewritten.
func inDialect(a *record.Attempt, g given) {
	if g.rules != nil {
		a.Remarks = append(a.Remarks, translatedRemark)
	}
	if g.unlike {
		a.Notes = append(a.Notes, otherWay)
	}
}
