package history

import (
	"bufio"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"

	"tovrel/core/record"
	"tovrel/core/source"
	"tovrel/trouble"
)

// exportForm is the version of exported runs.
const exportForm = 1

// exported is one line of an exported run: the run itself first, then its attempts, then the tables that they name.
type exported struct {
	Form    int             `json:"tovrel-run,omitempty"`
	Run     *record.Run     `json:"run,omitempty"`
	Place   *int            `json:"place,omitempty"`
	Attempt *record.Attempt `json:"attempt,omitempty"`
	Digest  string          `json:"digest,omitempty"`
	Table   json.RawMessage `json:"table,omitempty"`
}

// Export writes a run as JSON Lines. It errs where there is no such run, or the writer errs.
func (s *Store) Export(w io.Writer, r record.Run) error {
	out := bufio.NewWriter(w)
	e := json.NewEncoder(out)
	e.SetEscapeHTML(false)
	attempts, err := s.Judged(r.ID)
	if err != nil {
		return err
	}
	if err := s.encodeRun(e, r, attempts, nil); err != nil {
		return err
	}
	return out.Flush()
}

// encodeRun writes a run with its attempts, and with the tables that these and others name.
func (s *Store) encodeRun(e *json.Encoder, r record.Run, attempts, others []Placed) error {
	if err := e.Encode(exported{Form: exportForm, Run: &r}); err != nil {
		return err
	}
	tables := map[string]bool{}
	for _, p := range attempts {
		if err := e.Encode(exported{Place: &p.Place, Attempt: &p.Attempt}); err != nil {
			return err
		}
	}
	for _, p := range slices.Concat(attempts, others) {
		tables[p.Attempt.Expected], tables[p.Attempt.Answer] = true, true
	}
	for _, under := range r.Under {
		tables[under.Told] = true
	}
	delete(tables, "")
	for _, d := range slices.Sorted(maps.Keys(tables)) {
		stored, err := s.Table(d)
		if err != nil {
			return err
		}
		if err := e.Encode(exported{Digest: d, Table: stored.Body}); err != nil {
			return err
		}
	}
	return nil
}

// Imported is a run read from a file, with everything that belongs to it.
type Imported struct {
	Run      record.Run
	Attempts []Placed
	Tables   []Stored
}

// Table finds a table of the run. It errs where the file has no such table.
func (i Imported) Table(digest string) (Stored, error) {
	for _, t := range i.Tables {
		if t.Digest == digest {
			return t.read()
		}
	}
	return Stored{}, trouble.New(trouble.Unreadable,
		"the exported run lacks the table %s; export it again with `tovrel history export`", digest)
}

// ReadExport reads an exported run; name is how messages call it. Defects are source.Problems. A reader that fails is trouble.Unreadable.
func ReadExport(name string, in io.Reader) (Imported, error) {
	var out Imported
	r := bufio.NewReaderSize(in, 1<<16)
	for number := 1; ; number++ {
		line, err := r.ReadBytes('\n')
		if len(line) > 1 {
			var l exported
			if problem := json.Unmarshal(line, &l); problem != nil {
				return out, exportProblem(name, number, "not a line of an exported run: "+problem.Error())
			}
			if problem := out.add(l, number); problem != "" {
				return out, exportProblem(name, number, problem)
			}
		}
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return out, trouble.New(trouble.Unreadable, "%s cannot be read: %w", name, err)
		}
	}
	if out.Run.UID == "" {
		return out, exportProblem(name, 1, "the file holds no run")
	}
	return out, nil
}

func exportProblem(name string, line int, message string) error {
	return trouble.As(trouble.Unreadable, source.Problems{{Position: source.Position{File: name, Line: line},
		Code: "exported-run", Severity: source.Error,
		Message: message, Remedy: "export the run again with `tovrel history export`"}})
}

func (i *Imported) add(l exported, number int) string {
	switch {
	case number == 1 && l.Form != exportForm:
		return fmt.Sprintf("this program reads exported runs of form %d, and this one is of form %d", exportForm, l.Form)
	case l.Run != nil:
		i.Run = *l.Run
	case l.Attempt != nil && l.Place != nil:
		l.Attempt.Believable()
		i.Attempts = append(i.Attempts, Placed{*l.Place, *l.Attempt})
	case l.Digest != "":
		i.Tables = append(i.Tables, Stored{Digest: l.Digest, Body: l.Table})
	default:
		return "the line is none of a run, an attempt and a table"
	}
	return ""
}

// ByUID finds the run of a name that no other has; false for none.
func (s *Store) ByUID(uid string) (id int, has bool, err error) {
	var known sql.NullInt64
	err = s.db.QueryRowContext(s.ctx, "SELECT max(id) FROM run WHERE "+s.db.kind.uid+" = ?", uid).Scan(&known)
	return int(known.Int64), known.Valid, trouble.As(trouble.Unreachable, err)
}

// Import stores a run under a new number. One that is there already is not stored again: its number is given, and false. It errs where
// the file's name is taken by another run, or the history cannot be written.
func (s *Store) Import(in Imported) (id int, isNew bool, err error) {
	if id, has, err := s.ByUID(in.Run.UID); has || err != nil {
		return id, false, err
	}
	tables := map[string]Stored{}
	for _, t := range in.Tables {
		tables[t.Digest] = t
	}
	err = s.writing(func(tx *writer) error {
		if id, err = begin(tx, in.Run); err != nil {
			return err
		}
		for _, under := range in.Run.Under {
			if err := saveTables(tx, []Stored{tables[under.Told]}); err != nil {
				return err
			}
		}
		for _, p := range in.Attempts {
			if err := saveAttempt(tx, id, p.Place, p.Attempt, []Stored{tables[p.Attempt.Expected], tables[p.Attempt.Answer]}); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return 0, false, err
	}
	in.Run.ID = id
	return id, true, s.Finish(in.Run)
}

// Join makes one run of shards: all of the same translator, options and data, each a different part of the same number of parts.
// The error says what does not fit, or which parts are missing.
func Join(shards []Imported) (Imported, error) {
	first := shards[0].Run
	count := first.Options.Shard[1]
	out := Imported{Run: first}
	out.Run.Options.Shard, out.Run.Planned, out.Run.UID = [2]int{}, 0, ""
	out.Run.Weights, out.Run.Datasets = map[string]float64{}, map[string]string{}
	out.Run.Wordings = map[string][]string{}
	out.Run.Grounds, out.Run.About, out.Run.Consistency = map[string]record.Ground{}, map[string]record.About{},
		map[string]record.Consistency{}
	out.Run.Under = map[string]record.Under{}
	out.Run.Twins, out.Run.Recipes = map[string][]string{}, map[string]json.RawMessage{}
	seen := map[int]bool{}
	place := 0
	for _, s := range shards {
		r := s.Run
		switch {
		case r.Options.Shard[1] == 0:
			return out, fmt.Errorf("run %s is no shard", r.UID)
		case r.Translator != first.Translator || r.Options.Shard[1] != count || !sameOptions(r.Options, first.Options) ||
			!sameData(r.Datasets, first.Datasets):
			return out, fmt.Errorf("the shards %s and %s are not of one run: the translator, options or data differ", first.UID, r.UID)
		case seen[r.Options.Shard[0]]:
			return out, fmt.Errorf("shard %d of %d is there twice", r.Options.Shard[0], count)
		}
		seen[r.Options.Shard[0]] = true
		addPart(&out.Run, r)
		for name, twins := range r.Twins {
			if before, known := out.Run.Twins[name]; known && !slices.Equal(before, twins) {
				return out, fmt.Errorf("the shards %s and %s were tried on other twins of %s", first.UID, r.UID, name)
			}
			out.Run.Twins[name] = twins
		}
		maps.Copy(out.Run.Recipes, r.Recipes)
		maps.Copy(out.Run.Consistency, r.Consistency)
		if r.State == record.Stopped || r.State == record.Running {
			out.Run.State = record.Stopped
		}
		for _, p := range s.Attempts {
			out.Attempts = append(out.Attempts, Placed{place, p.Attempt})
			place++
		}
		out.Tables = append(out.Tables, s.Tables...)
	}
	for i := 1; i <= count; i++ {
		if !seen[i] {
			return out, fmt.Errorf("shard %d of %d is missing", i, count)
		}
	}
	if out.Run.State != record.Stopped {
		out.Run.State = record.Complete
		if out.Run.Options.Narrowed() {
			out.Run.State = record.Partial
		}
	}
	return out, nil
}

// addPart adds what a shard says of its questions to the run that it is a part of.
func addPart(to *record.Run, r record.Run) {
	to.Planned += r.Planned
	to.UID += r.UID
	to.Duration = max(to.Duration, r.Duration)
	maps.Copy(to.Weights, r.Weights)
	maps.Copy(to.Datasets, r.Datasets)
	maps.Copy(to.Grounds, r.Grounds)
	maps.Copy(to.Under, r.Under)
	maps.Copy(to.Wordings, r.Wordings)
	maps.Copy(to.About, r.About)
}

func sameOptions(a, b record.Options) bool {
	a.Shard, b.Shard = [2]int{}, [2]int{}
	x, _ := json.Marshal(a) // options always encode
	y, _ := json.Marshal(b)
	return string(x) == string(y)
}

// sameData tells whether two runs agree on the data that both have.
func sameData(a, b map[string]string) bool {
	for name, fingerprint := range a {
		if other, both := b[name]; both && other != fingerprint {
			return false
		}
	}
	return true
}
