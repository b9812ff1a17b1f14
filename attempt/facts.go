package attempt

import (
	"context"
	"fmt"
	"strings"

	"tovrel/core/claim"
	"tovrel/core/fault"
	"tovrel/core/golden"
	"tovrel/core/record"
	"tovrel/core/table"
	"tovrel/core/value"
	"tovrel/engine"
	"tovrel/expect"
	"tovrel/translator"
)

// facts judges a reply to a question that lists facts: its words, and the rows of its query or table as words.
func (w *running) facts(ctx context.Context, t *task, a record.Attempt, reply translator.Reply) (judged, error) {
	q := t.chosen.Question
	text := reply.Text
	if rows, j, decided, err := w.rowsInWords(ctx, t, &a, reply); decided || err != nil {
		return j, err
	} else if rows != "" {
		text = strings.TrimSpace(text + "\n" + rows)
	}
	facts := claim.Facts{Enough: q.Enough, Avoids: q.Avoids, Question: t.wording, Synonyms: t.place.sameWords()}
	for _, f := range q.States {
		fact, err := t.place.fact(ctx, t.chosen.Question, f)
		if failure, ok := expect.Failure(err); ok {
			return unscored(a, fault.ReasonReferenceFailed, fmt.Sprintf("the query of a fact (%s) does not run: %s", f, failure.Message)),
				nil
		}
		if err != nil {
			return judged{}, err
		}
		facts.States = append(facts.States, fact)
	}
	found := claim.JudgeFacts(text, facts)
	a.Facts = &record.Facts{Stated: found.Stated, Missing: found.Missing, Partly: found.Partly, Contradicted: found.Contradicted}
	if found.Verdict == claim.Unsure {
		a.Judge(record.Seen{Unscored: fault.ReasonNeedsALook, Why: found.Why})
		return judged{attempt: a}, nil
	}
	seen := record.Seen{Fits: found.Verdict == claim.Right, Why: found.Why}
	code := fault.FactMissing
	if found.Contradicted != "" {
		code = fault.FactContradicted
	}
	if !seen.Fits {
		seen.Faults = []fault.Fault{{Code: code, Certainty: fault.Proved, Evidence: found.Why}}
	}
	a.Judge(seen)
	a.Closeness = &found.Closeness
	return judged{attempt: a}, nil
}

// rowsInWords gives the rows of a reply's table, or of its query, a line each; decided tells that the query's failure is the judgement.
func (w *running) rowsInWords(ctx context.Context, t *task, a *record.Attempt, reply translator.Reply) (string, judged, bool, error) {
	part := chosenPart(reply, "")
	if part != partQuery && part != partTable {
		return "", judged{}, false, nil
	}
	got, err := w.get(ctx, t, reply, part)
	if err != nil {
		return "", judged{}, false, err
	}
	if got.failure != nil {
		if reply.Text != "" {
			return "", judged{}, false, nil // its words may do
		}
		j, err := w.failed(ctx, t, *a, got.failure)
		return "", j, true, err
	}
	a.Ran, a.Instead = got.ran, got.instead
	return inLines(got.table), judged{}, false, nil
}

// mostLines bounds the rows that are read as words.
const mostLines = 400

// inLines writes a table's rows as lines "column: cell, …".
func inLines(rows *table.Table) string {
	var b strings.Builder
	for row := range min(rows.Rows(), mostLines) {
		for i, c := range rows.Columns {
			if i > 0 {
				b.WriteString(", ")
			}
			fmt.Fprintf(&b, "%s %s", strings.ReplaceAll(c.Name, "_", " "), c.Value(row).String())
		}
		b.WriteString("\n")
	}
	return b.String()
}

// fact computes the values of a fact. The error may be *engine.Failure.
func (p *Place) fact(ctx context.Context, q *golden.Question, f golden.Fact) (claim.Fact, error) {
	out := claim.Fact{Said: f.String()}
	for _, way := range f.Ways {
		one := claim.Way{Words: way.Words, About: way.About}
		if way.SQL != "" {
			v, err := p.firstCell(ctx, expect.On(p.Pool, q, p.Told), way.SQL)
			if err != nil {
				return out, err
			}
			one.Value = &v
			out.Said += fmt.Sprintf(" (%s)", v.String())
		}
		out.Ways = append(out.Ways, one)
	}
	return out, nil
}

// firstCell is the first cell of a query's result, kept for all attempts; null where it has none.
func (p *Place) firstCell(ctx context.Context, on expect.Queries, query string) (value.Value, error) {
	p.mu.Lock()
	v, known := p.cells[query]
	p.mu.Unlock()
	if known {
		return v, nil
	}
	result, err := on.Query(ctx, engine.Request{SQL: query})
	if err != nil {
		return v, err
	}
	if result.Table.Rows() > 0 {
		v = result.Table.Columns[0].Value(0)
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.cells == nil {
		p.cells = map[string]value.Value{}
	}
	p.cells[query] = v
	return v, nil
}

// sameWords are the words that the briefing says to mean the same.
func (p *Place) sameWords() [][]string {
	if p.Briefing == nil {
		return nil
	}
	var out [][]string
	for _, t := range p.Briefing.Tables {
		for _, c := range t.Columns {
			if len(c.Synonyms) > 0 {
				out = append(out, append([]string{strings.ReplaceAll(c.Name, "_", " ")}, c.Synonyms...))
			}
		}
	}
	return out
}
