package diagnose

import (
	"fmt"
	"strings"

	"tovrel/core/edit"
	"tovrel/core/fault"
	"tovrel/core/sql"
)

// conclude turns hits into faults, and looks at the tables where there are none.
func (s *search) conclude() {
	best, rivals := s.best()
	scale := scaled(s.c)
	if best == nil {
		s.d.Faults = patterns(s.c)
		if scale != nil {
			s.d.Faults = []fault.Fault{*scale}
		}
		if len(s.d.Faults) == 0 {
			s.d.Faults = structure(s.c)
		}
		s.d.Trees = make([]*sql.Tree, len(s.d.Faults))
		return
	}
	certainty := fault.Likely
	if s.certain(*best, rivals) {
		certainty = fault.Proved
	}
	s.name(*best, certainty)
	if best.extra != nil { // two mistakes in one query
		second := hit{ranked: ranked{Change: *best.extra}}
		second.Tree = best.Tree
		s.name(second, certainty)
		return
	}
	if main := &s.d.Faults[0]; scale != nil && main.Code != fault.OffByFactor { // in whatever writing: 100.0 * x, x / 0.01
		main.Code, main.Certainty, main.Evidence = scale.Code, scale.Certainty, scale.Evidence+"; "+main.Evidence
		return
	}
	if certainty == fault.Proved {
		return
	}
	named := map[fault.Code]bool{s.d.Faults[0].Code: true}
	for _, h := range rivals {
		if code := codeOf(h.Change, h.repair); !named[code] {
			named[code] = true
			s.name(h, fault.Likely)
		}
	}
}

// name adds a fault with the query that shows it.
func (s *search) name(h hit, certainty fault.Certainty) {
	s.d.Faults, s.d.Trees = append(s.d.Faults, faultOf(h, certainty)), append(s.d.Trees, h.Tree)
}

func codeOf(c edit.Change, repair bool) fault.Code {
	if repair {
		if c.Code != c.Edit.Code { // the place made it another
			if code, ok := inverse[c.Code]; ok {
				return code
			}
			return c.Code
		}
		return c.Edit.Inverse
	}
	return c.Code
}

// inverse is the fault of a query that an edit of another code repairs. A code that is not here is its own: a wrong boundary is
// repaired by moving a boundary.
var inverse = map[fault.Code]fault.Code{
	fault.FilterMissing: fault.FilterExtra, fault.FilterExtra: fault.FilterMissing, fault.JoinRowsLost: fault.JoinRowsAdded,
	fault.JoinRowsAdded:   fault.JoinRowsLost,
	fault.GroupKeyMissing: fault.GroupKeyExtra, fault.GroupKeyExtra: fault.GroupKeyMissing, fault.JoinMissing: fault.JoinFanOut,
	fault.JoinFanOut: fault.JoinMissing,
}

func faultOf(h hit, certainty fault.Certainty) fault.Fault {
	f := fault.Fault{Code: codeOf(h.Change, h.repair), Certainty: certainty, Edit: words(h.ranked, h.repair)}
	if h.repair {
		f.Evidence = f.Edit + "; with that mended, the translator's query gives what was expected"
	} else {
		f.Evidence = f.Edit + "; the reference query with this mistake gives the very answer"
	}
	return f
}

// words say what was changed, from the side of the wrong query.
func words(r ranked, repair bool) string {
	before, after := r.Before, r.After
	if repair {
		before, after = after, before
	}
	said := ""
	switch {
	case before == "" && after == "":
		said = r.Edit.Doc
	case after == "":
		said = fmt.Sprintf("the answer lacks `%s`", before)
	case before == "":
		said = fmt.Sprintf("the answer has `%s`, which does not belong", after)
	default:
		said = fmt.Sprintf("the answer uses `%s` where `%s` belongs", after, before)
	}
	if r.extra != nil {
		said += "; and " + strings.TrimPrefix(words(ranked{Change: *r.extra}, repair), "the answer ")
	}
	return said
}
