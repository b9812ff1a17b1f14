package upkeep

import (
	"context"
	"fmt"
	"strings"

	"tovrel/core/golden"
	"tovrel/core/match"
	"tovrel/core/source"
	"tovrel/core/table"
	"tovrel/engine"
	"tovrel/expect"
)

// onServer holds what a reference query gives on the dataset's server against what it gives here. The error is of a worker or the context.
func (c Checking) onServer(ctx context.Context, set *golden.Set, a golden.Answer, here *table.Table, rules match.Rules) (source.Problems,
	error) {
	if c.Server == "" || a.Query == "" || here == nil {
		return nil, nil
	}
	written := a.Forms[c.Server] != ""
	result, err := c.Query(ctx, engine.Request{SQL: a.Query, Forms: a.Forms, There: true})
	f, failed := expect.Failure(err)
	switch {
	case err != nil && !failed:
		return nil, err
	case failed && f.Foreign:
		return c.atQuery(set, a, "not-in-dialect", fmt.Sprintf("the reference query has no form in the dialect %s: %s", c.Server,
			f.Message),
			"write it in that dialect as queries: {"+c.Server+": …} in the question's settings"), nil
	case failed:
		remedy := "write it in that dialect as queries: {" + c.Server + ": …} in the question's settings"
		if written {
			remedy = "correct it in queries:"
		}
		return c.atQuery(set, a, "query-fails", fmt.Sprintf("the reference query does not run on the %s server: %s", c.Server, f.Error()),
			remedy), nil
	}
	r := match.Match(here, result.Table, expect.AsWritten.Over(rules), match.Known{})
	if !r.Matched { // a median of decimals has more of them on some engines
		r = match.Match(here, result.Table, expect.AsWritten.Over(rules), match.Known{Rounded: expect.AllRounded(len(here.Columns))})
	}
	if r.Matched {
		return nil, nil
	}
	said := strings.TrimSpace(r.Why)
	return c.atQuery(set, a, "engines-differ", fmt.Sprintf("the reference query gives something else on the %s server than here: %s",
		c.Server,
		said), "write it so that both give the same, or in that dialect as queries: {"+c.Server+": …}"), nil
}

func (c Checking) atQuery(set *golden.Set, a golden.Answer, code, message, remedy string) source.Problems {
	return source.Problems{{Position: a.QueryAt, Code: code, Severity: source.Error, Message: message, Remedy: remedy,
		Excerpt: source.Line(set.Text(), a.QueryAt.Line)}}
}
