package cli

import (
	"context"
	"errors"
	"io/fs"
	"os"
	"strings"

	"tovrel/attempt"
	"tovrel/core/decision"
	"tovrel/core/record"
	"tovrel/files"
	"tovrel/history"
	"tovrel/trouble"
	"tovrel/view"
	"tovrel/workspace"
)

// record is a run with its attempts, from the history or from an exported file.
type stored struct {
	record.Run
	attempts []record.Attempt
	lights   []record.Light // of the attempts, where these were not read whole
	places   []int          // of light attempts in the history
	table    func(digest string) (history.Stored, error)
	file     string // that it was read from; "" for the history
	isWhole  bool   // the attempts have their queries and evidence
}

// runSource finds runs by their names. The history is opened when it is first needed, so that a gate in CI can do with files alone.
type runSource struct {
	ctx   context.Context // of the command, which the history is read under
	w     *workspace.Workspace
	store *history.Store
	// what people decided about replies, read when the first run is; nil before
	decisions *decision.Kept
	questions []workspace.Chosen
}

func (a *app) runSource() (*runSource, error) {
	w, err := a.open()
	return &runSource{ctx: a.signals.ctx, w: w}, err
}

// fromRuns shows a screen that is made of runs.
func (a *app) fromRuns(made func(source *runSource) (view.Screen, error)) error {
	source, err := a.runSource()
	if err != nil {
		return err
	}
	defer source.close()
	screen, err := made(source)
	if err != nil {
		return err
	}
	return a.show(screen)
}

func (s *runSource) close() {
	if s.store != nil {
		_ = s.store.Close() // every write is committed by itself
	}
}

// history opens the history; it makes none where there is none.
func (s *runSource) history() (*history.Store, error) {
	if s.store == nil {
		store, err := openHistory(s.ctx, s.w)
		if err != nil {
			return nil, err
		}
		s.store = store
	}
	return s.store, nil
}

// isFile tells whether a run's name is the path of an exported run.
func isFile(name string) bool {
	if strings.HasSuffix(name, ".jsonl") {
		return true
	}
	info, err := os.Stat(name)
	return err == nil && info.Mode().IsRegular() && strings.ContainsAny(name, `/\.`)
}

// light finds a run with what sums and comparisons need of its attempts.
func (s *runSource) light(name string) (stored, error) {
	return s.find(name, func(store *history.Store, id int, out *stored) (err error) {
		if s.decided() {
			out.isWhole = true
			out.attempts, err = store.Attempts(id) // a decision needs the reply
			return err
		}
		light, err := store.Light(id)
		out.lights, out.places = light.Attempts, light.Places
		return err
	})
}

// whole finds a run with its whole attempts.
func (s *runSource) whole(name string) (stored, error) {
	return s.find(name, func(store *history.Store, id int, out *stored) (err error) {
		out.attempts, err = store.Attempts(id)
		return err
	})
}

// decided tells whether people decided about any reply. What cannot be read of their decisions is no trouble here: set check names it.
func (s *runSource) decided() bool {
	if s.decisions == nil {
		kept, _, err := s.w.Decisions()
		if err != nil {
			kept = decision.Keep(nil)
		}
		s.decisions = kept
		if len(kept.All) > 0 {
			if paths, err := s.w.SetFiles(); err == nil {
				if sets, _, err := s.w.ReadSets(paths); err == nil {
					s.questions, _ = workspace.Choose(sets, nil)
				}
			}
		}
	}
	return len(s.decisions.All) > 0
}

// decide gives attempts the verdicts that people decided.
func (s *runSource) decide(all []record.Attempt) {
	if !s.decided() {
		return
	}
	for i := range all {
		s.decisions.Apply(&all[i], attempt.FitsStance(s.questions))
	}
}

func (s *runSource) find(name string, read func(*history.Store, int, *stored) error) (stored, error) {
	out, err := s.found(name, read)
	if err == nil {
		s.decide(out.attempts)
	}
	return out, err
}

func (s *runSource) found(name string, read func(*history.Store, int, *stored) error) (stored, error) {
	if isFile(name) {
		return fileRecord(name)
	}
	store, err := s.history()
	if err != nil {
		return stored{}, err
	}
	r, err := store.Find(name)
	if err != nil {
		return stored{}, err
	}
	out := stored{Run: r, table: store.Table}
	err = read(store, r.ID, &out)
	return out, err
}

// fileRecord reads an exported run.
func fileRecord(path string) (stored, error) {
	f, err := files.Open(path)
	if errors.Is(err, fs.ErrNotExist) {
		return stored{}, trouble.New(trouble.Usage,
			"there is no exported run %s; write one with `tovrel history export RUN -o %s`", path, path)
	}
	if err != nil {
		return stored{}, trouble.New(trouble.Unreadable, "%s cannot be read: %w", path, err)
	}
	in, err := history.ReadExport(path, f)
	_ = f.Close() // opened for reading only
	if err != nil {
		return stored{}, err
	}
	out := stored{Run: in.Run, file: path, table: in.Table}
	for _, p := range in.Attempts {
		out.attempts = append(out.attempts, p.Attempt)
	}
	return out, nil
}
