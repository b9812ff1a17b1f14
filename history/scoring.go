package history

import (
	"database/sql"
	"encoding/json"
	"errors"
	"slices"
	"time"

	"tovrel/core/record"
	"tovrel/trouble"
)

// Kind says what a later judgement of a run is.
type Kind string

const (
	// Diagnosis adds the causes that were not searched when the run was made; it changes no verdict.
	Diagnosis Kind = "diagnosis"
	// Rescoring judges the stored replies under later expected answers and rules.
	Rescoring Kind = "rescoring"
)

// Scoring is a later judgement of a run's stored replies. The run itself does not change.
type Scoring struct {
	ID      int                      `json:"-"`
	Run     int                      `json:"-"`
	Kind    Kind                     `json:"kind"`
	Made    time.Time                `json:"made"`
	Tool    string                   `json:"tool"`
	Grounds map[string]record.Ground `json:"grounds,omitempty"` // of a rescoring
	Stale   []string                 `json:"stale,omitempty"`   // questions whose data has moved since the run
}

// Scored is one attempt of a later judgement.
type Scored struct {
	Placed
	Tables []Stored
}

// AddScoring stores a later judgement, whole or not at all, and numbers it.
func (s *Store) AddScoring(scoring Scoring, scored []Scored) (id int, err error) {
	body, err := json.Marshal(scoring)
	if err != nil {
		return 0, err
	}
	err = s.writing(func(tx *writer) error {
		if id, err = madeBefore(tx, scoring, body); err != nil || id > 0 {
			return err
		}
		id, err = tx.numberOf("scoring", []column{{"run", scoring.Run}, {"kind", scoring.Kind}, {"body", string(body)}}, nil)
		if err != nil {
			return err
		}
		for _, one := range scored {
			if err := saveScored(tx, id, one); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return 0, err
	}
	return id, s.freshSummary(scoring)
}

// madeBefore is the number of a judgement that a transaction stored whose end was not heard of; 0 for none.
func madeBefore(tx *writer, scoring Scoring, body []byte) (int, error) {
	if !tx.again {
		return 0, nil
	}
	var id sql.NullInt64
	err := tx.QueryRow("SELECT max(id) FROM scoring WHERE run = ? AND kind = ? AND body = ?", scoring.Run, scoring.Kind,
		string(body)).Scan(&id)
	return int(id.Int64), err
}

func saveScored(tx *writer, scoring int, one Scored) error {
	if err := saveTables(tx, one.Tables); err != nil {
		return err
	}
	body, err := json.Marshal(one.Attempt)
	if err != nil {
		return err
	}
	insert, args := tx.kind.insert("scored", []column{{"scoring", scoring}, {"place", one.Place}, {"body", string(body)},
		{"light", lightOf(one.Attempt)}}, []column{{"expected", one.Attempt.Expected}, {"answer", one.Attempt.Answer}})
	_, err = tx.Exec(insert, args...)
	return err
}

// freshSummary sums a run up again after a diagnosis: its faults are others.
func (s *Store) freshSummary(scoring Scoring) error {
	if scoring.Kind != Diagnosis {
		return nil
	}
	r, err := s.byID(scoring.Run)
	if err != nil {
		return err
	}
	beside, err := s.summarise(r)
	if err != nil {
		return err
	}
	return s.writing(func(tx *writer) error {
		var isFinished bool // a run under way has no summary yet
		err := tx.QueryRow("SELECT summary IS NOT NULL FROM run WHERE id = ?", r.ID).Scan(&isFinished)
		if err != nil || !isFinished {
			return err
		}
		return beside.keep(tx)
	})
}

// latest is the newest scoring of a kind; 0 for none.
func (s *Store) latest(runID int, kind Kind) (int, error) {
	var id sql.NullInt64
	err := s.db.QueryRowContext(s.ctx, "SELECT max(id) FROM scoring WHERE run = ? AND kind = ?", runID, kind).Scan(&id)
	return int(id.Int64), trouble.As(trouble.Unreachable, err)
}

// LatestRescoring reads the newest rescoring of a run with all its attempts; those that it did not judge are the run's own. False for
// none.
func (s *Store) LatestRescoring(runID int) (Scoring, []record.Attempt, bool, error) {
	id, err := s.latest(runID, Rescoring)
	if err != nil || id == 0 {
		return Scoring{}, nil, false, err
	}
	var body string
	if err := s.db.QueryRowContext(s.ctx, "SELECT body FROM scoring WHERE id = ?", id).Scan(&body); err != nil {
		return Scoring{}, nil, false, trouble.As(trouble.Unreachable, err)
	}
	out := Scoring{}
	if err := json.Unmarshal([]byte(body), &out); err != nil {
		return out, nil, false, trouble.New(trouble.Unreachable, "the history is damaged: %w", err)
	}
	out.ID, out.Run = id, runID
	placed, err := s.whole(runID, id)
	return out, attemptsOf(placed), true, err
}

// Diagnosed reads the attempts of a run's newest diagnosis.
func (s *Store) Diagnosed(runID int) ([]Scored, error) {
	id, err := s.latest(runID, Diagnosis)
	if err != nil || id == 0 {
		return nil, err
	}
	rows, err := s.db.QueryContext(s.ctx, "SELECT place, body FROM scored WHERE scoring = ? ORDER BY place", id)
	if err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	placed, err := collectPlaced(rows)
	out := make([]Scored, len(placed))
	for i, p := range placed {
		out[i].Placed = p
	}
	return out, err
}

// Judged reads a run's attempts with their places, with the causes that were found later.
func (s *Store) Judged(runID int) ([]Placed, error) {
	diagnosed, err := s.latest(runID, Diagnosis)
	if err != nil {
		return nil, err
	}
	return s.whole(runID, diagnosed)
}

// Attempts reads a run's attempts in the order of its plan, with the causes that were found later.
func (s *Store) Attempts(runID int) ([]record.Attempt, error) {
	placed, err := s.Judged(runID)
	return attemptsOf(placed), err
}

// AttemptsAt reads the attempts at some places of a run, with the causes that were found later.
func (s *Store) AttemptsAt(runID int, places []int) ([]Placed, error) {
	diagnosed, err := s.latest(runID, Diagnosis)
	if err != nil {
		return nil, err
	}
	rows, err := s.db.QueryContext(s.ctx,
		`SELECT a.place, coalesce(s.body, a.body) FROM attempt a LEFT JOIN scored s ON s.scoring = ? AND s.place = a.place
		WHERE a.run = ? AND a.place IN (`+s.db.kind.places+`) ORDER BY a.place`, diagnosed, runID, listOf(places))
	if err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	return collectPlaced(rows)
}

func attemptsOf(placed []Placed) []record.Attempt {
	attempts := make([]record.Attempt, len(placed))
	for i, p := range placed {
		attempts[i] = p.Attempt
	}
	return attempts
}

// whole reads a run's attempts, those of a scoring in place of the run's own.
func (s *Store) whole(runID, scoring int) ([]Placed, error) {
	rows, err := s.db.QueryContext(s.ctx, "SELECT a.place, coalesce(s.body, a.body) FROM attempt a LEFT JOIN scored s ON "+
		"s.scoring = ? AND s.place = a.place WHERE a.run = ? ORDER BY a.place", scoring, runID)
	if err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	return collectPlaced(rows)
}

// Mark names a run. A name that another run has moves to this one; that run's number is given, 0 for none.
func (s *Store) Mark(runID int, name string) (before int, err error) {
	err = s.writing(func(tx *writer) error {
		if err := tx.QueryRow("SELECT run FROM mark WHERE name = ?", name).Scan(&before); err != nil && !errors.Is(err, sql.ErrNoRows) {
			return err
		}
		_, err := tx.Exec("INSERT INTO mark (name, run) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET run = excluded.run", name, runID)
		return err
	})
	return before, err
}

// Marks lists the marks of each run, sorted.
func (s *Store) Marks() (map[int][]string, error) {
	rows, err := s.db.QueryContext(s.ctx, "SELECT name, run FROM mark ORDER BY name")
	if err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	defer rows.Close() //nolint:errcheck // rows.Err tells
	out := map[int][]string{}
	for rows.Next() {
		var name string
		var id int
		if err := rows.Scan(&name, &id); err != nil {
			return nil, trouble.As(trouble.Unreachable, err)
		}
		out[id] = append(out[id], name)
	}
	for _, names := range out {
		slices.Sort(names)
	}
	return out, trouble.As(trouble.Unreachable, rows.Err())
}

// Remove removes runs with everything that belongs to them alone, and gives the space back.
func (s *Store) Remove(ids []int) error {
	err := s.writing(func(tx *writer) error {
		for _, id := range ids {
			for _, statement := range []string{"DELETE FROM scored WHERE scoring IN (SELECT id FROM scoring WHERE run = ?)",
				"DELETE FROM scoring WHERE run = ?",
				"DELETE FROM listing WHERE run = ?", "DELETE FROM bundle WHERE run = ?",
				"DELETE FROM mark WHERE run = ?", "DELETE FROM light WHERE run = ?", "DELETE FROM reply WHERE run = ?",
				"DELETE FROM attempt WHERE run = ?", "DELETE FROM run WHERE id = ?"} {
				if _, err := tx.Exec(statement, id); err != nil {
					return err
				}
			}
		}
		_, err := tx.Exec("DELETE FROM result WHERE digest NOT IN (" + tx.kind.used + ")")
		return err
	})
	if err != nil {
		return err
	}
	return s.compact()
}
