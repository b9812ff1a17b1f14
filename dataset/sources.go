package dataset

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"hash"
	"io"
	"io/fs"
	"maps"
	"path/filepath"
	"slices"
	"strings"

	"github.com/zeebo/blake3"

	"tovrel/core/source"
	"tovrel/dataset/sample"
	"tovrel/engine"
	"tovrel/engine/duckdb"
	"tovrel/files"
	"tovrel/trouble"
	"tovrel/workspace"
)

// files lists the files of a table, as written in tovrel.yaml or found by its pattern, sorted.
func (s *Store) files(t workspace.Table) ([]string, error) {
	if !strings.ContainsAny(t.File, "*?[") {
		return []string{t.File}, nil
	}
	found, err := filepath.Glob(s.Path(t.File))
	if err != nil || len(found) == 0 {
		return nil, source.Problems{{Position: t.At, Code: "no-files", Severity: source.Error,
			Message: fmt.Sprintf("table %s: no file matches %s", t.Name, t.File), Remedy: "correct the pattern, relative to the workspace"}}
	}
	slices.Sort(found)
	for i, f := range found {
		if relative, err := filepath.Rel(s.Root, f); err == nil && !filepath.IsAbs(t.File) {
			found[i] = relative
		}
	}
	return found, nil
}

// sources digests the dataset's files. A missing file is a problem at its place in tovrel.yaml.
func (s *Store) sources(d *workspace.Dataset) ([]FrozenSource, error) {
	var out []FrozenSource
	var problems source.Problems
	tables := d.Tables
	if d.Connect != "" {
		tables = []workspace.Table{{At: d.At, File: d.File}}
	}
	for _, t := range tables {
		if t.SQL != "" {
			out = append(out, computedSource(t))
			continue
		}
		files, err := s.files(t)
		var found source.Problems
		if errors.As(err, &found) {
			problems = append(problems, found...)
			continue
		}
		for _, file := range files {
			digest, err := s.digest(file)
			if err != nil {
				problems = append(problems, unreadable(t, file, err))
				continue
			}
			out = append(out, FrozenSource{t.Name, file, digest})
		}
	}
	if len(problems) > 0 {
		return nil, trouble.As(trouble.Unreadable, problems)
	}
	return out, nil
}

func unreadable(t workspace.Table, file string, err error) source.Problem {
	p := source.Problem{Position: t.At, Code: "unreadable-file", Severity: source.Error}
	name := ""
	if t.Name != "" {
		name = "table " + t.Name + ": "
	}
	if errors.Is(err, fs.ErrNotExist) {
		p.Message, p.Remedy = fmt.Sprintf("%sthe file %s does not exist", name, file), "correct the path, relative to the workspace"
		return p
	}
	p.Message, p.Remedy = fmt.Sprintf("%s%v", name, err), "make the file readable"
	return p
}

// digest is of a file's bytes. A file that did not change since this process read it is not read again.
func (s *Store) digest(file string) (string, error) {
	f, err := files.Open(s.Path(file))
	if err != nil {
		return "", err
	}
	defer f.Close() //nolint:errcheck // opened for reading only
	info, err := f.Stat()
	if err != nil {
		return "", err
	}
	key := fmt.Sprintf("%s %d %d", f.Name(), info.Size(), info.ModTime().UnixNano())
	if known, ok := s.digests[key]; ok {
		return known, nil
	}
	h := blake3.New()
	if _, err := io.CopyBuffer(h, f, make([]byte, 1<<20)); err != nil {
		return "", err
	}
	s.digests[key] = hex.EncodeToString(h.Sum(nil))
	return s.digests[key], nil
}

// imports opens the files of a dataset's tables and says what was noticed of them.
func (s *Store) imports(ctx context.Context, d *workspace.Dataset, scratch string) ([]duckdb.Source, []FileNote, error) {
	var out []duckdb.Source
	var notes []FileNote
	for _, t := range d.Tables {
		if t.SQL != "" {
			continue
		}
		files, err := s.files(t)
		if err != nil {
			return nil, nil, err
		}
		into := duckdb.Source{Table: t.Name, Types: t.Types, NullWords: t.NullWords}
		for _, file := range files {
			sample, err := sample.Open(ctx, file, s.Path(file), scratch, t.Options)
			if err != nil {
				return nil, nil, err
			}
			into.Samples = append(into.Samples, &sample.Sample)
			for _, n := range sample.Notes {
				notes = append(notes, FileNote{t.Name, file, n})
			}
		}
		for _, other := range into.Samples[1:] {
			if other.Format != into.Samples[0].Format {
				return nil, nil, source.Problems{{Position: t.At, Code: "other-format", Severity: source.Error,
					Message: fmt.Sprintf("table %s: %s and %s are of different kinds", t.Name, into.Samples[0].File,
						other.File), Remedy: "files of one table need the same kind"}}
			}
		}
		out = append(out, into)
	}
	return out, notes, nil
}

// inputDigest is of everything that a frozen copy is made from: file contents, set types and options, and as-of.
func inputDigest(d *workspace.Dataset, sources []FrozenSource) string {
	h := sha256.New()
	fmt.Fprintf(h, "tovrel-input/1\nas-of %s\n", d.AsOf)
	byTable := tablesByName(d)
	for _, s := range sortedSources(sources) {
		fmt.Fprintf(h, "table %q %s %s\n", s.Table, strings.ToLower(filepath.Ext(s.File)), s.Digest)
		types := byTable[s.Table].Types
		names := slices.Sorted(maps.Keys(types))
		for _, n := range names {
			fmt.Fprintf(h, "type %q %s\n", n, types[n])
		}
		digestOptions(h, byTable[s.Table])
	}
	return hex.EncodeToString(h.Sum(nil))
}

// digestOptions writes how a table's files are read, where that is said: it decides the contents like the files themselves.
func digestOptions(h hash.Hash, t workspace.Table) {
	if o := t.Options; o != (sample.Options{}) {
		fmt.Fprintf(h, "options %q %q %d %q %q\n", o.Inside, o.Sheet, o.HeaderRow, o.Delimiter, o.Encoding)
	}
	if w := t.Options.Writing; w != (sample.Writing{}) {
		fmt.Fprintf(h, "writing %q %q %q %d\n", w.Decimal, w.Thousands, w.DateFormat, w.SkipLast)
	}
	if len(t.NullWords) > 0 {
		fmt.Fprintf(h, "null words %q\n", t.NullWords)
	}
}

func tablesByName(d *workspace.Dataset) map[string]workspace.Table {
	tables := map[string]workspace.Table{}
	for _, t := range d.Tables {
		tables[t.Name] = t
	}
	return tables
}

// fingerprint is of contents, types and as-of: the same input gives the same fingerprint on every machine.
func fingerprint(d *workspace.Dataset, f *Frozen) string {
	h := sha256.New()
	fmt.Fprintf(h, "tovrel-dataset/1\nas-of %s\n", f.AsOf)
	digestSources(h, d, f, f.Sources)
	return hex.EncodeToString(h.Sum(nil))
}

// digestSources writes some of the files that a frozen copy was made from, with what decides how they are read.
func digestSources(h hash.Hash, d *workspace.Dataset, f *Frozen, sources []FrozenSource) {
	tables := map[string]engine.Table{}
	for _, t := range f.Tables {
		tables[t.Name] = t
	}
	byTable := tablesByName(d)
	for _, s := range sortedSources(sources) {
		fmt.Fprintf(h, "table %q %s\n", s.Table, s.Digest)
		for _, c := range tables[s.Table].Columns {
			fmt.Fprintf(h, "column %q %s\n", c.Name, c.Type)
		}
		digestOptions(h, byTable[s.Table])
	}
}

// TableFingerprints are those of a frozen copy's tables, by their names in lower case: each is of the contents, types and as-of of one. The
// tables of a database file move together.
func TableFingerprints(d *workspace.Dataset, f *Frozen) map[string]string {
	out := make(map[string]string, len(f.Tables))
	for _, t := range f.Tables {
		h := sha256.New()
		fmt.Fprintf(h, "tovrel-table/1\nas-of %s\n", f.AsOf)
		digestSources(h, d, f, slices.DeleteFunc(slices.Clone(f.Sources), func(s FrozenSource) bool {
			return s.Table != "" && !strings.EqualFold(s.Table, t.Name)
		}))
		const short = 8 // bytes, as of the digests beside it
		out[strings.ToLower(t.Name)] = hex.EncodeToString(h.Sum(nil)[:short])
	}
	return out
}

// sortedSources are by table, the files of one in the order in which they are read.
func sortedSources(sources []FrozenSource) []FrozenSource {
	sorted := append([]FrozenSource(nil), sources...)
	slices.SortStableFunc(sorted, func(a, b FrozenSource) int { return cmp.Compare(a.Table, b.Table) })
	return sorted
}
