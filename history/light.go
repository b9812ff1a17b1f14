package history

import (
	"encoding/json"
	"errors"
	"time"

	"tovrel/core/fault"
	"tovrel/core/run"
	"tovrel/core/score"
	"tovrel/trouble"
)

// light is what sums and comparisons need of an attempt. Its keys are short: a history holds it for every attempt.
type light struct {
	Question string        `json:"q"`
	Wording  string        `json:"w"`
	Repeat   int           `json:"n,omitempty"`
	Turn     int           `json:"u,omitempty"`
	Verdict  score.Verdict `json:"v"`
	Faults   []fault.Code  `json:"f,omitempty"`
	Reason   fault.Reason  `json:"r,omitempty"`
	Stance   bool          `json:"s,omitempty"`
	Cost     float64       `json:"c,omitempty"`
	Tokens   int64         `json:"k,omitempty"`
	Latency  int64         `json:"l,omitempty"` // in nanoseconds
	Tries    []run.Try     `json:"t,omitempty"`
	Asked    bool          `json:"a,omitempty"`
	Answer   string        `json:"d,omitempty"`
	Remarks  int           `json:"m,omitempty"`
}

func lightOf(a run.Attempt) string {
	l := light{Question: a.Question, Wording: a.Wording, Repeat: a.Repeat, Turn: a.Turn, Verdict: a.Verdict, Reason: a.Reason, Stance: a.Stance, Cost: a.Cost,
		Tokens: a.Tokens, Latency: int64(a.Latency), Tries: a.Tries, Asked: a.Raw != nil, Answer: a.Answer}
	for _, f := range a.Faults {
		l.Faults = append(l.Faults, f.Code)
	}
	body, _ := json.Marshal(l) // plain fields always encode
	return string(body)
}

// attempt is the attempt as far as it is known.
func (l light) attempt() run.Attempt {
	a := run.Attempt{Question: l.Question, Wording: l.Wording, Repeat: l.Repeat, Turn: l.Turn, Verdict: l.Verdict, Reason: l.Reason, Stance: l.Stance, Cost: l.Cost,
		Tokens: l.Tokens, Latency: time.Duration(l.Latency), Tries: l.Tries, Answer: l.Answer}
	for _, code := range l.Faults {
		a.Faults = append(a.Faults, fault.Fault{Code: code})
	}
	if l.Asked {
		a.Raw = json.RawMessage("null")
	}
	return a
}

// Light reads a run's attempts with what sums and comparisons need of them alone: no query, no evidence, no reply.
func (s *Store) Light(runID int) (attempts []run.Attempt, err error) {
	diagnosed, err := s.latest(runID, Diagnosis)
	if err != nil {
		return nil, err
	}
	return s.light(runID, diagnosed)
}

// light reads a run's attempts, those of a scoring in place of the run's own.
func (s *Store) light(runID, scoring int) (attempts []run.Attempt, err error) {
	rows, err := s.db.Query(`SELECT coalesce(s.light, a.light, ''), CASE WHEN coalesce(s.light, a.light) IS NULL THEN a.body ELSE '' END
		FROM attempt a LEFT JOIN scored s ON s.scoring = ? AND s.place = a.place WHERE a.run = ? ORDER BY a.place`, scoring, runID)
	if err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	for rows.Next() {
		var short, whole []byte
		if err := rows.Scan(&short, &whole); err != nil {
			return nil, trouble.As(trouble.Unreachable, err)
		}
		var a run.Attempt
		var l light
		problem := json.Unmarshal(whole, &a)
		if len(short) > 0 {
			problem = json.Unmarshal(short, &l)
			a = l.attempt()
		}
		if problem != nil {
			return nil, trouble.New(trouble.Unreachable, "the history is damaged: %w", problem)
		}
		attempts = append(attempts, a)
	}
	return attempts, trouble.As(trouble.Unreachable, rows.Err())
}

// summed is the stored summary of a run, with the standing of each question.
type summed struct {
	Summary   run.Summary               `json:"summary"`
	Standings map[string]score.Standing `json:"standings"`
}

func sum(r run.Run, attempts []run.Attempt) summed {
	return summed{run.Summarise(r, attempts), run.Standings(attempts)}
}

// summarise makes the stored summary of a run.
func (s *Store) summarise(r run.Run) (string, error) {
	attempts, err := s.Light(r.ID)
	if err != nil {
		return "", err
	}
	body, err := json.Marshal(sum(r, attempts))
	return string(body), err
}

// Listed is a run with its summary, the standing of each question, and its marks.
type Listed struct {
	Run       run.Run
	Summary   run.Summary
	Standings map[string]score.Standing
	Marks     []string
}

// List lists all runs, the oldest first.
func (s *Store) List() ([]Listed, error) {
	rows, err := s.db.Query("SELECT id, body, coalesce(summary, '') FROM run ORDER BY id")
	if err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	defer rows.Close() //nolint:errcheck // rows.Err tells
	var all []Listed
	for rows.Next() {
		var l Listed
		var body, summary string
		if err := rows.Scan(&l.Run.ID, &body, &summary); err != nil {
			return nil, trouble.As(trouble.Unreachable, err)
		}
		id := l.Run.ID
		err := json.Unmarshal([]byte(body), &l.Run)
		if l.Run.ID = id; err == nil && summary != "" {
			var kept summed
			err = json.Unmarshal([]byte(summary), &kept)
			l.Summary, l.Standings = kept.Summary, kept.Standings
		}
		if err != nil {
			return nil, trouble.New(trouble.Unreachable, "run %d in the history is damaged: %w", id, err)
		}
		all = append(all, l)
	}
	if err := rows.Err(); err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	marks, err := s.Marks()
	if err != nil {
		return nil, err
	}
	for i := range all {
		l := &all[i]
		l.Marks = marks[l.Run.ID]
		if l.Summary.Run != 0 {
			continue // a run under way or of an earlier form has none
		}
		attempts, err := s.Light(l.Run.ID)
		if err != nil {
			return nil, err
		}
		fresh := sum(l.Run, attempts)
		l.Summary, l.Standings = fresh.Summary, fresh.Standings
	}
	return all, nil
}
