package upkeep

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"tovrel/core/chart"
	"tovrel/core/claim"
	"tovrel/core/golden"
	"tovrel/core/near"
	"tovrel/core/source"
	"tovrel/core/suspicion"
	"tovrel/engine"
	"tovrel/expect"
)

// facts runs the queries of a question's facts, and finds facts that every reply states which repeats the question.
func (c Checking) facts(ctx context.Context, set *golden.Set, q *golden.Question) (source.Problems, error) {
	var out source.Problems
	report := func(at source.Position, severity source.Severity, code, message, remedy string) {
		out = append(out, source.Problem{Position: at, Code: code, Severity: severity, Message: message, Remedy: remedy,
			Excerpt: source.Line(set.Text(), at.Line)})
	}
	for _, f := range q.States {
		for _, way := range f.Ways {
			if way.SQL == "" {
				if claim.StatedBy(q.Text, way.Words) {
					report(way.At, source.Warning, "fact-in-question", fmt.Sprintf("the words of the fact %q all stand in the question: "+
						"every reply that repeats it states the fact", way.Words), "say what the reply must add")
				}
				continue
			}
			result, err := c.Query(ctx, engine.Request{SQL: way.SQL})
			failure, failed := expect.Failure(err)
			switch {
			case failed:
				report(way.At, source.Error, "fact-fails", "the query of this fact does not run: "+failure.Message,
					"correct it; `tovrel data query` tries a query")
			case err != nil:
				return nil, err
			case result.Table.Rows() == 0 || result.Table.Columns[0].IsNull(0):
				report(way.At, source.Error, "fact-empty", "the query of this fact gives no value",
					"let its first cell be the value that a reply must give")
			}
		}
	}
	return out, nil
}

// chartColumns finds channels of a chart that is asked whose column the answer does not have.
func chartColumns(s suspicion.Subject) source.Problems {
	form := s.Question.Chart
	if form == nil || len(s.Answers) == 0 || s.Answers[0].Table == nil {
		return nil
	}
	names := s.Answers[0].Table.Names()
	var out source.Problems
	for _, channel := range slices.Sorted(maps.Keys(form.Fields)) {
		column := form.Fields[channel]
		if column == chart.NoField || slices.Contains(names, column) {
			continue
		}
		out = append(out, source.Problem{Position: s.Question.At, Code: "chart-column", Severity: source.Error,
			Message: fmt.Sprintf("chart: %s names %q, which the answer does not have", channel, column), Remedy: near.Hint(column, names),
			Excerpt: source.Line(s.Set.Text(), s.Question.At.Line)})
	}
	return out
}
