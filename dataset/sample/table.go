package sample

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"tovrel/core/table"
	"tovrel/files"
)

// Plain reads a file that holds one table, as Open finds it written: whatever `data add` reads but a DuckDB file; of a workbook or a
// database file its only table. Rows at the end are never left out. A file that is written as usual is read by package tablefile alone.
// It errs where the file cannot be read, or holds several tables and names none.
func Plain(ctx context.Context, path string) (*table.Table, []Note, error) {
	ending := strings.ToLower(filepath.Ext(path))
	switch read := slices.DeleteFunc(Endings(), func(e string) bool { return e == ".duckdb" }); {
	case !slices.Contains(read, ending):
		return nil, nil, fmt.Errorf("%s: files ending in %q are not read; the endings are %s", path, ending, strings.Join(read, ", "))
	case hasEnding(path, ".json", ".jsonl", ".ndjson", ".parquet"):
		t, err := Read(ctx, path)
		return t, nil, err
	}
	scratch, err := os.MkdirTemp("", "tovrel-plain-")
	if err != nil {
		return nil, nil, err
	}
	defer os.RemoveAll(scratch) //nolint:errcheck // scratch
	usual := map[string]byte{".csv": ',', ".tsv": '\t'}[ending]
	if usual != 0 && headIsUsual(ctx, path, scratch, usual) {
		if t, err := Read(ctx, path); err == nil {
			return t, nil, nil
		}
	}
	s, err := Open(ctx, path, path, scratch, Options{})
	if err != nil && usual != 0 {
		t, err := Read(ctx, path) // what it cannot read either, it tells in the words of a table
		return t, nil, err
	}
	if err != nil {
		return nil, nil, err
	}
	if w := s.Guessed; w != (Writing{SkipLast: w.SkipLast}) {
		w.SkipLast = 0
		if s, err = Open(ctx, path, path, scratch, Options{Writing: w}); err != nil {
			return nil, nil, err
		}
		s.note("written-otherwise", 0, false, "read with %s", strings.Join(w.Entries(), ", "))
	}
	if s.Path == path && s.Skip == 0 && s.Delimiter == usual {
		t, err := Read(ctx, path)
		return t, nil, err
	}
	t, err := ReadCSV(s.Path, s.Delimiter, s.Skip)
	return t, s.Notes, err
}

// headIsUsual tells whether the first lines of a file are written as usual: most files are, and need no more than one reading.
func headIsUsual(ctx context.Context, path, scratch string, delimiter byte) bool {
	const most = 32 << 10
	f, err := files.Open(path)
	if err != nil {
		return false
	}
	defer f.Close() //nolint:errcheck // opened for reading only
	head, err := io.ReadAll(io.LimitReader(f, most))
	if err != nil {
		return false
	}
	if len(head) == most {
		head = head[:bytes.LastIndexByte(head, '\n')+1]
	}
	copied := filepath.Join(scratch, "head"+filepath.Ext(path))
	if err := os.WriteFile(copied, head, 0o600); err != nil {
		return false
	}
	s, err := Open(ctx, path, copied, scratch, Options{})
	return err == nil && s.Path == copied && s.Skip == 0 && s.Delimiter == delimiter && s.Guessed == (Writing{SkipLast: s.Guessed.SkipLast})
}
