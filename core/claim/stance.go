package claim

import (
	"slices"
	"strings"

	"tovrel/core/pattern"
)

// Stance says what a text does: it answers, asks back, or declines.
type Stance int

// The stances.
const (
	Answers Stance = iota
	AsksBack
	Declines
)

var (
	// cannot are the ways to say that something is not done or not known, in a main clause.
	cannot = pattern.Of(`(?i)(?:(?:^|[,;:–-] ?)(?:i|we|it|this|that|the (?:data|dataset|database|system|tables?|sample)` +
		`|they)\b[^.?!,;]{0,60}\b` +
		`(?:can\s?not|can't|could\s?not|couldn't|may not|must not|will not|won't|am not|are not|is not|isn't|aren't|do not|don't` +
		`|does not|doesn't|` +
		`have no|has no|lack|lacks|contains? no|holds? no|decline|refuse|unable)\b|\b(?:not` +
		`|no(?:thing)?)\b[^.?!,;]{0,40}\b(?:can answer|can be answered|` +
		`answerable|available|possible|permitted|allowed)\b|\bthere (?:is|are) no (?:data|information|table|column|field|record of)|` +
		`unable to|not able to|not allowed|not permitted|no permission|(?:outside|beyond|out of) (?:of )?(?:the|my|our|this)` +
		`|cannot be (?:answered|done|changed|deleted))`)
	// ability are words of what cannot be done or is not known, rather than of what is not so in the data.
	ability = pattern.Of(`(?i)\b(?:can\s?not|can't|could\s?not|couldn't|may not|must not|will not|won't|unable|not able` +
		`|not allowed|not permitted|` +
		`no permission|decline|refuse|do not have|don't have|does not have|doesn't have|does not (?:contain|include|hold|cover|record` +
		`|say|track)|` +
		`doesn't (?:contain|include|hold|cover|record|say|track)|have no|has no|lacks?|no data|no information|no table|no column` +
		`|no field|` +
		`not (?:something|a question)|not (?:available|answerable|possible|part of|in the data|recorded|stored|tracked|contained)` +
		`|isn't (?:something|available|part of|recorded|stored|tracked)|` +
		`don't know|do not know|outside|beyond|out of (?:scope|reach)|nothing)\b`)
	// lost says that the question is not understood.
	lost = pattern.Of(`(?i)\b(?:(?:do|does|did|can|could)(?: not|n't)|cannot|unable to|not able to) (?:understand|interpret` +
		`|parse|answer|help)\b`)
	// prefaces are what a main clause may come after.
	prefaces = pattern.Of(`(?i)^\s*(?:(?:i am|i'm|we are|we're)?\s*(?:very |so |really )?(?:sorry` +
		`|afraid)(?: to say)?(?: that)?|unfortunately|apologies|regrettably|` +
		`thanks?(?: you)?[^,.!]*|hello|hi|sure|okay|ok)\s*[,.!:–-]*\s*(?:but\s+)?`)
	alternatives = pattern.Of(`(?i)\b(?:or|which|do you mean|did you mean|should i|shall i|what do you mean|what counts` +
		`|how do you define|clarify|specify|` +
		`what exactly|by what|in terms of)\b`)
	uncertain = pattern.Of(`(?i)\b(?:ambiguous|unclear|not clear|could mean|can mean|may mean|depends|not sure|unsure|clarify` +
		`|specify|before i|to answer|` +
		`need to know|several|two ways|more than one|different ways|happy to|glad to|interpret|sure|thanks|let me|question)\b`)
	offers = pattern.Of(`(?i)\b(?:would you like|do you want|want me to|shall i also|should i also|anything else|let me know)\b`)
)

// StanceOf tells what a text does first. Topics are words about which it may ask back, with their synonyms.
func StanceOf(text string, topics []string) Stance {
	var told []string
	for _, l := range linesOf(text) {
		if t := strings.TrimSpace(l.text); t != "" {
			told = append(told, t)
		}
	}
	if len(told) == 0 {
		return Answers
	}
	switch {
	case declines(told):
		return Declines
	case asksBack(told, topics):
		return AsksBack
	}
	return Answers
}

// declines tells whether the first main clause says that something cannot be done or is not known, and no number follows.
func declines(told []string) bool {
	first := ""
	for _, s := range told {
		if first = prefaces.ReplaceAllString(s, ""); first != "" {
			break
		}
	}
	clause, _, _ := strings.Cut(first, ", but ")
	says := cannot.MatchString(clause) && ability.MatchString(clause) || lost.MatchString(clause)
	if !says || strings.HasSuffix(first, "?") {
		return false
	}
	return !slices.ContainsFunc(told, givesNumber)
}

// asksBack tells whether a text gives no claim and ends with a question about a topic, or one that offers alternatives.
func asksBack(told []string, topics []string) bool {
	last := told[len(told)-1]
	if offers.MatchString(last) && len(told) > 1 {
		return false
	}
	if !strings.HasSuffix(strings.TrimRight(last, `"') `), "?") && !uncertainRequest(last) {
		return false
	}
	for i, s := range told {
		question := strings.Contains(s, "?") || uncertainRequest(s)
		if i < len(told)-1 && !question && (givesNumber(s) || !uncertain.MatchString(s) && !about(s, topics) && i > 0 ||
			!uncertain.MatchString(s) && !about(s, topics) && len(told) == 2) {
			return false
		}
	}
	return about(last, topics) || alternatives.MatchString(last) || slices.ContainsFunc(told, func(s string) bool {
		return strings.Contains(s, "?") && (about(s, topics) || alternatives.MatchString(s))
	})
}

var request = pattern.Of(`(?i)\bplease (?:clarify|specify|tell|say|let me know|choose|confirm)|\bcould you (?:clarify|specify)` +
	`|let me know (?:which|what|whether)`)

func uncertainRequest(s string) bool { return request.MatchString(s) }

// givesNumber tells whether a sentence holds a number that is no date.
func givesNumber(s string) bool {
	for i, t := range tokensOf(s, nameIndex{}, undecided) {
		if t.kind == amount && !t.rank && !t.number.worded && !(i > 0 && yearForm(&t)) {
			return true
		}
	}
	return false
}

// about tells whether a text mentions one of some topics, inflected or not.
func about(text string, topics []string) bool {
	return slices.ContainsFunc(topics, func(topic string) bool { return Mentions(text, topic) })
}

// Mentions tells whether a text has the words of a phrase beside each other, inflected or not.
func Mentions(text, phrase string) bool {
	said, wanted := stems(text), stems(phrase)
	for i := 0; len(wanted) > 0 && i+len(wanted) <= len(said); i++ {
		if slices.Equal(said[i:i+len(wanted)], wanted) {
			return true
		}
	}
	return false
}
