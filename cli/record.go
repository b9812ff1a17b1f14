package cli

import (
	"context"
	"errors"
	"io/fs"
	"os"
	"strings"

	"tovrel/core/record"
	"tovrel/files"
	"tovrel/history"
	"tovrel/trouble"
	"tovrel/workspace"
)

// record is a run with its attempts, from the history or from an exported file.
type stored struct {
	record.Run
	attempts []record.Attempt
	places   []int // of light attempts in the history
	table    func(digest string) (history.Stored, error)
	file     string // that it was read from; "" for the history
	isWhole  bool   // the attempts have their queries and evidence
}

// runSource finds runs by their names. The history is opened when it is first needed, so that a gate in CI can do with files alone.
type runSource struct {
	ctx   context.Context // of the command, which the history is read under
	w     *workspace.Workspace
	store *history.Store
}

func (a *app) runSource() (*runSource, error) {
	w, err := a.open()
	return &runSource{ctx: a.signals.ctx, w: w}, err
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
	return s.find(name, func(store *history.Store, id int) ([]record.Attempt, []int, error) {
		light, err := store.Light(id)
		return light.Attempts, light.Places, err
	})
}

// whole finds a run with its whole attempts.
func (s *runSource) whole(name string) (stored, error) {
	return s.find(name, func(store *history.Store, id int) ([]record.Attempt, []int, error) {
		attempts, err := store.Attempts(id)
		return attempts, nil, err
	})
}

func (s *runSource) find(name string, read func(*history.Store, int) ([]record.Attempt, []int, error)) (stored, error) {
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
	out.attempts, out.places, err = read(store, r.ID)
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
