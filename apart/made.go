package apart

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/core/twin"
	"tovrel/engine"
	"tovrel/engine/sqltext"
	"tovrel/expect"
)

const (
	// rowsOfChange is how many rows each change is made in, and fittingRows how many rows of a table they are chosen from.
	rowsOfChange, fittingRows = 3, 240
	// parentsOf is how many parents are left without children, and mostChildren how many each may have.
	parentsOf, mostChildren = 3, 200
	// together is how many changes are tried at once, after all of them: more may hide each other.
	together = 12
	// mostUnlawful is how often changes that break a law are set aside and others looked for.
	mostUnlawful = 4
	// longestMaking bounds the search.
	longestMaking = 3 * time.Second
)

// atom is one change of a row, or the rows of one parent that are gone.
type atom struct {
	of     *twin.Made
	change *twin.Change
	row    int64 // its number
	gone   *twin.Gone
	rows   twin.Spans // that are gone
	parent string     // whose they were
	part   string     // which of them, in words; "" for all
}

// Found are changes of a dataset's rows that tell two queries apart.
type Found struct {
	Changes Changes
	Words   string      // what is changed
	Rows    *fault.Rows // that were changed; nil where rows are gone
}

// Making looks for changes of single rows that tell two queries apart.
type Making struct {
	Facts   *twin.Facts
	Bounds  []twin.Boundary // what the queries compare columns with
	Trees   []*sql.Tree     // theirs
	Differs Differs
}

// Make looks for a change of one row, or a few, within the facts of a dataset, with which two queries differ; nil where none is found. The
// error is of differs, a worker or the context.
func (b *Base) Make(ctx context.Context, m Making) (*Found, error) {
	var reads, named []string
	for _, t := range b.Read(m.Trees...) {
		reads = append(reads, t.Name)
	}
	for _, t := range m.Trees {
		named = append(named, t.ColumnNames()...)
	}
	plan := twin.ForQuestion(m.Facts, m.Bounds, twin.Named(reads), twin.Named(named))
	var atoms []atom
	for i := range plan {
		found, err := b.atoms(ctx, &plan[i], m)
		if err != nil {
			return nil, err
		}
		atoms = append(atoms, found...)
	}
	search := making{Base: b, Making: m, end: time.Now().Add(longestMaking)}
	for range mostUnlawful {
		few, err := search.telling(ctx, atoms)
		if err != nil || len(few) == 0 {
			return nil, err
		}
		changes := b.changesOf(few)
		law, err := b.Broken(ctx, changes, m.Facts.Laws)
		if err != nil {
			return nil, err
		}
		if law == nil {
			return b.found(ctx, few, changes, m.Facts.Laws)
		}
		atoms = slices.DeleteFunc(atoms, func(a atom) bool {
			return slices.ContainsFunc(few, func(f atom) bool { return f.of == a.of && f.change == a.change && f.gone == a.gone })
		})
	}
	return nil, nil
}

// making is a search among changes.
type making struct {
	*Base
	Making
	end time.Time
}

// telling are a few changes with which the queries differ; none where there are none.
func (m making) telling(ctx context.Context, atoms []atom) ([]atom, error) {
	groups := [][]atom{atoms}
	if len(atoms) > together {
		groups = slices.AppendSeq(groups, slices.Chunk(atoms, together))
	}
	for _, group := range groups {
		differs := func(some twin.Spans) (bool, bool, error) {
			if some.Rows() == 0 {
				return false, false, nil
			}
			if time.Now().After(m.end) {
				return false, true, nil
			}
			differs, err := m.Differs(ctx, m.With(m.changesOf(pick(group, some))))
			return differs, false, err
		}
		all := twin.AllRows(int64(len(group)))
		if does, _, err := differs(all); err != nil || !does {
			if err != nil {
				return nil, err
			}
			continue
		}
		few, err := twin.Smallest(all, differs)
		return pick(group, few), err
	}
	return nil, nil
}

func pick(atoms []atom, some twin.Spans) []atom {
	var out []atom
	for _, span := range some {
		out = append(out, atoms[span[0]:span[1]]...)
	}
	return out
}

// atoms are the changes of a table's rows: each in rows of its own that fit it, those first that the queries are likely to take.
func (b *Base) atoms(ctx context.Context, made *twin.Made, m Making) ([]atom, error) {
	meeting := conditions(made.Table, m.Bounds)
	result, err := b.on.Query(ctx, engine.Request{SQL: sqltext.Fitting(made.Table, made.Changes, meeting, fittingRows)})
	if _, failed := expect.Failure(err); failed {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	rows, used := result.Table, map[int64]bool{}
	var out []atom
	for i := range made.Changes {
		n, c := 0, &made.Changes[i]
		for row := 0; row < rows.Rows() && n < rowsOfChange; row++ {
			number, _ := rows.Columns[0].Value(row).Small()
			if c.Like() { // the one that the queries are likely to take is there twice
				number, _ = rows.Columns[1].Value(row).Small()
			}
			if used[number] || c.Like() && used[number-1] || rows.Columns[2+i].Value(row).String() != "true" {
				continue
			}
			used[number] = true
			if n++; c.Like() {
				used[number-1] = true
			}
			out = append(out, atom{of: made, change: c, row: number})
		}
	}
	for i := range made.Gone {
		gone, err := b.gone(ctx, made, &made.Gone[i], meeting)
		if err != nil {
			return nil, err
		}
		out = append(out, gone...)
	}
	return out, nil
}

// conditions are what the queries' literals say of a table's rows: a code is one of them, a moment or amount lies between them.
func conditions(t *twin.Table, bounds []twin.Boundary) []string {
	var out []string
	for _, c := range t.Columns {
		for _, bound := range bounds {
			if !strings.EqualFold(bound.Column, c.Name) || len(bound.Values) == 0 {
				continue
			}
			var literals []string
			for _, v := range bound.Values {
				literals = append(literals, sqltext.Text(v))
			}
			name := sqltext.Name(c.Name)
			switch {
			case !c.Amount && !c.Kind.Temporal():
				out = append(out, fmt.Sprintf("CAST(%s AS VARCHAR) IN (%s)", name, strings.Join(literals, ", ")))
			case len(literals) > 1:
				of := "TRY_CAST(%s AS " + c.Type + ")"
				for i, l := range literals {
					literals[i] = fmt.Sprintf(of, l)
				}
				list := strings.Join(literals, ", ")
				out = append(out, fmt.Sprintf("%s BETWEEN least(%s) AND greatest(%s)", name, list, list))
			}
		}
	}
	return out
}

// gone are the rows of some parents: all of them, and those that meet a condition.
func (b *Base) gone(ctx context.Context, made *twin.Made, g *twin.Gone, meeting []string) ([]atom, error) {
	link := sqltext.Link{From: g.From.Table, FromColumn: g.From.Column, To: g.To.Table, ToColumn: g.To.Column}
	var out []atom
	for _, part := range append([]string{""}, meeting[:min(1, len(meeting))]...) {
		result, err := b.on.Query(ctx, engine.Request{SQL: link.Children(parentsOf, mostChildren, part)})
		if _, failed := expect.Failure(err); failed {
			continue
		}
		if err != nil {
			return nil, err
		}
		for parent, rows := range byParent(result.Table) {
			out = append(out, atom{of: made, gone: g, rows: twin.SpansOf(rows), parent: parent, part: part})
		}
	}
	slices.SortFunc(out, func(a, b atom) int { return strings.Compare(a.part+"\x00"+a.parent, b.part+"\x00"+b.parent) })
	return out, nil
}

func byParent(t *table.Table) map[string][]int64 {
	out := map[string][]int64{}
	for row := range t.Rows() {
		n, _ := t.Columns[1].Value(row).Small()
		key := t.Columns[0].Value(row).String()
		out[key] = append(out[key], n)
	}
	return out
}

// changesOf puts changes together, by table.
func (b *Base) changesOf(atoms []atom) Changes {
	out := Changes{}
	sets := map[string]map[string]*twin.Set{} // by table and column
	gone := map[string]twin.Spans{}
	with := map[string][]twin.Link{}
	for _, a := range atoms {
		name := a.of.Table.Name
		if a.gone != nil {
			gone[name], with[name] = gone[name].And(a.rows), a.gone.With
			continue
		}
		if sets[name] == nil {
			sets[name] = map[string]*twin.Set{}
		}
		for _, column := range a.change.Columns {
			set := sets[name][column]
			if set == nil {
				set = &twin.Set{Column: column, Type: a.of.Table.Columns[a.of.Table.Column(column)].Type}
				sets[name][column] = set
			}
			put := twin.Put{Rows: twin.SpansOf([]int64{a.row}), Text: a.change.Text, Other: a.change.Other}
			if a.change.Like() {
				put.Of = new(a.row - 1)
			}
			set.Cells = append(set.Cells, put)
		}
	}
	for name, columns := range sets {
		for _, column := range slices.Sorted(maps.Keys(columns)) {
			out[name] = append(out[name], *columns[column])
		}
	}
	for name, rows := range gone {
		only := twin.Only{Rows: twin.AllRows(b.tables[strings.ToLower(name)].Rows).Less(rows)}
		out[name] = append(out[name], only)
		for _, l := range with[name] {
			out[l.From.Table] = append(out[l.From.Table], twin.Kept{Column: l.From.Column, Table: name, Key: l.To.Column,
				By: []twin.Step{only}})
		}
	}
	return out
}

// found says what a few changes are.
func (b *Base) found(ctx context.Context, few []atom, changes Changes, laws []twin.Law) (*Found, error) {
	out := &Found{Changes: changes}
	var words []string
	for _, a := range few {
		if a.gone != nil {
			which := "without rows of " + a.of.Table.Name
			if a.part != "" {
				which = "without its rows of " + a.of.Table.Name + " where " + a.part
			}
			words = append(words, fmt.Sprintf("%s.%s %s %s", a.gone.To.Table, a.gone.To.Column, a.parent, which))
			continue
		}
		rows, err := b.changedRows(ctx, a, changes)
		if err != nil {
			return nil, err
		}
		words = append(words, a.words(rows, KeyOf(a.of.Table.Name, laws)))
		switch {
		case out.Rows == nil:
			out.Rows = rows
		case out.Rows.Table == rows.Table:
			out.Rows.First, out.Rows.Count = append(out.Rows.First, rows.First...), out.Rows.Count+1
		}
	}
	out.Words = strings.Join(words, " and ")
	return out, nil
}

// changedRows are the row of a change as it is then.
func (b *Base) changedRows(ctx context.Context, a atom, changes Changes) (*fault.Rows, error) {
	name := a.of.Table.Name
	t := b.tables[strings.ToLower(name)]
	return b.first(ctx, t, append(slices.Clone(changes[name]), twin.Only{Rows: twin.SpansOf([]int64{a.row})}), 1)
}

// words are a change in words.
func (a atom) words(rows *fault.Rows, key string) string {
	row := "a row of " + a.of.Table.Name
	if at := slices.Index(rows.Columns, key); at >= 0 && len(rows.First) == 1 && rows.First[0][at] != nil {
		row = fmt.Sprintf("%s.%s %s", a.of.Table.Name, key, *rows.First[0][at])
	}
	column := a.change.Columns[0]
	switch {
	case a.change.Like():
		return row + " like the row before it in " + strings.Join(a.change.Columns, ", ")
	case a.change.Text != nil:
		return fmt.Sprintf("%s at %s %s", row, column, *a.change.Text)
	case a.change.Other != "":
		return fmt.Sprintf("%s at %s as in %s", row, column, a.change.Other)
	}
	return row + " without " + column
}
