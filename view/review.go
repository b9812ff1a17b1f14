package view

import (
	"fmt"
	"strings"

	"tovrel/core/decision"
	"tovrel/core/record"
	"tovrel/core/review"
	"tovrel/core/score"
)

type reviewForm struct {
	Items     []ReviewItem        `json:"items"` // of the run that is reviewed
	Waiting   []decision.Waiting  `json:"waiting"`
	Stale     []decision.Decision `json:"stale"`
	Decisions int                 `json:"decisions"`
}

// Review lists what waits for a person, the decisions that do not count any more, and what else of a run is to be looked at. Decided is
// how many decisions there are.
func Review(items []ReviewItem, waiting []decision.Waiting, stale []decision.Decision, decided int) Screen {
	screen := Screen{Data: reviewForm{append([]ReviewItem{}, items...), append([]decision.Waiting{}, waiting...),
		append([]decision.Decision{}, stale...), decided}}
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
	if len(items) > 0 {
		screen.Parts = append(screen.Parts, Part{Title: fmt.Sprintf("To look at in run %d, %s", items[0].Run, items[0].Translator),
			Grid: reviewGrid(items)})
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

// ReviewItem is a question that a person looks at, with what may be decided about it.
type ReviewItem struct {
	Question   string        `json:"question"`
	Run        int           `json:"run"`
	Translator string        `json:"translator"`
	Verdict    score.Verdict `json:"verdict"`
	Wording    string        `json:"wording"`
	Why        string        `json:"why"`
	Fault      string        `json:"fault"`   // the main one; "" for none
	IsNew      bool          `json:"new"`     // it was right in the run before, or not asked there
	Sampled    bool          `json:"sampled"` // it is right, and looked at to audit the judge
	Decisions  []string      `json:"decisions"`
}

// ReviewItemOf is an item as a list shows it.
func ReviewItemOf(r record.Run, item review.Item) ReviewItem {
	a := item.Attempt
	out := ReviewItem{Question: item.Question, Run: r.ID, Translator: r.Translator, Verdict: a.Verdict, Wording: a.Wording, Why: whyOf(a),
		Fault: string(mainFault(a).Code), IsNew: item.IsNew, Sampled: item.Sampled, Decisions: []string{}}
	for _, c := range item.Choices() {
		out.Decisions = append(out.Decisions, c.Decision)
	}
	return out
}

// reviewGrid lists what is to be looked at.
func reviewGrid(items []ReviewItem) *Grid {
	g := gridOf(items,
		declare(Column{Name: "question", Keep: true}, func(i ReviewItem) Cell { return text(i.Question) }),
		declare(Column{Name: "verdict", Keep: true}, func(i ReviewItem) Cell { return verdictCell(i.Verdict) }),
		declare(Column{Name: "new"}, func(i ReviewItem) Cell {
			if i.IsNew {
				return Cell{Text: "new", Tone: Strong}
			}
			return Cell{}
		}),
		declare(Column{Name: "why", Wrap: true}, func(i ReviewItem) Cell { return text(i.Why) }),
	)
	g.Main = true
	return g
}
