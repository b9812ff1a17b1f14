package versus

import (
	"cmp"
	"maps"
	"slices"
	"strconv"

	"tovrel/core/record"
	"tovrel/core/score"
)

// Row is a question with its standing in each of several runs.
type Row struct {
	Question  string
	Standings []score.Standing // in the order of the runs; "" where a run did not ask it
	Moved     bool             // its ground is not the same in all of them
	Differ    bool             // some runs that asked it stand otherwise than others
	Alone     int              // which run alone has it solid, of at least two that asked; -1 for none
}

// Names are short names of runs, each of its own: the numbers that the history gave them, and letters where a run has none or another has
// the same.
func Names(sides []Side) []string {
	seen := map[int]int{}
	for _, s := range sides {
		seen[s.Run.ID]++
	}
	out := make([]string, len(sides))
	for i, s := range sides {
		out[i] = strconv.Itoa(s.Run.ID)
		if s.Run.ID == 0 || seen[s.Run.ID] > 1 {
			out[i] = string(rune('A' + i))
		}
	}
	return out
}

// matrixOf lays runs beside each other, a row for each question that any of them asked, by name.
func matrixOf(sides []prepared) []Row {
	rows := map[string]*Row{}
	grounds := map[string]record.Ground{}
	for i, s := range sides {
		names := map[string]string{}
		if last := sides[len(sides)-1]; i < len(sides)-1 {
			names = renamed(s.Side, last.Side)
		}
		for _, q := range s.asked(names) {
			row := rows[q.name]
			if row == nil {
				row = &Row{Question: q.name, Standings: make([]score.Standing, len(sides)), Alone: -1}
				rows[q.name] = row
			}
			row.Standings[i] = q.stands
			if before, has := grounds[q.name]; has && len(before.Moved(q.ground)) > 0 {
				row.Moved = true
			} else if !has {
				grounds[q.name] = q.ground
			}
		}
	}
	out := make([]Row, 0, len(rows))
	for _, row := range rows {
		row.judge()
		out = append(out, *row)
	}
	slices.SortFunc(out, func(a, b Row) int { return cmp.Compare(a.Question, b.Question) })
	return out
}

// judge fills in whether the runs differ, and who is alone right.
func (r *Row) judge() {
	stands := map[score.Standing]int{}
	asked, solid := 0, -1
	for i, s := range r.Standings {
		if s == "" {
			continue
		}
		asked++
		stands[s]++
		if s == score.Solid {
			solid = i
		}
	}
	r.Differ = len(stands) > 1
	if asked > 1 && stands[score.Solid] == 1 && !r.Moved {
		r.Alone = solid
	}
}

// AloneRight lists for each run the questions that it alone has solid.
func (s Several) AloneRight() [][]string {
	out := make([][]string, len(s.Sides))
	for _, row := range s.Matrix {
		if row.Alone >= 0 {
			out[row.Alone] = append(out[row.Alone], row.Question)
		}
	}
	return out
}

// Rivals tells whether two runs are of different translators, rather than of versions of one.
func Rivals(a, b record.Run) bool { return BaseName(a.Translator) != BaseName(b.Translator) }

// datasetsOf are the datasets of a run, sorted.
func datasetsOf(r record.Run) []string { return slices.Sorted(maps.Keys(r.Datasets)) }
