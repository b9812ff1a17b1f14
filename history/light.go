package history

import (
	"bytes"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
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

// unseparated takes what ends a field, and what no database keeps within a text, out of names.
var unseparated = strings.NewReplacer(separator, " ", "\x00", " ")

// lightOf writes what sums and comparisons need of an attempt, in a form that reads fast: a history holds it for every attempt.
func lightOf(a record.Attempt) string {
	return strings.Join([]string{unseparated.Replace(a.Question), unseparated.Replace(a.Wording),
		strconv.Itoa(a.Repeat), strconv.Itoa(a.Turn), strings.Join(append([]string{string(a.Verdict)}, a.MissedOn...), " "),
		codesOf(a.Light().Faults), string(a.Reason), strconv.FormatBool(a.Stance), strconv.FormatFloat(a.Cost, 'g', -1, 64),
		strconv.FormatInt(a.Tokens, 10),
		strconv.FormatInt(int64(a.Latency), 10), strconv.FormatBool(a.Raw != nil), answerOf(a), triesOf(a.Tries)}, separator)
}

// answerOf are the digests of an attempt's answer and of what its reply says.
func answerOf(a record.Attempt) string {
	if said := a.Said(); said != "" {
		return a.Result() + " " + said
	}
	return a.Result()
}

// lightReader reads light forms; texts that come again and again are kept once.
type lightReader struct {
	texts  map[string]string
	faults map[string][]fault.Code // by their codes in order
	last   [2]string               // question and wording of the attempt before
}

func newLightReader() lightReader {
	return lightReader{texts: map[string]string{}, faults: map[string][]fault.Code{}}
}

// same is a text that is mostly the one of the attempt before.
func (r *lightReader) same(which int, b []byte) string {
	if r.last[which] != string(b) {
		r.last[which] = r.text(b)
	}
	return r.last[which]
}

// faultsOf are faults by their codes; those of many attempts are shared.
func (r *lightReader) faultsOf(codes string) []fault.Code {
	if codes == "" {
		return nil
	}
	known, has := r.faults[codes]
	if !has {
		for code := range strings.FieldsSeq(codes) {
			known = append(known, fault.Code(code))
		}
		known = slices.Clip(known)
		r.faults[codes] = known
	}
	return known
}

// fieldsOf takes a light form apart.
func fieldsOf(form []byte) (parts [lightFields][]byte, n int) {
	for n = 0; n < lightFields-1; n++ {
		at := bytes.IndexByte(form, separator[0])
		if at < 0 {
			break
		}
		parts[n], form = form[:at], form[at+1:]
	}
	parts[n] = form
	return parts, n + 1
}

// lightFields is how many fields a light form has.
const lightFields = 14

func (r *lightReader) text(b []byte) string {
	if known, ok := r.texts[string(b)]; ok {
		return known
	}
	s := string(b)
	r.texts[s] = s
	return s
}

// read reads an attempt as far as its light form knows it.
func (r *lightReader) read(form []byte) (record.Light, error) {
	parts, n := fieldsOf(form)
	if n != lightFields {
		return record.Light{}, fmt.Errorf("an attempt's short form has %d fields", n)
	}
	a := record.Light{Question: r.same(0, parts[0]), Wording: r.same(1, parts[1]), Reason: fault.Reason(r.text(parts[6])),
		Stance: string(parts[7]) == "true", Replied: string(parts[11]) == "true"}
	a.Answer, a.Said, _ = strings.Cut(r.text(parts[12]), " ")
	verdict, missed, _ := strings.Cut(r.text(parts[4]), " ")
	a.Verdict, a.MissedOn = score.Verdict(verdict), strings.Fields(missed)
	var problems [5]error
	a.Repeat, problems[0] = small(parts[2])
	a.Turn, problems[1] = small(parts[3])
	a.Cost, problems[2] = strconv.ParseFloat(string(parts[8]), 64)
	a.Tokens, problems[3] = strconv.ParseInt(string(parts[9]), 10, 64)
	used := record.Attempt{Cost: a.Cost, Tokens: a.Tokens}
	used.Believable()
	a.Cost, a.Tokens = used.Cost, used.Tokens
	latency, problem := strconv.ParseInt(string(parts[10]), 10, 64)
	problems[4] = problem
	a.Latency = time.Duration(latency)
	a.Faults = r.faultsOf(r.text(parts[5]))
	if len(parts[13]) > 0 {
		if err := json.Unmarshal(parts[13], &a.Tries); err != nil {
			return a, err
		}
	}
	return a, errors.Join(problems[:]...)
}

// small reads a small whole number.
func small(text []byte) (int32, error) {
	n, err := strconv.ParseInt(string(text), 10, 32)
	return int32(n), err
}

// Lights are the attempts of a run as far as their light forms know them, and their places.
type Lights struct {
	Attempts []record.Light
	Places   []int
}

// Light reads a run's attempts with what sums and comparisons need of them alone: no query, no evidence, no reply.
func (s *Store) Light(runID int) (Lights, error) {
	diagnosed, err := s.latest(runID, Diagnosis)
	if err != nil {
		return Lights{}, err
	}
	if all, has, err := s.bundle(runID, diagnosed); has || err != nil {
		return all, err
	}
	n, known := 0, 0
	err = s.db.QueryRowContext(s.ctx, "SELECT (SELECT count(*) FROM attempt WHERE run = ?1), (SELECT count(*) FROM light "+
		"WHERE run = ?1)", runID).Scan(&n, &known)
	if err != nil {
		return Lights{}, trouble.As(trouble.Unreachable, err)
	}
	out := Lights{make([]record.Light, 0, n), make([]int, 0, n)}
	if known < n { // of an earlier form: there are no light forms
		placed, err := s.whole(runID, diagnosed)
		for _, p := range placed {
			out.Attempts, out.Places = append(out.Attempts, p.Attempt.Light()), append(out.Places, p.Place)
		}
		return out, err
	}
	reader := newLightReader()
	if err := s.readLight("SELECT place, form FROM light WHERE run = ? ORDER BY place", runID, &reader, func(place int, a record.Light) {
		out.Attempts, out.Places = append(out.Attempts, a), append(out.Places, place)
	}); err != nil || diagnosed == 0 {
		return out, err
	}
	at := make(map[int]int, n)
	for i, place := range out.Places {
		at[place] = i
	}
	return out, s.readLight("SELECT place, light FROM scored WHERE scoring = ?", diagnosed, &reader, func(place int, a record.Light) {
		if i, has := at[place]; has {
			out.Attempts[i] = a
		}
	})
}

// readLight reads light forms with their places.
func (s *Store) readLight(query string, of int, reader *lightReader, each func(place int, a record.Light)) (err error) {
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

func sum(r record.Run, attempts []record.Light) summed {
	return summed{record.SummariseLight(r, attempts), record.StandingsLight(attempts)}
}

// sums are what is kept of a run beside it, made of its attempts: its summary, its listing, and its light forms in one piece.
type sums struct {
	run            record.Run
	summary        string
	listed, bundle []byte
	scoring        int // the diagnosis that they are of; 0 for none
}

// summarise makes what is kept of a run beside it.
func (s *Store) summarise(r record.Run) (sums, error) {
	out := sums{run: r}
	var err error
	if out.scoring, err = s.latest(r.ID, Diagnosis); err != nil {
		return out, err
	}
	light, err := s.Light(r.ID)
	if err != nil {
		return out, err
	}
	of := sum(r, light.Attempts)
	body, err := json.Marshal(of)
	if err != nil {
		return out, err
	}
	out.summary, out.bundle = string(body), packed(light)
	out.listed, err = s.listingOf(r, of)
	return out, err
}

// keep stores what is kept beside a run, in place of what was.
func (k sums) keep(tx *writer) error {
	if _, err := tx.Exec("UPDATE run SET summary = ? WHERE id = ?", k.summary, k.run.ID); err != nil {
		return err
	}
	if _, err := tx.Exec("INSERT INTO listing (run, body) VALUES (?, ?) "+
		"ON CONFLICT (run) DO UPDATE SET body = excluded.body", k.run.ID, k.listed); err != nil {
		return err
	}
	_, err := tx.Exec("INSERT INTO bundle (run, scoring, body) VALUES (?, ?, ?) "+
		"ON CONFLICT (run) DO UPDATE SET scoring = excluded.scoring, body = excluded.body", k.run.ID, k.scoring, k.bundle)
	return err
}
