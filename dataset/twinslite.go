package dataset

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"tovrel/core/twin"
	"tovrel/dataset/sample"
	"tovrel/engine"
	"tovrel/engine/duckdb"
	"tovrel/engine/sqlite"
	"tovrel/files"
	"tovrel/trouble"
)

// AsTables are the tables of a frozen copy as DuckDB holds them, which is where twins are planned and made: of one on SQLite a new file in
// a scratch folder, which done removes. It errs where that cannot be written or read.
func (s *Store) AsTables(ctx context.Context, f *Frozen) (path string, tables []engine.Table, done func(), err error) {
	if f.Engine != sqlite.Name {
		return f.Path, f.Stored(), func() {}, nil
	}
	files.SweepScratch(os.TempDir(), "tovrel-tables-")
	scratch, err := os.MkdirTemp("", "tovrel-tables-"+files.ScratchMark())
	if err != nil {
		return "", nil, nil, trouble.New(trouble.Unreadable, "no room for the tables of %s: %w", f.Dataset, err)
	}
	done = func() { _ = os.RemoveAll(scratch) } // what is left behind is swept later
	path = filepath.Join(scratch, "tables.duckdb")
	if tables, err = importLite(ctx, f, path, scratch); err != nil {
		done()
		return "", nil, nil, trouble.As(trouble.Unreadable, fmt.Errorf("the tables of %s cannot be read for twins: %w", f.Dataset, err))
	}
	return path, tables, done, nil
}

func importLite(ctx context.Context, f *Frozen, path, scratch string) ([]engine.Table, error) {
	names, err := sqlite.Stored(ctx, f.Path)
	if err != nil {
		return nil, err
	}
	var sources []duckdb.Source
	for _, name := range names {
		opened, err := sample.Open(ctx, name, f.Path, scratch, sample.Options{Inside: name})
		if err != nil {
			return nil, err
		}
		computed, err := sqlite.Computed(ctx, f.Path, name)
		if err != nil {
			return nil, err
		}
		sources = append(sources, duckdb.Source{Table: name, Samples: []*duckdb.Sample{&opened.Sample}, LeftOut: computed})
	}
	return duckdb.Freeze(ctx, path, sources)
}

// twinOfLite makes a twin of a database on SQLite: a copy of the file, schema and all, whose tables have the rows of a twin that DuckDB
// makes.
func (s *Store) twinOfLite(ctx context.Context, f *Frozen, scratch string, plan twin.Plan, each func(done, total int)) ([]engine.Table,
	error) {
	path, tables, done, err := s.AsTables(ctx, f)
	if err != nil {
		return nil, err
	}
	defer done()
	changed := filepath.Join(filepath.Dir(path), "twin.duckdb")
	if _, err := duckdb.Twin(ctx, path, changed, plan, each); err != nil {
		return nil, err
	}
	if err := sqlite.Copy(ctx, f.Path, scratch); err != nil {
		return nil, err
	}
	rows := func(path string, t engine.Table) sqlite.Rows {
		return func(each func(cells []*string) error) error { return duckdb.EachRow(ctx, path, t, each) }
	}
	var rewritten []sqlite.Rewritten
	for _, t := range tables {
		rewritten = append(rewritten, sqlite.Rewritten{Table: t, Before: rows(path, t), After: rows(changed, t)})
	}
	if err := sqlite.Rewrite(ctx, scratch, rewritten); err != nil {
		return nil, err
	}
	return sqlite.Describe(ctx, scratch)
}
