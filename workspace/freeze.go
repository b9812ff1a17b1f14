package workspace

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"sort"
	"strings"

	"tovrel/core/source"
	"tovrel/engine/duckdb"
	"tovrel/trouble"
)

// Frozen describes a frozen dataset. It is kept as JSON beside the database file.
type Frozen struct {
	Dataset     string         `json:"dataset"`
	Fingerprint string         `json:"fingerprint"` // of contents, types and as-of
	AsOf        string         `json:"as_of"`
	Input       string         `json:"input"` // digest of what it was made from, to notice changes quickly
	Sources     []FrozenSource `json:"sources"`
	Tables      []duckdb.Table `json:"tables"`
	Tool        string         `json:"tool"`
	Path        string         `json:"-"` // of the database file
}

// FrozenSource is the file that a table was made from.
type FrozenSource struct {
	Table  string `json:"table"`
	File   string `json:"file"`
	SHA256 string `json:"sha256"`
}

// State of a dataset's frozen copy.
type State string

// The states.
const (
	IsFrozen State = "frozen"  // a copy of the present files is there
	IsStale  State = "stale"   // only copies of other contents are there
	Missing  State = "missing" // no copy is there
)

const fingerprintLength = 16 // hexadecimal digits that name a file

// FreezeState tells how a dataset stands, with its newest matching copy or, when stale, some older one.
func (w *Workspace) FreezeState(d *Dataset) (State, *Frozen, error) {
	sources, err := w.sources(d)
	if err != nil {
		return Missing, nil, err
	}
	copies, err := w.copies(d.Name)
	if err != nil {
		return Missing, nil, err
	}
	input := inputDigest(d, sources)
	for _, f := range copies {
		if f.Input == input {
			return IsFrozen, f, nil
		}
	}
	if len(copies) > 0 {
		return IsStale, copies[0], nil
	}
	return Missing, nil, nil
}

// Freeze gives the frozen copy of a dataset's present files, making it when it is missing. Made tells whether it was.
func (w *Workspace) Freeze(ctx context.Context, d *Dataset, tool string) (frozen *Frozen, made bool, err error) {
	state, frozen, err := w.FreezeState(d)
	if err != nil || state == IsFrozen {
		return frozen, false, err
	}
	sources, err := w.sources(d)
	if err != nil {
		return nil, false, err
	}
	dir, err := w.frozenDir()
	if err != nil {
		return nil, false, err
	}
	scratch, err := os.MkdirTemp(dir, "making-")
	if err != nil {
		return nil, false, trouble.New(trouble.Unreadable, "no room to freeze %s: %w", d.Name, err)
	}
	defer os.RemoveAll(scratch) //nolint:errcheck // what is left behind is tidied later
	database := filepath.Join(scratch, "data.duckdb")
	tables, err := duckdb.Freeze(ctx, database, w.imports(d))
	if err != nil {
		return nil, false, trouble.As(trouble.Unreadable, fmt.Errorf("dataset %s cannot be frozen:\n%w", d.Name, err))
	}
	frozen = &Frozen{Dataset: d.Name, AsOf: d.AsOf, Input: inputDigest(d, sources), Sources: sources, Tables: tables, Tool: tool}
	frozen.Fingerprint = fingerprint(frozen)
	return frozen, true, w.keep(dir, database, frozen)
}

// keep moves a finished copy into its place, the description last: a copy without one does not count.
func (w *Workspace) keep(dir, made string, f *Frozen) error {
	name := filepath.Join(dir, f.Dataset+"-"+f.Fingerprint[:fingerprintLength])
	f.Path = name + ".duckdb"
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

func (w *Workspace) frozenDir() (string, error) {
	state, err := w.State()
	if err != nil {
		return "", err
	}
	dir := filepath.Join(state, "frozen")
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return "", trouble.New(trouble.Unreadable, "the folder %s cannot be made: %w", dir, err)
	}
	return dir, nil
}

// copies reads the descriptions of a dataset's frozen copies, the newest first.
func (w *Workspace) copies(name string) ([]*Frozen, error) {
	paths, err := filepath.Glob(filepath.Join(w.Root, ".tovrel", "frozen", name+"-*.json"))
	if err != nil {
		return nil, err
	}
	type aged struct {
		f   *Frozen
		age int64
	}
	var found []aged
	for _, path := range paths {
		f, age, ok := readCopy(path)
		if ok && f.Dataset == name {
			found = append(found, aged{f, age})
		}
	}
	sort.SliceStable(found, func(i, j int) bool { return found[i].age > found[j].age })
	copies := make([]*Frozen, len(found))
	for i, a := range found {
		copies[i] = a.f
	}
	return copies, nil
}

// readCopy reads one description; a broken one, or one whose database is gone, does not count and is made again.
func readCopy(path string) (*Frozen, int64, bool) {
	body, err := os.ReadFile(path)
	if err != nil {
		return nil, 0, false
	}
	var f Frozen
	if json.Unmarshal(body, &f) != nil || len(f.Fingerprint) < fingerprintLength {
		return nil, 0, false
	}
	f.Path = strings.TrimSuffix(path, ".json") + ".duckdb"
	info, err := os.Stat(f.Path)
	if err != nil {
		return nil, 0, false
	}
	return &f, info.ModTime().UnixNano(), true
}

// sources digests the dataset's files. A missing file is a problem at its place in tovrel.yaml.
func (w *Workspace) sources(d *Dataset) ([]FrozenSource, error) {
	var out []FrozenSource
	var problems source.Problems
	for _, t := range d.Tables {
		digest, err := digestFile(w.Path(t.File))
		if err != nil {
			problems = append(problems, unreadable(t, err))
			continue
		}
		out = append(out, FrozenSource{t.Name, t.File, digest})
	}
	if len(problems) > 0 {
		return nil, trouble.As(trouble.Unreadable, problems)
	}
	return out, nil
}

func unreadable(t Table, err error) source.Problem {
	p := source.Problem{Position: t.At, Code: "unreadable-file", Severity: source.Error}
	if errors.Is(err, fs.ErrNotExist) {
		p.Message, p.Remedy = fmt.Sprintf("table %s: the file %s does not exist", t.Name, t.File), "correct the path, relative to the workspace"
		return p
	}
	p.Message, p.Remedy = fmt.Sprintf("table %s: %v", t.Name, err), "make the file readable"
	return p
}

func digestFile(path string) (string, error) {
	f, err := os.Open(path)
	if err != nil {
		return "", err
	}
	defer f.Close() //nolint:errcheck // opened for reading only
	h := sha256.New()
	if _, err := io.Copy(h, f); err != nil {
		return "", err
	}
	return hex.EncodeToString(h.Sum(nil)), nil
}

func (w *Workspace) imports(d *Dataset) []duckdb.Source {
	var out []duckdb.Source
	for _, t := range d.Tables {
		out = append(out, duckdb.Source{Table: t.Name, File: t.File, Path: w.Path(t.File), Types: t.Types})
	}
	return out
}

// inputDigest is of everything that a frozen copy is made from: file contents, set types and as-of.
func inputDigest(d *Dataset, sources []FrozenSource) string {
	h := sha256.New()
	fmt.Fprintf(h, "tovrel-input/1\nas-of %s\n", d.AsOf)
	byTable := map[string]Table{}
	for _, t := range d.Tables {
		byTable[t.Name] = t
	}
	for _, s := range sortedSources(sources) {
		fmt.Fprintf(h, "table %q %s %s\n", s.Table, strings.ToLower(filepath.Ext(s.File)), s.SHA256)
		types := byTable[s.Table].Types
		var names []string
		for n := range types {
			names = append(names, n)
		}
		sort.Strings(names)
		for _, n := range names {
			fmt.Fprintf(h, "type %q %s\n", n, types[n])
		}
	}
	return hex.EncodeToString(h.Sum(nil))
}

// fingerprint is of contents, types and as-of: the same input gives the same fingerprint on every machine.
func fingerprint(f *Frozen) string {
	h := sha256.New()
	fmt.Fprintf(h, "tovrel-dataset/1\nas-of %s\n", f.AsOf)
	tables := map[string]duckdb.Table{}
	for _, t := range f.Tables {
		tables[t.Name] = t
	}
	for _, s := range sortedSources(f.Sources) {
		fmt.Fprintf(h, "table %q %s\n", s.Table, s.SHA256)
		for _, c := range tables[s.Table].Columns {
			fmt.Fprintf(h, "column %q %s\n", c.Name, c.Type)
		}
	}
	return hex.EncodeToString(h.Sum(nil))
}

func sortedSources(sources []FrozenSource) []FrozenSource {
	sorted := append([]FrozenSource(nil), sources...)
	sort.Slice(sorted, func(i, j int) bool { return sorted[i].Table < sorted[j].Table })
	return sorted
}

// CountTables is "3 tables".
func CountTables(d *Dataset) string { return plural(len(d.Tables), "table") }
