package cli

import (
	"context"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"tovrel/core/briefing"
	"tovrel/core/decision"
	"tovrel/core/golden"
	"tovrel/core/near"
	"tovrel/core/record"
	"tovrel/core/review"
	"tovrel/core/source"
	"tovrel/files"
	"tovrel/render"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

type reviewOptions struct {
	decide string
	sample int
	seed   uint64
	plain  bool
}

func newReviewCmd(a *app) *cobra.Command {
	var o reviewOptions
	cmd := &cobra.Command{
		Use: "review [RUN]", Short: "Go through what is wrong, lucky, doubtful or new in a run, and decide",
		Args: usage(cobra.MaximumNArgs(1)), ValidArgsFunction: a.completeRuns,
		Long: "On a terminal, one question of the run (the newest one by default) after the other: keep an answer as another\n" +
			"reading, make it the expected one, say that a question is known to be wrong, decide on a reply that no rule could\n" +
			"decide. Every decision is shown as a diff before it is written, and can be taken back. --sample adds right answers,\n" +
			"to audit the judge; --plain goes line by line. Without a terminal it lists what is to be looked at, what waits for\n" +
			"a person, and decisions that do not count any more.\n\n" +
			"--decide takes lines of JSON with question and decision: right, wrong, asks-back or declines with reply or\n" +
			"reply_digest, which are kept in golden/decisions/ and hold for the same words in every run; reading, expected or\n" +
			"known-wrong (with why), which change the golden set, for the answer in run.",
		Example: "  tovrel review\n  tovrel review 12 --sample 20\n  tovrel review 12 --output json\n" +
			"  tovrel review --decide decided.jsonl",
		RunE: func(cmd *cobra.Command, args []string) error {
			if o.decide != "" {
				return a.decide(cmd.Context(), args, o.decide, cmd.InOrStdin())
			}
			return a.review(cmd.Context(), o, args)
		},
	}
	f := cmd.Flags()
	f.StringVar(&o.decide, "decide", "", "take decisions from this file of JSON lines (- for standard input)")
	f.IntVar(&o.sample, "sample", 0, "also look at so many right answers, drawn by the seed")
	f.Uint64Var(&o.seed, "seed", defaultSeed, "start of the random draws")
	f.BoolVar(&o.plain, "plain", false, "go line by line: for screen readers and simple terminals")
	return cmd
}

func (a *app) review(ctx context.Context, o reviewOptions, names []string) error {
	source, err := a.runSource()
	if err != nil {
		return err
	}
	defer source.close()
	r, err := a.reviewOf(source, o, names)
	if err != nil {
		return err
	}
	screenful := a.Terminal && a.Asks && render.Format(a.output) == render.Table
	switch {
	case r != nil && len(r.items) > 0 && o.plain:
		return r.lineByLine(ctx)
	case r != nil && len(r.items) > 0 && screenful:
		return r.fullScreen(ctx)
	}
	waiting, err := source.waiting(names)
	if err != nil {
		return err
	}
	kept, problems, err := source.w.Decisions()
	if err != nil {
		return err
	}
	for _, p := range problems {
		a.say("%s", p.Error())
	}
	stale, err := a.stale(ctx, source.w, kept.All)
	if err != nil {
		return err
	}
	var items []view.ReviewItem
	if r != nil {
		items = r.listed()
	}
	return a.show(view.Review(items, waiting, stale, len(kept.All)))
}

// reviewOf opens the review of a run; nil where nothing was run yet.
func (a *app) reviewOf(source *runSource, o reviewOptions, names []string) (*reviewing, error) {
	name := ""
	if len(names) > 0 {
		name = names[0]
	} else if all, err := source.latest(); err != nil || len(all) == 0 {
		return nil, err
	}
	return a.reviewed(source, name, o.sample, o.seed)
}

// waiting lists what waits in some runs; without names in the latest of each translator: its latest complete one, and for the questions
// that were asked again since in a part of it, that part.
func (s *runSource) waiting(names []string) ([]decision.Waiting, error) {
	latest := len(names) == 0
	if latest {
		all, err := s.latest()
		if err != nil {
			return nil, err
		}
		names = all
	}
	var out []decision.Waiting
	asked := map[string]bool{} // by translator and question, in a later run
	for _, name := range names {
		r, err := s.whole(name)
		if err != nil {
			return nil, err
		}
		for _, one := range decision.Await(r.Run, r.attempts) {
			if latest && asked[r.Translator+" "+one.Question] {
				continue
			}
			one.Expect = s.expectation(r, one)
			out = append(out, one)
		}
		for _, a := range r.attempts {
			asked[r.Translator+" "+a.Question] = true
		}
	}
	return decision.Once(out), nil
}

// latest names the runs of each translator down to its latest complete one, the newest first; none where nothing was run yet.
func (s *runSource) latest() ([]string, error) {
	if _, err := os.Stat(s.w.Path(s.w.History)); err != nil {
		return nil, nil
	}
	store, err := s.history()
	if err != nil {
		return nil, err
	}
	runs, err := store.Runs()
	if err != nil {
		return nil, err
	}
	slices.SortFunc(runs, func(a, b record.Run) int { return b.ID - a.ID })
	whole := map[string]bool{}
	var names []string
	for _, r := range runs {
		if !whole[r.Translator] {
			names = append(names, fmt.Sprint(r.ID))
		}
		whole[r.Translator] = whole[r.Translator] || r.State == record.Complete
	}
	return names, nil
}

// expectation is what a reply was held against, in a line.
func (s *runSource) expectation(r stored, w decision.Waiting) string {
	i := slices.IndexFunc(r.attempts, func(a record.Attempt) bool {
		return a.Question == w.Question && a.Look != nil && a.Look.ReplyDigest == w.ReplyDigest
	})
	if i < 0 {
		return ""
	}
	one := r.attempts[i]
	if one.Facts != nil {
		return "facts, " + view.FactsLine(*one.Facts)
	}
	if one.Expected == "" || r.table == nil {
		return ""
	}
	t, err := r.table(one.Expected)
	if err != nil {
		return ""
	}
	return view.RowsLine(t.Table, t.Rows)
}

// stale are the decisions whose question expects something else now, or is not there any more.
func (a *app) stale(ctx context.Context, w *workspace.Workspace, all []decision.Decision) ([]decision.Decision, error) {
	if len(all) == 0 {
		return nil, nil
	}
	questions, err := a.questions(w, record.Options{})
	if err != nil {
		return nil, err
	}
	byName := map[string]workspace.Chosen{}
	var asked []workspace.Chosen
	for _, c := range questions {
		if slices.ContainsFunc(all, func(d decision.Decision) bool { return d.Question == c.Name() }) {
			byName[c.Name()] = c
			asked = append(asked, c)
		}
	}
	s, err := a.places(ctx, w, asked, briefing.Full, 0)
	defer s.close()
	if err != nil {
		return nil, err
	}
	var out []decision.Decision
	for _, d := range all {
		c, known := byName[d.Question]
		if !known {
			out = append(out, d)
			continue
		}
		now, err := s.places[c.Set.Dataset].ExpectedDigest(ctx, c)
		if err != nil {
			return nil, err
		}
		if now != d.ExpectedDigest {
			out = append(out, d)
		}
	}
	return out, nil
}

// decide takes decisions from a file.
func (a *app) decide(ctx context.Context, names []string, path string, in io.Reader) error {
	s, err := a.runSource()
	if err != nil {
		return err
	}
	defer s.close()
	body, err := readLines(path, in)
	if err != nil {
		return err
	}
	read, problems := decision.Read(path, body)
	if len(problems) > 0 {
		return trouble.As(trouble.Unreadable, problems)
	}
	waiting, err := s.waiting(names)
	if err != nil {
		return err
	}
	kept, _, err := s.w.Decisions()
	if err != nil {
		return err
	}
	var fresh []decision.Decision
	var ofQuestions []decision.Decision
	for _, d := range read {
		if d.OfQuestion() {
			ofQuestions = append(ofQuestions, d)
			continue
		}
		known := slices.ContainsFunc(kept.All, func(k decision.Decision) bool {
			return k.Question == d.Question && k.ReplyDigest == d.ReplyDigest && (d.ExpectedDigest == "" ||
				k.ExpectedDigest == d.ExpectedDigest)
		})
		if !d.Complete(waiting) {
			if known {
				continue // decided already
			}
			return notWaiting(d, waiting)
		}
		if d.By == "" {
			d.By = userName()
		}
		if d.On == "" {
			d.On = time.Now().UTC().Format(time.DateOnly)
		}
		fresh = append(fresh, d)
	}
	written, err := s.w.AddDecisions(fresh)
	if err != nil {
		return err
	}
	changed, err := a.decideQuestions(ctx, s, names, ofQuestions)
	if err != nil {
		return err
	}
	taken := len(fresh) + len(ofQuestions)
	return a.show(view.Decided(taken, len(read)-taken, len(waiting)-len(fresh), append(written, changed...)))
}

// decideQuestions takes decisions that change golden sets, each about the answer in the run that it names, and gives the files.
func (a *app) decideQuestions(ctx context.Context, s *runSource, names []string, all []decision.Decision) ([]string, error) {
	var changed []string
	for n, d := range all {
		run := d.Run
		if run == "" && len(names) > 0 {
			run = names[0]
		}
		r, err := a.reviewed(s, run, 0, defaultSeed)
		if err != nil {
			return nil, err
		}
		i := slices.IndexFunc(r.items, func(item review.Item) bool { return item.Question == d.Question })
		if i < 0 {
			return nil, trouble.As(trouble.Usage, source.Problems{{Position: d.At, Code: "decision-of-nothing", Severity: source.Error,
				Message: fmt.Sprintf("nothing in run %s is to be decided about %s", view.RunName(r.run.Run), d.Question),
				Remedy:  fmt.Sprintf("take it from `tovrel review %s --output json`; %d lines before it were taken", r.name, n)}})
		}
		p, err := r.propose(ctx, i, d.Decision, d.Why)
		if err != nil {
			return nil, err
		}
		if err := r.write(p); err != nil {
			return nil, err
		}
		for _, c := range p.changes {
			if name := s.w.Relative(c.Path); !slices.Contains(changed, name) {
				changed = append(changed, name)
			}
		}
	}
	return changed, nil
}

// notWaiting says that a line is about no reply that waits.
func notWaiting(d decision.Decision, waiting []decision.Waiting) error {
	var questions []string
	for _, w := range waiting {
		questions = append(questions, w.Question)
	}
	hint := near.Hint(d.Question, questions)
	if slices.Contains(questions, d.Question) {
		hint = "its reply is another one: copy reply_digest from `tovrel review --output json`"
	}
	if len(waiting) == 0 {
		hint = "nothing waits"
	}
	p := source.Problem{Position: d.At, Code: "decision-of-nothing", Severity: source.Error,
		Message: fmt.Sprintf("no reply to %s waits that this line could be about", d.Question), Remedy: hint}
	return trouble.As(trouble.Usage, source.Problems{p})
}

func readLines(path string, in io.Reader) ([]byte, error) {
	if path == "-" {
		return io.ReadAll(in)
	}
	body, err := files.Read(path, files.Document)
	if err != nil {
		return nil, trouble.New(trouble.Unreadable, "%s cannot be read: %w", path, err)
	}
	return body, nil
}

// checkDecisions finds what is wrong with the decisions about the questions of some sets: lines that cannot be read or disagree, and
// those that do not count any more. Sound tells that the sets are, so that what their questions expect can be computed.
func (a *app) checkDecisions(ctx context.Context, w *workspace.Workspace, sets []*golden.Set, sound bool) (source.Problems, error) {
	kept, problems, err := w.Decisions()
	if err != nil || len(kept.All) == 0 || !sound {
		return problems, err
	}
	var about []decision.Decision
	for _, d := range kept.All {
		if slices.ContainsFunc(sets, func(s *golden.Set) bool { return strings.HasPrefix(d.Question, s.Name+"/") }) {
			about = append(about, d)
		}
	}
	stale, err := a.stale(ctx, w, about)
	for _, d := range stale {
		problems = append(problems, source.Problem{Position: d.At, Code: "decision-stale", Severity: source.Warning,
			Message: fmt.Sprintf("this decision about %s does not count any more: the question expects something else now, or is gone",
				d.Question),
			Remedy: "take the line out; the reply is asked about again where it comes again"})
	}
	return problems, err
}
