package diagnose

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"

	"tovrel/core/twin"
)

// What a finding's rank is made of: lower is believed first.
const (
	shareWeight, priorityWeight = .25, .06
	shownWeight, secondWeight   = .4, .5
)

var modeWeight = map[mode]float64{mended: 0, broken: .05, agreed: .3}

// inRank orders findings: by how they show a cause, how much of the data they change, and whether it took more than one thing.
func (s *search) inRank(ctx context.Context, all []finding) ([]finding, error) {
	if len(all) < 2 {
		return all, nil
	}
	type rated struct {
		finding
		rank float64
	}
	var out []rated
	for _, f := range all {
		share, err := s.share(ctx, f.steps)
		if err != nil {
			return nil, err
		}
		rank := modeWeight[f.mode] + shareWeight*share + priorityWeight*float64(f.priority)
		if f.shows != nil {
			rank += shownWeight
		}
		if f.second != nil {
			rank += secondWeight
		}
		out = append(out, rated{f, rank})
	}
	slices.SortStableFunc(out, func(a, b rated) int { return cmp.Compare(a.rank, b.rank) })
	ordered := make([]finding, len(out))
	for i, r := range out {
		ordered[i] = r.finding
	}
	return ordered, nil
}

// share is how much of a table steps change, from 0 to 1: of several, the one of which they change most. It is 1 where that is not known.
func (s *search) share(ctx context.Context, steps map[string][]twin.Step) (float64, error) {
	most := 0.0
	for _, name := range slices.Sorted(maps.Keys(steps)) { // each counts against the budget
		rows := float64(s.c.Rows[name])
		changed, err := s.changed(ctx, name, steps[name])
		if err != nil {
			return 0, err
		}
		if changed < 0 || rows == 0 {
			return 1, nil
		}
		most = max(most, min(1, float64(changed)/rows))
	}
	return most, nil
}

// changed is how many rows of a table steps change; below 0 where that is not known, or no query more may be run.
func (s *search) changed(ctx context.Context, table string, steps []twin.Step) (int64, error) {
	key := fmt.Sprintf("%s %#v", table, steps)
	if known, counted := s.counted[key]; counted {
		return known, nil
	}
	if s.w.Changed == nil || s.runs >= s.w.Runs {
		return -1, nil
	}
	s.runs++
	n, err := s.w.Changed(ctx, table, steps)
	if errors.Is(err, ErrSlow) {
		n, err = -1, nil
	}
	s.counted[key] = n
	return n, err
}
