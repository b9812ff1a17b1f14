package expect

import (
	"context"

	"tovrel/core/claim"
	"tovrel/core/match"
)

// Said is what a reply in words is held against. The error is of a worker or the context.
func (e Expectation) Said(ctx context.Context, q Queries, question string, rules match.Rules) (claim.Expected, error) {
	e, err := e.Whole(ctx)
	if err != nil {
		return claim.Expected{}, err
	}
	domain, err := e.Domain(ctx, q)
	if err != nil {
		return claim.Expected{}, err
	}
	said := claim.Expected{Table: e.Table, Ranked: len(e.Known.Ranking) > 0, Question: question, Query: e.Reference, Domain: domain,
		Units: e.Known.Units, Labels: e.Known.Labels, Synonyms: e.Known.Synonyms, Rules: rules, Known: e.Known}
	if e.Known.Cut != nil {
		said.Full = e.Known.Cut.Full
	}
	for _, item := range e.items {
		said.Keys = append(said.Keys, item.Values)
	}
	return said, nil
}
