package chart

import (
	"math"
	"slices"
	"strings"

	"tovrel/core/table"
	"tovrel/core/value"
)

// Drawn is what a chart draws: a column for each channel that shows data, x first, then y, named after the fields.
type Drawn struct {
	Table    *table.Table
	Channels []string // by column
}

// Draw computes what a chart draws of some data; its own values go before them. It names the first field that the data do not have.
func (s Spec) Draw(data *table.Table) (Drawn, error) {
	if s.Values != nil {
		data = s.Values
	}
	if data == nil {
		return Drawn{}, &Problem{"data", "neither the chart nor a query gives any data"}
	}
	for _, t := range s.Transform {
		data = t.apply(data)
	}
	var channels []Channel
	for _, c := range s.Channels {
		if !oneOf(c.Name, "tooltip", "detail", "order", "href", "url", "key", "description") {
			channels = append(channels, c)
		}
	}
	for _, c := range channels {
		if c.Field != "" && column(data, c.Field) == nil && c.Aggregate != "count" {
			return Drawn{}, &Problem{"encoding." + c.Name + ".field", "the data have no field " + c.Field + "; they have " +
				strings.Join(data.Names(), ", ")}
		}
	}
	return drawn(data, channels), nil
}

// drawn computes the columns of the channels: grouped where one of them is an aggregate.
func drawn(data *table.Table, channels []Channel) Drawn {
	work := &table.Table{}
	var by []string
	var measures []Measure
	for _, c := range channels {
		source := column(data, c.Field)
		if source == nil { // a count needs none
			source = &table.Column{}
		}
		switch {
		case c.Aggregate != "":
			work.Columns = append(work.Columns, renamed(source, c.Name, data.Rows()))
			measures = append(measures, Measure{c.Aggregate, c.Name, c.Name + " out"})
		default:
			if c.TimeUnit != "" {
				source = inUnit(source, c.TimeUnit)
			}
			if c.Bin {
				source = binned(source, 0)
			}
			work.Columns = append(work.Columns, renamed(source, c.Name, data.Rows()))
			by = append(by, c.Name)
		}
	}
	if len(measures) > 0 {
		work = Aggregate{by, measures}.apply(work)
	}
	out := Drawn{Table: &table.Table{}}
	for _, c := range channels {
		name := c.Name
		if c.Aggregate != "" {
			name += " out"
		}
		shown := *column(work, name)
		shown.Name = c.Field
		if shown.Name == "" {
			shown.Name = c.Aggregate
		}
		out.Table.Columns = append(out.Table.Columns, &shown)
		out.Channels = append(out.Channels, c.Name)
	}
	return out
}

// renamed is a column under another name; one without rows is filled with nulls.
func renamed(c *table.Column, name string, rows int) *table.Column {
	if c.Len() < rows {
		empty := table.NewColumn(name, value.Type{Kind: value.Int}, rows)
		for range rows {
			empty.AppendInt(1)
		}
		return empty
	}
	out := *c
	out.Name = name
	return &out
}

func column(t *table.Table, name string) *table.Column {
	for _, c := range t.Columns {
		if c.Name == name {
			return c
		}
	}
	for _, c := range t.Columns {
		if strings.EqualFold(c.Name, name) {
			return c
		}
	}
	return nil
}

// with is a table with one more column, in the place of one of its name.
func with(t *table.Table, c *table.Column) *table.Table {
	out := &table.Table{}
	for _, old := range t.Columns {
		if old.Name != c.Name {
			out.Columns = append(out.Columns, old)
		}
	}
	out.Columns = append(out.Columns, c)
	return out
}

func (b BinField) apply(t *table.Table) *table.Table {
	source := column(t, b.Field)
	if source == nil {
		return t
	}
	c := *binned(source, b.Step)
	c.Name = b.As
	return with(t, &c)
}

func (u UnitField) apply(t *table.Table) *table.Table {
	source := column(t, u.Field)
	if source == nil {
		return t
	}
	c := *inUnit(source, u.Unit)
	c.Name = u.As
	return with(t, &c)
}

func (f Filter) apply(t *table.Table) *table.Table {
	return t.Pick(slices.DeleteFunc(places(t), func(row int) bool {
		return slices.ContainsFunc(f.All, func(c Condition) bool {
			source := column(t, c.Field)
			return source == nil || !c.holds(source.Value(row))
		})
	}))
}

func (s SortRows) apply(t *table.Table) *table.Table {
	rows := places(t)
	slices.SortStableFunc(rows, func(a, b int) int {
		for _, f := range s.By {
			source := column(t, f.Field)
			if source == nil {
				continue
			}
			n := value.Compare(source.Value(a), source.Value(b))
			if f.Descending {
				n = -n
			}
			if n != 0 {
				return n
			}
		}
		return 0
	})
	return t.Pick(rows)
}

func places(t *table.Table) []int {
	rows := make([]int, t.Rows())
	for i := range rows {
		rows[i] = i
	}
	return rows
}

func (a Aggregate) apply(t *table.Table) *table.Table {
	groups := map[string][]int{}
	var order []string
	for row := range t.Rows() {
		var key strings.Builder
		for _, name := range a.By {
			if c := column(t, name); c != nil {
				key.WriteString(c.Value(row).String() + "\x00")
			}
		}
		if groups[key.String()] == nil {
			order = append(order, key.String())
		}
		groups[key.String()] = append(groups[key.String()], row)
	}
	var first []int
	for _, key := range order {
		first = append(first, groups[key][0])
	}
	out := &table.Table{}
	for _, name := range a.By {
		if c := column(t, name); c != nil {
			out.Columns = append(out.Columns, (&table.Table{Columns: []*table.Column{c}}).Pick(first).Columns[0])
		}
	}
	for _, m := range a.Measures {
		out.Columns = append(out.Columns, m.over(t, order, groups))
	}
	return out
}

// over computes a measure for each group. Counts are whole; values keep their kind where one of them is taken; sums and means are floats.
func (m Measure) over(t *table.Table, order []string, groups map[string][]int) *table.Column {
	source := column(t, m.Field)
	kind := value.Type{Kind: value.Float}
	switch {
	case oneOf(m.Op, "count", "valid", "distinct"):
		kind = value.Type{Kind: value.Int}
	case oneOf(m.Op, "min", "max") && source != nil:
		kind = source.Type
	}
	out := table.NewColumn(m.As, kind, len(order))
	for _, key := range order {
		rows := groups[key]
		if m.Op == "count" || source == nil {
			out.AppendInt(int64(len(rows)))
			continue
		}
		m.one(out, source, rows)
	}
	return out
}

func (m Measure) one(out, source *table.Column, rows []int) {
	var valid []int
	seen := map[string]bool{}
	var numbers []float64
	for _, row := range rows {
		if source.IsNull(row) {
			continue
		}
		valid = append(valid, row)
		seen[source.Value(row).String()] = true
		if x, ok := source.Value(row).Float64(); ok {
			numbers = append(numbers, x)
		}
	}
	switch {
	case m.Op == "valid":
		out.AppendInt(int64(len(valid)))
	case m.Op == "distinct":
		out.AppendInt(int64(len(seen)))
	case len(valid) == 0:
		out.AppendNull()
	case m.Op == "min" || m.Op == "max":
		out.Append(extreme(source, valid, m.Op == "max"))
	case len(numbers) == 0:
		out.AppendNull()
	default:
		out.AppendFloat(summed(m.Op, numbers))
	}
}

func extreme(c *table.Column, rows []int, largest bool) value.Value {
	best := c.Value(rows[0])
	for _, row := range rows[1:] {
		if n := value.Compare(c.Value(row), best); n > 0 == largest && n != 0 {
			best = c.Value(row)
		}
	}
	return best
}

func summed(op string, numbers []float64) float64 {
	sum := 0.0
	for _, x := range numbers {
		sum += x
	}
	switch op {
	case "mean", "average":
		return sum / float64(len(numbers))
	case "median":
		slices.Sort(numbers)
		half := len(numbers) / 2
		if len(numbers)%2 == 1 {
			return numbers[half]
		}
		return (numbers[half-1] + numbers[half]) / 2
	}
	return sum
}

// binned puts numbers into intervals of a step; 0 for about ten of a round width.
func binned(c *table.Column, step float64) *table.Column {
	low, high := math.Inf(1), math.Inf(-1)
	for row := range c.Len() {
		if x, ok := c.Value(row).Float64(); ok && !c.IsNull(row) {
			low, high = min(low, x), max(high, x)
		}
	}
	if step <= 0 {
		step = roundStep((high - low) / 10)
	}
	out := table.NewColumn(c.Name, value.Type{Kind: value.Float}, c.Len())
	for row := range c.Len() {
		x, ok := c.Value(row).Float64()
		if c.IsNull(row) || !ok {
			out.AppendNull()
			continue
		}
		out.AppendFloat(math.Floor(x/step+1e-9) * step)
	}
	return out
}

// roundStep is the smallest of 1, 2, 5 times a power of ten that is no smaller than a width.
func roundStep(width float64) float64 {
	if !(width > 0) || math.IsInf(width, 0) {
		return 1
	}
	power := math.Pow(10, math.Floor(math.Log10(width)))
	for _, times := range []float64{1, 2, 5} {
		if power*times >= width*(1-1e-12) {
			return power * times
		}
	}
	return power * 10
}

// inUnit is the part of time in which dates lie: the first day of a year, a quarter or a month, a day; or the number of a month, a
// quarter, a day of the month, a weekday or an hour.
func inUnit(c *table.Column, unit string) *table.Column {
	whole := strings.HasPrefix(unit, "year") && unit != "year"
	kind := value.Type{Kind: value.Int}
	if whole {
		kind = value.Type{Kind: value.Date}
	}
	out := table.NewColumn(c.Name, kind, c.Len())
	for row := range c.Len() {
		v := instant(c.Value(row))
		if c.IsNull(row) || v.IsNull() {
			out.AppendNull()
			continue
		}
		out.Append(partOf(v, unit))
	}
	return out
}

// instant reads a cell as a moment; texts as dates are written in JSON.
func instant(v value.Value) value.Value {
	if v.Kind() == value.Date || v.Kind() == value.Timestamp || v.Kind() == value.TimestampTZ {
		return v
	}
	if v.Kind() == value.Text {
		for _, kind := range []value.Kind{value.Date, value.Timestamp} {
			if parsed, err := value.Parse(strings.Replace(strings.TrimSuffix(v.Str(), "Z"), "T", " ", 1),
				value.Type{Kind: kind}); err == nil {
				return parsed
			}
		}
	}
	return value.Value{}
}

const microsADay = 86400 * 1e6

func partOf(v value.Value, unit string) value.Value {
	micros := v.Micros()
	days := micros / microsADay
	if micros < 0 && micros%microsADay != 0 {
		days--
	}
	year, month, day := value.Civil(days)
	first := func(month int) value.Value {
		parsed, _ := value.Parse(formatDay(year, month, 1), value.Type{Kind: value.Date}) // a day of a year that is read
		return parsed
	}
	switch unit {
	case "year":
		return value.OfInt(int64(year))
	case "quarter":
		return value.OfInt(int64((month + 2) / 3))
	case "month":
		return value.OfInt(int64(month))
	case "date":
		return value.OfInt(int64(day))
	case "day":
		return value.OfInt((days%7 + 11) % 7) // 1970-01-01 was a Thursday; Sunday is 0
	case "hours":
		return value.OfInt((micros - days*microsADay) / 3600e6)
	case "yearquarter":
		return first((month-1)/3*3 + 1)
	case "yearmonth":
		return first(month)
	}
	return value.OfDate(days)
}
