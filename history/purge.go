package history

import (
	"encoding/json"
	"time"

	"tovrel/core/record"
	"tovrel/trouble"
)

// Purge removes the replies and the values of runs, and gives their space back; what they were judged stays, and so do figures and lists.
// Each run is purged whole or not at all.
func (s *Store) Purge(runs []record.Run, now time.Time) error {
	for _, r := range runs {
		placed, err := s.Placed(r.ID)
		if err != nil {
			return err
		}
		scored, err := s.scored(r.ID)
		if err != nil {
			return err
		}
		r.Purged = &now
		if err := s.writing(func(tx *writer) error { return purge(tx, r, placed, scored) }); err != nil {
			return err
		}
	}
	if err := s.writing(func(tx *writer) error {
		_, err := tx.Exec("DELETE FROM result WHERE digest NOT IN (" + tx.kind.used + ")")
		return err
	}); err != nil {
		return err
	}
	return s.compact()
}

// laterOne is an attempt of a later judgement.
type laterOne struct {
	scoring int
	Placed
}

// scored are the attempts of all later judgements of a run.
func (s *Store) scored(runID int) ([]laterOne, error) {
	rows, err := s.db.QueryContext(s.ctx, "SELECT s.scoring, s.place, s.body FROM scored s JOIN scoring g ON g.id = s.scoring "+
		"WHERE g.run = ? ORDER BY s.scoring, s.place", runID)
	if err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	defer rows.Close() //nolint:errcheck // rows.Err tells
	var out []laterOne
	for rows.Next() {
		var one laterOne
		var body []byte
		if err := rows.Scan(&one.scoring, &one.Place, &body); err != nil {
			return nil, trouble.As(trouble.Unreachable, err)
		}
		if err := json.Unmarshal(body, &one.Attempt); err != nil {
			return nil, trouble.New(trouble.Unreachable, "the history is damaged: %w", err)
		}
		out = append(out, one)
	}
	return out, trouble.As(trouble.Unreachable, rows.Err())
}

func purge(tx *writer, r record.Run, placed []Placed, scored []laterOne) error {
	emptied := func(table, where string, a record.Attempt, args ...any) error {
		body, err := json.Marshal(a.Without(*r.Purged))
		if err != nil {
			return err
		}
		set := "body = ?"
		if tx.kind.beside {
			set += ", expected = '', answer = ''"
		}
		_, err = tx.Exec("UPDATE "+table+" SET "+set+" WHERE "+where, append([]any{string(body)}, args...)...)
		return err
	}
	for _, p := range placed {
		if err := emptied("attempt", "run = ? AND place = ?", p.Attempt, r.ID, p.Place); err != nil {
			return err
		}
	}
	for _, l := range scored {
		if err := emptied("scored", "scoring = ? AND place = ?", l.Attempt, l.scoring, l.Place); err != nil {
			return err
		}
	}
	if _, err := tx.Exec("DELETE FROM reply WHERE run = ?", r.ID); err != nil {
		return err
	}
	body, err := json.Marshal(r)
	if err != nil {
		return err
	}
	_, err = tx.Exec("UPDATE run SET body = ? WHERE id = ?", string(body), r.ID)
	return err
}

// compact gives the space of what was removed back.
func (s *Store) compact() error {
	_, err := s.db.ExecContext(s.keeping(), s.db.kind.compact)
	return trouble.As(trouble.Unreachable, err)
}
