package upkeep

import (
	"context"
	"fmt"
	"strings"

	"tovrel/core/match"
	"tovrel/core/source"
	"tovrel/core/suspicion"
	"tovrel/core/value"
	"tovrel/engine"
	"tovrel/expect"
)

// second holds a question's second query against its reference, on the sample and on every twin that is kept: two ways to compute one
// answer that do not agree are a defect, whichever of them is wrong.
func (c Checking) second(ctx context.Context, s suspicion.Subject) (source.Problems, error) {
	q, reference := s.Question, s.Answers[0].Answer.Query
	if q.Second == "" {
		return nil, nil
	}
	if reference == "" {
		return secondProblem(s, "second-query-alone", "there is a second query and no reference query to hold it against",
			"write the reference query into the question"), nil
	}
	differs, err := c.secondOn(ctx, c.Queries, s, "")
	for i := 0; i < len(c.Twins) && differs == nil && err == nil; i++ {
		differs, err = c.secondOn(ctx, c.Twins[i], s, fmt.Sprintf(" on twin %d", c.Twins[i].Number))
	}
	return differs, err
}

// secondOn holds a second query against the reference on some data; nothing where they agree, or where the reference does not run.
func (c Checking) secondOn(ctx context.Context, on expect.Queries, s suspicion.Subject, where string) (source.Problems, error) {
	e, err := expect.FromReference(ctx, on, s.Answers[0].Answer.Query, s.Answers[0].Answer.Forms)
	if _, failed := expect.Failure(err); failed {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	result, err := on.Query(ctx, engine.Request{SQL: s.Question.Second})
	if f, failed := expect.Failure(err); failed {
		return secondProblem(s, "second-query-fails", "the second query does not run"+where+": "+f.Error(), "correct it; "+
			"`tovrel data query` tries a query"), nil
	}
	if err != nil {
		return nil, err
	}
	r, err := e.Meets(ctx, result.Table, s.Rules)
	if err != nil || r.Matched {
		return nil, err
	}
	return secondProblem(s, "second-query-differs", "the second query does not give what the reference query gives"+where+": "+shownRows(r),
		"one of them is wrong: run both with `tovrel data query`, correct it, or say in the question what they take differently"), nil
}

func secondProblem(s suspicion.Subject, code, message, remedy string) source.Problems {
	at := s.Question.SecondAt
	return source.Problems{{Position: at, Code: code, Severity: source.Error, Message: message, Remedy: remedy,
		Excerpt: source.Line(s.Set.Text(), at.Line)}}
}

// shownRows are why two results differ, with the first rows that show it.
func shownRows(r match.Result) string {
	const most = 3
	parts := []string{r.Why}
	expected, got := r.Tables.Expected, r.Tables.Answer
	for _, c := range r.Cells[:min(most, len(r.Cells))] {
		parts = append(parts, fmt.Sprintf("in (%s) %s is %s and %s", rowText(expected.Row(c.ExpectedRow)), expected.Columns[c.Column].Name,
			c.Expected, c.Answer))
	}
	for _, row := range r.Missing[:min(most, len(r.Missing))] {
		parts = append(parts, fmt.Sprintf("only the reference has (%s)", rowText(expected.Row(row))))
	}
	for _, row := range r.ExtraRows[:min(most, len(r.ExtraRows))] {
		parts = append(parts, fmt.Sprintf("only the second query has (%s)", rowText(got.Row(row))))
	}
	return strings.Join(parts, "; ")
}

func rowText(cells []value.Value) string {
	var out []string
	for _, v := range cells {
		out = append(out, v.String())
	}
	return strings.Join(out, ", ")
}
