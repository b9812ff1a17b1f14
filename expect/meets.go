package expect

import (
	"context"
	"slices"

	"tovrel/core/match"
	"tovrel/core/table"
)

// Closer tells whether the first of two results that do not match is nearer to what is expected than the second.
func Closer(a, b match.Result) bool {
	return a.Closeness != nil && b.Closeness != nil && *a.Closeness > *b.Closeness
}

// AsWritten are the rules under which a table is the display of a query's result.
var AsWritten = func() match.Rules {
	var rules match.Rules
	_ = rules.Set("extra-columns", match.Choice{Value: "wrong"}) // known rules
	_ = rules.Set("order", match.Choice{Value: "any"})
	return rules
}()

// References are the accepted answers that a query gives: only these can be had on other rows.
func References(all []Expectation) []Expectation {
	return slices.DeleteFunc(slices.Clone(all), func(e Expectation) bool { return e.Reference == "" })
}

// Meets holds an answer against one accepted answer, with what is behind its cut where that counts. The error is of a worker or the
// context.
func (e Expectation) Meets(ctx context.Context, answer *table.Table, rules match.Rules) (match.Result, error) {
	r := match.Match(e.Table, answer, rules, e.Known)
	if e.behind == nil || r.Matched || e.behind.probe.TopN == nil && !match.MayTie(r, rules, e.Known) {
		return r, nil
	}
	whole, err := e.Whole(ctx)
	if err != nil {
		return r, err
	}
	known := whole.Known
	known.Columns = e.Known.Columns
	return match.Match(whole.Table, answer, rules, known), nil
}

// MeetsFirst holds an answer against one accepted answer where ties are not told apart: of the keys of the reference's order and of its
// cut only the first one counts. The error is of a worker or the context.
func (e Expectation) MeetsFirst(ctx context.Context, answer *table.Table, rules match.Rules) (match.Result, error) {
	whole, err := e.Whole(ctx)
	if err != nil {
		return match.Result{}, err
	}
	known := whole.Known
	known.Columns = e.Known.Columns
	known.Ranking = known.Ranking[:min(1, len(known.Ranking))]
	if known.Cut != nil {
		cut := *known.Cut
		cut.Keys = cut.Keys[:min(1, len(cut.Keys))]
		if len(cut.Keys) == 0 {
			cut.Keys = nil // those of the ranking
		}
		known.Cut = &cut
	}
	return match.Match(whole.Table, answer, rules, known), nil
}
