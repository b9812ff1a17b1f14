package match

import (
	"strconv"
	"strings"

	"tovrel/core/table"
	"tovrel/core/value"
)

// matchCrosstab compares tables of which one may be the crosstab of the other: it is brought to the long form of the other
// in every way that its headers allow, and the first that matches counts. Missing combinations are nulls in a crosstab, or
// noughts under `null: zero`, and rows that are not there in a long table.
func matchCrosstab(expected, answer *table.Table, rules Rules, known Known) (Result, bool) {
	zero := rules.get("null").Value == "zero"
	for _, u := range unpivots(expected, answer, known) {
		long := u.long(answer, expected, zero)
		kept := withValues(expected, u.value, zero)
		r := matchLong(pick(expected, kept), long, rules, known.pick(kept))
		if r.Matched {
			r.addRemark(Crosstab)
			return r, true
		}
	}
	for _, u := range unpivots(answer, expected, Known{Labels: nil}) {
		long := u.long(expected, answer, zero)
		kept := pick(answer, withValues(answer, u.value, zero))
		r := matchLong(long, kept, rules, Known{Rounded: all(known.Rounded, len(long.Columns))})
		if r.Matched {
			r.addRemark(Crosstab)
			return r, true
		}
	}
	return Result{}, false
}

// all carries over that written numbers are rounded.
func all(flags []bool, n int) []bool {
	for _, f := range flags {
		if !f {
			return nil
		}
	}
	out := make([]bool, n)
	for i := range out {
		out[i] = len(flags) > 0
	}
	return out
}

// unpivot is one way to bring a crosstab to a long table's form.
type unpivot struct {
	header, value int         // columns of the long table
	keys          map[int]int // long column to crosstab column
	rowOf         map[int]int // crosstab column to a row of the long table that has its header
}

// unpivots lists the ways in which a table may be the crosstab of a long one.
func unpivots(long, crosstab *table.Table, known Known) []unpivot {
	var out []unpivot
	if len(long.Columns) < 2 || long.Rows() == 0 {
		return nil
	}
	for v := range long.Columns {
		for h := range long.Columns {
			if h == v {
				continue
			}
			var labels map[string]string
			if h < len(known.Labels) {
				labels = known.Labels[h]
			}
			if u, ok := unpivotBy(long, crosstab, h, v, labels); ok {
				out = append(out, u)
			}
		}
	}
	return out
}

func unpivotBy(long, crosstab *table.Table, h, v int, labels map[string]string) (unpivot, bool) {
	u := unpivot{h, v, map[int]int{}, map[int]int{}}
	headers := headerRows(long.Columns[h], labels)
	var rest []int
	for j, c := range crosstab.Columns {
		if row, ok := headers[headerKey(c.Name)]; ok {
			u.rowOf[j] = row
		} else {
			rest = append(rest, j)
		}
	}
	var keys []int
	for i := range long.Columns {
		if i != h && i != v {
			keys = append(keys, i)
		}
	}
	if len(u.rowOf) == 0 || len(rest) != len(keys) {
		return u, false
	}
	return u, u.pairKeys(long, crosstab, keys, rest)
}

// pairKeys pairs the key columns by name, the others in their order.
func (u *unpivot) pairKeys(long, crosstab *table.Table, keys, rest []int) bool {
	taken := map[int]bool{}
	for _, i := range keys {
		for _, j := range rest {
			if !taken[j] && fold(long.Columns[i].Name) == fold(crosstab.Columns[j].Name) {
				u.keys[i], taken[j] = j, true
				break
			}
		}
	}
	for _, i := range keys {
		if _, done := u.keys[i]; done {
			continue
		}
		for _, j := range rest {
			if !taken[j] && kindOf(long.Columns[i]) == kindOf(crosstab.Columns[j]) {
				u.keys[i], taken[j] = j, true
				break
			}
		}
	}
	return len(u.keys) == len(keys)
}

// headerRows finds, by every way to write it, a row that has each value of a column: as it is, its label or code, a month by
// its name, a period's first day by the period.
func headerRows(c *table.Column, labels map[string]string) map[string]int {
	rows := map[string]int{}
	add := func(key string, row int) {
		if _, known := rows[key]; !known && key != "" {
			rows[key] = row
		}
	}
	codes := codesOf(labels)
	for row := range c.Len() {
		if c.IsNull(row) {
			add("null", row)
			continue
		}
		text := cellText(c, row)
		add(headerKey(text), row)
		add(headerKey(labels[text]), row)
		add(headerKey(codes[text]), row)
		if n, small := c.Value(row).Small(); small && c.Type.Kind == value.Int && n >= 1 && n <= 12 {
			add("month "+strconv.Itoa(int(n)), row)
		}
	}
	return rows
}

// headerKey is how headers and values are compared; month names and periods are brought to one form.
func headerKey(text string) string {
	text = strings.TrimSpace(text)
	if n := monthNamed(text); n > 0 {
		return "month " + strconv.Itoa(n)
	}
	if start, length := readPeriod(text); length == "month" || length == "quarter" {
		return start.String()
	}
	if v, err := value.Parse(text, value.Type{Kind: value.Timestamp}); err == nil && v.Micros()%86_400_000_000 == 0 {
		return text[:10]
	}
	if decimals, ok := value.PlainNumber(text); ok && decimals > 0 {
		return strings.TrimRight(strings.TrimRight(text, "0"), ".")
	}
	return foldText(text)
}

// long lays the crosstab out as the long table: a row for each of its rows and headers that has a value.
func (u *unpivot) long(crosstab, like *table.Table, zero bool) *table.Table {
	out := &table.Table{}
	valueType := u.valueType(crosstab)
	for i, c := range like.Columns {
		t := c.Type
		if j, key := u.keys[i]; key {
			t = crosstab.Columns[j].Type
		} else if i == u.value {
			t = valueType
		}
		out.Columns = append(out.Columns, table.NewColumn(c.Name, t, 0))
	}
	for row := range crosstab.Rows() {
		for j, column := range crosstab.Columns {
			from, header := u.rowOf[j]
			if !header || absent(column, row, zero) {
				continue
			}
			for i, c := range out.Columns {
				switch k, key := u.keys[i]; {
				case key:
					c.Append(crosstab.Columns[k].Value(row))
				case i == u.header:
					c.Append(like.Columns[i].Value(from))
				default:
					c.Append(as(column.Value(row), valueType))
				}
			}
		}
	}
	return out
}

// absent tells whether a cell of a crosstab stands for a combination that does not occur.
func absent(c *table.Column, row int, zero bool) bool {
	if c.IsNull(row) {
		return true
	}
	f, number := c.Value(row).Float64()
	return zero && number && f == 0
}

// withValues lists the rows of a long table whose value is one.
func withValues(t *table.Table, column int, zero bool) []int {
	var rows []int
	for row := range t.Rows() {
		if !absent(t.Columns[column], row, zero) {
			rows = append(rows, row)
		}
	}
	return rows
}

// valueType is a type that holds the cells of all header columns.
func (u *unpivot) valueType(crosstab *table.Table) value.Type {
	var out value.Type
	first := true
	for j := range u.rowOf {
		t := crosstab.Columns[j].Type
		switch {
		case first, out == t:
			out = t
		case !out.Kind.Number() || !t.Kind.Number():
			return value.Type{Kind: value.Text}
		case out.Kind == value.Float || t.Kind == value.Float:
			out = value.Type{Kind: value.Float}
		default:
			out = value.Type{Kind: value.Decimal, Scale: max(out.Scale, t.Scale)}
		}
		first = false
	}
	return out
}

// as gives a cell in a type that holds it.
func as(v value.Value, t value.Type) value.Value {
	switch {
	case v.Type() == t || v.IsNull():
		return v
	case t.Kind == value.Float:
		f, _ := v.Float64()
		return value.OfFloat(f)
	case t.Kind == value.Decimal:
		return value.Shift(v, 0, t)
	}
	return value.OfText(v.String())
}
