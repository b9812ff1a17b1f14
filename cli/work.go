package cli

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync/atomic"
	"time"

	"github.com/spf13/cobra"

	"tovrel/attempt"
	"tovrel/core/record"
	"tovrel/history"
	"tovrel/team"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

type workOptions struct {
	parallel  int
	untilIdle time.Duration
}

func newWorkCmd(a *app) *cobra.Command {
	var o workOptions
	cmd := &cobra.Command{
		Use: "work", Short: "Take parts of a team's runs, and make them here", Args: usage(cobra.NoArgs),
		Long: "Asks and judges what `tovrel run --team` laid out in the database of the history, on this machine, and stores it there. " +
			"The\nworkspace must be the same as the run's: where golden sets, data, settings or program differ, it says in what and " +
			"takes nothing\nof that run. Ends when it is interrupted (what it has is finished, or goes back), or with --until-idle.",
		RunE: func(cmd *cobra.Command, _ []string) error {
			if o.parallel < 0 {
				return trouble.New(trouble.Usage, "--parallel %d: name how many questions at once, or leave it out", o.parallel)
			}
			return a.work(cmd.Context(), o)
		},
	}
	cmd.Flags().IntVar(&o.parallel, "parallel", 0, "how many questions of a run at once (default: the translator's parallel)")
	cmd.Flags().DurationVar(&o.untilIdle, "until-idle", 0, "end when there was nothing to do for this long, such as 30s")
	return cmd
}

// shift is one worker's time: the runs that it has found, by their numbers.
type shift struct {
	a      *app
	o      workOptions
	w      *workspace.Workspace
	store  *history.Store
	desk   *team.Desk
	worker *team.Worker
	runs   map[int]*joined
}

// joined is a run that a worker has found.
type joined struct {
	view.Worked
	made  atomic.Int64
	isOn  bool
	close func()
}

func (a *app) work(ctx context.Context, o workOptions) error {
	w, err := a.open()
	if err != nil {
		return err
	}
	at, err := teamServer(w)
	if err != nil {
		return err
	}
	store, err := history.Open(ctx, at) // which makes the tables of the desk
	if err != nil {
		return err
	}
	defer store.Close() //nolint:errcheck // every attempt is committed by itself
	desk, err := team.Open(ctx, at)
	if err != nil {
		return err
	}
	defer desk.Close()
	worker, err := desk.NewWorker(ctx)
	if err != nil {
		return err
	}
	s := &shift{a: a, o: o, w: w, store: store, desk: desk, worker: worker, runs: map[int]*joined{}}
	a.signals.graceful.Store(true)
	err = s.until(ctx)
	ending, cancel := context.WithTimeout(context.WithoutCancel(ctx), flightTime)
	defer cancel()
	_ = worker.Stop(ending) // what it does not end goes back
	s.closeAll()
	if err != nil {
		return err
	}
	return a.show(view.Work(s.worked()))
}

// until takes parts until the shift is over.
func (s *shift) until(ctx context.Context) error {
	s.a.say("Waiting for runs of the team.")
	idle, last := time.Now(), int64(0)
	for {
		offers, err := s.desk.Offers(ctx)
		if err != nil {
			return err
		}
		s.sort(ctx, offers)
		if made := s.made(); made != last || s.isBusy() {
			idle, last = time.Now(), made
		}
		if s.o.untilIdle > 0 && time.Since(idle) >= s.o.untilIdle {
			return nil
		}
		select {
		case <-s.a.signals.soft:
			return nil
		case <-ctx.Done():
			return nil
		case <-time.After(lookEvery):
		}
	}
}

// sort joins the runs that are new, and leaves those that are over.
func (s *shift) sort(ctx context.Context, offers []team.Offer) {
	for id, r := range s.runs {
		if r.isOn && !slices.ContainsFunc(offers, func(o team.Offer) bool { return o.Run == id }) {
			_ = s.worker.Remove(ctx, id) // nothing is in its queue any more
			r.leave()
			s.a.say("Run %d, %s, is over: %d attempts were made here.", id, r.Translator, r.made.Load())
			r.Attempts += int(r.made.Swap(0))
		}
	}
	for _, offer := range offers {
		if r := s.runs[offer.Run]; r != nil && (r.isOn || len(r.Differs) > 0) {
			continue
		}
		r, err := s.join(ctx, offer)
		if before := s.runs[offer.Run]; before != nil {
			r.Attempts = before.Attempts
		}
		if err != nil {
			r.Differs = []string{err.Error()}
		}
		s.runs[offer.Run] = r
		if len(r.Differs) > 0 {
			s.a.say("Run %d, %s: nothing is taken, since this checkout differs: %s.", offer.Run, r.Translator,
				strings.Join(r.Differs, "; "))
		} else {
			s.a.say("Run %d, %s: taking parts.", offer.Run, r.Translator)
		}
	}
}

func (r *joined) leave() {
	if r.isOn {
		r.isOn = false
		r.close()
	}
}

func (s *shift) closeAll() {
	for _, r := range s.runs {
		r.leave()
	}
}

func (s *shift) made() (n int64) {
	for _, r := range s.runs {
		n += r.made.Load()
	}
	return n
}

func (s *shift) isBusy() bool {
	for _, r := range s.runs {
		if r.isOn {
			return true
		}
	}
	return false
}

func (s *shift) worked() []view.Worked {
	var out []view.Worked
	for _, id := range slices.Sorted(maps.Keys(s.runs)) {
		r := s.runs[id]
		r.Attempts += int(r.made.Load())
		out = append(out, r.Worked)
	}
	return out
}

// join opens what a run needs, and has the worker take its parts where this checkout is the run's.
func (s *shift) join(ctx context.Context, offer team.Offer) (*joined, error) {
	j := &joined{Worked: view.Worked{Run: offer.Run}}
	r, err := s.store.Find(fmt.Sprint(offer.Run))
	if err != nil {
		return j, err
	}
	j.Translator = r.Translator
	t, err := s.w.Translator(r.Translator)
	if err != nil {
		return j, err
	}
	questions, err := s.a.questions(s.w, r.Options)
	if err != nil {
		return j, err
	}
	plan, done, err := s.a.plan(ctx, s.w, r.Options, questions)
	if err != nil {
		return j, err
	}
	if plan, err = s.a.planOf(s.w, t, plan); err == nil {
		j.Differs = differences(r, plan)
	}
	if err != nil || len(j.Differs) > 0 {
		done()
		return j, err
	}
	plan.Budget, plan.Diagnose.Runs = offer.Budget, offer.Diagnose
	plan.Purse = s.desk.Purse(r.ID, offer.Budget, time.Duration(t.Retries+1)*(t.Timeout+time.Minute))
	var pace team.Pace
	if t.Rate > 0 {
		pace = s.desk.Pace(t.Name, t.Rate)
	}
	if plan.Asker, err = newAskerAt(s.w, t, pace); err != nil {
		done()
		return j, err
	}
	j.close = func() { _ = plan.Asker.Close(); done() }
	parallel := plan.Parallel
	if s.o.parallel > 0 {
		parallel = s.o.parallel
	}
	plan.Parallel, plan.Judges = 1, 1 // of one part: parts are made beside each other
	crew := attempt.NewCrew(plan, firstWins{s.store}, r)
	j.isOn = true
	return j, s.worker.Add(r.ID, parallel, func(ctx context.Context, part attempt.Part) error {
		if part.IsNew {
			return crew.Make(ctx, part, nil, nil, func(attempt.Event) { j.made.Add(1) })
		}
		made, err := s.store.PlacedAt(r.ID, part.Places)
		if err != nil {
			return err
		}
		replies, err := s.store.RepliesAt(r.ID, part.Places)
		if err != nil {
			return err
		}
		return crew.Make(ctx, part, made, replies, func(attempt.Event) { j.made.Add(1) })
	})
}

// firstWins is a history in which of two machines that made the same attempt the first is kept.
type firstWins struct{ *history.Store }

// Save stores an attempt where there is none.
func (f firstWins) Save(runID, place int, a record.Attempt, tables ...history.Stored) error {
	return f.SaveFirst(runID, place, a, tables...)
}

// differences are what a checkout has otherwise than a run that a team makes.
func differences(r record.Run, plan attempt.Plan) []string {
	var out []string
	if r.Tool != plan.Tool {
		out = append(out, fmt.Sprintf("the program: the run is of %s, this is %s", r.Tool, plan.Tool))
	}
	if r.Settings != plan.Settings {
		out = append(out, "what tovrel.yaml says of the translator")
	}
	for _, name := range slices.Sorted(maps.Keys(plan.Places)) {
		if plan.Places[name].Fingerprint != r.Datasets[name] {
			out = append(out, "the data of "+name)
		}
	}
	since := attempt.SinceOf(r, plan)
	if len(since.Added) > 0 {
		out = append(out, "questions that the run does not have: "+shortList(since.Added))
	}
	if len(since.Gone) > 0 {
		out = append(out, "questions that are not here: "+shortList(since.Gone))
	}
	for _, name := range slices.Sorted(maps.Keys(since.Changed)) {
		if moved := since.Changed[name]; len(out) < 4 && !slices.Equal(moved, []string{"data"}) {
			out = append(out, fmt.Sprintf("%s of %s", strings.Join(moved, " and "), name))
		}
	}
	return out
}

// shortList are the first names of a list, and how many there are beyond.
func shortList(names []string) string {
	const few = 3
	if len(names) <= few {
		return strings.Join(names, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(names[:few], ", "), len(names)-few)
}
