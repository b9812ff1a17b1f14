package cli

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/aymanbagabas/go-udiff"

	"tovrel/attempt"
	"tovrel/core/decision"
	"tovrel/core/golden"
	"tovrel/core/record"
	"tovrel/core/review"
	"tovrel/core/versus"
	"tovrel/files"
	"tovrel/trouble"
	"tovrel/view"
)

// reviewing is a person going through what a run brought.
type reviewing struct {
	a       *app
	source  *runSource
	run     stored
	name    string // of the run
	items   []review.Item
	written [][]files.Change // of the decisions so far, for taking them back
}

// reviewed opens the review of a run; "" is the newest one.
func (a *app) reviewed(source *runSource, name string, sample int, seed uint64) (*reviewing, error) {
	r, err := source.whole(cmp.Or(name, "latest"))
	if err != nil {
		return nil, err
	}
	var before []record.Attempt
	if r.file == "" {
		if before, err = source.before(r.Run); err != nil {
			return nil, err
		}
		if r.attempts, err = source.lastJudged(r); err != nil {
			return nil, err
		}
	}
	known := a.knownWrongNow(source, r.Run)
	items := slices.DeleteFunc(review.Items(r.attempts, before, sample, seed), func(i review.Item) bool { return known[i.Question] })
	return &reviewing{a: a, source: source, run: r, name: cmp.Or(name, fmt.Sprint(r.ID)), items: items}, nil
}

// before are the attempts of the complete run before a run, of any version of its translator; nil where there is none.
func (s *runSource) before(r record.Run) ([]record.Attempt, error) {
	r.Translator = versus.BaseName(r.Translator)
	name, err := runBefore(s, r)
	if err != nil || name == "" {
		return nil, err
	}
	was, err := s.whole(name)
	return was.attempts, err
}

// lastJudged are a run's attempts as they were judged last.
func (s *runSource) lastJudged(r stored) ([]record.Attempt, error) {
	_, attempts, has, err := s.store.LatestRescoring(r.ID)
	if err != nil || !has {
		return r.attempts, err
	}
	s.decide(attempts)
	return attempts, nil
}

// knownWrongNow are the questions that are decided already: known to be wrong when the run was made, or today.
func (a *app) knownWrongNow(source *runSource, r record.Run) map[string]bool {
	known := map[string]bool{}
	for name, about := range r.About {
		known[name] = about.KnownWrong != ""
	}
	questions, err := a.questions(source.w, record.Options{})
	if err != nil { // set check tells what is wrong with them
		return known
	}
	for _, c := range questions {
		for _, name := range attempt.NamesOf(c) {
			known[name] = known[name] || c.Question.KnownWrong != ""
		}
	}
	return known
}

// detail is what is shown of an item.
func (r *reviewing) detail(i int) (view.Screen, error) {
	item := r.items[i]
	tables, err := r.run.tables(item.Attempt)
	if err != nil {
		return view.Screen{}, err
	}
	screen := view.Question(r.run.Run, item.Attempt, tables, nil)
	screen.Next = nil
	return screen, nil
}

// proposed is what a decision would write.
type proposed struct {
	changes []files.Change
	diff    string
}

// propose makes what a decision about an item would write; nothing is written.
func (r *reviewing) propose(ctx context.Context, i int, kind, words string) (proposed, error) {
	changes, err := r.changes(ctx, r.items[i], kind, words)
	if err != nil {
		return proposed{}, err
	}
	out := proposed{changes: changes}
	for _, c := range changes {
		path := r.source.w.Relative(c.Path)
		out.diff += udiff.Unified(path, path, string(c.Was), string(c.Text))
	}
	return out, nil
}

func (r *reviewing) changes(ctx context.Context, item review.Item, kind, words string) ([]files.Change, error) {
	if !slices.ContainsFunc(item.Choices(), func(c review.Choice) bool { return c.Decision == kind }) {
		return nil, trouble.New(trouble.Usage, "%s is %s: %q cannot be decided about it", item.Question, item.Attempt.Verdict, kind)
	}
	switch kind {
	case decision.KnownWrong:
		return r.knownWrong(item, words)
	case decision.Reading, decision.Expected:
		c, err := r.a.chosenNow(r.source.w, item.Question)
		if err != nil {
			return nil, err
		}
		accepted, err := r.a.acceptance(ctx, r.source.w, r.run, item.Attempt, c,
			acceptOptions{title: words, replace: kind == decision.Expected})
		if err != nil {
			return nil, err
		}
		return accepted.Changes(r.source.w, c.Set)
	}
	look := item.Attempt.Look
	changes, _, err := r.source.w.DecisionChanges([]decision.Decision{{Question: item.Question, ReplyDigest: look.ReplyDigest,
		Reply: look.Reply, Decision: kind, ExpectedDigest: look.ExpectedDigest, By: userName(),
		On: time.Now().UTC().Format(time.DateOnly), Why: words}})
	return changes, err
}

// knownWrong writes into a question's settings that it is known to be answered wrong.
func (r *reviewing) knownWrong(item review.Item, reason string) ([]files.Change, error) {
	if strings.TrimSpace(reason) == "" {
		return nil, trouble.New(trouble.Usage, "say why %s is known to be wrong", item.Question)
	}
	c, err := r.a.chosenNow(r.source.w, item.Question)
	if err != nil {
		return nil, err
	}
	text, err := c.Set.EditQuestion(c.Question, golden.Edit{Settings: []golden.Setting{{Key: "known-wrong", Value: golden.Scalar(reason)}}})
	if err != nil {
		return nil, trouble.New(trouble.Usage, "%s cannot take it: %w", c.Set.File, err)
	}
	return []files.Change{r.source.w.SetFile(c.Set, text)}, nil
}

// write writes what was proposed, whole or not at all.
func (r *reviewing) write(p proposed) error {
	if err := files.WriteAll(p.changes); err != nil {
		return err
	}
	r.written = append(r.written, p.changes)
	return nil
}

// takeBack undoes the last decision; false where there is none.
func (r *reviewing) takeBack() (bool, error) {
	if len(r.written) == 0 {
		return false, nil
	}
	last := r.written[len(r.written)-1]
	if err := files.TakeBack(last); err != nil {
		return false, err
	}
	r.written = r.written[:len(r.written)-1]
	return true, nil
}

// place is where an item's question stands in its golden set.
func (r *reviewing) place(i int) (file string, line int, err error) {
	c, err := r.a.chosenNow(r.source.w, r.items[i].Question)
	if err != nil {
		return "", 0, err
	}
	return r.source.w.Path(c.Set.File), c.Question.At.Line, nil
}

// listed are the items as a list shows them.
func (r *reviewing) listed() []view.ReviewItem {
	out := make([]view.ReviewItem, len(r.items))
	for i, item := range r.items {
		out[i] = view.ReviewItemOf(r.run.Run, item)
	}
	return out
}
