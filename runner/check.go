package runner

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"strings"
	"sync"

	"golang.org/x/sync/errgroup"

	"tovrel/core/golden"
	"tovrel/core/match"
	"tovrel/core/source"
	"tovrel/engine"
)

// Check runs the reference queries of a set and holds their results against the tables that are written beside them. The
// error is of a worker or the context; what is wrong with the set are problems.
func Check(ctx context.Context, q Queries, read Tables, set *golden.Set, parallel int) (source.Problems, error) {
	var mu sync.Mutex
	var problems source.Problems
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(parallel)
	check := func(a golden.Answer) {
		g.Go(func() error {
			found, err := checkAnswer(ctx, q, read, set, a)
			mu.Lock()
			defer mu.Unlock()
			problems = append(problems, found...)
			return err
		})
	}
	for _, question := range set.All() {
		check(question.Answer)
		for _, r := range question.Readings {
			check(r.Answer)
		}
	}
	err := g.Wait()
	problems.Sort()
	return problems, err
}

func checkAnswer(ctx context.Context, q Queries, read Tables, set *golden.Set, a golden.Answer) (source.Problems, error) {
	if a.Query == "" {
		return checkWritten(read, set, a), nil
	}
	result, err := q.Query(ctx, engine.Request{SQL: a.Query})
	if f, ok := Failure(err); ok {
		return source.Problems{queryProblem(set, a, f)}, nil
	}
	if err != nil || a.Table == nil && a.File == "" {
		return nil, err
	}
	written, err := Written(read, set, a)
	if err != nil {
		return checkWritten(read, set, a), nil
	}
	r := match.Match(written, result.Table, asWritten, match.Known{Rounded: all(len(written.Columns))})
	if r.Matched {
		return nil, nil
	}
	p := place(set, a)
	p.Code, p.Message = "table-disagrees", "the table is not what the reference query gives: "+differences(r, a)
	p.Remedy = "correct the query, or put its present result into the table (`tovrel data query --output markdown` prints it so)"
	return source.Problems{p}, nil
}

// checkWritten tries to read an answer that has only a table or file.
func checkWritten(read Tables, set *golden.Set, a golden.Answer) source.Problems {
	if a.Empty() {
		return nil
	}
	if _, err := Written(read, set, a); err != nil && !errors.Is(err, fs.ErrNotExist) { // a missing file is found when the set is read
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
		parts = append(parts, fmt.Sprintf("row %d, %s: the table has %s and the query gives %s", c.ExpectedRow+1, a.Table.Names[c.Column], c.Expected, c.Answer))
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
	return source.Problem{Position: at, Code: "query-fails", Severity: source.Error, Message: "the reference query does not run: " + f.Error(),
		Remedy: "correct it; `tovrel data query` tries a query", Excerpt: source.Line(set.Text(), at.Line)}
}

// Placed adds to a query's failure where in the query it is.
func Placed(sql string, err error) error {
	f, ok := Failure(err)
	if !ok {
		return err
	}
	if at := where(sql, f.Position); at != "" {
		return fmt.Errorf("the query does not run (%s, %s): %w", f.Code, at, f)
	}
	return fmt.Errorf("the query does not run (%s): %w", f.Code, f)
}
