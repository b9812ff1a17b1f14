package apart

import (
	"context"
	"strings"

	"tovrel/core/twin"
	"tovrel/engine"
	"tovrel/engine/sqltext"
	"tovrel/expect"
)

// Broken is the first law that more rows break where tables are changed than on the sample on which it was counted; nil where all hold.
// Only the laws about the changed tables are looked at, or all where none is changed. One that the engine cannot count says nothing. The
// error is of a worker or the context.
func (b *Base) Broken(ctx context.Context, c Changes, laws []twin.Law) (*twin.Law, error) {
	views := map[string]string{}
	for name, steps := range c {
		view, err := b.view(name, steps)
		if err != nil {
			return nil, err
		}
		views[strings.ToLower(name)] = sqltext.Renumbered(view)
	}
	in := sqltext.Laws{From: func(table string) string {
		if view := views[strings.ToLower(table)]; view != "" {
			return view
		}
		return sqltext.Numbered(table)
	}}
	for _, l := range laws {
		if len(c) > 0 && views[strings.ToLower(l.Table)] == "" && views[strings.ToLower(l.Other.Table)] == "" {
			continue
		}
		result, err := b.on.Query(ctx, engine.Request{SQL: sqltext.Count(in.Breaking(l))})
		if _, failed := expect.Failure(err); failed {
			continue
		}
		if err != nil {
			return nil, err
		}
		if n, _ := result.Table.Columns[0].Value(0).Small(); n > l.Broken {
			return &l, nil
		}
	}
	return nil, nil
}

// KeyOf is the column whose values tell a table's rows apart, by a law; "" for none.
func KeyOf(table string, laws []twin.Law) string {
	for _, l := range laws {
		if l.Kind == twin.Unlike && len(l.Columns) == 1 && strings.EqualFold(l.Table, table) {
			return l.Columns[0]
		}
	}
	return ""
}
