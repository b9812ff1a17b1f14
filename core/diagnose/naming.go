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
	s.d.Shown = len(s.findings) > 0 || len(s.hits) > 0
	scale := proofs(s.c)
	if scale == nil && s.fromData(best, rivals) {
		return
	}
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
	if best.extra != nil && s.sameMoment(*best) { // both ends of one period
		best.Code, best.Edit = fault.TimeWindow, timeWindow
		s.name(*best, certainty)
		return
	}
	s.name(*best, certainty)
	if best.extra != nil { // two mistakes in one query
		second := hit{ranked: ranked{Change: *best.extra}}
		second.Tree = best.Tree
		s.name(second, certainty)
		return
	}
	if main := &s.d.Faults[0]; scale != nil && main.Code != scale.Code { // in whatever writing: 100.0 * x, x / 0.01
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

// fromData turns what changed data showed into faults, where it says more than the edits: an edit that makes the queries the same speaks
// first, then data on which one query gives what the other gave, then an edit that brings the queries nearer, then the rest.
func (s *search) fromData(best *hit, rivals []hit) bool {
	if len(s.findings) == 0 || best != nil && best.left == 0 {
		return false
	}
	f := s.findings[0]
	certainty := fault.Proved
	if s.c.Answer == nil && !s.certainAlone() {
		certainty = fault.Likely
	}
	if f.mode == agreed && best != nil && !s.doubtful(*best) {
		return false
	}
	if !f.proves() {
		certainty = fault.Likely
	}
	var others []fault.Fault
	for _, other := range s.findings[1:] {
		if other.code() != f.code() {
			others = append(others, fault.Fault{Code: other.code(), Certainty: fault.Likely, Evidence: other.evidence()})
		}
	}
	if best != nil {
		if edited := faultOf(*best, fault.Likely); edited.Code != f.code() && s.certain(*best, rivals) {
			others = append(others, edited)
		} else if edited.Code == f.code() {
			s.name(*best, fault.Proved)
			return true
		}
	}
	if len(others) > 0 {
		certainty = fault.Likely
	}
	others = append(others, f.besides()...)
	s.d.Faults = append([]fault.Fault{{Code: f.code(), Certainty: certainty, Evidence: f.evidence()}}, others...)
	s.removals = []removal{removedBy(f.steps)}
	s.d.Trees = make([]*sql.Tree, len(s.d.Faults))
	return true
}

// name adds a fault with the query that shows it.
func (s *search) name(h hit, certainty fault.Certainty) {
	s.d.Faults, s.d.Trees = append(s.d.Faults, faultOf(h, certainty)), append(s.d.Trees, h.Tree)
	s.removals = append(s.removals, s.removedBetween(h))
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
