package dataset

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"tovrel/engine"
	"tovrel/engine/duckdb"
	"tovrel/engine/sqlite"
	"tovrel/files"
	"tovrel/trouble"
	"tovrel/workspace"
)

// State of a dataset's frozen copy.
type State string

// The states.
const (
	IsFrozen State = "frozen"  // a copy of the present files is there
	IsStale  State = "stale"   // only copies of other contents are there
	Missing  State = "missing" // no copy is there
	IsLive   State = "live"    // a server's database as it is: there is nothing to freeze
)

// FreezeState tells how a dataset stands, with its newest matching copy or, when stale, some older one. It errs where a file of the
// dataset cannot be read, at its place in tovrel.yaml.
func (s *Store) FreezeState(d *workspace.Dataset) (State, *Frozen, error) {
	if d.Live() {
		f, err := s.live(context.Background(), d)
		if err != nil {
			return Missing, nil, err
		}
		return IsLive, f, nil
	}
	sources, err := s.sources(d)
	if err != nil {
		return Missing, nil, err
	}
	copies, err := s.Copies(d.Name)
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

// Freeze gives the frozen copy of a dataset's present files, making it when it is missing. Made tells whether it was. It errs where a
// file cannot be read or imported, at its place; nothing is kept then.
func (s *Store) Freeze(ctx context.Context, d *workspace.Dataset, tool string) (frozen *Frozen, made bool, err error) {
	state, frozen, err := s.FreezeState(d)
	if err != nil || state == IsFrozen || state == IsLive {
		return frozen, false, err
	}
	dir, err := s.frozenDir()
	if err != nil {
		return nil, false, err
	}
	files.SweepScratch(dir, "making-")
	scratch, err := os.MkdirTemp(dir, "making-"+files.ScratchMark())
	if err != nil {
		return nil, false, trouble.New(trouble.Unreadable, "no room to freeze %s: %w", d.Name, err)
	}
	defer os.RemoveAll(scratch) //nolint:errcheck // what is left behind is tidied later
	frozen, err = s.make(ctx, d, scratch)
	if err != nil {
		return nil, false, err
	}
	frozen.Tool = tool
	return frozen, true, s.keep(dir, frozen.Path, frozen)
}

// make freezes a dataset into a scratch folder.
func (s *Store) make(ctx context.Context, d *workspace.Dataset, scratch string) (*Frozen, error) {
	sources, err := s.sources(d)
	if err != nil {
		return nil, err
	}
	f := &Frozen{Dataset: d.Name, AsOf: d.AsOf, Input: inputDigest(d, sources), Sources: sources}
	if d.Connect != "" {
		err = s.copyDatabase(ctx, d, f, scratch)
	} else {
		err = s.importTables(ctx, d, f, scratch)
	}
	if err != nil {
		return nil, trouble.As(trouble.Unreadable, fmt.Errorf("dataset %s cannot be frozen:\n%w", d.Name, err))
	}
	f.Fingerprint = fingerprint(d, f)
	return f, nil
}

func (s *Store) importTables(ctx context.Context, d *workspace.Dataset, f *Frozen, scratch string) error {
	f.Path = filepath.Join(scratch, "data.duckdb")
	imports, notes, err := s.imports(ctx, d, scratch)
	if err != nil {
		return err
	}
	f.Notes = notes
	if f.Tables, err = duckdb.Freeze(ctx, f.Path, imports); err != nil {
		return err
	}
	return compute(ctx, d, f)
}

// copyDatabase freezes a dataset that is a database file of its own.
func (s *Store) copyDatabase(ctx context.Context, d *workspace.Dataset, f *Frozen, scratch string) (err error) {
	f.Path = filepath.Join(scratch, "data"+filepath.Ext(d.File))
	if d.Connect == sqlite.Name {
		f.Engine = sqlite.Name
		if err := sqlite.Copy(ctx, s.Path(d.File), f.Path); err != nil {
			return err
		}
		f.Tables, err = sqlite.Describe(ctx, f.Path)
		return err
	}
	body, err := files.Read(s.Path(d.File), files.Data)
	if err == nil {
		err = os.WriteFile(f.Path, body, 0o644)
	}
	if err != nil {
		return err
	}
	f.Tables, err = duckdb.Describe(ctx, f.Path)
	return err
}

// Change is how a table differs from its frozen copy.
type Change struct {
	Table string
	What  string // in words: "changed", "new", "gone"
	Gone  int64  // rows of the copy that are no longer there
	Added int64  // rows that the copy does not have
}

// Changes tells how a dataset's present files differ from a frozen copy, table by table. It errs where a file cannot be read or imported.
func (s *Store) Changes(ctx context.Context, d *workspace.Dataset, old *Frozen) (changes []Change, err error) {
	files.SweepScratch(os.TempDir(), "tovrel-compare-")
	scratch, err := os.MkdirTemp("", "tovrel-compare-"+files.ScratchMark())
	if err != nil {
		return nil, trouble.New(trouble.Unreadable, "no room to compare %s: %w", d.Name, err)
	}
	defer func() { err = errors.Join(err, os.RemoveAll(scratch)) }()
	present, err := s.make(ctx, d, scratch)
	if err != nil {
		return nil, err
	}
	if old.AsOf != present.AsOf {
		changes = append(changes, Change{What: fmt.Sprintf("as-of was %s", orNone(old.AsOf))})
	}
	before := map[string]engine.Table{}
	for _, t := range old.Tables {
		before[t.Name] = t
	}
	for _, t := range present.Tables {
		o, known := before[t.Name]
		delete(before, t.Name)
		if !known {
			changes = append(changes, Change{Table: t.Name, What: "new", Added: t.Rows})
			continue
		}
		c, err := changeOf(ctx, old, present, o, t)
		if err != nil {
			return nil, err
		}
		if c.What != "" {
			changes = append(changes, c)
		}
	}
	for _, t := range old.Tables {
		if _, gone := before[t.Name]; gone {
			changes = append(changes, Change{Table: t.Name, What: "gone", Gone: t.Rows})
		}
	}
	return changes, nil
}

func orNone(text string) string {
	if text == "" {
		return "none"
	}
	return text
}

// changeOf compares one table; What is "" where nothing differs.
func changeOf(ctx context.Context, old, present *Frozen, before, now engine.Table) (Change, error) {
	c := Change{Table: now.Name}
	if columnsDiffer(before, now) {
		c.What, c.Gone, c.Added = "other columns or types", before.Rows, now.Rows
		return c, nil
	}
	differ := duckdb.Differ
	if present.Engine == sqlite.Name {
		differ = sqlite.Differ
	}
	var err error
	if c.Gone, c.Added, err = differ(ctx, old.Path, present.Path, now.Name); err != nil {
		return c, trouble.As(trouble.Unreadable, err)
	}
	if c.Gone+c.Added > 0 {
		c.What = "changed"
	}
	return c, nil
}

func columnsDiffer(a, b engine.Table) bool {
	if len(a.Columns) != len(b.Columns) {
		return true
	}
	for i := range a.Columns {
		if a.Columns[i] != b.Columns[i] {
			return true
		}
	}
	return false
}

// CountTables is "3 tables".
func CountTables(d *workspace.Dataset) string {
	if d.Connect != "" {
		return d.File
	}
	return workspace.Plural(len(d.Tables), "table")
}
