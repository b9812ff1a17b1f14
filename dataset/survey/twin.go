package survey

import (
	"context"

	"tovrel/core/briefing"
	"tovrel/core/profile"
	"tovrel/core/table"
	"tovrel/core/twin"
	"tovrel/core/value"
	"tovrel/engine"
	"tovrel/engine/sqltext"
)

const (
	// sampledRows is about how many rows of a table dependencies are looked for in, where it has no more than plainWidth columns:
	// every pair of columns is looked at.
	sampledRows, plainWidth = 20_000, 20
	// summedParents is how many parents are held against what their children come to.
	summedParents = 300
	// mostProducts bounds the products of two columns that are summed up.
	mostProducts = 6
)

// Facts finds what holds on a frozen DuckDB dataset: what its twins keep. The briefing may deny some of it; nil for none. The error is
// of a query or the context.
func Facts(ctx context.Context, q Queries, name string, tables []engine.Table, b *briefing.Briefing, parallel int) (*twin.Facts, error) {
	d, err := Dataset(ctx, q, name, tables, parallel)
	if err != nil {
		return nil, err
	}
	s := &surveyor{q: q, parallel: parallel}
	rows := make([]twin.Rows, len(d.Tables))
	if err := s.each(ctx, len(d.Tables), func(ctx context.Context, i int) (err error) {
		rows[i], err = s.sample(ctx, d, d.Tables[i], b)
		return err
	}); err != nil {
		return nil, err
	}
	links := briefed(d, b)
	joined := make([]twin.Joined, len(links))
	err = s.each(ctx, len(links), func(ctx context.Context, i int) (err error) {
		joined[i], err = s.joined(ctx, d, links[i])
		return err
	})
	if err != nil {
		return nil, err
	}
	facts := twin.Find(rows, joined)
	if b != nil {
		var denied []string
		for _, f := range b.NotFacts {
			denied = append(denied, f.Text)
		}
		facts.Deny(denied)
	}
	laws, err := s.laws(ctx, facts, b)
	if err != nil {
		return nil, err
	}
	facts.Keep(laws)
	return facts, nil
}

// briefed are the likely joins with those that only the briefing knows.
func briefed(d *profile.Dataset, b *briefing.Briefing) []profile.Link {
	links := append([]profile.Link(nil), d.Links...)
	if b == nil {
		return links
	}
next:
	for _, j := range b.Joins {
		l := profile.Link{From: j.From, To: j.To}
		from, to := d.Column(l.From), d.Column(l.To)
		if from != nil && to != nil && !to.Unique() && from.Unique() {
			l.From, l.To = l.To, l.From
			to = from
		}
		if from == nil || to == nil || !to.Unique() {
			continue
		}
		for _, known := range links {
			if known.From == l.From && known.To == l.To {
				continue next
			}
		}
		links = append(links, l)
	}
	return links
}

// wanted is how many rows of a table are sampled.
func wanted(t *profile.Table) int64 {
	return int64(sampledRows * plainWidth / max(plainWidth, len(t.Columns)))
}

// oneIn is which part of a table's rows are so many of them: one in so many.
func oneIn(rows int64, wanted int64) int64 {
	if rows <= wanted {
		return 1
	}
	return rows / wanted
}

func (s *surveyor) sample(ctx context.Context, d *profile.Dataset, t *profile.Table, b *briefing.Briefing) (twin.Rows, error) {
	out := twin.Rows{Name: t.Name, Rows: t.Rows, Codes: map[string]bool{}}
	var err error
	if out.Sample, err = s.rows(ctx, sqltext.Some(t.Name, oneIn(t.Rows, wanted(t)), 0)); err != nil {
		return out, err
	}
	for _, c := range t.Columns {
		role, _ := profile.RoleOf(d, t, c)
		told := columnOf(b, t.Name, c.Name)
		if told != nil && told.Role != "" {
			role = told.Role
		}
		out.Types, out.Unique = append(out.Types, c.Type), append(out.Unique, c.Unique())
		out.Loose = append(out.Loose, told != nil && told.Role == profile.Measure)
		out.Amount = append(out.Amount, c.Kind.Number() && (role == profile.Measure || c.Kind != value.Int))
		out.Min, out.Max = append(out.Min, c.Min), append(out.Max, c.Max)
		if told != nil && c.Complete() {
			unused(out.Codes, c, told)
		}
	}
	for _, key := range twin.CandidateKeys(out) {
		holds, err := s.holds(ctx, t, key)
		if err != nil {
			return out, err
		}
		if holds {
			out.Keys = append(out.Keys, key)
		}
	}
	return out, nil
}

func columnOf(b *briefing.Briefing, table, column string) *briefing.Column {
	if b == nil {
		return nil
	}
	return b.Column(profile.Place{Table: table, Column: column})
}

// unused adds the codes that a briefing lists and no row has.
func unused(codes map[string]bool, c *profile.Column, told *briefing.Column) {
	seen := map[string]bool{}
	for _, v := range c.Values {
		seen[v.Text] = true
	}
	for _, v := range told.Codes {
		if !seen[v.Value] {
			codes[c.Name+"\x00"+v.Value] = true
		}
	}
}

// holds counts whether no two rows of a table agree in some columns.
func (s *surveyor) holds(ctx context.Context, t *profile.Table, key []int) (bool, error) {
	if t.Rows <= wanted(t) {
		return true, nil // the sample was the table
	}
	var names []string
	for _, c := range key {
		names = append(names, t.Columns[c].Name)
	}
	got, err := s.rows(ctx, sqltext.Repeats(t.Name, names))
	if err != nil {
		return false, err
	}
	n, _ := got.Columns[0].Value(0).Small()
	return n == 0, nil
}

// joined samples the rows of a reference, and what the children of some parents come to.
func (s *surveyor) joined(ctx context.Context, d *profile.Dataset, l profile.Link) (twin.Joined, error) {
	child, parent := d.Table(l.From.Table), d.Table(l.To.Table)
	out := twin.Joined{Link: l}
	got, err := s.rows(ctx, linkOf(l).Joined(oneIn(child.Rows, wanted(child))))
	if err != nil {
		return out, err
	}
	out.Child, out.Parent = part(got, 0, child), part(got, len(child.Columns), parent)
	var items []string
	for _, sum := range sumsOf(child) {
		items, out.SumOf = append(items, sum.item), append(out.SumOf, twin.Summed{Of: sum.of, Says: sum.says})
	}
	out.Sums, err = s.rows(ctx, linkOf(l).Sums(oneIn(parent.Rows, summedParents), items))
	return out, err
}

// part is the columns of one table in a joined result, under their own names.
func part(t *table.Table, from int, of *profile.Table) *table.Table {
	out := &table.Table{}
	for i, c := range of.Columns {
		column := *t.Columns[from+i]
		column.Name = c.Name
		out.Columns = append(out.Columns, &column)
	}
	return out
}

// summed is a way in which a parent may sum its children up: an expression, the column that it rests on, and what it is in words.
type summed struct{ item, of, says string }

// sumsOf are the ways in which a parent may sum its children up.
func sumsOf(child *profile.Table) []summed {
	out := []summed{{"count(*)", "", "the number of rows"}}
	var numbers []string
	for _, c := range child.Columns {
		n := sqltext.Name(c.Name)
		switch {
		case c.Kind.Number():
			out = append(out, summed{"sum(CAST(" + n + " AS DOUBLE))", c.Name, "the sum of " + c.Name},
				summed{"max(CAST(" + n + " AS DOUBLE))", c.Name, "the largest " + c.Name})
			numbers = append(numbers, c.Name)
		case c.Kind.Temporal():
			out = append(out, summed{"min(" + n + ")", c.Name, "the first " + c.Name}, summed{"max(" + n + ")", c.Name, "the last " +
				c.Name})
		}
	}
	products := 0
	for i, a := range numbers {
		for _, b := range numbers[i+1:] {
			if products++; products > mostProducts {
				return out
			}
			sum := "sum(CAST(" + sqltext.Name(a) + " AS DOUBLE) * " + sqltext.Name(b) + ")"
			says := "the sum of " + a + " times " + b
			out = append(out, summed{sum, a, says}, summed{sum, b, says})
		}
	}
	return out
}
