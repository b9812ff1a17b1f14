package history

import (
	"bufio"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"

	"tovrel/core/record"
	"tovrel/trouble"
)

// wholeForm is the version of exported histories.
const wholeForm = 1

// wholeLine is one line of an exported history beside those of exported runs, which each begin with their run: what was judged later, and
// the marks.
type wholeLine struct {
	Form    int      `json:"tovrel-history,omitempty"`
	Scoring *Scoring `json:"scoring,omitempty"`
	Scored  []Placed `json:"scored,omitempty"`
	Marks   []string `json:"marks,omitempty"`
}

// ExportAll writes all runs that are not under way as JSON Lines, with what was judged later and their marks: everything that a history
// holds. Done is told of each run. It errs where a writer errs.
func (s *Store) ExportAll(w io.Writer, done func(n, of int)) error {
	out := bufio.NewWriter(w)
	e := json.NewEncoder(out)
	e.SetEscapeHTML(false)
	if err := e.Encode(wholeLine{Form: wholeForm}); err != nil {
		return err
	}
	runs, err := s.Runs()
	if err != nil {
		return err
	}
	marks, err := s.Marks()
	if err != nil {
		return err
	}
	for i, r := range runs {
		if r.State != record.Running {
			if err := s.exportWhole(e, r, marks[r.ID]); err != nil {
				return err
			}
		}
		done(i+1, len(runs))
	}
	return out.Flush()
}

func (s *Store) exportWhole(e *json.Encoder, r record.Run, marks []string) error {
	if r.UID == "" { // of an early version
		body, _ := json.Marshal(r) // it was read
		sum := sha256.Sum256(body)
		r.UID = hex.EncodeToString(sum[:8])
	}
	made, err := s.Placed(r.ID)
	if err != nil {
		return err
	}
	later, err := s.scorings(r.ID)
	if err != nil {
		return err
	}
	var judged []Placed
	for _, l := range later {
		for _, one := range l.scored {
			judged = append(judged, one.Placed)
		}
	}
	if err := s.encodeRun(e, r, made, judged); err != nil {
		return err
	}
	for _, l := range later {
		line := wholeLine{Scoring: &l.Scoring}
		for _, one := range l.scored {
			line.Scored = append(line.Scored, one.Placed)
		}
		if err := e.Encode(line); err != nil {
			return err
		}
	}
	if len(marks) == 0 {
		return nil
	}
	return e.Encode(wholeLine{Marks: marks})
}

// laterJudgement is a later judgement with its attempts.
type laterJudgement struct {
	Scoring
	scored []Scored
}

// scorings are the later judgements of a run, the oldest first.
func (s *Store) scorings(runID int) (all []laterJudgement, err error) {
	rows, err := s.db.QueryContext(s.ctx, "SELECT id, body FROM scoring WHERE run = ? ORDER BY id", runID)
	if err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	at := map[int]int{}
	for rows.Next() {
		var l laterJudgement
		var body []byte
		if err := rows.Scan(&l.ID, &body); err != nil {
			return nil, trouble.As(trouble.Unreachable, err)
		}
		if err := json.Unmarshal(body, &l.Scoring); err != nil {
			return nil, trouble.New(trouble.Unreachable, "the history is damaged: %w", err)
		}
		l.Run, at[l.ID] = runID, len(all)
		all = append(all, l)
	}
	if err := rows.Err(); err != nil {
		return nil, trouble.As(trouble.Unreachable, err)
	}
	attempts, err := s.scored(runID)
	for _, a := range attempts {
		l := &all[at[a.scoring]]
		l.scored = append(l.scored, Scored{Placed: a.Placed})
	}
	return all, err
}

// IsWhole tells whether a file begins as an exported history; it reads nothing away.
func IsWhole(in *bufio.Reader) bool {
	const begins = `{"tovrel-history":`
	first, _ := in.Peek(len(begins)) // a shorter file is none
	return bytes.Equal(first, []byte(begins))
}

// ImportAll reads an exported history; name is how messages call it. Runs that are there already are not stored again: what was judged
// later and marks that no other run has are added to them. Each is told with its number here, and whether it is new. Defects are
// source.Problems.
func (s *Store) ImportAll(name string, in *bufio.Reader, each func(r record.Run, isNew bool)) error {
	one := wholeRun{}
	for number := 1; ; number++ {
		line, err := in.ReadBytes('\n')
		if err != nil && !errors.Is(err, io.EOF) {
			return trouble.New(trouble.Unreadable, "%s cannot be read: %w", name, err)
		}
		if len(line) > 1 {
			begins, problem := one.add(line, number)
			if problem != "" {
				return exportProblem(name, number, problem)
			}
			if begins != nil {
				if err := s.importWhole(one, each); err != nil {
					return err
				}
				one = wholeRun{Imported: Imported{Run: *begins}}
			}
		}
		if errors.Is(err, io.EOF) {
			return s.importWhole(one, each)
		}
	}
}

// wholeRun is a run of an exported history, as far as it is read.
type wholeRun struct {
	Imported
	later []laterJudgement
	marks []string
}

// add adds a line; begins is the run that it begins, nil where it is of this one.
func (w *wholeRun) add(line []byte, number int) (begins *record.Run, problem string) {
	var l struct {
		exported
		wholeLine
		Form  int `json:"tovrel-run"`
		Whole int `json:"tovrel-history"`
	}
	if err := json.Unmarshal(line, &l); err != nil {
		return nil, "not a line of an exported history: " + err.Error()
	}
	switch {
	case number == 1 && l.Whole != wholeForm:
		return nil, fmt.Sprintf("this program reads exported histories of form %d, and this one is of form %d", wholeForm, l.Whole)
	case number == 1:
		return nil, ""
	case l.Scoring != nil:
		w.later = append(w.later, laterJudgement{*l.Scoring, scoredOf(l.Scored)})
		return nil, ""
	case l.Marks != nil:
		w.marks = l.Marks
		return nil, ""
	case l.exported.Run != nil:
		return l.exported.Run, ""
	}
	return nil, w.Imported.add(l.exported, number)
}

// importWhole stores a run that was read, and tells of it.
func (s *Store) importWhole(w wholeRun, each func(r record.Run, isNew bool)) error {
	if w.Run.UID == "" { // none was read
		return nil
	}
	id, isNew, err := s.Import(w.Imported)
	if err != nil {
		return err
	}
	if err := s.addLater(id, w.later, w.marks, w.Tables); err != nil {
		return err
	}
	w.Run.ID = id
	each(w.Run, isNew)
	return nil
}

func scoredOf(placed []Placed) []Scored {
	out := make([]Scored, len(placed))
	for i, p := range placed {
		p.Attempt.Believable()
		out[i].Placed = p
	}
	return out
}

// addLater adds the later judgements that a run lacks, and the marks that no other run has.
func (s *Store) addLater(runID int, later []laterJudgement, marks []string, tables []Stored) error {
	byDigest := map[string]Stored{}
	for _, t := range tables {
		byDigest[t.Digest] = t
	}
	known, err := s.scorings(runID)
	if err != nil {
		return err
	}
	for _, l := range later {
		if containsJudgement(known, l) {
			continue
		}
		for i := range l.scored {
			a := l.scored[i].Attempt
			l.scored[i].Tables = []Stored{byDigest[a.Expected], byDigest[a.Answer]}
		}
		l.Run = runID
		if _, err := s.AddScoring(l.Scoring, l.scored); err != nil {
			return err
		}
	}
	taken, err := s.Marks()
	if err != nil {
		return err
	}
	for id, names := range taken {
		if id != runID {
			marks = without(marks, names)
		}
	}
	for _, name := range marks {
		if _, err := s.Mark(runID, name); err != nil {
			return err
		}
	}
	return nil
}

func containsJudgement(known []laterJudgement, l laterJudgement) bool {
	body, _ := json.Marshal(l.Scoring) // it was read
	return slices.ContainsFunc(known, func(k laterJudgement) bool {
		other, _ := json.Marshal(k.Scoring)
		return bytes.Equal(body, other)
	})
}

// without are names that are not among others.
func without(names, others []string) []string {
	return slices.DeleteFunc(slices.Clone(names), func(name string) bool { return slices.Contains(others, name) })
}
