package survey

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"tovrel/core/briefing"
	"tovrel/core/twin"
	"tovrel/engine"
	"tovrel/engine/sqltext"
)

// triedRows is about how many rows of a table, of some groups, a law must hold on before it is counted over all of them.
const triedRows = 10_000

// laws finds the laws that hold on a dataset, or nearly, and those that its briefing declares, without those that it denies. The error is
// of a declared law that cannot be counted, of a query or the context.
func (s *surveyor) laws(ctx context.Context, f *twin.Facts, b *briefing.Briefing) ([]twin.Law, error) {
	candidates := twin.Candidates(f)
	found := make([][]twin.Law, len(candidates))
	err := s.each(ctx, len(candidates), func(ctx context.Context, i int) (err error) {
		l := candidates[i]
		if l.Kind == twin.Follows {
			found[i], err = s.following(ctx, l)
			return err
		}
		if holds, err := s.lawful(ctx, f, &l); err != nil || !holds {
			return err
		}
		found[i] = []twin.Law{l}
		if l.Kind == twin.Forest {
			deep, err := s.deep(ctx, l)
			found[i] = append(found[i], deep)
			return err
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	return s.briefed(ctx, f, slices.Concat(found...), candidates, b)
}

// lawful counts a law, first on some of the groups where there are many rows, and tells whether it holds.
func (s *surveyor) lawful(ctx context.Context, f *twin.Facts, l *twin.Law) (bool, error) {
	rows := f.Table(l.Table).Rows
	if l.By != "" && rows > 2*triedRows {
		of := fmt.Sprintf("(SELECT * FROM %s WHERE hash(%s) %% %d = 0)", sqltext.Numbered(l.Table), sqltext.Name(l.By), rows/triedRows)
		some := *l
		if err := s.count(ctx, sqltext.Laws{From: func(string) string { return of }}, &some); err != nil || some.Broken > 0 {
			return false, err
		}
	}
	if err := s.count(ctx, whole, l); err != nil || !l.Seen() {
		return false, err
	}
	if l.Order() {
		got, err := s.rows(ctx, whole.ByChance(*l))
		if err != nil {
			return false, err
		}
		l.Chance, _ = got.Columns[0].Value(0).Small()
	}
	return l.Holds(), nil
}

var whole = sqltext.Laws{From: sqltext.Numbered}

// count counts a law; one that the engine cannot count is broken by every row.
func (s *surveyor) count(ctx context.Context, in sqltext.Laws, l *twin.Law) error {
	got, err := s.rows(ctx, in.Counted(*l))
	var failure *engine.Failure
	if errors.As(err, &failure) && l.Kind != twin.Meets {
		l.Broken, l.Rows = 1, 0
		return nil
	}
	if err != nil {
		return err
	}
	l.Broken, _ = got.Columns[0].Value(0).Small()
	l.Rows, _ = got.Columns[1].Value(0).Small()
	return nil
}

// following are the values of a column that follow one another in time, without exception.
func (s *surveyor) following(ctx context.Context, l twin.Law) ([]twin.Law, error) {
	got, err := s.rows(ctx, whole.Following(l))
	if err != nil {
		return nil, err
	}
	var out []twin.Law
	for row := range got.Rows() {
		one := l
		one.Values = []string{got.Columns[0].Value(row).String(), got.Columns[1].Value(row).String()}
		one.Rows, _ = got.Columns[2].Value(row).Small()
		if one.Chance, _ = got.Columns[3].Value(row).Small(); one.Holds() {
			out = append(out, one)
		}
	}
	return out, nil
}

// deep is the law of how deep a hierarchy goes.
func (s *surveyor) deep(ctx context.Context, forest twin.Law) (twin.Law, error) {
	l := forest
	l.Kind = twin.Deep
	got, err := s.rows(ctx, whole.Depth(forest))
	if err != nil {
		return l, err
	}
	n, _ := got.Columns[0].Value(0).Small()
	l.Number = int(n)
	return l, nil
}

// briefed are the laws that were found without those that a briefing denies, and with those that it declares: one of those that were
// looked for, by its words, or a condition on a table's rows.
func (s *surveyor) briefed(ctx context.Context, facts *twin.Facts, found, candidates []twin.Law, b *briefing.Briefing) ([]twin.Law, error) {
	if b == nil {
		return found, nil
	}
	found = slices.DeleteFunc(found, func(l twin.Law) bool {
		return slices.ContainsFunc(b.NotFacts, func(f briefing.Fact) bool { return f.Text == l.Words() })
	})
	for _, said := range b.Facts {
		if slices.ContainsFunc(found, func(l twin.Law) bool { return l.Words() == said.Text }) {
			continue
		}
		l := twin.Law{Kind: twin.Meets, Table: said.Table, SQL: said.Condition}
		if i := slices.IndexFunc(candidates, func(l twin.Law) bool { return l.Whole() && l.Words() == said.Text }); i >= 0 {
			l = candidates[i]
		} else if one, other, is := facts.Table(said.Table).Determined(said.Condition); is {
			l = twin.Law{Kind: twin.Determines, Table: said.Table, Columns: []string{one, other}}
		}
		l.Said = true
		if err := s.count(ctx, whole, &l); err != nil {
			return nil, fmt.Errorf("%s: the fact %q cannot be held against %s: %w; write TABLE: and a condition in SQL, or a line of "+
				"`tovrel data twin --facts`", said.At, said.Text, l.Table, err)
		}
		found = append(found, l)
	}
	return found, nil
}
