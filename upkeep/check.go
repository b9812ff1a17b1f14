// Package upkeep keeps golden sets: it checks them, looks for what is likely a mistake, computes answers anew, measures what they cover
// and how many wrong queries they would notice, and takes answers, users' questions and spreadsheets over into them. It asks no
// translator.
package upkeep

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"
	"sync"

	"golang.org/x/sync/errgroup"

	"tovrel/core/briefing"
	"tovrel/core/golden"
	"tovrel/core/match"
	"tovrel/core/source"
	"tovrel/core/sql"
	"tovrel/core/suspicion"
	"tovrel/core/table"
	"tovrel/engine"
	"tovrel/expect"
	"tovrel/trouble"
)

// Checking is what golden sets are checked on.
type Checking struct {
	expect.Queries
	Read     expect.Tables
	Briefing *briefing.Briefing // nil for none
	Told     briefing.Dataset   // for questions about the tables themselves
	Rules    match.Rules        // the workspace's
	Twins    []Twin             // those that are kept
	Parallel int
	Server   string // the dialect of the server that holds the same rows; "" for none
}

// Twin runs queries on a twin.
type Twin struct {
	Number int
	expect.Queries
}

// Check runs the reference queries of a set and holds their results against the tables that are written beside them; where these
// are sound, it looks for likely mistakes. The error is of a worker or the context; what is wrong with the set are problems.
func Check(ctx context.Context, c Checking, set *golden.Set) (source.Problems, error) {
	var mu sync.Mutex
	var problems source.Problems
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(c.Parallel)
	for _, question := range set.Each() {
		g.Go(trouble.Safe(func() error {
			found, err := c.question(ctx, set, question)
			mu.Lock()
			defer mu.Unlock()
			problems = append(problems, found...)
			return err
		}))
	}
	err := g.Wait()
	problems.Sort()
	return problems, err
}

func (c Checking) question(ctx context.Context, set *golden.Set, q *golden.Question) (source.Problems, error) {
	c.Queries = expect.On(c.Queries, q, c.Told)
	s := suspicion.Subject{Set: set, Question: q, Rules: q.Rules.Over(set.Rules.Over(c.Rules)), Briefing: c.Briefing,
		Answers: []suspicion.Answer{{Answer: q.Answer}}}
	for _, r := range q.Readings {
		s.Answers = append(s.Answers, suspicion.Answer{Answer: r.Answer, Reading: r})
	}
	var problems source.Problems
	for i := range s.Answers {
		found, err := c.answer(ctx, set, &s.Answers[i])
		if err != nil {
			return nil, err
		}
		problems = append(problems, found...)
	}
	facts, err := c.facts(ctx, set, q)
	if err != nil {
		return nil, err
	}
	problems = slices.Concat(problems, facts, chartColumns(s))
	if problems.Errors() > 0 {
		return problems, nil
	}
	empty, err := c.empty(ctx, s)
	if err != nil {
		return nil, err
	}
	second, err := c.second(ctx, s)
	return slices.Concat(problems, s.Find(), empty, second), err
}

// empty finds references that give nothing, here and on every twin: any query that finds nothing is right.
func (c Checking) empty(ctx context.Context, s suspicion.Subject) (source.Problems, error) {
	own := s.Answers[0]
	if own.Table == nil || own.Table.Rows() > 0 || own.Answer.Query == "" || s.Question.Draft {
		return nil, nil
	}
	for _, twin := range c.Twins {
		result, err := twin.Query(ctx, engine.Request{SQL: own.Answer.Query})
		if _, failed := expect.Failure(err); err != nil && !failed {
			return nil, err
		}
		if err == nil && result.Table.Rows() > 0 {
			return nil, nil
		}
	}
	return s.Warn(own.Answer.QueryAt, "empty-answer",
		"the reference query finds nothing, here and on every twin: any query that finds nothing is right",
		"add a row to the sample data that fills it, make twins with `tovrel data twin`, or ask for another period"), nil
}

// answer computes an answer, and finds where it is not what is written.
func (c Checking) answer(ctx context.Context, set *golden.Set, one *suspicion.Answer) (source.Problems, error) {
	a := one.Answer
	if a.Query == "" {
		if t, err := writtenOr(c.Read, set, a); err == nil {
			one.Table = t
		}
		return checkWritten(c.Read, set, a), nil
	}
	result, err := c.Query(ctx, engine.Request{SQL: a.Query, Forms: a.Forms, Tree: true})
	if f, ok := expect.Failure(err); ok {
		return source.Problems{queryProblem(set, a, f)}, nil
	}
	if err != nil {
		return nil, err
	}
	one.Table = result.Table
	if len(result.Tree) > 0 {
		if one.Tree, err = sql.Read(result.Tree); err != nil {
			return nil, err
		}
	}
	if problems, err := c.onServer(ctx, set, a, one.Table, set.Rules.Over(c.Rules)); err != nil || len(problems) > 0 {
		return problems, err
	}
	if a.Table == nil && a.File == "" {
		return nil, nil
	}
	written, err := expect.Written(c.Read, set, a)
	if err != nil {
		return checkWritten(c.Read, set, a), nil
	}
	r := match.Match(written, result.Table, expect.AsWritten, match.Known{Rounded: expect.AllRounded(len(written.Columns))})
	if r.Matched {
		return nil, nil
	}
	p := place(set, a)
	p.Code, p.Message = "table-disagrees", "the table is not what the reference query gives: "+differences(r, a)
	p.Remedy = "correct the query, or put its present result into the table (`tovrel data query --output markdown` prints it so)"
	return source.Problems{p}, nil
}

// writtenOr is an answer's table as it is written; nil for one that expects nothing.
func writtenOr(read expect.Tables, set *golden.Set, a golden.Answer) (*table.Table, error) {
	if a.Empty() {
		return nil, nil
	}
	return expect.Written(read, set, a)
}

// checkWritten tries to read an answer that has only a table or file.
func checkWritten(read expect.Tables, set *golden.Set, a golden.Answer) source.Problems {
	if a.Empty() {
		return nil
	}
	// a missing file is found when the set is read
	if _, err := expect.Written(read, set, a); err != nil && !errors.Is(err, fs.ErrNotExist) {
		p := place(set, a)
		p.Code, p.Message, p.Remedy = "expected-unreadable", "the expected table cannot be read: "+err.Error(), "correct it"
		return source.Problems{p}
	}
	return nil
}

// place is where an answer's table or file stands.
func place(set *golden.Set, a golden.Answer) source.Problem {
	at := a.FileAt
	if a.Table != nil {
		at = a.Table.At
	}
	return source.Problem{Position: at, Severity: source.Error, Excerpt: source.Line(set.Text(), at.Line)}
}

// differences names the first cells that differ.
func differences(r match.Result, a golden.Answer) string {
	if len(r.Cells) == 0 || a.Table == nil {
		return r.Why
	}
	var parts []string
	for _, c := range r.Cells[:min(3, len(r.Cells))] {
		parts = append(parts, fmt.Sprintf("row %d, %s: the table has %s and the query gives %s", c.ExpectedRow+1,
			a.Table.Names[c.Column], c.Expected, c.Answer))
	}
	if n := len(r.Cells) - len(parts); n > 0 {
		parts = append(parts, fmt.Sprintf("and %d more cells", n))
	}
	if n := len(r.Missing) + len(r.ExtraRows); n > 0 {
		parts = append(parts, fmt.Sprintf("and %d rows without a counterpart", n))
	}
	return strings.Join(parts, "; ")
}

// queryProblem is a reference query that does not run, at its place in the document.
func queryProblem(set *golden.Set, a golden.Answer, f *engine.Failure) source.Problem {
	at := a.QueryAt
	if f.Position >= 0 && f.Position <= len(a.Query) {
		before := a.Query[:f.Position]
		at.Line += strings.Count(before, "\n")
		at.Column = len([]rune(before[strings.LastIndexByte(before, '\n')+1:])) + 1
	}
	return source.Problem{Position: at, Code: "query-fails", Severity: source.Error,
		Message: "the reference query does not run: " + f.Error(),
		Remedy:  "correct it; `tovrel data query` tries a query", Excerpt: source.Line(set.Text(), at.Line)}
}
