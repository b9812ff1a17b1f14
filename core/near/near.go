// Package near finds the known name that a mistyped one was meant to be.
package near

import (
	"fmt"
	"strings"
)

// Name is the candidate nearest to name by edit distance, without regard to case, or "" when none is
// near enough (within a third of the longer name's length, at least 2). Ties go to the first candidate.
func Name(name string, candidates []string) string {
	best, bestDistance := "", -1
	for _, c := range candidates {
		d := distance(strings.ToLower(name), strings.ToLower(c))
		if limit := max(2, max(len(name), len(c))/3); d > limit {
			continue
		}
		if bestDistance < 0 || d < bestDistance {
			best, bestDistance = c, d
		}
	}
	return best
}

// Hint is `did you mean "x"?` for the nearest candidate, else the list of all candidates, else "".
func Hint(name string, candidates []string) string {
	if n := Name(name, candidates); n != "" {
		return `did you mean "` + n + `"?`
	}
	if len(candidates) == 0 {
		return ""
	}
	return "known: " + Few(candidates)
}

// mostListed is how many known names a hint lists.
const mostListed = 12

// Few lists names, of many the first and how many more there are.
func Few(names []string) string {
	if len(names) <= mostListed {
		return strings.Join(names, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(names[:mostListed], ", "), len(names)-mostListed)
}

// fewLetters is how long a piece of a name must be to stand for the whole.
const fewLetters = 4

// distance is that of a name from a candidate, or from the part of it behind the last slash; a piece of the candidate is two away.
func distance(name, candidate string) int {
	d := Distance(name, candidate)
	if at := strings.LastIndexByte(candidate, '/'); at >= 0 {
		d = min(d, Distance(name, candidate[at+1:])+1, Distance(name[strings.LastIndexByte(name, '/')+1:], candidate[at+1:])+1)
	}
	if piece := name[strings.LastIndexByte(name, '/')+1:]; len(piece) >= fewLetters && strings.Contains(candidate, piece) {
		d = min(d, 2)
	}
	return d
}

// Distance is the optimal string alignment distance: insertions, deletions, substitutions and swaps of neighbours.
//
// Source: Damerau, A technique for computer detection and correction of spelling errors, 1964, in its restricted form.
func Distance(a, b string) int {
	x, y := []rune(a), []rune(b)
	before, previous, current := make([]int, len(y)+1), make([]int, len(y)+1), make([]int, len(y)+1)
	for j := range previous {
		previous[j] = j
	}
	for i := 1; i <= len(x); i++ {
		current[0] = i
		for j := 1; j <= len(y); j++ {
			cost := 1
			if x[i-1] == y[j-1] {
				cost = 0
			}
			current[j] = min(previous[j]+1, current[j-1]+1, previous[j-1]+cost)
			if i > 1 && j > 1 && x[i-1] == y[j-2] && x[i-2] == y[j-1] {
				current[j] = min(current[j], before[j-2]+1)
			}
		}
		before, previous, current = previous, current, before
	}
	return previous[len(y)]
}
