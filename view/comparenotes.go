package view

import (
	"fmt"
	"strings"

	"tovrel/core/versus"
)

func compareNotes(c versus.Comparison, o CompareOptions) []Text {
	lines := []Text{driftLine(c.Drift)}
	if names := c.Drift.Changed; len(names) > 0 {
		lines = append(lines, Text{Tone: Faint, Text: "Other answers: " + someOf(names) + "."})
	}
	if c.Plain != nil && len(c.Moved)+len(c.OnlyBefore)+len(c.OnlyAfter) > 0 {
		lines = append(lines, Text{Text: fmt.Sprintf("Over all that each run asked, the difference is %s points; like for "+
			"like it is %s.", points(*c.Plain), points(c.Difference))})
	}
	for _, only := range []struct {
		names []string
		which string
	}{{c.OnlyBefore, "first"}, {c.OnlyAfter, "second"}} {
		if len(only.names) > 0 {
			lines = append(lines, Text{Text: fmt.Sprintf("Asked in the %s run alone: %s.", only.which, someOf(only.names))})
		}
	}
	if len(c.Known) > 0 {
		lines = append(lines, Text{Text: fmt.Sprintf("Known to be wrong, and apart from all this: %s.", someOf(c.Known))})
	}
	if len(c.KnownSolid) > 0 {
		lines = append(lines, Text{Tone: Right, Text: fmt.Sprintf("Known to be wrong, but solid now: %s; take known-wrong "+
			"out of the golden set.", someOf(c.KnownSolid))})
	}
	if p := o.Planning; p != nil {
		lines = append(lines, planningLine(*p))
	}
	for _, w := range c.Warnings {
		lines = append(lines, Text{Tone: Wrong, Text: "Beware: " + w + "."})
	}
	return append(lines, Text{Tone: Faint, Text: fmt.Sprintf("Random draws start from the seed %d.", o.Seed)})
}

func planningLine(p Planning) Text {
	words := fmt.Sprintf("To find a difference of %.0f points with 80 %% power takes about %s like for like (there are %d)",
		100*p.Difference, plural(p.Questions, "question", "questions"), p.Have)
	if p.Questions == 0 {
		words = fmt.Sprintf("A difference of %.0f points is not found with a million questions", 100*p.Difference)
	}
	switch {
	case p.Repeats > 1:
		words += fmt.Sprintf(", or %d repeats of each", p.Repeats)
	case p.Repeats == 1:
		words += "; the present ones do, asked once"
	default:
		words += "; repeats alone do not do it, for the questions themselves vary too much"
	}
	return Text{Text: words + "."}
}

// someOf lists a few names.
func someOf(names []string) string {
	const most = 6
	if len(names) <= most {
		return strings.Join(names, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(names[:most], ", "), len(names)-most)
}

// flippedWords say what happened to questions, in the words of versions or of rivals.
func flippedWords(c versus.Comparison, kind versus.FlipKind, are string) string {
	switch {
	case kind == versus.Regressed && isRivalry(c):
		return are + " lost"
	case kind == versus.Regressed:
		return "regressed"
	case isRivalry(c):
		return are + " undecided"
	}
	return are + " unstable"
}

func compareNext(c versus.Comparison) []string {
	for _, kind := range []versus.FlipKind{versus.Regressed, versus.Unstable} {
		if names := c.Of(kind); len(names) > 0 && c.After.Run > 0 {
			return []string{fmt.Sprintf("%s; look at the first with `tovrel show %d %s`.",
				plural(len(names), "question "+flippedWords(c, kind, "is"), "questions "+flippedWords(c, kind, "are")),
				c.After.Run, names[0])}
		}
	}
	if len(c.Moved) > 0 && c.Before.Run > 0 && c.After.Run > 0 {
		return []string{fmt.Sprintf("Score both under today's golden sets with `tovrel compare %d %d --rescore`.", c.Before.Run,
			c.After.Run)}
	}
	return nil
}
