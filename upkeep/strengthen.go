package upkeep

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"tovrel/apart"
	"tovrel/attempt"
	"tovrel/cause"
	"tovrel/core/edit"
	"tovrel/core/match"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/core/twin"
	"tovrel/core/value"
	"tovrel/engine"
	"tovrel/engine/sqltext"
	"tovrel/expect"
)

// AddedRow is a row that is not in the sample data and tells survivors from the right query.
type AddedRow struct {
	Table   string
	Columns []string
	Cells   []string // as texts; "" with Null for null
	Null    []bool
	Tells   []int // which survivors, by place
	Why     string

	good bool // it told a survivor apart
}

const (
	// longestStrengthening is how long rows are looked for, for one question.
	longestStrengthening = 20 * time.Second
	// baseRows is from how many rows of a table candidates are made, and mostCandidates how many of a table are tried.
	baseRows, mostCandidates = 8, 240
)

// Strengthen finds rows that would tell the survivors of a question from its reference query: rows on and beside the boundaries that the
// queries name, with nulls, repeated rows, and parents without children. It may find none for some. Place is the question's among those
// whose rows will stand together: the keys of new rows are apart by it. The error is of a worker or the context.
func Strengthen(ctx context.Context, p attempt.Plan, s *Strength, place int) error {
	on := p.Places[s.Chosen.Set.Dataset]
	if len(s.Survivors) == 0 {
		return nil
	}
	expectations, err := on.Expectations(ctx, s.Chosen)
	if err != nil || len(expectations) == 0 || expectations[0].Tree == nil {
		return ctx.Err()
	}
	e := expectations[0]
	h := &hardening{place: on, base: apart.NewBase(on.Pool, on.Tables, on.Dialect), firstKey: place * 2 * baseRows * mostVariants,
		strength: s, reference: e.Reference,
		rules: s.Chosen.Question.Rules.Over(s.Chosen.Set.Rules.Over(p.Rules)), known: match.Known{Rounded: e.Known.Rounded},
		right: map[[2]int]*table.Table{}}
	if on.Facts != nil {
		facts, err := on.Facts(ctx)
		if err != nil {
			return err
		}
		h.laws = facts.Laws
	}
	if h.rows, err = h.candidates(ctx, e.Tree); err != nil || len(h.rows) == 0 {
		return err
	}
	end := time.Now().Add(longestStrengthening)
	for i := range s.Survivors {
		if time.Now().After(end) {
			return nil
		}
		row, err := h.find(ctx, s.Survivors[i].Query, end)
		if err != nil {
			return err
		}
		if row == nil {
			continue
		}
		s.Survivors[i].Row = row
		if row.Tells = append(row.Tells, i); len(row.Tells) == 1 {
			s.Rows = append(s.Rows, row)
		}
	}
	return nil
}

type hardening struct {
	place     *attempt.Place
	firstKey  int // from which on the keys of this question's rows are counted
	strength  *Strength
	reference string
	rules     match.Rules
	known     match.Known
	base      *apart.Base
	laws      []twin.Law  // that no row may break
	rows      []*AddedRow // to be tried, the plainest of a table first
	right     map[[2]int]*table.Table
}

// together is how many rows are tried at once: more would hide each other.
const together = 24

// find looks for one row with which a survivor's result differs from the reference's, and that breaks no fact of the dataset; nil where
// there is none. Rows that told others apart are looked at first.
func (h *hardening) find(ctx context.Context, survivor string, end time.Time) (*AddedRow, error) {
	for {
		at, err := h.search(ctx, survivor, end)
		if at < 0 || err != nil {
			return nil, err
		}
		row := h.rows[at]
		lawful, err := h.lawful(ctx, row)
		if err != nil {
			return nil, err
		}
		if lawful {
			row.good = true
			return row, nil
		}
		h.rows = slices.Delete(h.rows, at, at+1)
		clear(h.right) // it goes by places
	}
}

// search is the place of a row with which a survivor's result differs: of one that told others apart, else of one among some of a table
// that are tried at once; -1 where there is none.
func (h *hardening) search(ctx context.Context, survivor string, end time.Time) (int, error) {
	for at, row := range h.rows {
		if !row.good {
			continue
		}
		if differs, err := h.differs(ctx, survivor, at, at+1); err != nil || differs {
			return at, err
		}
	}
	for from := 0; from < len(h.rows) && time.Now().Before(end); {
		to := from + 1
		for to < len(h.rows) && to < from+together && h.rows[to].Table == h.rows[from].Table {
			to++
		}
		differs, err := h.differs(ctx, survivor, from, to)
		if err != nil {
			return -1, err
		}
		if differs {
			if at, err := h.halve(ctx, survivor, from, to); err != nil || at >= 0 {
				return at, err
			}
		}
		from = to
	}
	for at := len(h.rows) - 1; at >= 0 && time.Now().Before(end); at-- { // those with most changes may hide each other
		if differs, err := h.differs(ctx, survivor, at, at+1); err != nil || differs {
			return at, err
		}
	}
	return -1, nil
}

// lawful tells whether a row breaks no fact that holds on the sample.
func (h *hardening) lawful(ctx context.Context, row *AddedRow) (bool, error) {
	law, err := h.base.Broken(ctx, h.added([]*AddedRow{row}), h.laws)
	return law == nil, err
}

// halve narrows rows that tell a survivor apart down to one; -1 where only several together do.
func (h *hardening) halve(ctx context.Context, survivor string, from, to int) (int, error) {
	for to-from > 1 {
		middle := (from + to) / 2
		first, err := h.differs(ctx, survivor, from, middle)
		if err != nil {
			return -1, err
		}
		if first {
			to = middle
			continue
		}
		second, err := h.differs(ctx, survivor, middle, to)
		if err != nil || !second {
			return -1, err
		}
		from = middle
	}
	return from, nil
}

// differs tells whether a survivor's result is not right where some of the rows are there.
func (h *hardening) differs(ctx context.Context, survivor string, from, to int) (bool, error) {
	at := [2]int{from, to}
	right, known := h.right[at]
	if !known {
		var err error
		if right, err = h.with(ctx, h.rows[from:to], h.reference); err != nil {
			return false, err
		}
		h.right[at] = right
	}
	got, err := h.with(ctx, h.rows[from:to], survivor)
	if err != nil || right == nil || got == nil {
		return false, err
	}
	return !match.Match(right, got, h.rules, h.known).Matched, nil
}

// with runs a query as if rows were there. Nil for a query that does not run.
func (h *hardening) with(ctx context.Context, rows []*AddedRow, query string) (*table.Table, error) {
	timed, cancel := context.WithTimeout(ctx, longestStrengthEdit)
	defer cancel()
	result, err := h.base.With(h.added(rows)).Query(timed, engine.Request{SQL: query})
	if _, failed := expect.Failure(err); failed || timed.Err() != nil {
		return nil, ctx.Err()
	}
	return result.Table, err
}

// added are the steps by which rows are there.
func (h *hardening) added(rows []*AddedRow) apart.Changes {
	out := apart.Changes{}
	for _, r := range rows {
		types := h.place.Search.Types[strings.ToLower(r.Table)]
		var cells []twin.TypedCell
		for i, column := range types.Columns {
			cell := twin.TypedCell{Type: column.Type}
			if !r.Null[i] {
				cell.Text = &r.Cells[i]
			}
			cells = append(cells, cell)
		}
		out[r.Table] = append(out[r.Table], twin.Add{Cells: cells})
	}
	return out
}

// candidates are the rows to try, the plainest first.
func (h *hardening) candidates(ctx context.Context, reference *sql.Tree) ([]*AddedRow, error) {
	bounds, err := expect.BoundariesOf(ctx, h.place.Pool, []*sql.Tree{reference})
	if err != nil {
		return nil, err
	}
	var out []*AddedRow
	for _, name := range reference.TablesRead() {
		types, known := h.place.Search.Types[name]
		if !known {
			continue // a CTE
		}
		found, err := h.tableCandidates(ctx, types, bounds)
		if err != nil {
			return nil, err
		}
		slices.SortStableFunc(found, func(a, b *AddedRow) int { return cmp.Compare(strings.Count(a.Why, ","), strings.Count(b.Why, ",")) })
		out = append(out, found[:min(len(found), mostCandidates)]...)
	}
	return out, nil
}

// tableCandidates are rows of a table with a key of their own and cells on and beside boundaries, or null.
func (h *hardening) tableCandidates(ctx context.Context, types engine.Table, bounds []twin.Boundary) ([]*AddedRow, error) {
	result, err := h.place.Pool.Query(ctx, engine.Request{SQL: sqltext.In(h.place.Dialect).Some(types.Name,
		max(1, types.Rows/(3*baseRows)), baseRows)})
	if _, failed := expect.Failure(err); failed {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	keys, err := h.newKeys(ctx, types)
	if err != nil {
		return nil, err
	}
	for _, b := range bounds { // texts that are compared with, such as days, are no keys, even where none is there twice
		maps.DeleteFunc(keys, func(name string, _ func(int) string) bool {
			at := slices.IndexFunc(types.Columns, func(c engine.Column) bool { return c.Name == name })
			return strings.EqualFold(b.Column, name) && cause.ColumnKind(types.Columns[at].Type) == edit.Text
		})
	}
	childless, err := h.childless(ctx, types)
	if err != nil {
		return nil, err
	}
	var out []*AddedRow
	for row := range result.Table.Rows() {
		base := &AddedRow{Table: types.Name}
		for i, c := range result.Table.Columns {
			cell := c.Value(row)
			base.Columns, base.Null = append(base.Columns, types.Columns[i].Name), append(base.Null, cell.IsNull())
			base.Cells = append(base.Cells, textOf(cell))
		}
		variants := []*AddedRow{base}
		for i, column := range types.Columns {
			if _, isKey := keys[column.Name]; isKey {
				continue
			}
			if parent := childless[column.Name]; parent != "" {
				variants = append(variants, base.with(i, parent, false, "for the "+column.Name+" without rows, "+parent))
			}
			variants = append(variants, h.changed(variants, i, column, bounds)...)
		}
		for _, v := range variants {
			if v == base {
				v.Why = "a row like others"
			}
			for _, key := range slices.Sorted(maps.Keys(keys)) { // every row has keys of its own
				fresh := keys[key]
				i := slices.Index(v.Columns, key)
				v.Cells[i], v.Null[i] = fresh(h.firstKey+len(out)), false
			}
			out = append(out, v)
		}
	}
	return out, nil
}

// mostVariants bounds the combinations of one row.
const mostVariants = 40

// changed are the variants of rows with other cells in a column.
func (h *hardening) changed(variants []*AddedRow, at int, column engine.Column, bounds []twin.Boundary) []*AddedRow {
	var values []string
	for _, b := range bounds {
		if strings.EqualFold(b.Column, column.Name) {
			values = append(values, twin.Beside(column.Type, b.Values)...)
		}
	}
	var out []*AddedRow
	for _, text := range values {
		for _, v := range variants {
			if len(out)+len(variants) < mostVariants {
				out = append(out, h.along(v, v.with(at, text, false, column.Name+" "+text), at))
			}
		}
	}
	if len(out)+len(variants) < mostVariants {
		out = append(out, variants[0].with(at, "", true, "no "+column.Name))
	}
	return out
}

// along is a changed row in which the moments that keep an order with the changed one moved as far.
func (h *hardening) along(was, is *AddedRow, at int) *AddedRow {
	for _, l := range h.laws {
		if l.Kind != twin.Ordered || l.Table != is.Table || !slices.Contains(l.Columns, is.Columns[at]) {
			continue
		}
		for i, name := range is.Columns {
			if i == at || is.Null[i] || was.Null[at] || !slices.Contains(l.Columns, name) || is.Cells[i] != was.Cells[i] {
				continue
			}
			if moved, fits := twin.Along(was.Cells[i], was.Cells[at], is.Cells[at]); fits {
				is.Cells[i] = moved
			}
		}
	}
	return is
}

func (r *AddedRow) with(at int, text string, null bool, why string) *AddedRow {
	out := *r
	out.Cells, out.Null = append([]string(nil), r.Cells...), append([]bool(nil), r.Null...)
	out.Cells[at], out.Null[at] = text, null
	if out.Why != "" {
		why = out.Why + ", " + why
	}
	out.Why = why
	return &out
}

// newKeys are values that no row has, of the columns that never repeat.
func (h *hardening) newKeys(ctx context.Context, types engine.Table) (map[string]func(n int) string, error) {
	out := map[string]func(n int) string{}
	for _, c := range types.Columns {
		number := cause.ColumnKind(c.Type) == edit.Number
		if !number && cause.ColumnKind(c.Type) != edit.Text {
			continue
		}
		result, err := h.place.Pool.Query(ctx, engine.Request{SQL: sqltext.Unique(types.Name, c.Name, number)})
		if _, failed := expect.Failure(err); failed {
			continue
		}
		if err != nil {
			return nil, err
		}
		if row := result.Table.Row(0); slices.Contains([]string{"true", "1"}, row[0].String()) && !row[1].IsNull() {
			last, err := strconv.ParseInt(row[1].String(), 10, 64)
			switch {
			case err == nil && number:
				out[c.Name] = func(n int) string { return strconv.FormatInt(last+1+int64(n), 10) }
			case !number:
				out[c.Name] = func(n int) string { return fmt.Sprintf("new %d", n+1) }
			}
		}
	}
	return out, nil
}

// childless are the keys of parents without rows in a table, by the column that would refer to them.
func (h *hardening) childless(ctx context.Context, types engine.Table) (map[string]string, error) {
	out := map[string]string{}
	if h.place.Briefing == nil {
		return out, nil
	}
	for _, j := range h.place.Briefing.Joins {
		from, to := j.From, j.To
		if !strings.EqualFold(from.Table, types.Name) {
			from, to = to, from
		}
		if !strings.EqualFold(from.Table, types.Name) {
			continue
		}
		link := sqltext.Link{From: types.Name, FromColumn: from.Column, To: to.Table, ToColumn: to.Column}
		result, err := h.place.Pool.Query(ctx, engine.Request{SQL: link.FirstChildless()})
		if _, failed := expect.Failure(err); failed {
			continue
		}
		if err != nil {
			return nil, err
		}
		out[from.Column] = textOf(result.Table.Columns[0].Value(0))
	}
	return out, nil
}

func textOf(v value.Value) string {
	if v.IsNull() {
		return ""
	}
	return v.String()
}
