package versus

import "math"

// power80 is the power that a difference is to be found with.
const power80 = 0.8

// Power is the probability that the exact paired test finds a difference: of n questions each improves with one probability and
// regresses with another. It is exact: the sum over the number of questions that change, and which way.
func Power(n int, improves, regresses float64) float64 {
	return criticals{}.power(n, improves, regresses)
}

// criticals remembers, by the number of changes, the largest number of them against the grain at which the test still finds a
// difference; −1 where none does.
type criticals map[int]int

func (c criticals) power(n int, improves, regresses float64) float64 {
	changes := math.Min(improves+regresses, 1)
	if n == 0 || changes <= 0 {
		return 0
	}
	spread := 6*math.Sqrt(float64(n)*changes*(1-changes)) + 6
	low, high := max(0, int(float64(n)*changes-spread)), min(n, int(float64(n)*changes+spread))
	up := math.Min(1, improves/changes)
	total, before := 0.0, binomial(n, low-1, changes)
	for changed := low; changed <= high; changed++ {
		upTo := binomial(n, changed, changes)
		weight := upTo - before
		before = upTo
		least := c.of(changed)
		if least < 0 || weight < 1e-12 {
			continue
		}
		total += weight * (binomial(changed, least, up) + 1 - binomial(changed, changed-least-1, up)) // few improved, or few regressed
	}
	return math.Min(1, total)
}

func (c criticals) of(changed int) int {
	if known, ok := c[changed]; ok {
		return known
	}
	low, high := -1, changed/2
	for low < high {
		middle := (low + high + 1) / 2
		if Exact(middle, changed-middle) <= Level {
			low = middle
		} else {
			high = middle - 1
		}
	}
	c[changed] = low
	return low
}

// SmallestDetectable is the smallest difference of accuracy that is found with a power of 80 % by the exact paired test over n
// questions, where questions regress with the given probability (at least 1/n); 1 where even that is too little evidence.
func SmallestDetectable(n int, regresses float64) float64 {
	if n == 0 {
		return 1
	}
	regresses = math.Max(regresses, 1/float64(n))
	known := criticals{}
	low, high := 0.0, math.Max(0, 1-2*regresses)
	if known.power(n, regresses+high, regresses) < power80 {
		return 1
	}
	for high-low > 1e-5 {
		middle := (low + high) / 2
		if known.power(n, regresses+middle, regresses) >= power80 {
			high = middle
		} else {
			low = middle
		}
	}
	return high
}

// smallestDetectableMean is the same for questions with several attempts: the mean of n differences of the given variance is found
// with 80 % power by a test of the mean at the normal limit.
//
// Source: the usual sample size of a paired comparison, (z of 97.5 % + z of 80 %)² · variance / difference².
func smallestDetectableMean(n int, variance float64) float64 {
	if n == 0 {
		return 1
	}
	variance = math.Max(variance, 2/float64(n)) // two questions that change, one each way
	return math.Min(1, (1.959964+0.841621)*math.Sqrt(variance/float64(n)))
}

// most bounds the questions that are thought of.
const most = 1 << 20

// QuestionsNeeded is how many questions it takes to find a difference with a power of 80 %, where questions regress with the given
// probability; 0 where a million are too few.
func QuestionsNeeded(difference, regresses float64) int {
	known := criticals{}
	enough := func(n int) bool { return known.power(n, regresses+difference, regresses) >= power80 }
	high := 4
	for !enough(high) {
		if high *= 2; high > most {
			return 0
		}
	}
	low := high / 2
	for low+1 < high {
		if middle := (low + high) / 2; enough(middle) {
			high = middle
		} else {
			low = middle
		}
	}
	return high
}

// RepeatsNeeded is how many attempts of each of n questions it takes to find a difference with 80 % power, where the differences vary
// by so much between questions and by so much within one (for a single attempt a side); 0 where no number of repeats does, for the
// variance between questions alone is too large.
func RepeatsNeeded(n int, difference, between, within float64) int {
	z := 1.959964 + 0.841621
	room := difference*difference*float64(n)/(z*z) - between
	if room <= 0 {
		return 0
	}
	return max(1, int(math.Ceil(within/room)))
}
