package attempt

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"tovrel/core/chart"
	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/table"
	"tovrel/expect"
	"tovrel/translator"
)

// drawn is what a reply's chart gives: what it draws, or why it gives nothing.
type drawn struct {
	spec    chart.Spec
	data    chart.Drawn
	query   given  // what gave the data
	beyond  string // why it cannot be judged
	problem string // what is wrong with it
}

// draw computes what a reply's chart draws. The error is of a worker or the context.
func (w *running) draw(ctx context.Context, t *task, reply translator.Reply) (drawn, error) {
	spec, err := chart.Parse(reply.Chart) // Under read it already
	d := drawn{spec: spec, beyond: spec.Beyond}
	if err != nil {
		d.problem = err.Error()
	}
	if d.beyond != "" || d.problem != "" {
		return d, nil
	}
	var data *table.Table
	if reply.RunsSQL() && spec.Values == nil {
		if d.query, err = w.get(ctx, t, reply, partQuery); err != nil || d.query.failure != nil {
			return d, err
		}
		data = d.query.table
	}
	if data == nil && reply.Table != nil {
		if data, err = table.FromJSON(reply.Table); err != nil {
			return d, err
		}
	}
	var wrong *chart.Problem
	if d.data, err = spec.Draw(data); errors.As(err, &wrong) {
		d.problem = wrong.Error()
	}
	return d, nil
}

// charted judges a reply's chart: its data like a table, its form apart, where the question asks for one.
func (w *running) charted(ctx context.Context, t *task, a record.Attempt, reply translator.Reply) (judged, error) {
	expectations, j, failed, err := t.expectations(ctx, a)
	if failed || err != nil {
		return j, err
	}
	d, err := w.draw(ctx, t, reply)
	switch {
	case err != nil:
		return judged{}, err
	case d.query.failure != nil:
		return w.failed(ctx, t, a, d.query.failure)
	case d.problem != "":
		return broken(a, fault.MalformedReply, d.problem), nil
	case d.beyond != "":
		return unscored(a, fault.ReasonNeedsALook, "the chart is not judged: "+d.beyond), nil
	}
	a.Ran, a.Instead = d.query.ran, d.query.instead
	d.data = d.data.Displayed(d.spec)
	inAnyOrder := *t // the order is of the form
	_ = inAnyOrder.rules.Set("order", match.Choice{Value: "any"})
	t = &inAnyOrder
	got := given{table: d.data.Table, tree: d.query.tree, hidden: d.query.hidden}
	var nearest expect.Expectation
	a.Chart = &record.Chart{Form: d.spec.Words(), Mark: d.spec.Mark, Dropped: d.spec.Dropped}
	a.Chart.Label, a.Chart.Value = d.data.Axes()
	j, nearest, err = t.match(ctx, a, got, expectations)
	if err != nil {
		return judged{}, err
	}
	// which is of the form
	j.attempt.Remarks = slices.DeleteFunc(j.attempt.Remarks, func(r match.Remark) bool { return r == match.Reordered })
	form := t.chosen.Question.Chart
	if form == nil {
		return j, nil
	}
	shown := shownColumns(j.attempt.Match, nearest, d.data)
	faults := form.Faults(d.spec, d.data, shown, unitsOf(nearest))
	if j.attempt.Verdict == score.Wrong {
		if other := otherAggregate(t, d, nearest); other != "" {
			faults = append(faults, fault.Fault{Code: fault.ChartAggregate, Certainty: fault.Proved, Evidence: other})
		}
		j.attempt.Faults = append(faults, j.attempt.Faults...)
		if len(faults) > 0 {
			j.attempt.Faults = withoutUnexplained(j.attempt.Faults)
		}
		return j, nil
	}
	if len(faults) > 0 {
		j.attempt.Judge(record.Seen{Why: "the data are right, the form is not: " + faults[0].Evidence, Faults: faults})
		j.attempt.Closeness = new(1.0)
	}
	return j, nil
}

// withoutUnexplained leaves the fault out that says that none was found.
func withoutUnexplained(all []fault.Fault) []fault.Fault {
	var out []fault.Fault
	for _, f := range all {
		if f.Code != fault.Unexplained {
			out = append(out, f)
		}
	}
	return out
}

// shownColumns tells which expected column each drawn one was matched with.
func shownColumns(m *record.Match, e expect.Expectation, d chart.Drawn) chart.Shown {
	names := map[int]string{}
	if m != nil {
		for _, pair := range m.Columns {
			if pair.Answer >= 0 && pair.Expected >= 0 && pair.Expected < len(e.Table.Columns) {
				names[pair.Answer] = e.Table.Columns[pair.Expected].Name
			}
		}
	}
	return func(column int) string {
		if name := names[column]; name != "" || column >= len(d.Table.Columns) {
			return name
		}
		return d.Table.Columns[column].Name
	}
}

// unitsOf are the units of the expected columns, by name.
func unitsOf(e expect.Expectation) map[string]string {
	out := map[string]string{}
	for i, unit := range e.Known.Units {
		if i < len(e.Table.Columns) {
			out[e.Table.Columns[i].Name] = unit
		}
	}
	return out
}

// otherAggregate finds another aggregate in a channel of the chart that gives what is expected; "" for none.
func otherAggregate(t *task, d drawn, e expect.Expectation) string {
	for i, c := range d.spec.Channels {
		if c.Aggregate == "" && c.Type != "quantitative" {
			continue
		}
		for _, other := range []string{"sum", "mean", "count", "min", "max", "median", "distinct"} {
			spec := d.spec
			spec.Channels = append([]chart.Channel(nil), d.spec.Channels...)
			if spec.Channels[i].Aggregate = other; other == c.Aggregate {
				continue
			}
			data, err := spec.Draw(d.query.table)
			if err != nil {
				continue
			}
			if match.Match(e.Table, data.Table, t.rules, e.Known).Matched {
				was := c.Aggregate
				if was == "" {
					was = "no aggregate"
				}
				return fmt.Sprintf("with %s in %s the data are as expected; the chart has %s there", other, c.Name, was)
			}
		}
	}
	return ""
}
