package attempt

import (
	"context"
	"time"

	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/sql"
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

// parts lists the parts of a reply that can be judged.
func parts() []string { return []string{partQuery, partTable, partText} }

// chosenPart is the part of a reply that is judged; "" where the wanted one is not there.
func chosenPart(r translator.Reply, wanted string) string {
	has := map[string]bool{partQuery: r.Query != "", partTable: r.Table != nil, partText: r.Text != ""}
	for _, part := range parts() {
		if has[part] && (wanted == "" || wanted == part) {
			return part
		}
	}
	return ""
}

// given is what a part of a reply gives.
type given struct {
	table   *table.Table    // nil for a text
	failure *engine.Failure // of its query; nil where that ran
	ran     time.Duration
	instead string    // the text that ran in the query's place; "" for the query itself
	tree    *sql.Tree // of its query; nil without one
	hidden  []string  // columns that its query reads and the briefing hides
}

// get gives a part's table, running a query. The error is of a worker or the context.
func (w *running) get(ctx context.Context, t *task, reply translator.Reply, part string) (given, error) {
	switch part {
	case partQuery:
		wanted := w.plan.Diagnose.Runs > 0 || len(t.place.Briefing.Hidden()) > 0
		result, err := t.place.Pool.Query(ctx, engine.Request{SQL: reply.Query, Tree: wanted})
		if f, ok := expect.Failure(err); ok {
			return given{failure: f}, nil
		}
		tree := treeOf(result.Tree)
		return given{table: result.Table, ran: result.Elapsed, instead: result.Instead, tree: tree,
			hidden: hidden(t.place.Briefing, tree)}, err
	case partTable:
		answer, err := table.FromJSON(reply.Table) // ParseReply read it already
		return given{table: answer}, err
	}
	return given{}, nil
}

// treeOf reads a serialised tree; nil where there is none.
func treeOf(serialised []byte) *sql.Tree {
	if len(serialised) == 0 {
		return nil
	}
	tree, err := sql.Read(serialised)
	if err != nil {
		return nil
	}
	return tree
}

// partsDisagree remarks that another part of a right reply says something else.
const partsDisagree = match.Remark("parts-disagree")

// compareParts holds the other parts of a right reply against the one that was judged.
func (w *running) compareParts(ctx context.Context, t *task, a *record.Attempt, reply translator.Reply, judgedPart string,
	answer *table.Table) error {
	disagrees := false
	if reply.Table != nil && judgedPart != partTable || reply.Query != "" && judgedPart != partQuery {
		part := partTable
		if judgedPart == partTable {
			part = partQuery
		}
		other, err := w.get(ctx, t, reply, part)
		if err != nil {
			return err
		}
		disagrees = other.failure != nil || !match.Match(answer, other.table, t.rules, match.Known{}).Matched
	}
	if r := match.Text(answer, reply.Text, t.wording, nil); reply.Text != "" && !r.TooLong && !r.Matched {
		disagrees = true
	}
	if disagrees {
		a.Remarks = append(a.Remarks, partsDisagree)
	}
	return nil
}
