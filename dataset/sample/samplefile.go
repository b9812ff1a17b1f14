// Package sample reads sample files. For the engine's loader it makes any file ready: it finds out how a file is written (encoding,
// delimiter, header line, sheet) and says so, and brings what the engine does not read itself to plain CSV; it infers no types where
// the file has none, and changes no value. For `match` and expected files it reads one table: CSV, TSV, JSON ({"columns", "rows"} or an
// array of objects), JSON Lines or Parquet, with types inferred as in golden tables.
package sample

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"tovrel/core/source"
	"tovrel/engine/duckdb"
	"tovrel/files"
)

// Options are what the user says about a file; zero values are found out.
type Options struct {
	Inside    string // table in a database file
	Sheet     string // of a spreadsheet
	Range     string // of its cells, such as A3:D20; "" for all
	HeaderRow int    // counted from 1
	Delimiter string
	Encoding  string // utf-8, utf-16 or latin-1
	Writing          // of numbers and dates in a text file
}

// Sample is a file that the engine can import, and what its reader should know about it.
type Sample struct {
	duckdb.Sample
	Notes   []Note
	Guessed Writing // how the file seems to write numbers and dates, where that was not said
}

// Note is something about the file that its reader should know.
type Note struct {
	Code    string `json:"code"`
	Line    int    `json:"line,omitempty"` // 0 for the whole file
	Message string `json:"message"`
	Warning bool   `json:"warning,omitempty"` // a defect of the file, rather than how it is written
}

func (s *Sample) note(code string, line int, warning bool, format string, args ...any) {
	s.Notes = append(s.Notes, Note{code, line, fmt.Sprintf(format, args...), warning})
}

// Endings lists the file endings that are read.
func Endings() []string {
	return []string{".csv", ".tsv", ".txt", ".json", ".jsonl", ".ndjson", ".parquet", ".xlsx", ".sqlite", ".sqlite3", ".db", ".duckdb"}
}

// Readable tells whether a file's ending is one that is read.
func Readable(file string) bool {
	for _, e := range Endings() {
		if strings.EqualFold(filepath.Ext(file), e) {
			return true
		}
	}
	return false
}

// Open finds out how a file is written. Scratch is a folder for the files that have to be made. Errors of the file are
// source.Problems.
func Open(ctx context.Context, file, path, scratch string, o Options) (*Sample, error) {
	s := &Sample{Sample: duckdb.Sample{File: file, Path: path, Format: duckdb.CSV, Delimiter: ','}}
	if err := files.Check(path); err != nil {
		return nil, s.problem(0, "unreadable-file", "cannot be opened: "+reason(err), "check the path under tables: in tovrel.yaml")
	}
	var err error
	switch strings.ToLower(filepath.Ext(path)) {
	case ".parquet":
		s.Format = duckdb.Parquet
	case ".duckdb":
		s.Format, s.Inside = duckdb.File, o.Inside
	case ".xlsx":
		err = s.openSheet(scratch, o)
	case ".sqlite", ".sqlite3", ".db":
		err = s.openSQLite(ctx, scratch, o)
	case ".json", ".jsonl", ".ndjson":
		err = s.openJSON(ctx, scratch)
	default:
		err = s.openText(scratch, o)
	}
	return s, err
}

// problem is a defect of the file.
func (s *Sample) problem(line int, code, message, remedy string) error {
	return source.Problems{{Position: source.Position{File: s.File, Line: line}, Code: code, Severity: source.Error,
		Message: message, Remedy: remedy}}
}

// name makes the header's names usable: blank ones get a name by their place, repeated ones a number.
func (s *Sample) name(header []string, line int) {
	seen := map[string]int{}
	next := map[string]int{} // the number that the next of a name gets
	for i, written := range header {
		n := strings.TrimSpace(strings.ReplaceAll(written, "\n", " "))
		if n == "" {
			n = fmt.Sprintf("column_%d", i+1)
			s.note("empty-header", line, true, "column %d has no name; it is called %s", i+1, n)
		}
		if before := seen[strings.ToLower(n)]; before > 0 {
			was := n
			k := max(2, next[strings.ToLower(was)])
			for ; seen[strings.ToLower(n)] > 0; k++ {
				n = fmt.Sprintf("%s_%d", was, k)
			}
			next[strings.ToLower(was)] = k
			s.note("duplicate-header", line, true, "columns %d and %d are both named %q; the second is called %s", before, i+1, was, n)
		}
		seen[strings.ToLower(n)] = i + 1
		s.Names = append(s.Names, n)
	}
}

func reason(err error) string {
	if p, ok := err.(*os.PathError); ok {
		return p.Err.Error()
	}
	return err.Error()
}
