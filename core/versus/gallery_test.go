package versus_test

import (
	"flag"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/versus"
	"tovrel/gallerytest"
)

var update = flag.Bool("update", false, "rewrite what is held; read what changed")

// TestStatisticsGallery holds what the statistics give for drawn numbers and for the least of each: no number, one, all the same.
func TestStatisticsGallery(t *testing.T) {
	var out []string
	tell := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	for n := range 12 {
		tell("exact %d of %d: %.12g", n, 11, versus.Exact(n, 11-n))
	}
	for _, n := range []int{0, 1, 2, 5, 20, 60, 200} {
		for _, regresses := range []float64{0, 0.01, 0.1, 0.3} {
			tell("%d questions, %.2f regress: power %.9f of 0.1 and %.9f of 0.35, smallest %.9f", n, regresses,
				versus.Power(n, regresses+0.1, regresses), versus.Power(n, regresses+0.35, regresses),
				versus.SmallestDetectable(n, regresses))
		}
	}
	for _, difference := range []float64{0, 0.01, 0.05, 0.2, 0.6} {
		for _, regresses := range []float64{0, 0.05, 0.2} {
			tell("%.2f found, %.2f regress: %d questions", difference, regresses, versus.QuestionsNeeded(difference, regresses))
		}
		for _, n := range []int{1, 10, 60} {
			tell("%.2f found over %d questions: %d and %d repeats", difference, n, versus.RepeatsNeeded(n, difference, 0.1, 0.4),
				versus.RepeatsNeeded(n, difference, 0.01, 0.02))
		}
	}
	r := rand.New(rand.NewPCG(9, 9)) //nolint:gosec // a test's
	for _, n := range []int{0, 1, 2, 3, 8, 17, 40} {
		var differences, same []float64
		for range n {
			differences, same = append(differences, float64(r.IntN(9)-3)/4), append(same, 0.5)
		}
		tell("%d differences: permutation %.9f, of the same %.9f", n, versus.Permutation(differences, random(3)),
			versus.Permutation(same, random(3)))
		for i := range differences {
			differences[i] = (differences[i] + 1) / 30
		}
		tell("  corrected %.9f", versus.Holm(differences))
	}
	gallerytest.Holds(t, "statistics.txt", strings.Join(out, "\n")+"\n", *update)
}

// TestRegressionsGallery holds how many questions of drawn histories regressed, from run to run of the same translator.
func TestRegressionsGallery(t *testing.T) {
	var out []string
	r := rand.New(rand.NewPCG(2, 7)) //nolint:gosec // a test's
	standings := []score.Standing{score.Solid, score.Broken, score.Flaky, score.Open}
	for n := range 8 {
		var past []versus.Past
		for i := range 9 {
			p := versus.Past{Run: record.Run{ID: i + 1, Translator: []string{"a@1", "a@2", "b@1", "b"}[r.IntN(4)],
				State:   []record.State{record.Complete, record.Complete, record.Complete, record.Partial, record.Stopped}[r.IntN(5)],
				Grounds: map[string]record.Ground{}, About: map[string]record.About{}}, Standings: map[string]score.Standing{}}
			for q := range 10 {
				name := fmt.Sprintf("s/%d", q)
				if r.IntN(8) == 0 {
					continue
				}
				p.Standings[name] = standings[r.IntN(4)]
				p.Run.Grounds[name] = record.Ground{Expected: fmt.Sprint(r.IntN(6) / 5), Rules: "r"}
				if r.IntN(9) == 0 {
					p.Run.About[name] = record.About{KnownWrong: "so it is"}
				}
			}
			past = append(past, p)
			out = append(out, fmt.Sprintf("%d %s %s %v", n, p.Run.Translator, p.Run.State, p.Standings))
		}
		var counts []int
		for i := 1; i < len(past); i++ {
			counts = append(counts, versus.RegressedSince(past[i-1], past[i]))
		}
		out = append(out, fmt.Sprint(counts))
	}
	gallerytest.Holds(t, "regressions.txt", strings.Join(out, "\n")+"\n", *update)
}
