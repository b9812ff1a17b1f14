package view

import (
	"fmt"

	"tovrel/core/versus"
)

// compareHeadline says what a comparison comes to.
func compareHeadline(c versus.Comparison) []Text {
	if c.Itself {
		return []Text{{Tone: Strong, Text: fmt.Sprintf("%s is compared with itself: nothing can differ.", nameOf(c.Before))}}
	}
	if c.LikeForLike == 0 {
		return []Text{{Tone: Strong, Text: fmt.Sprintf("%s and %s have no question that is like for like: there is nothing "+
			"to compare.", nameOf(c.Before), nameOf(c.After))}}
	}
	tone, words := Strong, "No detectable change"
	if isRivalry(c) {
		words = "No detectable difference"
	}
	switch c.Outcome {
	case versus.Better:
		tone, words = Right, outcomeWords(c)
	case versus.Worse:
		tone, words = Wrong, outcomeWords(c)
	}
	counts := "%d improved, %d regressed, %d unstable"
	if isRivalry(c) {
		counts = "%d won, %d lost, %d undecided"
	}
	lines := []Text{{Tone: tone, Text: fmt.Sprintf("%s: %s against %s: "+counts+" of %s like for like.", words, nameOf(c.After),
		nameOf(c.Before), len(c.Of(versus.Improved)), len(c.Of(versus.Regressed)), len(c.Of(versus.Unstable)),
		plural(c.LikeForLike, "question", "questions"))}}
	worth := ""
	if onlyBriefing(c) {
		worth = "The change of briefing was worth " + points(c.Difference) + " points. "
	}
	line := worth + fmt.Sprintf("Accuracy %s to %s, a difference of %s points (interval %s to %s); ", Percent(c.Accuracy[0]),
		Percent(c.Accuracy[1]), points(c.Difference), points(c.Interval[0]), points(c.Interval[1]))
	if c.Outcome == versus.NoChange && c.Threads < versus.Fewest {
		line += fmt.Sprintf("with fewer than %d questions that have nothing to do with each other, nothing can be told. ", versus.Fewest)
	} else if c.Outcome == versus.NoChange {
		line += fmt.Sprintf("it cannot be told from noise: p = %s (%s). ", pValue(c.PValue), c.Test)
	} else {
		line += fmt.Sprintf("p = %s (%s). ", pValue(c.PValue), c.Test)
	}
	if c.Smallest < 1 {
		line += fmt.Sprintf("These questions find differences from %.0f points on.", 100*c.Smallest)
	} else {
		line += "These questions are too few to find any difference."
	}
	return append(lines, Text{Text: line})
}

// isRivalry tells whether two runs are of different translators: neither got better, one is ahead.
func isRivalry(c versus.Comparison) bool {
	return len(c.Varied) > 0 && c.Varied[0].What == versus.VariedTranslator
}

// outcomeWords name an outcome as the case has it.
func outcomeWords(c versus.Comparison) string {
	better := c.Outcome == versus.Better
	switch {
	case isRivalry(c) && better:
		return "Ahead"
	case isRivalry(c):
		return "Behind"
	case better:
		return "Better"
	}
	return "Worse"
}

func pValue(p float64) string {
	if p < 0.0001 {
		return "<0.0001"
	}
	return fmt.Sprintf("%.4f", p)
}
