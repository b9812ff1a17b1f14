package cli

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"runtime/debug"
	"slices"
	"strconv"
	"strings"
	"time"

	"tovrel/attempt"
	"tovrel/core/briefing"
	"tovrel/core/near"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/source"
	"tovrel/history"
	"tovrel/translator"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

// run makes a run for each translator.
func (a *app) run(ctx context.Context, o runOptions) error {
	debug.SetGCPercent(lazyCollection)
	w, err := a.open()
	if err != nil {
		return err
	}
	translators, err := chooseTranslators(w, o.translators)
	if err != nil {
		return err
	}
	options, err := a.runSettings(w, o)
	if err != nil {
		return err
	}
	questions, err := a.questions(w, options)
	if err != nil {
		return err
	}
	if o.dryRun {
		return a.dryRun(w, translators, options, questions)
	}
	plan, done, err := a.plan(ctx, w, options, questions)
	if err != nil {
		return err
	}
	defer done()
	if o.budget > 0 {
		plan.Budget = attempt.Budget{Money: o.budget}
	}
	if o.noDiagnosis {
		plan.Diagnose.Runs = 0
	}
	store, err := makeHistory(ctx, w)
	if err != nil {
		return err
	}
	defer store.Close() //nolint:errcheck // every attempt is committed by itself
	return a.runAll(ctx, w, translators, plan, store, a.making(o))
}

// runAll makes the runs one after the other, and shows what they came to.
func (a *app) runAll(ctx context.Context, w *workspace.Workspace, translators []*workspace.Translator, plan attempt.Plan,
	store *history.Store, one making) error {
	var summaries []record.Summary
	var all []record.Attempt
	reached := false
	for _, t := range translators {
		r, attempts, err := one(ctx, w, t, plan, store, nil)
		if err != nil {
			return err
		}
		all = append(all, attempt.Defects(attempts)...)
		reached = reached || attempt.Reached(attempts)
		if !attempt.Reached(attempts) {
			a.say("No question got through to %s; `tovrel show %d` tells why, and `tovrel run --resume %d` asks again.", t.Name, r.ID, r.ID)
		}
		summaries = append(summaries, record.Summarise(r, attempts))
		if a.signals.interrupted() {
			return stoppedEarly(r, len(attempts))
		}
	}
	if err := a.show(view.Runs(summaries)); err != nil {
		return err
	}
	if err := spoiledBy(all); err != nil {
		return err
	}
	if !reached {
		return trouble.New(trouble.Unreachable, "no question got through; `tovrel show latest` tells why")
	}
	return nil
}

// stoppedEarly says how to go on with a run that was interrupted.
func stoppedEarly(r record.Run, kept int) error {
	if r.Options.Trial != "" {
		return trouble.New(trouble.Interrupted, "interrupted; %d of %d attempts are kept, and the same `tovrel try` does not ask for "+
			"them again", kept, r.Planned)
	}
	return trouble.New(trouble.Interrupted, "interrupted; %d of %d attempts are kept, go on with `tovrel run --resume %d`",
		kept, r.Planned, r.ID)
}

// runSettings are the options of a run: those of the command line over those of tovrel.yaml.
func (a *app) runSettings(w *workspace.Workspace, o runOptions) (record.Options, error) {
	out := record.Options{Names: o.names, Tags: o.tags, Wordings: w.Run.Wordings, Repeats: w.Run.Repeats,
		Brief: string(w.Run.Brief), Twins: w.Run.Twins}
	if o.twins >= 0 {
		out.Twins = o.twins
	}
	if o.brief != "" {
		out.Brief = string(o.brief)
	}
	if err := o.check(); err != nil {
		return out, err
	}
	if o.repeats > 0 {
		out.Repeats = o.repeats
	}
	if o.wordings != "" {
		n, err := workspace.ParseWordings(o.wordings)
		if err != nil {
			return out, trouble.New(trouble.Usage, "--wordings: %w", err)
		}
		out.Wordings = n
	}
	var err error
	if out.Shard, err = parseShard(o.shard); err != nil {
		return out, err
	}
	if o.from != "" {
		only, err := a.fromRun(w, o.from, o.verdicts)
		out.Only = only
		return out, err
	}
	return out, nil
}

// check refuses numbers that make no run, and options that need others.
func (o runOptions) check() error {
	if o.repeats < 0 || o.repeats == 0 && o.given("repeats") {
		return trouble.New(trouble.Usage, "--repeats %d: a question is asked at least once", o.repeats)
	}
	if o.budget < 0 || o.budget == 0 && o.given("budget") || o.budget != o.budget {
		return trouble.New(trouble.Usage, "--budget %g: name an amount of money above 0, or leave it out for none", o.budget)
	}
	if o.twins < 0 && o.given("twins") {
		return trouble.New(trouble.Usage, "--twins %d: name how many twins, 0 for none", o.twins)
	}
	if len(o.verdicts) > 0 && o.from == "" {
		return trouble.New(trouble.Usage, "--verdict needs --from RUN")
	}
	return nil
}

// parseShard reads I/N; "" is no shard.
func parseShard(text string) ([2]int, error) {
	if text == "" {
		return [2]int{}, nil
	}
	number, count, ok := strings.Cut(text, "/")
	i, err := strconv.Atoi(number)
	n, err2 := strconv.Atoi(count)
	if !ok || errors.Join(err, err2) != nil || i < 1 || i > n {
		return [2]int{}, trouble.New(trouble.Usage, "--shard %q is not I/N with I from 1 to N, such as 1/4", text)
	}
	return [2]int{i, n}, nil
}

func verdictNames() []string {
	var names []string
	for _, v := range score.Verdicts() {
		names = append(names, string(v))
	}
	return names
}

// fromRun lists the questions of a run that have an attempt of one of the verdicts (any for none).
func (a *app) fromRun(w *workspace.Workspace, name string, verdicts []string) ([]string, error) {
	wanted := map[score.Verdict]bool{}
	for _, v := range verdicts {
		known := false
		for _, k := range score.Verdicts() {
			known = known || string(k) == v
		}
		if !known {
			return nil, trouble.New(trouble.Usage, "there is no verdict %q; %s", v, near.Hint(v, verdictNames()))
		}
		wanted[score.Verdict(v)] = true
	}
	store, err := openHistory(a.signals.ctx, w)
	if err != nil {
		return nil, err
	}
	defer store.Close() //nolint:errcheck // only read
	r, err := store.Find(name)
	if err != nil {
		return nil, err
	}
	attempts, err := store.Attempts(r.ID)
	if err != nil {
		return nil, err
	}
	var names []string
	seen := map[string]bool{}
	for _, at := range attempts {
		if (len(wanted) == 0 || wanted[at.Verdict]) && !seen[at.Question] {
			seen[at.Question] = true
			names = append(names, at.Question)
		}
	}
	if len(names) == 0 {
		return nil, trouble.New(trouble.Usage, "run %d has no question that was %s", r.ID, strings.Join(verdicts, " or "))
	}
	return names, nil
}

// runOptionsFor choose one question.
func runOptionsFor(question string) record.Options { return record.Options{Names: []string{question}} }

// questions are those that the options choose.
func (a *app) questions(w *workspace.Workspace, o record.Options) ([]workspace.Chosen, error) {
	sets, err := a.sets(w, nil)
	if err != nil {
		return nil, err
	}
	chosen, err := workspace.Choose(sets, append(append([]string(nil), o.Names...), o.Only...))
	if err != nil {
		return nil, err
	}
	chosen, err = workspace.WithTags(chosen, o.Tags)
	if err != nil {
		return nil, err
	}
	var out []workspace.Chosen
	for _, c := range chosen {
		if attempt.InShard(c, o.Shard) {
			out = append(out, c)
		}
	}
	if len(out) == 0 && o.Shard[1] == 0 {
		return nil, trouble.New(trouble.Usage, "there is nothing to ask: every chosen question is a draft")
	}
	return out, nil
}

// plan opens what the questions need; done closes it.
func (a *app) plan(ctx context.Context, w *workspace.Workspace, o record.Options,
	questions []workspace.Chosen) (attempt.Plan, func(), error) {
	s, err := a.places(ctx, w, questions, briefing.Level(o.Brief), o.Twins)
	if err != nil {
		s.close()
		return attempt.Plan{}, nil, err
	}
	return attempt.Plan{Tool: version, By: madeBy(w), Options: o, Judges: workers(), Questions: questions, Places: s.places, Rules: w.Rules,
		Budget: attempt.Budget(w.Run.Budget), Diagnose: w.Run.Diagnose, TellAtMost: w.Run.TellAtMost, Patience: patience(w),
		Stop: a.signals.soft}, s.close, nil
}

// patience is how long judging one attempt may take before something must be wrong with this program: every query of it has its own
// limit, and there are few of them beside the search for causes, which has its own net.
func patience(w *workspace.Workspace) time.Duration {
	const few = 10
	longest := w.Limits.Time
	for _, d := range w.Datasets {
		longest = max(longest, d.Limits.Time)
	}
	return 5*time.Minute + few*longest + w.Run.Diagnose.Net
}

// runOne makes one translator's run, or goes on with one.
func (a *app) runOne(ctx context.Context, w *workspace.Workspace, t *workspace.Translator, plan attempt.Plan,
	store *history.Store, earlier *attempt.Earlier) (record.Run, []record.Attempt, error) {
	asker, err := newAsker(w, t)
	if err != nil {
		return record.Run{}, nil, trouble.As(trouble.Unreachable, fmt.Errorf("translator %s: %w", t.Name, err))
	}
	return a.runWith(ctx, w, t, asker, plan, store, earlier)
}

// planOf is a plan with what is the translator's.
func (a *app) planOf(w *workspace.Workspace, t *workspace.Translator, plan attempt.Plan) (attempt.Plan, error) {
	plan.Translator, plan.Parallel, plan.Dialect, plan.Thread, plan.Score, plan.Protocol = t.Name, t.Parallel, t.Dialect,
		attempt.Thread(t.Thread), t.Score, t.Protocol
	kept, broken, err := w.Decisions()
	if err != nil {
		return plan, err
	}
	for _, p := range broken {
		a.say("%s; the other decisions count", p.Error())
	}
	plan.Decisions, plan.Settings, plan.KeepReply = kept, settingsDigest(t), t.Kind != "recorded"
	return plan, nil
}

// runWith makes a translator's run with its asker, which is closed in the end, or goes on with one.
func (a *app) runWith(ctx context.Context, w *workspace.Workspace, t *workspace.Translator, asker translator.Asker, plan attempt.Plan,
	store *history.Store, earlier *attempt.Earlier) (record.Run, []record.Attempt, error) {
	plan, err := a.planOf(w, t, plan)
	if err != nil {
		return record.Run{}, nil, errors.Join(err, asker.Close())
	}
	plan.Asker = asker
	a.signals.graceful.Store(true)
	defer a.signals.graceful.Store(false)
	bar := a.progress(t.Name)
	var r record.Run
	var attempts []record.Attempt
	if earlier != nil {
		r, attempts, err = attempt.Resume(ctx, plan, store, bar.event, *earlier)
	} else {
		if plan.UID == "" {
			plan.UID = attempt.NewUID()
		}
		unlock, lockErr := lockRun(w, store, plan.UID)
		if lockErr != nil {
			return r, nil, errors.Join(lockErr, asker.Close())
		}
		defer unlock()
		r, attempts, err = attempt.Run(ctx, plan, store, bar.event)
	}
	bar.finish()
	err = errors.Join(err, asker.Close())
	if err != nil && a.signals.interrupted() {
		return r, attempts, stoppedEarly(r, len(attempts))
	}
	return r, attempts, trouble.As(trouble.Unreachable, err)
}

// settingsDigest digests what tovrel.yaml says of a translator. Secrets stand there by the names of their variables only.
func settingsDigest(t *workspace.Translator) string {
	plain := *t
	plain.At = source.Position{}
	body, _ := json.Marshal(plain) // plain fields always encode
	sum := sha256.Sum256(body)
	return hex.EncodeToString(sum[:8])
}

// resume goes on with a run that broke off.
func (a *app) resume(ctx context.Context, o runOptions) error {
	w, store, err := a.openStore()
	if err != nil {
		return err
	}
	defer store.Close() //nolint:errcheck // every attempt is committed by itself
	r, err := store.Find(o.resume)
	if err != nil {
		return err
	}
	if r.Options.Trial != "" {
		return trouble.New(trouble.Usage, "run %d tried %s; the same `tovrel try` goes on with it, and asks only for what is missing", r.ID,
			r.Options.Trial)
	}
	unlock, err := lockRun(w, store, r.UID)
	if err != nil {
		return err
	}
	defer unlock()
	earlier := attempt.Earlier{Run: r}
	if earlier.Attempts, err = store.Placed(r.ID); err != nil {
		return err
	}
	if earlier.Replies, err = store.Replies(r.ID); err != nil {
		return err
	}
	t, err := w.Translator(r.Translator)
	if err != nil {
		return err
	}
	questions, err := a.questions(w, r.Options)
	if err != nil {
		return err
	}
	plan, done, err := a.plan(ctx, w, r.Options, questions)
	if err != nil {
		return err
	}
	defer done()
	if o.budget > 0 {
		plan.Budget = attempt.Budget{Money: o.budget}
	}
	if err := sameGround(r, plan); err != nil {
		return err
	}
	a.saySince(r, attempt.SinceOf(r, plan))
	r, attempts, err := a.making(o)(ctx, w, t, plan, store, &earlier)
	if err != nil {
		return err
	}
	if a.signals.interrupted() {
		return stoppedEarly(r, len(attempts))
	}
	if err := a.show(view.Runs([]record.Summary{record.Summarise(r, attempts)})); err != nil {
		return err
	}
	return spoiledBy(attempt.Defects(attempts))
}

// spoiledBy reports attempts that a defect of this program cost; nil for none.
func spoiledBy(defects []record.Attempt) error {
	if len(defects) == 0 {
		return nil
	}
	first := defects[0]
	return trouble.New(trouble.Internal, "%d attempts could not be judged, the first at %s: %s; the run is stored whole, "+
		"`tovrel show latest %s --output json` has what to send", len(defects), first.Question, first.Why, first.Question)
}

// saySince says what of a run's questions has moved since it was planned.
func (a *app) saySince(r record.Run, since attempt.Since) {
	if len(since.Added) > 0 {
		a.say("Not asked, since run %d did not plan them: %s.", r.ID, strings.Join(since.Added, ", "))
	}
	if len(since.Gone) > 0 {
		a.say("Planned by run %d and no longer there as they were: %s.", r.ID, strings.Join(since.Gone, ", "))
	}
	if len(since.Changed) > 0 {
		var changed []string
		for _, name := range slices.Sorted(maps.Keys(since.Changed)) {
			changed = append(changed, fmt.Sprintf("%s (%s)", name, strings.Join(since.Changed[name], ", ")))
		}
		a.say("Changed since run %d began: %s. What was judged before stays as it was judged; `tovrel rescore %d` judges the "+
			"whole run by what holds now.", r.ID, strings.Join(changed, "; "), r.ID)
	}
}

// sameGround refuses to go on with a run on other data: its attempts would not be of one kind.
func sameGround(r record.Run, plan attempt.Plan) error {
	for name, p := range plan.Places {
		if before, known := r.Datasets[name]; known && before != p.Fingerprint {
			return trouble.New(trouble.Usage, "run %d was made on other data of %s than is there now; make a new run with "+
				"`tovrel run -t %s`", r.ID, name, r.Translator)
		}
	}
	return nil
}
