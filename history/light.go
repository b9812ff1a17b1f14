package history

import (
	"bytes"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/trouble"
)

// separator stands between the fields of the light form; it is in no field, for it is taken out of wordings.
const separator = "\x1f"

// lightOf writes what sums and comparisons need of an attempt, in a form that reads fast: a history holds it for every attempt.
func lightOf(a record.Attempt) string {
	var codes []string
	for _, f := range a.Faults {
		codes = append(codes, string(f.Code))
	}
	tries := ""
	if len(a.Tries) > 0 {
		body, _ := json.Marshal(a.Tries) // plain fields always encode
		tries = string(body)
	}
	return strings.Join([]string{strings.ReplaceAll(a.Question, separator, " "), strings.ReplaceAll(a.Wording, separator, " "),
		strconv.Itoa(a.Repeat), strconv.Itoa(a.Turn), strings.Join(append([]string{string(a.Verdict)}, a.MissedOn...), " "),
		strings.Join(codes, " "), string(a.Reason), strconv.FormatBool(a.Stance), strconv.FormatFloat(a.Cost, 'g', -1, 64),
		strconv.FormatInt(a.Tokens, 10),
		strconv.FormatInt(int64(a.Latency), 10), strconv.FormatBool(a.Raw != nil), a.Result(), tries}, separator)
}

// lightReader reads light forms; texts that come again and again are kept once.
type lightReader struct{ texts map[string]string }

func (r *lightReader) text(b []byte) string {
	if known, ok := r.texts[string(b)]; ok {
		return known
	}
	s := string(b)
	r.texts[s] = s
	return s
}

var asked = json.RawMessage("null") // stands for a reply that is not read

// read reads an attempt as far as its light form knows it.
func (r *lightReader) read(form []byte) (record.Attempt, error) {
	const fields = 14
	parts := bytes.SplitN(form, []byte(separator), fields)
	if len(parts) != fields {
		return record.Attempt{}, fmt.Errorf("an attempt's short form has %d fields", len(parts))
	}
	a := record.Attempt{Question: r.text(parts[0]), Wording: r.text(parts[1]), Reason: fault.Reason(r.text(parts[6])),
		Stance: string(parts[7]) == "true", Answer: r.text(parts[12])}
	verdict, missed, _ := strings.Cut(r.text(parts[4]), " ")
	a.Verdict, a.MissedOn = score.Verdict(verdict), strings.Fields(missed)
	var problems [5]error
	a.Repeat, problems[0] = strconv.Atoi(string(parts[2]))
	a.Turn, problems[1] = strconv.Atoi(string(parts[3]))
	a.Cost, problems[2] = strconv.ParseFloat(string(parts[8]), 64)
	a.Tokens, problems[3] = strconv.ParseInt(string(parts[9]), 10, 64)
	a.Believable()
	latency, problem := strconv.ParseInt(string(parts[10]), 10, 64)
	problems[4] = problem
	a.Latency = time.Duration(latency)
	for code := range strings.FieldsSeq(r.text(parts[5])) {
		a.Faults = append(a.Faults, fault.Fault{Code: fault.Code(code)})
	}
	if string(parts[11]) == "true" {
		a.Raw = asked
	}
	if len(parts[13]) > 0 {
		if err := json.Unmarshal(parts[13], &a.Tries); err != nil {
			return a, err
		}
	}
	return a, errors.Join(problems[:]...)
}

// Lights are the attempts of a run as far as their light forms know them, and their places.
type Lights struct {
	Attempts []record.Attempt
	Places   []int
}

// Light reads a run's attempts with what sums and comparisons need of them alone: no query, no evidence, no reply.
func (s *Store) Light(runID int) (Lights, error) {
	n, known := 0, 0
	err := s.db.QueryRowContext(s.ctx, "SELECT (SELECT count(*) FROM attempt WHERE run = ?1), (SELECT count(*) FROM light "+
		"WHERE run = ?1)", runID).Scan(&n, &known)
	if err != nil {
		return Lights{}, trouble.As(trouble.Unreachable, err)
	}
	diagnosed, err := s.latest(runID, Diagnosis)
	if err != nil {
		return Lights{}, err
	}
	out := Lights{make([]record.Attempt, 0, n), make([]int, 0, n)}
	if known < n { // of an earlier form: there are no light forms
		placed, err := s.whole(runID, diagnosed)
		for _, p := range placed {
			out.Attempts, out.Places = append(out.Attempts, p.Attempt), append(out.Places, p.Place)
		}
		return out, err
	}
	reader := lightReader{map[string]string{}}
	if err := s.readLight("SELECT place, form FROM light WHERE run = ? ORDER BY place", runID, &reader, func(place int, a record.Attempt) {
		out.Attempts, out.Places = append(out.Attempts, a), append(out.Places, place)
	}); err != nil || diagnosed == 0 {
		return out, err
	}
	at := make(map[int]int, n)
	for i, place := range out.Places {
		at[place] = i
	}
	return out, s.readLight("SELECT place, light FROM scored WHERE scoring = ?", diagnosed, &reader, func(place int, a record.Attempt) {
		if i, has := at[place]; has {
			out.Attempts[i] = a
		}
	})
}

// readLight reads light forms with their places.
func (s *Store) readLight(query string, of int, reader *lightReader, each func(place int, a record.Attempt)) (err error) {
	rows, err := s.db.QueryContext(s.ctx, query, of)
	if err != nil {
		return trouble.As(trouble.Unreachable, err)
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	var form sql.RawBytes // read before the next row
	for rows.Next() {
		var place int
		if err := rows.Scan(&place, &form); err != nil {
			return trouble.As(trouble.Unreachable, err)
		}
		a, err := reader.read(form)
		if err != nil {
			return trouble.New(trouble.Unreachable, "the history is damaged: %w", err)
		}
		each(place, a)
	}
	return trouble.As(trouble.Unreachable, rows.Err())
}

// summed is the stored summary of a run, with the standing of each question.
type summed struct {
	Summary   record.Summary            `json:"summary"`
	Standings map[string]score.Standing `json:"standings"`
}

func sum(r record.Run, attempts []record.Attempt) summed {
	return summed{record.Summarise(r, attempts), record.Standings(attempts)}
}

// summarise makes the stored summary of a run.
func (s *Store) summarise(r record.Run) (string, error) {
	light, err := s.Light(r.ID)
	if err != nil {
		return "", err
	}
	body, err := json.Marshal(sum(r, light.Attempts))
	return string(body), err
}

// Listed is a run with its summary, the standing of each question, and its marks.
type Listed struct {
	Run       record.Run
	Summary   record.Summary
	Standings map[string]score.Standing
	Marks     []string
}

// List lists all runs, the oldest first.
func (s *Store) List() ([]Listed, error) {
	rows, err := s.db.QueryContext(s.ctx, "SELECT "+runColumns+", coalesce(summary, '') FROM run ORDER BY id")
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
			l.Summary.State = l.Run.State
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
		light, err := s.Light(l.Run.ID)
		if err != nil {
			return nil, err
		}
		fresh := sum(l.Run, light.Attempts)
		l.Summary, l.Standings = fresh.Summary, fresh.Standings
	}
	return all, nil
}
