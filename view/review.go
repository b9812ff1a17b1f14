package view

import (
	"fmt"
	"strings"

	"tovrel/core/decision"
)

type reviewForm struct {
	Waiting   []decision.Waiting  `json:"waiting"`
	Stale     []decision.Decision `json:"stale"`
	Decisions int                 `json:"decisions"`
}

// Review lists what waits for a person, and the decisions that do not count any more. Decided is how many there are.
func Review(waiting []decision.Waiting, stale []decision.Decision, decided int) Screen {
	screen := Screen{Data: reviewForm{append([]decision.Waiting{}, waiting...), append([]decision.Decision{}, stale...), decided}}
	line := Text{Tone: Right, Text: "Nothing waits for a decision."}
	if n := len(waiting); n > 0 {
		line = Text{Tone: Unscored, Text: plural(n, "reply waits", "replies wait") + " for a decision."}
	}
	screen.Headline = []Text{line}
	if decided > 0 {
		screen.Headline = append(screen.Headline, Text{Tone: Faint, Text: plural(decided, "decision is", "decisions are") +
			" kept in golden/decisions/."})
	}
	for _, w := range waiting {
		lines := []Text{{Text: "Asked: " + w.Wording}, {Text: "Replied: " + oneLine(w.Reply)}}
		if w.Expect != "" {
			lines = append(lines, Text{Text: "Expected: " + w.Expect})
		}
		lines = append(lines, Text{Tone: Unscored, Text: w.Why + "."},
			Text{Tone: Faint, Text: fmt.Sprintf("Run %d, %s, reply %s", w.Run, w.Translator, w.ReplyDigest)})
		screen.Parts = append(screen.Parts, Part{Title: w.Question, Lines: lines})
	}
	if len(stale) > 0 {
		screen.Parts = append(screen.Parts, Part{Title: "Decisions that do not count any more", Grid: staleGrid(stale)})
	}
	if len(waiting) > 0 {
		w := waiting[0]
		screen.Next = []string{"Write a line for each, such as " +
			fmt.Sprintf(`{"question": %q, "reply_digest": %q, "decision": "right", "why": "…"}`,
				w.Question, w.ReplyDigest) +
			", and take them with `tovrel review --decide -`, which reads standard input, or name a file there."}
	}
	return screen
}

func staleGrid(stale []decision.Decision) *Grid {
	return gridOf(stale,
		declare(Column{Name: "question", Keep: true}, func(d decision.Decision) Cell { return text(d.Question) }),
		declare(Column{Name: "decision", Keep: true}, func(d decision.Decision) Cell { return text(d.Decision) }),
		declare(Column{Name: "reply", Wrap: true}, func(d decision.Decision) Cell { return text(oneLine(d.Reply)) }),
		declare(Column{Name: "where"}, func(d decision.Decision) Cell { return text(d.At.String()) }),
	)
}

// oneLine is a reply on one line, shortened.
func oneLine(s string) string {
	const most = 300
	s = strings.Join(strings.Fields(s), " ")
	if r := []rune(s); len(r) > most {
		return string(r[:most]) + "…"
	}
	return s
}

type decidedForm struct {
	Taken   int      `json:"taken"`
	Known   int      `json:"known"`
	Waiting int      `json:"waiting"`
	Files   []string `json:"files"`
}

// Decided says which decisions were taken, which were known, and how many replies still wait.
func Decided(taken, known, waiting int, written []string) Screen {
	line := plural(taken, "decision was", "decisions were") + " taken"
	if len(written) > 0 {
		line += " into " + strings.Join(written, ", ")
	}
	if known > 0 {
		line += fmt.Sprintf("; %d were there already", known)
	}
	screen := Screen{Data: decidedForm{taken, known, waiting, some(written)}, Headline: []Text{{Tone: Right, Text: line + "."}}}
	if waiting > 0 {
		screen.Headline = append(screen.Headline, Text{Tone: Unscored, Text: plural(waiting, "reply still waits", "replies still wait") +
			" for a decision."})
	}
	screen.Next = []string{"They hold in every run at once: look at one with `tovrel show latest`. Keep golden/decisions/ under version " +
		"control."}
	return screen
}
