package attempt

import (
	"context"
	"time"

	"tovrel/core/claim"
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
	partChart = "chart"
	partText  = "text"
)

// parts lists the parts of a reply that can be judged.
func parts() []string { return []string{partQuery, partTable, partChart, partText} }

// chosenPart is the part of a reply that is judged; "" where the wanted one is not there.
func chosenPart(r translator.Reply, wanted string) string {
	has := map[string]bool{partQuery: r.RunsSQL(), partTable: r.Table != nil, partChart: r.Chart != nil, partText: r.Text != ""}
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
	instead string          // the text that ran in the query's place; "" for the query itself
	tree    *sql.Tree       // of its query; nil without one
	hidden  []string        // columns that its query reads and the briefing hides
	before  []given         // what earlier statements of the same reply gave
	query   string          // the statement that gave it
	local   string          // the query as the embedded engine runs it, where that is another; "" for the query itself
	unlike  bool            // there is no such form
	foreign *engine.Failure // of a query that its own dialect's server may run; nil for none
	rules   []string        // by which the query was rewritten; nil where it was not
}

// get gives a part's table, running a query. The error is of a worker or the context.
func (w *running) get(ctx context.Context, t *task, reply translator.Reply, part string) (given, error) {
	switch part {
	case partQuery:
		return w.getAll(ctx, t, sql.Statements(reply.Query))
	case partTable:
		answer, err := table.FromJSON(reply.Table) // ParseReply read it already
		return given{table: answer}, err
	}
	return given{}, nil
}

// getAll runs the statements of a reply, each by itself: the last one counts, unless another matches. One that fails is the failure of all.
func (w *running) getAll(ctx context.Context, t *task, statements []string) (given, error) {
	wanted := w.plan.Diagnose.Runs > 0 || len(t.place.Briefing.Hidden())+len(t.place.Hides) > 0
	on := expect.On(t.place.Pool, t.chosen.Question, t.place.Told)
	var before []given
	for _, text := range statements {
		result, err := on.Query(ctx, engine.Request{SQL: text, Tree: wanted || t.place.Beside, Dialect: w.dialect(t.place)})
		if f, ok := expect.Failure(err); ok && f.Foreign {
			return given{foreign: f}, nil
		} else if ok {
			return given{failure: f}, nil
		}
		if err != nil {
			return given{}, err
		}
		tree := treeOf(result.Tree)
		one := given{table: result.Table, ran: result.Elapsed, instead: result.Instead, tree: tree, query: text,
			hidden: hidden(t.place, tree)}
		if err := w.seenLocally(ctx, t.place, &one, result); err != nil {
			return given{}, err
		}
		before = append(before, one)
	}
	last := before[len(before)-1]
	last.before = before[:len(before)-1]
	return last, nil
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
	if reply.Table != nil && judgedPart != partTable || reply.RunsSQL() && judgedPart != partQuery {
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
	said := claim.Expected{Table: answer, Question: t.wording, Rules: t.rules}
	if reply.Text != "" && claim.Judge(reply.Text, said).Verdict == claim.Wrong {
		disagrees = true
	}
	if disagrees {
		a.Remarks = append(a.Remarks, partsDisagree)
	}
	return nil
}
