package attempt

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"

	"tovrel/apart"
	"tovrel/core/fault"
	"tovrel/core/table"
	"tovrel/core/twin"
	"tovrel/core/value"
	"tovrel/engine"
	"tovrel/expect"
)

// lawful is what a twin was found to break, once for all that it shows.
type lawful struct {
	once   sync.Once
	broken string
	err    error
}

// Unlawful is a fact that the twin breaks, in words; "" where it keeps all of them. The error is of a worker or the context.
func (t *Twin) Unlawful(ctx context.Context) (string, error) {
	t.kept.once.Do(func() {
		law, err := t.changed().Broken(ctx, nil, t.Laws)
		if t.kept.err = err; law != nil {
			t.kept.broken = law.Words()
		}
	})
	return t.kept.broken, t.kept.err
}

// evidence is what shows that a right answer was lucky.
type evidence struct {
	words string // to follow what was seen on the twin; "" for nothing
	rows  *fault.Rows
}

// mostShown is how many rows are shown, and mostNamed how many of them named in words.
const mostShown, mostNamed = 5, 3

// shownBy finds the smallest part of a twin on which a query is still not right in the same way: first what its rows do in the sample,
// then what they do alone. Nothing where the part has many rows. The error is of a worker or the context.
func (t trial) shownBy(ctx context.Context, on *Twin, m *miss) (evidence, error) {
	differs := func(ctx context.Context, q expect.Queries) (bool, error) {
		found, err := t.missed(ctx, q)
		return found != nil && (found.failure == nil) == (m.failure == nil), err
	}
	base := on.changed()
	part, err := base.Smallest(ctx, base.Read(m.nearest.Tree, t.tree), on.Laws, differs)
	if err != nil || len(part.Tables) == 0 {
		return evidence{}, err
	}
	var out evidence
	all := map[string]*fault.Rows{}
	for _, table := range part.Tables {
		rows, err := base.First(ctx, table, part.Rows[table.Name], int(part.Rows[table.Name].Rows()))
		if err != nil {
			return evidence{}, err
		}
		if all[table.Name] = rows; out.rows == nil && rows.Count > 0 {
			shown := *rows
			shown.First = rows.First[:min(mostShown, len(rows.First))]
			out.rows = &shown
		}
	}
	if out.words, err = t.inSample(ctx, on, part.Tables, all); err != nil || out.words != "" {
		return out, err
	}
	alone, err := t.missed(ctx, base.With(part.Changes()))
	if err != nil || alone == nil {
		return evidence{}, err
	}
	var parts []string
	slices.SortStableFunc(part.Tables, func(a, b engine.Table) int {
		return cmp.Compare(min(1, all[b.Name].Count), min(1, all[a.Name].Count))
	})
	for _, table := range part.Tables { // those without rows last
		parts = append(parts, named(table.Name, apart.KeyOf(table.Name, on.Laws), all[table.Name]))
	}
	out.words = fmt.Sprintf("; with only %s there %s", strings.Join(parts, " and "), alone.says())
	return out, nil
}

// inSample is what the rows of a twin do in the sample, in words: there they take the places of the rows with their keys, as far as that
// breaks no fact. "" where they show nothing there.
func (t trial) inSample(ctx context.Context, on *Twin, tables []engine.Table, rows map[string]*fault.Rows) (string, error) {
	changes := apart.Changes{}
	main := ""
	for _, table := range tables {
		key, found := apart.KeyOf(table.Name, on.Laws), rows[table.Name]
		if found.Count == 0 {
			continue
		}
		if key == "" {
			return "", nil
		}
		if changes[table.Name] = replacing(table, key, found); main == "" {
			main = named(table.Name, key, found)
		}
	}
	if len(changes) == 0 {
		return "", nil
	}
	base := t.place.changed()
	if law, err := base.Broken(ctx, changes, on.Laws); law != nil || err != nil {
		return "", err
	}
	m, err := t.missed(ctx, base.With(changes))
	if err != nil || m == nil {
		return "", err
	}
	return fmt.Sprintf("; with %s in the sample as there %s", main, m.says()), nil
}

// replacing puts rows in the places of those with their keys.
func replacing(table engine.Table, key string, rows *fault.Rows) []twin.Step {
	without := twin.Without{Column: key}
	var steps []twin.Step
	for _, row := range rows.First {
		add := twin.Add{}
		for i, column := range table.Columns {
			add.Cells = append(add.Cells, twin.TypedCell{Text: row[i], Type: column.Type})
			if column.Name == key && row[i] != nil {
				without.Type, without.Values = column.Type, append(without.Values, *row[i])
			}
		}
		steps = append(steps, add)
	}
	return append(steps, without)
}

// says is what was seen, in words.
func (m *miss) says() string {
	if m.failure != nil {
		return "the query fails: " + m.failure.Message
	}
	expected, got := m.result.Tables.Expected, m.result.Tables.Answer
	switch {
	case expected.Rows() == 1 && got.Rows() == 1 && len(m.result.Cells) == 1:
		c := m.result.Cells[0]
		return fmt.Sprintf("the answer is %s, expected %s", shownCell(c.Answer), shownCell(c.Expected))
	case max(expected.Rows(), got.Rows()) == 1:
		return fmt.Sprintf("the answer is %s, expected %s", shownRow(got), shownRow(expected))
	}
	return "the answer differs: " + m.result.Why
}

func shownCell(v value.Value) string {
	if v.IsNull() {
		return "null"
	}
	return v.String()
}

// shownRow is a table's only row in words.
func shownRow(t *table.Table) string {
	if t.Rows() == 0 {
		return "no row"
	}
	var cells []string
	for _, v := range t.Row(0) {
		cells = append(cells, shownCell(v))
	}
	return "(" + strings.Join(cells, ", ") + ")"
}

// changed is a place on which queries see tables changed.
func (p *Place) changed() *apart.Base {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.base == nil {
		p.base = apart.NewBase(p.Pool, p.Tables, p.Dialect)
	}
	return p.base
}

// named are rows of a table in words: by their keys, or how many they are.
func named(table, key string, rows *fault.Rows) string {
	at := slices.Index(rows.Columns, key)
	switch {
	case rows.Count == 0:
		return "no row of " + table
	case at < 0 && rows.Count == 1:
		return "one row of " + table
	case at < 0:
		return fmt.Sprintf("%d rows of %s", rows.Count, table)
	}
	var keys []string
	for _, row := range rows.First[:min(mostNamed, len(rows.First))] {
		if row[at] != nil {
			keys = append(keys, *row[at])
		}
	}
	words := table + "." + key + " " + strings.Join(keys, ", ")
	if more := int(rows.Count) - len(keys); more > 0 {
		words += fmt.Sprintf(" and %d more", more)
	}
	return words
}
