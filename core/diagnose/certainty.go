package diagnose

import (
	"cmp"
	"fmt"
	"slices"

	"tovrel/core/table"
)

// proved tells whether the hits so far prove a cause.
func (s *search) proved() bool {
	best, rivals := s.best()
	return best != nil && s.certain(*best, rivals)
}

// yesFirst orders what is so before what is not.
func yesFirst(a, b bool) int {
	switch {
	case a == b:
		return 0
	case a:
		return -1
	}
	return 1
}

// best is the hit that leaves the least distance, and those of other codes.
func (s *search) best() (*hit, []hit) {
	if len(s.hits) == 0 {
		return nil, nil
	}
	sorted := append([]hit(nil), s.hits...)
	slices.SortStableFunc(sorted, func(a, b hit) int {
		shown := 0 // that many edits give no rows says little, that one gives the expected ones says much
		if s.thin() {
			shown = yesFirst(a.repair, b.repair)
		}
		return cmp.Or(shown, yesFirst(!a.Unsure, !b.Unsure), yesFirst(a.lowers > 0, b.lowers > 0), cmp.Compare(a.left, b.left))
	})
	var rivals []hit
	for _, h := range sorted[1:] {
		if s.thin() && sorted[0].repair && !h.repair {
			continue
		}
		if codeOf(h.Change, h.repair) != codeOf(sorted[0].Change, sorted[0].repair) {
			rivals = append(rivals, h)
		}
	}
	return &sorted[0], rivals
}

// certain tells whether a hit is a proof: the edited query is the same as the other, or it brings them nearer and every edit of
// another code that gives the answer is clearly farther. Answers of little information prove nothing by themselves.
func (s *search) certain(h hit, rivals []hit) bool {
	if h.Unsure {
		return false
	}
	if s.c.Answer == nil && !h.repair {
		return s.certainAlone()
	}
	if h.extra != nil && (h.left > nearPair || s.doubtful(h)) {
		return false
	}
	if h.left == 0 {
		return true
	}
	if s.salted && len(rivals) == 0 {
		return true
	}
	if h.repair && poor(s.c.Expected) || !h.repair && s.poor() || h.lowers < 0 || h.lowers == 0 && !s.thin() {
		return false
	}
	for _, r := range rivals {
		if r.left < h.left+beyond {
			return false
		}
	}
	return true
}

// nearPair is how much two edits together may leave between the queries and prove something: farther off, two give an answer by chance more
// easily than one.
const nearPair = 4

// thin tells answers of little information: none, or nothing but nulls.
func (s *search) thin() bool { return thin(s.c.Got) }

func thin(t *table.Table) bool {
	if t == nil || t.Rows() == 0 {
		return true
	}
	for _, c := range t.Columns {
		for row := range c.Len() {
			if !c.IsNull(row) {
				return false
			}
		}
	}
	return true
}

// stoppedWords say that so many edited queries were stopped.
func stoppedWords(n int) string {
	if n == 1 {
		return "one query that was stopped before it was done"
	}
	return fmt.Sprintf("%d queries that were stopped before they were done", n)
}
