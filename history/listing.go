package history

import (
	"cmp"
	"database/sql"
	"encoding/json"
	"errors"
	"slices"
	"time"

	"github.com/fxamacker/cbor/v2"
	"golang.org/x/sync/errgroup"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/versus"
	"tovrel/trouble"
)

// listing is what a list shows of a finished run: small, so that a list of thousands need not read them whole. It is
// kept in CBOR, which reads in a third of the time of JSON.
type listing struct {
	Run       listedRun      `json:"run"`
	Summary   record.Summary `json:"summary"`
	Against   int            `json:"against"`   // the complete run of the translator before, of any version; 0 for none
	Regressed int            `json:"regressed"` // questions since that run; −1 where there is none
}

// listedRun is what a list shows of a run itself.
type listedRun struct {
	UID        string         `json:"uid"`
	Translator string         `json:"translator"`
	Started    time.Time      `json:"started"`
	Duration   time.Duration  `json:"duration"`
	Tool       string         `json:"tool"`
	Planned    int            `json:"planned"`
	Options    record.Options `json:"options"`
	Models     []string       `json:"models,omitempty"`
	By         string         `json:"by,omitempty"`
}

// run is a run without what it holds of its questions.
func (l listedRun) run() record.Run {
	return record.Run{UID: l.UID, Translator: l.Translator, Started: l.Started, Duration: l.Duration, Tool: l.Tool, Planned: l.Planned,
		Options: l.Options, Models: l.Models, By: l.By}
}

// listingOf makes the listing of a run.
func (s *Store) listingOf(r record.Run, sums summed) ([]byte, error) {
	l := listing{Run: shortened(r), Summary: sums.Summary, Regressed: -1}
	var err error
	if l.Against, err = s.completeBefore(r); err != nil {
		return nil, err
	}
	if l.Against > 0 {
		before, err := s.past(l.Against)
		if err != nil {
			return nil, err
		}
		l.Regressed = versus.RegressedSince(before, versus.Past{Run: r, Standings: sums.Standings})
	}
	return cbor.Marshal(l)
}

// shortened is what a list shows of a run.
func shortened(r record.Run) listedRun {
	r.Options.Names, r.Options.Only = nil, nil
	return listedRun{r.UID, r.Translator, r.Started, r.Duration, r.Tool, r.Planned, r.Options, r.Models, r.By}
}

// completeBefore is the latest complete run of a translator, of any version, before a run; 0 for none.
func (s *Store) completeBefore(r record.Run) (int, error) {
	var id sql.NullInt64
	base := versus.BaseName(r.Translator)
	err := s.db.QueryRowContext(s.ctx, "SELECT max(id) FROM run WHERE id < ? AND "+s.complete()+
		" AND (translator = ? OR substr(translator, 1, ?) = ?)", r.ID, record.Complete, base, len(base)+1, base+"@").Scan(&id)
	return int(id.Int64), trouble.As(trouble.Unreachable, err)
}

// past is a run with the standing of each question.
func (s *Store) past(id int) (versus.Past, error) {
	r, err := s.byID(id)
	if err != nil {
		return versus.Past{}, err
	}
	standings, err := s.standings(r)
	return versus.Past{Run: r, Standings: standings}, err
}

// standings are those of a run's questions: as they are stored, or of its attempts.
func (s *Store) standings(r record.Run) (map[string]score.Standing, error) {
	var summary string
	if err := s.db.QueryRowContext(s.ctx, "SELECT coalesce(summary, '') FROM run WHERE id = ?", r.ID).Scan(&summary); err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	var kept summed
	if summary != "" && json.Unmarshal([]byte(summary), &kept) == nil {
		return kept.Standings, nil
	}
	light, err := s.Light(r.ID)
	return record.StandingsLight(light.Attempts), err
}

// Listed is a run as a list shows it: with its summary and its marks, and without what it holds of its questions.
type Listed struct {
	Run         record.Run
	Summary     record.Summary
	Marks       []string
	Regressions int // since the complete run of the translator before; −1 where there is none

	against int // what Regressions is known of; −1 where it is not known
}

// List lists all runs, the oldest first.
func (s *Store) List() ([]Listed, error) {
	all, err := s.listed()
	if err != nil {
		return nil, err
	}
	marks, err := s.Marks()
	if err != nil {
		return nil, err
	}
	last := map[string]int{} // by base name, the latest complete run
	for i := range all {
		l := &all[i]
		l.Marks = marks[l.Run.ID]
		base := versus.BaseName(l.Run.Translator)
		if before := last[base]; before != l.against { // it is of an earlier form, or the run before was removed or came since
			if l.Regressions, err = s.regressions(before, l.Run.ID); err != nil {
				return nil, err
			}
		}
		if l.Run.State == record.Complete {
			last[base] = l.Run.ID
		}
	}
	return all, nil
}

// regressions counts what regressed between two runs; −1 where there is none before.
func (s *Store) regressions(before, after int) (int, error) {
	if before == 0 {
		return -1, nil
	}
	x, err := s.past(before)
	if err != nil {
		return 0, err
	}
	y, err := s.past(after)
	return versus.RegressedSince(x, y), err
}

// listed reads the runs by their listings; those that have none are read whole.
func (s *Store) listed() ([]Listed, error) {
	all, at, err := s.states()
	if err != nil {
		return nil, err
	}
	known := make([]bool, len(all))
	if err := s.listings(func(runID int, body []byte) error {
		i, has := at[runID]
		if !has { // it came since
			return nil
		}
		known[i] = true
		return all[i].read(body)
	}); err != nil {
		return nil, err
	}
	for i := range all {
		if !known[i] {
			if all[i], err = s.unlisted(all[i].Run.ID); err != nil {
				return nil, err
			}
		}
	}
	return all, nil
}

// states reads the numbers and states of all runs, the oldest first, and where each number is. Their bodies are large: an index has both.
func (s *Store) states() (all []Listed, at map[int]int, err error) {
	rows, err := s.db.QueryContext(s.ctx, s.db.kind.states)
	if err != nil {
		return nil, nil, trouble.As(trouble.Unreachable, err)
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	type one struct {
		id    int
		state record.State
	}
	var found []one
	for rows.Next() {
		var r one
		if err := rows.Scan(&r.id, &r.state); err != nil {
			return nil, nil, trouble.As(trouble.Unreachable, err)
		}
		found = append(found, r)
	}
	slices.SortFunc(found, func(a, b one) int { return cmp.Compare(a.id, b.id) })
	all, at = make([]Listed, len(found)), make(map[int]int, len(found))
	for i, r := range found {
		all[i].Run.ID, all[i].Run.State, at[r.id] = r.id, r.state, i
	}
	return all, at, trouble.As(trouble.Unreachable, rows.Err())
}

// listings gives out every listing, several at once: those that are read while the next ones come. Each run is given out once.
func (s *Store) listings(each func(runID int, body []byte) error) error {
	rows, err := s.db.QueryContext(s.ctx, "SELECT run, body FROM listing")
	if err != nil {
		return trouble.As(trouble.Unreachable, err)
	}
	type one struct {
		run  int
		body []byte
	}
	const part = 200
	var g errgroup.Group
	var some []one
	flush := func() {
		these := some
		some = make([]one, 0, part)
		g.Go(trouble.Safe(func() error {
			for _, l := range these {
				if err := each(l.run, l.body); err != nil {
					return err
				}
			}
			return nil
		}))
	}
	for rows.Next() {
		var l one
		if err = rows.Scan(&l.run, &l.body); err != nil {
			break
		}
		if some = append(some, l); len(some) == part {
			flush()
		}
	}
	flush()
	return errors.Join(g.Wait(), trouble.As(trouble.Unreachable, errors.Join(err, rows.Err(), rows.Close())))
}

// read fills in what a run's listing says.
func (l *Listed) read(body []byte) error {
	var kept listing
	if err := cbor.Unmarshal(body, &kept); err != nil {
		return trouble.New(trouble.Unreachable, "run %d in the history is damaged: %w", l.Run.ID, err)
	}
	id, state := l.Run.ID, l.Run.State
	if kept.Summary.UnscoredReasons[fault.ReasonOverBudget] > 0 { // see cutShort
		state = record.Stopped
	}
	*l = Listed{Run: kept.Run.run(), Summary: kept.Summary, Regressions: kept.Regressed, against: kept.Against}
	l.Run.ID, l.Run.State, l.Summary.Run, l.Summary.State = id, state, id, state
	return nil
}

// unlisted is a run that is under way or of an earlier form.
func (s *Store) unlisted(id int) (Listed, error) {
	r, err := s.byID(id)
	if err != nil {
		return Listed{}, err
	}
	var summary string
	if err := s.db.QueryRowContext(s.ctx, "SELECT coalesce(summary, '') FROM run WHERE id = ?", id).Scan(&summary); err != nil {
		return Listed{}, trouble.As(trouble.Unreachable, err)
	}
	var kept summed
	if summary == "" || json.Unmarshal([]byte(summary), &kept) != nil || kept.Summary.Run == 0 {
		light, err := s.Light(id)
		if err != nil {
			return Listed{}, err
		}
		kept = sum(r, light.Attempts)
	}
	kept.Summary.State = r.State
	return Listed{Run: r, Summary: kept.Summary, Regressions: -1, against: -1}, nil
}
