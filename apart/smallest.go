package apart

import (
	"context"
	"slices"
	"strings"
	"time"

	"tovrel/core/fault"
	"tovrel/core/twin"
	"tovrel/engine"
	"tovrel/engine/sqltext"
	"tovrel/expect"
)

const (
	// mostTries and longestSearch bound the search for the smallest part.
	mostTries     = 240
	longestSearch = 4 * time.Second
	// fewRows is up to how many rows of a table a part can be shown.
	fewRows = 40
)

// Differs tells whether two queries differ on some data.
type Differs func(ctx context.Context, q expect.Queries) (bool, error)

// Part is some rows of some tables.
type Part struct {
	Tables []engine.Table // those that were made smaller, those that refer to others first
	Rows   map[string]twin.Spans
}

// Changes leave only a part's rows in its tables.
func (p Part) Changes() Changes {
	out := Changes{}
	for _, t := range p.Tables {
		out[t.Name] = []twin.Step{twin.Only{Rows: p.Rows[t.Name]}}
	}
	return out
}

// Smallest finds the smallest part of some tables, as far as it can within its bounds, on which two queries still differ. Of a table that
// others refer to, by a law, the rows stay that the others' rows need; a table that refers to itself stays whole. The tables of the part
// are those of which few rows are left. The error is of differs, a worker or the context.
func (b *Base) Smallest(ctx context.Context, tables []engine.Table, laws []twin.Law, differs Differs) (Part, error) {
	s := &search{base: b, differs: differs, laws: laws, end: time.Now().Add(longestSearch), part: Part{Rows: map[string]twin.Spans{}}}
	for _, t := range childrenFirst(tables, laws) {
		if refers(laws, t.Name, t.Name) {
			continue
		}
		if done, err := s.reduce(ctx, t); done || err != nil {
			return s.part, err
		}
	}
	return s.part, nil
}

// search is a search for the smallest part.
type search struct {
	base    *Base
	differs Differs
	laws    []twin.Law
	tries   int
	end     time.Time
	part    Part
}

// reduce makes a table smaller; done where no further one is to be tried.
func (s *search) reduce(ctx context.Context, t engine.Table) (done bool, err error) {
	needed, err := s.needed(ctx, t)
	if err != nil {
		return true, err
	}
	stopped := false
	with := func(spare twin.Spans) (differs, stop bool, err error) {
		if s.tries++; s.tries > mostTries || time.Now().After(s.end) {
			stopped = true
			return false, true, nil
		}
		changes := s.part.Changes()
		changes[t.Name] = []twin.Step{twin.Only{Rows: needed.And(spare)}}
		differs, err = s.differs(ctx, s.base.With(changes))
		return differs, false, err
	}
	kept, err := twin.Smallest(twin.AllRows(t.Rows).Less(needed), with)
	if err != nil {
		return true, err
	}
	if rows := needed.And(kept); rows.Rows() <= fewRows {
		s.part.Tables = append(s.part.Tables, t)
		s.part.Rows[t.Name] = rows
		return stopped, nil
	}
	return true, nil
}

// needed are the rows of a table that the rows of the part refer to.
func (s *search) needed(ctx context.Context, t engine.Table) (twin.Spans, error) {
	var out twin.Spans
	for _, child := range s.part.Tables {
		for _, l := range s.laws {
			if l.Kind != twin.Refers || !strings.EqualFold(l.Table, child.Name) || !strings.EqualFold(l.Other.Table, t.Name) {
				continue
			}
			view, err := s.base.view(child.Name, s.part.Changes()[child.Name])
			if err != nil {
				return nil, err
			}
			link := sqltext.Link{From: child.Name, FromColumn: l.Columns[0], To: t.Name, ToColumn: l.Other.Column}
			result, err := s.base.on.Query(ctx, engine.Request{SQL: link.RowsMet(view)})
			if err != nil {
				return nil, err
			}
			var numbers []int64
			for row := range result.Table.Rows() {
				n, _ := result.Table.Columns[0].Value(row).Small()
				numbers = append(numbers, n)
			}
			out = out.And(twin.SpansOf(numbers))
		}
	}
	return out, nil
}

// view is a table as steps change it.
func (b *Base) view(table string, steps []twin.Step) (string, error) {
	return sqltext.Shadowed(sqltext.All(table), b.shadows(Changes{table: steps}), b.dialect)
}

// First are the first of some rows of a table, and how many there are. The error is of a worker or the context.
func (b *Base) First(ctx context.Context, t engine.Table, rows twin.Spans, most int) (*fault.Rows, error) {
	return b.first(ctx, t, []twin.Step{twin.Only{Rows: rows}}, most)
}

// first are the first rows of a table as steps change it.
func (b *Base) first(ctx context.Context, t engine.Table, steps []twin.Step, most int) (*fault.Rows, error) {
	view, err := b.view(t.Name, steps)
	if err != nil {
		return nil, err
	}
	result, err := b.on.Query(ctx, engine.Request{SQL: view})
	if err != nil {
		return nil, err
	}
	out := &fault.Rows{Table: t.Name, Count: int64(result.Table.Rows()), First: [][]*string{}}
	out.Columns = result.Table.Names()
	for row := range min(most, result.Table.Rows()) {
		out.First = append(out.First, result.Table.CellTexts(row))
	}
	return out, nil
}

// childrenFirst puts tables in an order in which each comes before those that it refers to, as far as there is one; the larger first.
func childrenFirst(tables []engine.Table, laws []twin.Law) []engine.Table {
	left := slices.Clone(tables)
	slices.SortStableFunc(left, func(a, b engine.Table) int { return int(min(max(b.Rows-a.Rows, -1), 1)) })
	var out []engine.Table
	for len(left) > 0 {
		next := slices.IndexFunc(left, func(t engine.Table) bool {
			return !slices.ContainsFunc(left, func(o engine.Table) bool { return o.Name != t.Name && refers(laws, o.Name, t.Name) })
		})
		next = max(next, 0)
		out = append(out, left[next])
		left = slices.Delete(left, next, next+1)
	}
	return out
}

// refers tells whether a law has a table refer to another, or to itself.
func refers(laws []twin.Law, from, to string) bool {
	return slices.ContainsFunc(laws, func(l twin.Law) bool {
		return l.Kind == twin.Refers && strings.EqualFold(l.Table, from) && strings.EqualFold(l.Other.Table, to) ||
			l.Kind == twin.Forest && from == to && strings.EqualFold(l.Table, from)
	})
}
