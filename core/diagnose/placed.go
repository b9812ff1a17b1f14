package diagnose

import (
	"strings"

	"tovrel/core/edit"
	"tovrel/core/fault"
	"tovrel/core/pattern"
)

// placedCode is the fault of a condition that is missing or too much, by what it is about: one end of a period of which the other end
// stands is another period, and one that two tables share is part of their join.
func (s *search) placedCode(r ranked, repair bool) fault.Code {
	if r.Code != fault.FilterMissing && r.Code != fault.FilterExtra {
		return r.Code
	}
	from := s.c.Reference
	if repair {
		from = s.c.Answer
	}
	columns := lowerNames(s.c.Columns)
	was, is := held(from.Readings(columns)), held(r.Tree.Readings(columns))
	for _, p := range placesOf(was, is) {
		if len(was[p]) > 0 && len(is[p]) > 0 && together(was[p]) != together(is[p]) &&
			(sides{c: s.c}).column(p.table, p.columns).Kind == edit.Time {
			return fault.TimeWindow
		}
	}
	lacks := codeOf(r.Change, repair) == fault.FilterMissing
	if text := r.Before + r.After; lacks && !strings.Contains(text, "SELECT") && severalTables(text) {
		if multiplied(s.c) || s.c.Got.Rows() > s.c.Expected.Rows() {
			if repair { // the code is told from the side of the reference
				return fault.JoinMissing
			}
			return fault.JoinFanOut
		}
		return fault.JoinKey
	}
	return r.Code
}

// qualified finds the tables that columns are written with.
var qualified = pattern.Of(`\b([A-Za-z_]\w*)\.[A-Za-z_]`)

func severalTables(text string) bool {
	found := qualified.FindAllStringSubmatch(text, -1)
	for _, m := range found {
		if !strings.EqualFold(m[1], found[0][1]) {
			return true
		}
	}
	return false
}
