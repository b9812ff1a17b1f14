package expect

import (
	"context"
	"fmt"
	"strings"
	"sync"

	"tovrel/core/golden"
	"tovrel/core/match"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/engine"
)

func expectOne(ctx context.Context, q Queries, read Tables, set *golden.Set, a golden.Answer) (Expectation, error) {
	if a.Query != "" {
		return FromReference(ctx, q, a.Query, a.Forms)
	}
	t, err := Written(read, set, a)
	if err != nil {
		return Expectation{}, err
	}
	return Expectation{Table: t, Known: match.Known{Rounded: AllRounded(len(t.Columns))}}, nil
}

// Written gives an answer's expected table as it is written, in the document or in a file. It errs where the file cannot be read or a
// cell is none of its type.
func Written(read Tables, set *golden.Set, a golden.Answer) (*table.Table, error) {
	if a.Table != nil {
		return a.Table.Typed(a.Types)
	}
	return read(set, a)
}

// AllRounded are flags for so many columns, all set: of a table that shows rounded numbers.
func AllRounded(n int) []bool {
	flags := make([]bool, n)
	for i := range flags {
		flags[i] = true
	}
	return flags
}

// FromReference runs a reference query and reads from its tree which order was asked for and which columns are rounded. It errs where
// the query does not run (*engine.Failure is within); forms are the same query in other dialects; else the error is of a worker or the
// context.
func FromReference(ctx context.Context, q Queries, reference string, forms map[string]string) (Expectation, error) {
	result, err := q.Query(ctx, engine.Request{SQL: reference, Forms: forms, Tree: true, There: true})
	if err != nil {
		return Expectation{}, fmt.Errorf("the reference query does not run: %w", err)
	}
	e := Expectation{Reference: reference, Table: result.Table}
	if len(result.Tree) == 0 { // the engine has no syntax trees
		return e, nil
	}
	tree, err := sql.Read(result.Tree)
	if err != nil {
		return Expectation{}, err
	}
	e.Known.Rounded, e.items, e.Tree = tree.RoundedItems(), tree.Items(), tree
	return e, e.order(ctx, q, tree)
}

// order finds what the asked order rests on: columns of the result, or values and rows that a probe shows.
func (e *Expectation) order(ctx context.Context, q Queries, tree *sql.Tree) error {
	shown := len(e.Table.Columns)
	probe, has := tree.Probe()
	var probed *table.Table
	if has && probe.Keys > 0 {
		var err error
		if probed, err = runProbe(ctx, q, probe, shown); err != nil {
			return err
		}
	}
	if probed != nil {
		*e = e.cut(&table.Table{Columns: probed.Columns[:shown]}, probe)
	} else if has && probe.Keys == 0 && (probe.TopN != nil || e.Table.Rows() == probe.Limit) {
		e.behind = &behindCut{queries: q, probe: probe}
	}
	next := shown // of the probe's columns, the next key's
	for _, key := range tree.Outer().AskedOrder() {
		k := match.Key{Column: key.Item, Name: key.Name, Descending: key.Descending, Nulls: key.Nulls}
		if key.Item < 0 || key.Item >= shown {
			if probed == nil || next >= len(probed.Columns) {
				e.Known.Hidden = true
				return nil
			}
			k.Column, k.Values = -1, probed.Columns[next]
			if k.Name == "" {
				k.Name = k.Values.Name
			}
			next++
		}
		e.Known.Ranking = append(e.Known.Ranking, k)
	}
	return nil
}

// cut is the expectation when the whole result of its reference is known, of which it keeps some rows (all where the limit is
// below 0).
func (e Expectation) cut(full *table.Table, probe sql.Probe) Expectation {
	e.Table = full
	if probe.Limit >= 0 {
		e.Known.Cut = &match.Cut{Full: full, From: probe.Offset, Keep: probe.Limit}
		e.Table = full.Rest(probe.Offset).Head(probe.Limit)
	}
	return e
}

// topN is the expectation when the rows behind a cut by row_number are known: the probe's last columns hold each row's
// place, the keys and the part.
func (e Expectation) topN(full *table.Table, n *sql.TopN) Expectation {
	shown := len(full.Columns) - n.Columns()
	cut := &match.Cut{Full: &table.Table{Columns: full.Columns[:shown]}, Keep: n.Keep}
	for i, k := range n.Keys {
		cut.Keys = append(cut.Keys, match.Key{Column: -1, Name: k.Name, Values: full.Columns[shown+1+i],
			Descending: k.Descending, Nulls: k.Nulls})
	}
	parts := map[string]int{}
	for row := range full.Rows() {
		place, _ := full.Columns[shown].Value(row).Small()
		var part strings.Builder
		for _, c := range full.Columns[shown+1+len(n.Keys):] {
			fmt.Fprintf(&part, "%q ", c.Value(row).String())
		}
		id, known := parts[part.String()]
		if !known {
			id = len(parts)
			parts[part.String()] = id
		}
		cut.Places, cut.Parts = append(cut.Places, int(place)-1), append(cut.Parts, id)
	}
	e.Known.Cut = cut
	return e
}

// behindCut finds what is behind a reference's cut. It is asked only where an answer does not match without it, and then
// once for all attempts.
type behindCut struct {
	once    sync.Once
	queries Queries
	probe   sql.Probe
	full    *table.Table
	err     error
}

// Whole is the expectation with what is behind its cut; as it is where it has none, or that cannot be had. It errs where the probe that
// fetches it was stopped.
func (e Expectation) Whole(ctx context.Context) (Expectation, error) {
	b := e.behind
	if b == nil {
		return e, nil
	}
	b.once.Do(func() { b.full, b.err = runProbe(ctx, b.queries, b.probe, len(e.Table.Columns)) })
	if b.err != nil || b.full == nil {
		return e, b.err
	}
	if b.probe.TopN != nil {
		return e.topN(b.full, b.probe.TopN), nil
	}
	return e.cut(b.full, b.probe), nil
}

// runProbe runs a probe of a result with so many columns; nil where it cannot be run, such as for its size: then the reference's own
// result must do.
func runProbe(ctx context.Context, q Queries, probe sql.Probe, shown int) (*table.Table, error) {
	body, err := probe.Tree.Serialised()
	if err != nil {
		return nil, err
	}
	result, err := q.Query(ctx, engine.Request{Serialised: string(body), There: true})
	if _, failed := Failure(err); failed || err == nil && len(result.Table.Columns) != shown+probe.Added() {
		return nil, nil
	}
	return result.Table, err
}
