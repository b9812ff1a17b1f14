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
// It errs where the file cannot be read, or holds several tables and names none. A sheet of a workbook is named as book.xlsx#Sheet, a range
// of its cells as book.xlsx#Sheet!A3:D20; the first row of a range names the columns.
func Plain(ctx context.Context, path string) (*table.Table, []Note, error) {
	path, inside := placeOf(path)
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
	s, err := Open(ctx, path, path, scratch, inside)
	if err != nil && usual != 0 {
		t, err := Read(ctx, path) // what it cannot read either, it tells in the words of a table
		return t, nil, err
	}
	if err != nil {
		return nil, nil, err
	}
	if w := s.Guessed; w != (Writing{SkipLast: w.SkipLast}) {
		w.SkipLast = 0
		inside.Writing = w
		if s, err = Open(ctx, path, path, scratch, inside); err != nil {
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

// placeOf takes a path with a sheet and a range apart. A file that is called so is one.
func placeOf(path string) (file string, inside Options) {
	file, place, has := strings.Cut(path, "#")
	if _, err := os.Stat(path); !has || err == nil || !hasEnding(file, ".xlsx") {
		return path, Options{}
	}
	at := strings.LastIndexByte(place, '!')
	if at < 0 {
		at = len(place)
	} else {
		inside.Range = place[at+1:]
	}
	inside.Sheet = strings.ReplaceAll(strings.TrimSuffix(strings.TrimPrefix(place[:at], "'"), "'"), "''", "'")
	return file, inside
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
