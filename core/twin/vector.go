package twin

import (
	"math"
	"slices"

	"tovrel/core/table"
	"tovrel/core/value"
)

// vector is a column of a sample in the form in which dependencies are looked for.
type vector struct {
	kind     value.Kind
	rank     []int     // place of the value among the distinct ones in their order; -1 for null
	at       []float64 // a number, or days since the epoch; NaN for null and for other kinds
	texts    []string  // by rank, of texts
	rows     []int     // by rank, how many
	nulls    int
	decimals int  // the most that a number has
	amount   bool // its numbers are amounts, not names of things
}

func vectorOf(c *table.Column, amount bool) *vector {
	v := &vector{kind: c.Type.Kind, amount: amount, rank: make([]int, c.Len()), at: make([]float64, c.Len())}
	order := make([]int, 0, c.Len())
	for row := range c.Len() {
		v.at[row] = math.NaN()
		if c.IsNull(row) {
			v.rank[row] = -1
			v.nulls++
			continue
		}
		order = append(order, row)
		v.at[row] = position(c.Value(row))
	}
	slices.SortStableFunc(order, func(a, b int) int { return value.Compare(c.Value(a), c.Value(b)) })
	for i, row := range order {
		cell := c.Value(row)
		if i == 0 || value.Compare(c.Value(order[i-1]), cell) != 0 {
			v.rows = append(v.rows, 0)
			if v.kind == value.Text {
				v.texts = append(v.texts, cell.Str())
			}
		}
		v.rank[row] = len(v.rows) - 1
		v.rows[len(v.rows)-1]++
	}
	v.decimals = table.DisplayDecimals(c)
	return v
}

// position is where a number or a moment stands on a line; NaN for what has no place.
func position(v value.Value) float64 {
	if v.Kind().Temporal() {
		return float64(v.Micros()) / 86400e6
	}
	if f, ok := v.Float64(); ok && v.Kind().Number() {
		return f
	}
	return math.NaN()
}

func (v *vector) distinct() int { return len(v.rows) }

func (v *vector) filled() int { return len(v.rank) - v.nulls }

func (v *vector) unique() bool { return v.nulls == 0 && v.distinct() == len(v.rank) }

// nearlyUnique tells a column that would identify a row but for a few repeated ones.
func (v *vector) nearlyUnique() bool { return v.distinct()*10 >= v.filled()*9 }

func (v *vector) number() bool { return v.kind.Number() }

func (v *vector) temporal() bool { return v.kind.Temporal() }

// comparable tells whether two columns stand on the same line.
func (v *vector) comparable(w *vector) bool {
	return v.amount && w.amount || v.temporal() && w.temporal() && (v.kind == value.Time) == (w.kind == value.Time)
}

// whole is the column in whole days.
func (v *vector) whole(day bool) *vector {
	if !day || v.kind == value.Date {
		return v
	}
	out := *v
	out.at = make([]float64, len(v.at))
	for row, at := range v.at {
		out.at[row] = math.Floor(at)
	}
	return &out
}

// alike is the chance that two rows have the same value, null counted as one.
func (v *vector) alike() float64 {
	n := float64(len(v.rank))
	sum := float64(v.nulls) / n * float64(v.nulls) / n
	for _, rows := range v.rows {
		sum += float64(rows) / n * float64(rows) / n
	}
	return sum
}

// blanks is the column that tells where this one is null.
func (v *vector) blanks() *vector {
	b := &vector{kind: value.Bool, rank: make([]int, len(v.rank)), at: make([]float64, len(v.rank)), rows: []int{v.filled(), v.nulls}}
	for row, r := range v.rank {
		b.at[row] = math.NaN()
		if r < 0 {
			b.rank[row] = 1
		}
	}
	return b
}

// sameBlanks tells whether two columns are null in the same rows.
func (v *vector) sameBlanks(w *vector) bool {
	for row, r := range v.rank {
		if (r < 0) != (w.rank[row] < 0) {
			return false
		}
	}
	return true
}

// of is the column at some rows alone.
func (v *vector) of(rows []int) *vector {
	out := &vector{kind: v.kind, decimals: v.decimals, amount: v.amount}
	counts := make([]int, len(v.rows))
	for _, row := range rows {
		if v.rank[row] >= 0 {
			counts[v.rank[row]]++
		}
	}
	place := make([]int, len(counts))
	for r, n := range counts {
		if n > 0 {
			place[r] = len(out.rows)
			out.rows = append(out.rows, n)
			if v.texts != nil {
				out.texts = append(out.texts, v.texts[r])
			}
		}
	}
	for _, row := range rows {
		out.at = append(out.at, v.at[row])
		if v.rank[row] < 0 {
			out.rank = append(out.rank, -1)
			out.nulls++
			continue
		}
		out.rank = append(out.rank, place[v.rank[row]])
	}
	return out
}
