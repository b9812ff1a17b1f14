package dataset

import (
	"cmp"
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"tovrel/dataset/sample"
	"tovrel/engine"
	"tovrel/engine/duckdb"
	"tovrel/trouble"
)

// Frozen describes a frozen dataset. It is kept as JSON beside the database file.
type Frozen struct {
	Dataset     string            `json:"dataset"`
	Engine      string            `json:"engine,omitempty"` // "" for DuckDB
	Fingerprint string            `json:"fingerprint"`      // of contents, types and as-of
	AsOf        string            `json:"as_of"`
	Input       string            `json:"input"` // digest of what it was made from, to notice changes quickly
	Sources     []FrozenSource    `json:"sources"`
	Tables      []engine.Table    `json:"tables"`
	Computed    []duckdb.Computed `json:"computed,omitempty"` // in the order in which they are computed
	Notes       []FileNote        `json:"notes,omitempty"`
	Tool        string            `json:"tool"`
	File        Seal              `json:"file"`
	Path        string            `json:"-"` // of the database file
}

// FrozenSource is a file that a table was made from.
type FrozenSource struct {
	Table  string `json:"table"` // "" for a database file, which is all tables
	File   string `json:"file"`
	Digest string `json:"digest"` // BLAKE3 of the file's bytes
}

// FileNote is what was noticed of a file when it was imported.
type FileNote struct {
	Table string `json:"table"`
	File  string `json:"file"`
	sample.Note
}

// Dialect is the engine that the dataset lives on, and the dialect of its queries.
func (f *Frozen) Dialect() string {
	if f.Engine == "" {
		return duckdb.Name
	}
	return f.Engine
}

const fingerprintLength = 16 // hexadecimal digits that name a file

func databaseEnding(engineName string) string {
	if engineName == "" {
		return ".duckdb"
	}
	return "." + engineName
}

// keep moves a finished copy into its place, the description last: a copy without one does not count.
func (s *Store) keep(dir, made string, f *Frozen) error {
	name := filepath.Join(dir, f.Dataset+"-"+f.Fingerprint[:fingerprintLength])
	f.Path = name + databaseEnding(f.Engine)
	var err error
	if f.File, err = sealOf(made); err != nil {
		return trouble.New(trouble.Unreadable, "the frozen copy of %s cannot be kept: %w", f.Dataset, err)
	}
	description, err := json.MarshalIndent(f, "", "  ")
	if err != nil {
		return err
	}
	side := made + ".json"
	err = errors.Join(os.Rename(made, f.Path), os.WriteFile(side, append(description, '\n'), 0o644))
	if err == nil {
		err = os.Rename(side, name+".json")
	}
	if err != nil {
		return trouble.New(trouble.Unreadable, "the frozen copy of %s cannot be kept: %w", f.Dataset, err)
	}
	return nil
}

func (s *Store) frozenDir() (string, error) {
	state, err := s.State()
	if err != nil {
		return "", err
	}
	dir := filepath.Join(state, "frozen")
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return "", trouble.New(trouble.Unreadable, "the folder %s cannot be made: %w", dir, err)
	}
	return dir, nil
}

// Copies reads the descriptions of a dataset's frozen copies, the newest first; "" reads those of all datasets. The error is of the
// folder; a description that cannot be read does not count.
func (s *Store) Copies(name string) ([]*Frozen, error) {
	paths, err := filepath.Glob(filepath.Join(s.Root, ".tovrel", "frozen", "*.json"))
	if err != nil {
		return nil, err
	}
	type aged struct {
		f   *Frozen
		age int64
	}
	var found []aged
	for _, path := range paths {
		if f, age, ok := readCopy(path); ok && (name == "" || f.Dataset == name) {
			found = append(found, aged{f, age})
		}
	}
	slices.SortStableFunc(found, func(a, b aged) int { return cmp.Compare(b.age, a.age) })
	copies := make([]*Frozen, len(found))
	for i, a := range found {
		copies[i] = a.f
	}
	return copies, nil
}

// readCopy reads one description; a broken one, or one whose database is gone or no longer as it was made, does not count and is made
// again.
func readCopy(path string) (*Frozen, int64, bool) {
	body, err := os.ReadFile(path)
	if err != nil {
		return nil, 0, false
	}
	var f Frozen
	if json.Unmarshal(body, &f) != nil || len(f.Fingerprint) < fingerprintLength {
		return nil, 0, false
	}
	f.Path = strings.TrimSuffix(path, ".json") + databaseEnding(f.Engine)
	info, err := os.Stat(f.Path)
	if err != nil || f.File.broken(f.Path) {
		return nil, 0, false
	}
	return &f, info.ModTime().UnixNano(), true
}

// Damaged lists the files of a dataset's frozen copies that are no longer as they were made; they do not count and are made again.
func (s *Store) Damaged(dataset string) []string {
	paths, err := filepath.Glob(filepath.Join(s.Root, ".tovrel", "frozen", dataset+"-*.json"))
	if err != nil {
		return nil
	}
	var out []string
	for _, path := range paths {
		var f Frozen
		body, err := os.ReadFile(path)
		if err != nil || json.Unmarshal(body, &f) != nil || f.Dataset != dataset {
			continue
		}
		if file := strings.TrimSuffix(path, ".json") + databaseEnding(f.Engine); f.File.broken(file) {
			out = append(out, file)
		}
	}
	return out
}

// Spare lists the frozen copies that neither the present files nor a run needs, and the bytes that removing them frees. Needed
// are the fingerprints that runs were made on. The error is of the folder.
func (s *Store) Spare(needed map[string]bool) (spare []*Frozen, bytes int64, err error) {
	copies, err := s.Copies("")
	if err != nil {
		return nil, 0, err
	}
	current := s.current()
	for _, f := range copies {
		if needed[f.Fingerprint] || current[f.Fingerprint] {
			continue
		}
		if info, err := os.Stat(f.Path); err == nil {
			bytes += info.Size()
		}
		spare = append(spare, f)
	}
	return spare, bytes, nil
}

// current are the fingerprints of the copies of the present files.
func (s *Store) current() map[string]bool {
	out := map[string]bool{}
	for _, d := range s.Datasets {
		if d.Live() {
			continue
		}
		if state, f, err := s.FreezeState(d); err == nil && state == IsFrozen {
			out[f.Fingerprint] = true
		}
	}
	return out
}

// Remove removes a frozen copy, its description first, so that no half of it counts. It errs where a file cannot be removed.
func (f *Frozen) Remove() error {
	description := strings.TrimSuffix(f.Path, databaseEnding(f.Engine)) + ".json"
	if err := errors.Join(os.Remove(description), os.Remove(f.Path)); err != nil {
		return trouble.New(trouble.Unreadable, "the frozen copy of %s cannot be removed: %w", f.Dataset, err)
	}
	return nil
}
