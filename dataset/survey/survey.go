// Package survey counts what core/profile judges: it asks a frozen dataset, through its own engine and sandbox, for the
// statistics of its columns and of the joins that are likely.
package survey

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"golang.org/x/sync/errgroup"

	"tovrel/core/profile"
	"tovrel/core/table"
	"tovrel/core/value"
	"tovrel/engine"
	"tovrel/engine/sqltext"
	"tovrel/trouble"
)

const (
	// manyValues bounds the distinct values that are kept of a column.
	manyValues = 1000
	// bins is how many parts a number's range is counted in.
	bins = 12
	// together is how many columns are counted in one query.
	together = 40
	// headRows is how many rows show a column's kind where the engine has no types.
	headRows = 1000
	// manyRows is from how many rows on a table of a server is counted on its first ones alone, and firstRows how many these are.
	manyRows, firstRows = 1_000_000, 200_000
)

// Queries runs queries on a dataset. It is *engine.Pool.
type Queries interface {
	Query(ctx context.Context, r engine.Request) (engine.Result, error)
}

// Dataset counts all tables of a dataset and the likely joins between them; parallel is how many queries run at once. The error is of a
// query or the context.
func Dataset(ctx context.Context, q Queries, name string, tables []engine.Table, parallel int) (*profile.Dataset, error) {
	return (&surveyor{q: q, parallel: parallel}).dataset(ctx, name, tables)
}

// Live counts so a dataset that is a server's database as it is: its rows have no order, and of a large table, whose rows are the server's
// estimate, only the first are counted.
func Live(ctx context.Context, q Queries, name string, tables []engine.Table, parallel int) (*profile.Dataset, error) {
	return (&surveyor{q: q, parallel: parallel, live: true}).dataset(ctx, name, tables)
}

func (s *surveyor) dataset(ctx context.Context, name string, tables []engine.Table) (*profile.Dataset, error) {
	d := &profile.Dataset{Name: name}
	for _, t := range tables {
		counted, err := s.table(ctx, t)
		if err != nil {
			return nil, fmt.Errorf("table %s: %w", t.Name, err)
		}
		d.Tables = append(d.Tables, counted)
	}
	links := s.countable(profile.Candidates(d), tables)
	err := s.each(ctx, len(links), func(ctx context.Context, i int) error { return s.link(ctx, d, &links[i]) })
	for _, l := range links {
		if l.Rows > 0 && (l.Orphans == 0 || l.Named() && l.Orphans*2 <= l.Rows) { // else the names meet and the values do not
			d.Links = append(d.Links, l)
		}
	}
	return d, err
}

type surveyor struct {
	q        Queries
	parallel int
	live     bool // see Live
}

// large tells a table of which only the first rows are counted.
func (s *surveyor) large(rows int64) bool { return s.live && rows >= manyRows }

// countable are the links that can be counted in a short time: not those to a table of which only the first rows are.
func (s *surveyor) countable(links []profile.Link, tables []engine.Table) []profile.Link {
	return slices.DeleteFunc(links, func(l profile.Link) bool {
		return slices.ContainsFunc(tables, func(t engine.Table) bool { return t.Name == l.To.Table && s.large(t.Rows) })
	})
}

// of asks about a table, of a large one about its first rows.
func (s *surveyor) of(ctx context.Context, t *profile.Table, sql string) (*table.Table, error) {
	if t.Sampled > 0 {
		sql = sqltext.OfFirst(t.Name, t.Sampled, sql)
	}
	return s.rows(ctx, sql)
}

func (s *surveyor) each(ctx context.Context, n int, do func(ctx context.Context, i int) error) error {
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(max(1, s.parallel))
	for i := range n {
		g.Go(trouble.Safe(func() error { return do(ctx, i) }))
	}
	return g.Wait()
}

func (s *surveyor) rows(ctx context.Context, sql string) (*table.Table, error) {
	result, err := s.q.Query(ctx, engine.Request{SQL: sql})
	return result.Table, err
}

func (s *surveyor) table(ctx context.Context, t engine.Table) (*profile.Table, error) {
	out := &profile.Table{Name: t.Name, Rows: t.Rows}
	counted := t.Rows
	if s.large(t.Rows) {
		first, err := s.rows(ctx, sqltext.OfFirst(t.Name, firstRows, sqltext.Count(sqltext.All(t.Name))))
		if err != nil {
			return nil, err
		}
		counted, _ = first.Columns[0].Value(0).Small()
		out.Sampled = counted
		if counted < firstRows { // the server's estimate is far off: these are all
			out.Rows, out.Sampled = counted, 0
		}
	}
	head, err := s.rows(ctx, sqltext.Head(t.Name, headRows))
	if err != nil {
		return nil, err
	}
	for i, c := range t.Columns {
		out.Columns = append(out.Columns, &profile.Column{Name: c.Name, Type: c.Type, Kind: head.Columns[i].Type.Kind, Rows: counted})
	}
	if t.Rows > 0 && !s.live {
		last, err := s.rows(ctx, sqltext.RowAt(t.Name, t.Rows-1))
		if err != nil {
			return nil, err
		}
		out.Last = last.Row(0)
	}
	for from := 0; from < len(out.Columns); from += together {
		if err := s.counts(ctx, out, out.Columns[from:min(from+together, len(out.Columns))]); err != nil {
			return nil, err
		}
	}
	if err := s.blank(ctx, out); err != nil {
		return nil, err
	}
	return out, s.each(ctx, len(out.Columns), func(ctx context.Context, i int) error { return s.values(ctx, out, out.Columns[i]) })
}

// ordered tells whether a column's cells have an order and few enough bytes to be counted.
func ordered(c *profile.Column) bool {
	return c.Kind != value.Blob && c.Kind != value.JSON && c.Kind != value.Null
}

// counts asks for the nulls, distinct values, range and sum of some columns at once.
func (s *surveyor) counts(ctx context.Context, t *profile.Table, columns []*profile.Column) error {
	if len(columns) == 0 {
		return nil
	}
	asked := make([]sqltext.Counted, len(columns))
	for i, c := range columns {
		asked[i] = sqltext.Counted{Name: c.Name, Ordered: ordered(c), Summed: c.Kind.Number()}
	}
	got, err := s.of(ctx, t, sqltext.Counts(t.Name, asked))
	if err != nil {
		return err
	}
	cells := got.Row(0)
	for i, c := range columns {
		filled, _ := cells[5*i].Small()
		c.Nulls = max(0, c.Rows-filled) // rows may have come since they were counted
		c.Distinct, _ = cells[5*i+1].Small()
		c.Min, c.Max = cells[5*i+2], cells[5*i+3]
		if f, ok := cells[5*i+4].Float64(); ok {
			c.Sum = &f
		}
	}
	return nil
}

// blank counts the rows that are null throughout.
func (s *surveyor) blank(ctx context.Context, t *profile.Table) error {
	var names []string
	for _, c := range t.Columns {
		if c.Nulls == 0 {
			return nil
		}
		names = append(names, c.Name)
	}
	if len(names) == 0 {
		return nil
	}
	got, err := s.of(ctx, t, sqltext.Blank(t.Name, names))
	if err != nil {
		return err
	}
	t.Blank, _ = got.Columns[0].Value(0).Small()
	return nil
}

// values asks for the commonest values, and how often each part of a number's range occurs.
func (s *surveyor) values(ctx context.Context, t *profile.Table, c *profile.Column) error {
	if !ordered(c) || c.Filled() == 0 {
		return nil
	}
	got, err := s.of(ctx, t, sqltext.Commonest(t.Name, c.Name, manyValues))
	if err != nil {
		return err
	}
	for row := range got.Rows() {
		v := got.Columns[0].Value(row)
		rows, _ := got.Columns[1].Value(row).Small()
		c.Values = append(c.Values, profile.Count{Value: v, Text: v.String(), Rows: rows})
	}
	switch {
	case c.Complete():
		c.Bins = profile.BinsOf(c, bins)
	case c.Kind.Number():
		return s.bins(ctx, t, c)
	}
	return nil
}

func (s *surveyor) bins(ctx context.Context, t *profile.Table, c *profile.Column) error {
	low, okLow := c.Min.Float64()
	high, okHigh := c.Max.Float64()
	if !okLow || !okHigh || !(high > low) || high-low > 1e300 {
		return nil
	}
	got, err := s.of(ctx, t, sqltext.Bins(t.Name, c.Name, low, high-low, bins))
	var failure *engine.Failure
	if errors.As(err, &failure) { // NaN among the numbers: they have no parts
		return nil
	}
	if err != nil {
		return err
	}
	c.Bins = make([]int64, bins)
	for row := range got.Rows() {
		at, _ := got.Columns[0].Value(row).Small()
		rows, _ := got.Columns[1].Value(row).Small()
		c.Bins[min(max(at, 0), bins-1)] += rows
	}
	return nil
}

// link counts a likely join.
func (s *surveyor) link(ctx context.Context, d *profile.Dataset, l *profile.Link) error {
	link := linkOf(*l)
	from := d.Tables[slices.IndexFunc(d.Tables, func(t *profile.Table) bool { return t.Name == l.From.Table })]
	got, err := s.of(ctx, from, link.Referring())
	if err != nil {
		return err
	}
	l.Rows, _ = got.Columns[0].Value(0).Small()
	distinct, _ := got.Columns[1].Value(0).Small()
	if distinct > 0 {
		l.PerKey = float64(l.Rows) / float64(distinct)
	}
	if got, err = s.of(ctx, from, link.Orphans()); err != nil {
		return err
	}
	for row := range got.Rows() {
		rows, _ := got.Columns[1].Value(row).Small()
		l.Orphans += rows
		if len(l.Examples) < 3 {
			l.Examples = append(l.Examples, got.Columns[0].Value(row).String())
		}
	}
	if from.Sampled > 0 {
		return nil // other rows may refer to what the first ones do not
	}
	got, err = s.rows(ctx, link.Childless())
	if err != nil {
		return err
	}
	l.Childless, _ = got.Columns[0].Value(0).Small()
	return nil
}

func linkOf(l profile.Link) sqltext.Link {
	return sqltext.Link{From: l.From.Table, FromColumn: l.From.Column, To: l.To.Table, ToColumn: l.To.Column}
}
