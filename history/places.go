package history

import (
	"encoding/json"

	"tovrel/trouble"
)

// PlacesOf are the places of a run that have an attempt.
func (s *Store) PlacesOf(runID int) ([]int, error) {
	rows, err := s.db.QueryContext(s.ctx, "SELECT place FROM attempt WHERE run = ? ORDER BY place", runID)
	if err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	defer rows.Close() //nolint:errcheck // rows.Err tells
	var places []int
	for rows.Next() {
		var place int
		if err := rows.Scan(&place); err != nil {
			return nil, trouble.As(trouble.Unreachable, err)
		}
		places = append(places, place)
	}
	return places, trouble.As(trouble.Unreachable, rows.Err())
}

// RepliesAt reads the answers at some places of a run that are not judged yet.
func (s *Store) RepliesAt(runID int, places []int) ([]Reply, error) {
	rows, err := s.db.QueryContext(s.ctx, "SELECT body FROM reply WHERE run = ? AND place IN ("+s.db.kind.places+") ORDER BY place", runID,
		listOf(places))
	if err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	return collect[Reply](rows)
}

// PlacedAt reads the attempts at some places of a run, as they were judged when it was made.
func (s *Store) PlacedAt(runID int, places []int) ([]Placed, error) {
	rows, err := s.db.QueryContext(s.ctx, "SELECT place, body FROM attempt WHERE run = ? AND place IN ("+s.db.kind.places+
		") ORDER BY place", runID, listOf(places))
	if err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	return collectPlaced(rows)
}

// listOf is a list of places as queries take it.
func listOf(places []int) string {
	body, _ := json.Marshal(append([]int{}, places...)) // numbers always encode
	return string(body)
}
