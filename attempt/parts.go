package attempt

import (
	"context"

	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/table"
	"tovrel/engine"
	"tovrel/expect"
	"tovrel/translator"
)

// The parts of a reply that can be judged, in the order in which the first that is there is taken.
const (
	partQuery = "query"
	partTable = "table"
	partText  = "text"
)

// Parts lists the parts of a reply that can be judged.
func Parts() []string { return []string{partQuery, partTable, partText} }

// chosenPart is the part of a reply that is judged; "" where the wanted one is not there.
func chosenPart(r translator.Reply, wanted string) string {
	has := map[string]bool{partQuery: r.Query != "", partTable: r.Table != nil, partText: r.Text != ""}
	for _, part := range Parts() {
		if has[part] && (wanted == "" || wanted == part) {
			return part
		}
	}
	return ""
}

// partTable gives a part's table, running a query; nil for a text. A failure is the query's own.
func (w *running) partTable(ctx context.Context, t *task, a *record.Attempt, reply translator.Reply, part string) (*table.Table, *engine.Failure, error) {
	switch part {
	case partQuery:
		result, err := t.place.Pool.Query(ctx, engine.Request{SQL: reply.Query, Tree: w.plan.Diagnose.Runs > 0 || len(t.place.Briefing.Hidden()) > 0})
		if f, ok := expect.Failure(err); ok {
			return nil, f, nil
		}
		if err != nil {
			return nil, nil, err
		}
		a.Ran, a.Instead = result.Elapsed, result.Instead
		t.hidden, t.tree = hidden(t.place.Briefing, result.Tree), result.Tree
		return result.Table, nil, nil
	case partTable:
		answer, err := table.FromJSON(reply.Table) // ParseReply read it already
		return answer, nil, err
	}
	return nil, nil, nil
}

// partsDisagree remarks that another part of a right reply says something else.
const partsDisagree = match.Remark("parts-disagree")

// compareParts holds the other parts of a right reply against the one that was judged.
func (w *running) compareParts(ctx context.Context, t *task, a *record.Attempt, reply translator.Reply, judgedPart string, answer *table.Table) error {
	disagrees := false
	if reply.Table != nil && judgedPart != partTable || reply.Query != "" && judgedPart != partQuery {
		part := partTable
		if judgedPart == partTable {
			part = partQuery
		}
		scrap := *a
		other, failure, err := w.partTable(ctx, t, &scrap, reply, part)
		if err != nil {
			return err
		}
		disagrees = failure != nil || !match.Match(answer, other, t.rules, match.Known{}).Matched
	}
	if r := match.Text(answer, reply.Text, t.wording, nil); reply.Text != "" && !r.TooLong && !r.Matched {
		disagrees = true
	}
	if disagrees {
		a.Remarks = append(a.Remarks, partsDisagree)
	}
	return nil
}
