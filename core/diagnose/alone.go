package diagnose

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"tovrel/core/edit"
	"tovrel/core/fault"
	"tovrel/core/pattern"
	"tovrel/core/table"
	"tovrel/core/twin"
)

const (
	// fewestRows and fewestTold are how much an answer without a query must say before it can prove a cause: chance gives less easily.
	fewestRows, fewestTold = 3, 6
	// fewestKeys is from how many rows on a table's key is met by others as a rule: smaller ones are lists of kinds.
	fewestKeys = 2
)

// alone searches for the cause of an answer that has no query: of all mistakes in the reference and all changes of its data, those that
// give the very answer. Every one is tried, since nothing says which is near.
func (s *search) alone(ctx context.Context) error {
	if err := s.edits(ctx, false, 0); err != nil || s.d.Ended != "" {
		return err
	}
	if s.w.Altered == nil || s.c.Expected == nil || s.c.Got == nil || thin(s.c.Got) {
		return nil
	}
	for _, i := range interventionsAlone(s.c) {
		reference, err := s.onAltered(ctx, s.c.Reference, i.steps)
		if err != nil || s.d.Ended != "" {
			return err
		}
		var f *finding
		if reference != nil && s.agrees(reference, false) {
			f = &finding{i, broken, nil}
			s.findings = append(s.findings, *f)
		}
		s.took(i, f)
	}
	return nil
}

// interventionsAlone are those that break a reference with nothing known of the other query, in a fixed order.
func interventionsAlone(c Case) []intervention {
	s := sides{reference: c.Reference.Readings(lowerNames(c.Columns)), c: c}
	var out []intervention
	for _, family := range []func() []intervention{s.otherColumns, s.otherPeriods, s.childless, s.nulls, s.narrower, s.multiplied} {
		out = append(out, family()...)
	}
	return slices.DeleteFunc(out, func(i intervention) bool { return i.broken == "" })
}

// usesInOrder are the columns that the reference reads, and for what.
func (s sides) usesInOrder() []use {
	return slices.SortedFunc(maps.Keys(usesOf(s.reference)), func(a, b use) int {
		return cmp.Or(strings.Compare(a.table, b.table), strings.Compare(a.column, b.column), strings.Compare(a.as, b.as))
	})
}

// otherColumns gives a column that the reference reads the values of another one of its table.
func (s sides) otherColumns() []intervention {
	var out []intervention
	seen := map[[3]string]bool{}
	for _, u := range s.usesInOrder() {
		x := s.column(u.table, u.column)
		for _, y := range s.c.Columns[u.table] {
			key := [3]string{u.table, u.column, y.Name}
			if x.Name == "" || x.Name == y.Name || seen[key] || x.Kind != y.Kind && (x.Kind != edit.Text || u.as == "held") {
				continue
			}
			seen[key] = true
			code := s.columnCode(u, x)
			if u.as == "shown" && s.c.Got.Rows() == s.c.Expected.Rows() && x.Kind == edit.Text {
				code = fault.Label
			}
			out = append(out, intervention{steps: map[string][]twin.Step{u.table: {twin.Take{Column: x.Name, Other: y.Name, Type: x.Type}}},
				words: fmt.Sprintf("with `%s` the same as `%s`", x.Name, y.Name), broken: code,
				saysBroken: fmt.Sprintf("it uses `%s` where `%s` belongs", y.Name, x.Name)})
		}
	}
	return out
}

// otherPeriods moves the times that the reference holds to a period.
func (s sides) otherPeriods() []intervention {
	var out []intervention
	reference := held(s.reference)
	for _, p := range placesOf(reference) {
		out = append(out, s.moved(p, fmt.Sprintf("its period is another than that of `%s`", said(reference[p])))...)
	}
	return out
}

// narrower keeps the rows that have one value of a column with few.
func (s sides) narrower() []intervention {
	var out []intervention
	for _, name := range s.tablesRead() {
		for _, c := range s.c.Columns[name] {
			for _, condition := range s.conditionsOn(c) {
				out = append(out, intervention{steps: map[string][]twin.Step{name: {twin.Agree{One: condition}}},
					words:  fmt.Sprintf("without the rows of `%s` that do not meet `%s`", name, condition),
					broken: fault.FilterExtra, saysBroken: fmt.Sprintf("it has `%s`, which does not belong", condition)})
			}
		}
	}
	return out
}

// conditionsOn are conditions that people put on a column with few values.
func (s sides) conditionsOn(c edit.Column) []string {
	name := quotedName(c.Name)
	if strings.EqualFold(c.Type, "boolean") {
		return []string{name, "NOT " + name}
	}
	if c.Kind != edit.Text || s.c.Values == nil {
		return nil
	}
	var out []string
	for _, v := range s.c.Values(c.Name) {
		text := "'" + strings.ReplaceAll(v, "'", "''") + "'"
		out = append(out, name+" = "+text, name+" <> "+text)
	}
	return out
}

// plainName is a name that needs no quotes.
var plainName = pattern.Of(`^[a-z_][a-z_0-9]*$`)

// quotedName is a column's name in SQL.
func quotedName(name string) string {
	if plainName.MatchString(name) {
		return name
	}
	return `"` + strings.ReplaceAll(name, `"`, `""`) + `"`
}

// multiplied has each row of a table as often as another table that the reference does not read has rows for it: those that bear the
// name of its key.
func (s sides) multiplied() []intervention {
	var out []intervention
	read := s.tablesRead()
	for _, name := range read {
		for _, key := range s.c.Columns[name][:min(1, len(s.c.Columns[name]))] {
			for _, child := range slices.Sorted(maps.Keys(s.c.Columns)) {
				if slices.Contains(read, child) || s.c.Rows[child] <= s.c.Rows[name] || s.c.Rows[name] < fewestKeys ||
					!slices.ContainsFunc(s.c.Columns[child], func(c edit.Column) bool { return strings.EqualFold(c.Name, key.Name) }) {
					continue
				}
				out = append(out, intervention{steps: map[string][]twin.Step{name: {twin.Times{Column: key.Name, Table: child,
					With: key.Name}}},
					words:  fmt.Sprintf("with each row of `%s` as often as `%s` has rows for it", name, child),
					broken: fault.JoinFanOut, saysBroken: fmt.Sprintf("its join with `%s` counts rows more than once", child)})
			}
		}
	}
	return out
}

func (s sides) tablesRead() []string {
	var out []string
	for _, t := range s.reference.Tables {
		if !slices.Contains(out, t.Table) {
			out = append(out, t.Table)
		}
	}
	slices.Sort(out)
	return out
}

// told counts the cells of a table that say something: numbers but zero; where there are none, whatever is not null.
func told(t *table.Table) int {
	numbers, others := 0, 0
	for _, c := range t.Columns {
		for row := range c.Len() {
			if f, isNumber := c.Value(row).Float64(); isNumber && f != 0 {
				numbers++
			} else if !isNumber && !c.IsNull(row) {
				others++
			}
		}
	}
	if numbers == 0 {
		return others
	}
	return numbers
}

// certainAlone tells whether what gives an answer without a query proves its cause: the answer says enough, and nothing of another code
// gives it. That a bound is gone is never proved so: one that is wide enough gives the same.
func (s *search) certainAlone() bool {
	codes := map[fault.Code]bool{}
	for _, h := range s.hits {
		code := codeOf(h.Change, h.repair)
		if code == fault.FilterMissing && strings.ContainsAny(h.Before, "<>") {
			return false
		}
		codes[code] = true
	}
	for _, f := range s.findings {
		codes[f.code()] = true
	}
	return len(codes) == 1 && s.c.Got.Rows() >= fewestRows && told(s.c.Got) >= fewestTold
}

// moved are the changes of a table's data that move a time column by whole months.
func (s sides) moved(p place, uses string) []intervention {
	var out []intervention
	column := s.column(p.table, p.columns)
	if column.Name == "" || column.Kind != edit.Time {
		return nil
	}
	for _, months := range []int{12, -12, 3, -3, 1, -1, 6, -6} {
		out = append(out, intervention{steps: map[string][]twin.Step{p.table: {twin.Later{Column: column.Name, Type: column.Type,
			Months: months}}}, words: fmt.Sprintf("with `%s` moved by %d months", column.Name, months), mended: fault.TimeWindow,
			broken: fault.TimeWindow, saysMended: uses, saysBroken: uses, priority: 1})
	}
	return out
}
