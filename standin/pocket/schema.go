package pocket

import (
	"slices"
	"strings"

	"tovrel/core/briefing"
	"tovrel/core/pattern"
	"tovrel/core/profile"
)

// field is a column of a table.
type field struct {
	table  *briefing.ToldTable
	column *briefing.ToldColumn
}

// String is the field's name in SQL.
func (f field) String() string { return quote(f.table.Name) + "." + quote(f.column.Name) }

func quote(name string) string {
	if plainName.MatchString(name) {
		return name
	}
	return `"` + strings.ReplaceAll(name, `"`, `""`) + `"`
}

var plainName = pattern.Of(`^[a-z_][a-z0-9_]*$`)

// measure tells whether a field can be added up: by its role, else by its type.
func (f field) measure() bool {
	if f.column.Role != "" {
		return f.column.Role == "measure"
	}
	return f.typed("DECIMAL", "DOUBLE", "FLOAT", "REAL")
}

func (f field) time() bool { return f.typed("DATE", "TIMESTAMP") }

func (f field) typed(prefixes ...string) bool {
	return slices.ContainsFunc(prefixes, func(p string) bool { return strings.HasPrefix(strings.ToUpper(f.column.Type), p) })
}

// first is the first column of a table that passes a test; the table's first where none does, and false.
func first(t *briefing.ToldTable, test func(field) bool) (field, bool) {
	for i := range t.Columns {
		if f := (field{t, &t.Columns[i]}); test(f) {
			return f, true
		}
	}
	return field{t, &t.Columns[0]}, false
}

// label is the column that names a table's rows.
func label(t *briefing.ToldTable) field {
	f, named := first(t, func(f field) bool { return slices.Contains([]string{"name", "label"}, strings.ToLower(f.column.Name)) })
	if !named {
		f, _ = first(t, func(f field) bool { return f.typed("VARCHAR", "TEXT", "CHAR") })
	}
	return f
}

// step is a join from one table to another.
type step struct{ from, to field }

// path is the shortest way along the told joins from one table to another; none where there is none.
func (p *reader) path(from, to *briefing.ToldTable) []step {
	ways := map[*briefing.ToldTable][]step{from: {}}
	for queue := []*briefing.ToldTable{from}; len(queue) > 0 && ways[to] == nil; queue = queue[1:] {
		for _, s := range p.steps {
			if s.from.table == queue[0] && ways[s.to.table] == nil {
				ways[s.to.table] = append(slices.Clone(ways[queue[0]]), s)
				queue = append(queue, s.to.table)
			}
		}
	}
	return ways[to]
}

// readJoins reads the told joins, both ways round.
func (p *reader) readJoins() {
	for _, text := range p.told.Joins {
		if from, to, ok := profile.ParseJoin(text); ok {
			a, okA := p.field(from)
			b, okB := p.field(to)
			if okA && okB {
				p.steps = append(p.steps, step{a, b}, step{b, a})
			}
		}
	}
}

func (p *reader) field(place profile.Place) (field, bool) {
	for i := range p.told.Tables {
		if t := &p.told.Tables[i]; strings.EqualFold(t.Name, place.Table) {
			return first(t, func(f field) bool { return strings.EqualFold(f.column.Name, place.Column) })
		}
	}
	return field{}, false
}
