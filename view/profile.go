package view

import (
	"fmt"
	"strings"

	"tovrel/core/profile"
	"tovrel/core/value"
)

// ProfileColumn is the JSON form of a column's profile.
type ProfileColumn struct {
	Name     string         `json:"name"`
	Type     string         `json:"type"`
	Role     string         `json:"role"`
	Reason   string         `json:"reason"`
	Rows     int64          `json:"rows"`
	Nulls    int64          `json:"nulls"`
	Distinct int64          `json:"distinct"`
	Min      value.Value    `json:"min"`
	Max      value.Value    `json:"max"`
	Top      []ProfileValue `json:"top"`
	Bins     []int64        `json:"histogram"`
}

// ProfileValue is a value with its count.
type ProfileValue struct {
	Value string `json:"value"`
	Rows  int64  `json:"rows"`
}

// ProfileTable is the JSON form of a table's profile.
type ProfileTable struct {
	Name    string          `json:"name"`
	Rows    int64           `json:"rows"`
	Sampled int64           `json:"sampled,omitempty"` // counted on so many first rows alone
	Columns []ProfileColumn `json:"columns"`
}

// ProfileJoin is the JSON form of a likely join.
type ProfileJoin struct {
	From        string  `json:"from"`
	To          string  `json:"to"`
	Cardinality string  `json:"cardinality"`
	RowsPerKey  float64 `json:"rows_per_key"`
	Orphans     int64   `json:"orphans"`
	OrphanShare float64 `json:"orphan_share"`
	Childless   int64   `json:"childless"`
}

type profileForm struct {
	Dataset string         `json:"dataset"`
	Tables  []ProfileTable `json:"tables"`
	Joins   []ProfileJoin  `json:"joins"`
}

// topShown is how many of the commonest values are shown to people; machines get topKept.
const (
	topShown = 3
	topKept  = 10
)

// Profile shows what was counted of a dataset and what its columns seem to be; briefed says that it has a briefing.
func Profile(d *profile.Dataset, briefed bool) Screen {
	form := profileForm{d.Name, []ProfileTable{}, []ProfileJoin{}}
	var all []profileRow
	screen := Screen{}
	total := int64(0)
	for _, t := range d.Tables {
		total += t.Rows
		item := ProfileTable{Name: t.Name, Rows: t.Rows, Sampled: t.Sampled, Columns: []ProfileColumn{}}
		var rows []profileRow
		for _, c := range t.Columns {
			p := profiled(d, t, c)
			item.Columns = append(item.Columns, p)
			rows = append(rows, profileRow{t.Name, p, c})
		}
		all = append(all, rows...)
		form.Tables = append(form.Tables, item)
		title := fmt.Sprintf("%s, %s", t.Name, plural(int(t.Rows), "row", "rows"))
		if t.Sampled > 0 {
			title = fmt.Sprintf("%s, about %s, counted on the first %s", t.Name, plural(int(t.Rows), "row", "rows"),
				grouped(fmt.Sprint(t.Sampled)))
		}
		screen.Parts = append(screen.Parts, Part{Title: title, Grid: columnsGrid(rows)})
	}
	if g := joinGrid(d.Links, &form); g != nil {
		screen.Parts = append(screen.Parts, Part{Title: "Likely joins", Grid: g})
	}
	screen.Parts = append(screen.Parts, Part{Grid: machineGrid(all)})
	screen.Data = form
	screen.Headline = []Text{{Tone: Strong, Text: fmt.Sprintf("%s: %s with %s, %s.", d.Name,
		plural(len(d.Tables), "table", "tables"), plural(int(total), "row", "rows"), plural(len(d.Links), "likely join", "likely joins"))}}
	screen.Next = []string{fmt.Sprintf("See what will hurt with `tovrel data inspect %s`.", d.Name)}
	if !briefed {
		screen.Next = []string{fmt.Sprintf("See what will hurt with `tovrel data inspect %s`; start a briefing from this "+
			"with `tovrel data profile %s --write`.", d.Name, d.Name)}
	}
	return screen
}

// profileRow is a column of a table as it is shown.
type profileRow struct {
	table string
	ProfileColumn
	counted *profile.Column
}

// columnsGrid shows the columns of a table to people.
func columnsGrid(rows []profileRow) *Grid {
	return gridOf(rows,
		declare(Column{Name: "column", Keep: true}, func(r profileRow) Cell { return text(r.Name) }),
		declare(Column{Name: "type", Keep: true}, func(r profileRow) Cell { return text(r.Type) }),
		declare(Column{Name: "role", Keep: true}, func(r profileRow) Cell { return text(r.Role) }),
		declare(Column{Name: "distinct", Right: true, Keep: true}, func(r profileRow) Cell { return count(int(r.Distinct)) }),
		declare(Column{Name: "nulls", Right: true, Keep: true}, func(r profileRow) Cell { return nullCell(r.counted) }),
		declare(Column{Name: "from", Head: true, Spare: true, Room: 10}, func(r profileRow) Cell { return text(edge(r.Min)) }),
		declare(Column{Name: "to", Head: true, Spare: true, Room: 10}, func(r profileRow) Cell { return text(edge(r.Max)) }),
		declare(Column{Name: "spread", Keep: true, Spare: true}, func(r profileRow) Cell { return text(spark(spread(r.counted))) }),
		declare(Column{Name: "commonest", Head: true, Spare: true, Room: 14},
			func(r profileRow) Cell { return text(commonest(r.counted) + more(r.counted)) }),
	)
}

// machineGrid has the columns of all tables, for CSV.
func machineGrid(rows []profileRow) *Grid {
	g := gridOf(rows,
		declare(Column{Name: "table"}, func(r profileRow) Cell { return text(r.table) }),
		declare(Column{Name: "column"}, func(r profileRow) Cell { return text(r.Name) }),
		declare(Column{Name: "type"}, func(r profileRow) Cell { return text(r.Type) }),
		declare(Column{Name: "role"}, func(r profileRow) Cell { return text(r.Role) }),
		declare(Column{Name: "reason"}, func(r profileRow) Cell { return text(r.Reason) }),
		declare(Column{Name: "rows", Right: true}, func(r profileRow) Cell { return count(int(r.Rows)) }),
		declare(Column{Name: "nulls", Right: true}, func(r profileRow) Cell { return count(int(r.Nulls)) }),
		declare(Column{Name: "distinct", Right: true}, func(r profileRow) Cell { return count(int(r.Distinct)) }),
		declare(Column{Name: "min"}, func(r profileRow) Cell { return text(edge(r.Min)) }),
		declare(Column{Name: "max"}, func(r profileRow) Cell { return text(edge(r.Max)) }),
		declare(Column{Name: "top"}, func(r profileRow) Cell { return text(commonest(r.counted)) }),
	)
	g.Main, g.Machine = true, true
	return g
}

func profiled(d *profile.Dataset, t *profile.Table, c *profile.Column) ProfileColumn {
	role, why := profile.RoleOf(d, t, c)
	p := ProfileColumn{Name: c.Name, Type: value.SQLWord(c.Type), Role: string(role), Reason: why, Rows: c.Rows, Nulls: c.Nulls,
		Distinct: c.Distinct, Min: c.Min, Max: c.Max,
		Top: []ProfileValue{}, Bins: append([]int64{}, c.Bins...)}
	for _, v := range c.Values[:min(topKept, len(c.Values))] {
		p.Top = append(p.Top, ProfileValue{v.Text, v.Rows})
	}
	return p
}

func nullCell(c *profile.Column) Cell {
	if c.Nulls == 0 {
		return Cell{Text: "0", Shown: "–", Tone: Faint}
	}
	return Cell{Text: fmt.Sprint(c.Nulls), Shown: Percent(float64(c.Nulls) / float64(c.Rows))}
}

// edge is the least or largest value, short enough for a column of its own.
func edge(v value.Value) string {
	if v.IsNull() {
		return ""
	}
	return v.String()
}

// commonest lists the values that occur most; values that occur once each are examples.
func commonest(c *profile.Column) string {
	var parts []string
	for _, v := range c.Values[:min(topShown, len(c.Values))] {
		if v.Rows == 1 {
			parts = append(parts, v.Text)
		} else {
			parts = append(parts, fmt.Sprintf("%s (%s)", v.Text, Percent(float64(v.Rows)/float64(max(c.Filled(), 1)))))
		}
	}
	return strings.Join(parts, ", ")
}

// more says that a column has more values than are listed.
func more(c *profile.Column) string {
	if len(c.Values) > topShown {
		return ", …"
	}
	return ""
}

// spread is how a column's cells lie over its range; of a category, how often its commonest values occur.
func spread(c *profile.Column) []int64 {
	if c.Bins != nil || c.Distinct == c.Filled() || !c.Complete() && c.Kind != value.Text {
		return c.Bins
	}
	var counts []int64
	for _, v := range c.Values[:min(len(c.Values), topKept)] {
		counts = append(counts, v.Rows)
	}
	return counts
}

var blocks = []rune("▁▂▃▄▅▆▇█")

// spark draws counts as a row of bars; an empty part is a space.
func spark(bins []int64) string {
	most := int64(0)
	for _, n := range bins {
		most = max(most, n)
	}
	var b strings.Builder
	for _, n := range bins {
		if n == 0 {
			b.WriteByte(' ')
			continue
		}
		b.WriteRune(blocks[min(int(n*int64(len(blocks))/(most+1)), len(blocks)-1)])
	}
	return b.String()
}

func joinGrid(links []profile.Link, form *profileForm) *Grid {
	for _, l := range links {
		j := ProfileJoin{From: l.From.String(), To: l.To.String(), Cardinality: "many to one", RowsPerKey: l.PerKey,
			Orphans: l.Orphans, Childless: l.Childless}
		if l.PerKey == 1 {
			j.Cardinality = "one to one"
		}
		j.OrphanShare = float64(l.Orphans) / float64(max(l.Rows, 1))
		form.Joins = append(form.Joins, j)
	}
	g := gridOf(form.Joins,
		declare(Column{Name: "from", Keep: true}, func(j ProfileJoin) Cell { return text(j.From) }),
		declare(Column{Name: "to", Keep: true}, func(j ProfileJoin) Cell { return text(j.To) }),
		declare(Column{Name: "cardinality"}, func(j ProfileJoin) Cell { return text(j.Cardinality) }),
		declare(Column{Name: "rows a key", Right: true}, func(j ProfileJoin) Cell { return text(fmt.Sprintf("%.1f", j.RowsPerKey)) }),
		declare(Column{Name: "orphans", Right: true}, func(j ProfileJoin) Cell {
			cell := count(int(j.Orphans))
			if j.Orphans > 0 {
				cell.Tone = Lucky
			}
			return cell
		}),
		declare(Column{Name: "without rows", Right: true}, func(j ProfileJoin) Cell { return count(int(j.Childless)) }),
	)
	if len(g.Rows) == 0 {
		return nil
	}
	return g
}
