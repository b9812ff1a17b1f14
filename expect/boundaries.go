package expect

import (
	"context"

	"tovrel/core/golden"
	"tovrel/core/sql"
	"tovrel/core/twin"
	"tovrel/engine"
	"tovrel/engine/sqltext"
)

// ReferenceTrees gives the syntax trees of the reference queries of some sets, readings included; a query that does not parse has none.
// The error is of a worker or the context.
func ReferenceTrees(ctx context.Context, q Queries, sets []*golden.Set, dataset string) ([]*sql.Tree, error) {
	var out []*sql.Tree
	for _, set := range sets {
		if set.Dataset != dataset {
			continue
		}
		for _, question := range set.Each() {
			answers := []golden.Answer{question.Answer}
			for _, r := range question.Readings {
				answers = append(answers, r.Answer)
			}
			for _, a := range answers {
				tree, err := parsed(ctx, q, a.Query)
				if err != nil {
					return nil, err
				}
				if tree != nil {
					out = append(out, tree)
				}
			}
		}
	}
	return out, nil
}

// Boundaries are what the reference queries of some sets compare a dataset's columns with. The error is of a worker or the context.
func Boundaries(ctx context.Context, q Queries, sets []*golden.Set, dataset string) ([]twin.Boundary, error) {
	trees, err := ReferenceTrees(ctx, q, sets, dataset)
	if err != nil {
		return nil, err
	}
	return BoundariesOf(ctx, q, trees)
}

// BoundariesOf are what queries compare columns with. The error is of a worker or the context.
func BoundariesOf(ctx context.Context, q Queries, trees []*sql.Tree) ([]twin.Boundary, error) {
	var failed error
	bounds := twin.Boundaries(trees, func(formula string) string {
		result, err := q.Query(ctx, engine.Request{SQL: sqltext.AsText(formula)})
		if _, refused := Failure(err); refused || err == nil && result.Table.Columns[0].IsNull(0) {
			return ""
		}
		if err != nil {
			failed = err
			return ""
		}
		return result.Table.Columns[0].Value(0).String()
	})
	return bounds, failed
}

// parsed is a query's syntax tree; nil where it does not parse or the engine has none.
func parsed(ctx context.Context, q Queries, text string) (*sql.Tree, error) {
	if text == "" {
		return nil, nil
	}
	result, err := q.Query(ctx, engine.Request{SQL: text, Tree: true, ParseOnly: true})
	if _, failed := Failure(err); failed || err == nil && len(result.Tree) == 0 {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return sql.Read(result.Tree)
}
