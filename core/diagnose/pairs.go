package diagnose

import (
	"slices"
	"strings"

	"tovrel/core/edit"
	"tovrel/core/fault"
	"tovrel/core/sql"
)

// timeWindow is what two edits of both ends of a period are together.
var timeWindow = &edit.Edit{Name: "time-window", Doc: "another period is meant", Code: fault.TimeWindow, Inverse: fault.TimeWindow}

// sameMoment tells two edits that change conditions on one time column, and nothing else: both ends of one period.
func (s *search) sameMoment(h hit) bool {
	from := s.c.Reference
	if h.repair {
		from = s.c.Answer
	}
	columns := lowerNames(s.c.Columns)
	was, is := from.Readings(columns), h.Tree.Readings(columns)
	differ := sides{reference: was, answer: is, c: s.c}.conditions()
	if len(differ) != 1 || !onlyConditions(was, is) {
		return false
	}
	for _, p := range placesOf(held(was), held(is)) {
		if together(held(was)[p]) != together(held(is)[p]) {
			return sides{c: s.c}.column(p.table, p.columns).Kind == edit.Time && mentions(h.Change, p.columns) && mentions(*h.extra,
				p.columns)
		}
	}
	return false
}

// doubtful tells two edits of which one drops a condition and the other changes a part that names the same column, other than those of one
// period: they may be one mistake, written at another place.
func (s *search) doubtful(h hit) bool {
	if h.extra == nil || s.sameMoment(h) {
		return false
	}
	for _, change := range []edit.Change{h.Change, *h.extra} {
		if change.Code != fault.FilterMissing && change.Code != fault.FilterExtra {
			continue
		}
		for _, columns := range s.c.Columns {
			if slices.ContainsFunc(columns, func(c edit.Column) bool {
				name := strings.ToLower(c.Name)
				return mentions(h.Change, name) && mentions(*h.extra, name)
			}) {
				return true
			}
		}
	}
	return false
}

// mentions tells a change of a part that names a column.
func mentions(c edit.Change, column string) bool {
	return strings.Contains(strings.ToLower(c.Before+" "+c.After), column)
}

// onlyConditions tells whether two queries use the same columns of the same tables for all but conditions.
func onlyConditions(a, b sql.Readings) bool {
	of := func(r sql.Readings) map[use]bool {
		out := usesOf(r)
		for u := range out {
			if u.as == "held" {
				delete(out, u)
			}
		}
		return out
	}
	x, y := of(a), of(b)
	for u := range x {
		if !y[u] {
			return false
		}
	}
	return len(x) == len(y) && len(a.Tables) == len(b.Tables)
}
