package view

import (
	"fmt"

	"tovrel/core/record"
	"tovrel/core/score"
)

// Rescored is a run that was judged again; the attempts are in the same order.
type Rescored struct {
	Run           record.Run
	Before, After []record.Attempt
	AskAgain      []string // questions whose data has moved since
}

type rescoreForm struct {
	Rescored []rescoredForm `json:"rescored"`
}

type rescoredForm struct {
	Run      int            `json:"run"`
	Before   record.Summary `json:"before"`
	Summary  record.Summary `json:"summary"`
	Changed  []changedForm  `json:"changed"`
	AskAgain []string       `json:"ask_again"`
}

type changedForm struct {
	Question string        `json:"question"`
	Wording  string        `json:"wording"`
	Repeat   int           `json:"repeat"`
	Was      score.Verdict `json:"was"`
	Is       score.Verdict `json:"is"`
	Why      string        `json:"why"`
}

// changedIn is a changed verdict of a run.
type changedIn struct {
	run int
	changedForm
}

// Rescore shows what a later judgement changed.
func Rescore(all []Rescored) Screen {
	form := rescoreForm{[]rescoredForm{}}
	screen := Screen{}
	var changed []changedIn
	for _, r := range all {
		f := rescoredForm{Run: r.Run.ID, Before: record.Summarise(r.Run, r.Before), Summary: record.Summarise(r.Run, r.After),
			Changed: []changedForm{}, AskAgain: some(r.AskAgain)}
		for i, now := range r.After {
			was := r.Before[i]
			if was.Verdict == now.Verdict {
				continue
			}
			f.Changed = append(f.Changed, changedForm{now.Question, now.Wording, now.Repeat, was.Verdict, now.Verdict, whyOf(now)})
			changed = append(changed, changedIn{r.Run.ID, f.Changed[len(f.Changed)-1]})
		}
		form.Rescored = append(form.Rescored, f)
		screen.Headline = append(screen.Headline, Text{Tone: Strong, Text: rescoreLine(r, f)})
		if len(r.AskAgain) > 0 {
			screen.Headline = append(screen.Headline,
				Text{Tone: Unscored, Text: fmt.Sprintf("The data of %s has moved since; they were judged on the run's own "+
					"data. Ask again with `tovrel run -t %s`.", plural(len(r.AskAgain), "question", "questions"), r.Run.Translator)})
		}
	}
	screen.Data = form
	g := gridOf(changed,
		declare(Column{Name: "run", Right: true, Keep: true}, func(c changedIn) Cell { return count(c.run) }),
		declare(Column{Name: "question", Keep: true}, func(c changedIn) Cell { return text(c.Question) }),
		declare(Column{Name: "wording"}, func(c changedIn) Cell { return text(c.Wording) }),
		declare(Column{Name: "was", Keep: true}, func(c changedIn) Cell { return verdictCell(c.Was) }),
		declare(Column{Name: "is", Keep: true}, func(c changedIn) Cell { return verdictCell(c.Is) }),
		declare(Column{Name: "why"}, func(c changedIn) Cell { return text(c.Why) }),
	)
	g.Main = true
	if len(g.Rows) > 0 {
		screen.Parts = []Part{{Title: "What changed", Grid: g}}
	}
	for i, f := range form.Rescored {
		if len(f.Changed) > 0 {
			screen.Next = []string{fmt.Sprintf("The run itself stays as it was; see it judged again with `tovrel show %d "+
				"--rescored`.", all[i].Run.ID)}
			break
		}
	}
	return screen
}

func rescoreLine(r Rescored, f rescoredForm) string {
	line := fmt.Sprintf("Run %d, %s: %s of %d changed", r.Run.ID, r.Run.Translator,
		plural(len(f.Changed), "verdict", "verdicts"), len(r.After))
	if a, b := f.Before.Accuracy, f.Summary.Accuracy; a != nil && b != nil {
		line += fmt.Sprintf("; accuracy %s, was %s", Percent(*b), Percent(*a))
	}
	return line + "."
}
