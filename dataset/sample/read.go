package sample

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"tovrel/core/source"
	"tovrel/core/table"
	"tovrel/engine/duckdb"
	"tovrel/files"
	"tovrel/trouble"
)

// tableEndings lists the file endings that are read.
func tableEndings() []string { return []string{".csv", ".tsv", ".json", ".jsonl", ".parquet"} }

// Read reads a file by its ending. Errors are of kind trouble.Unreadable and name the file and line.
func Read(ctx context.Context, path string) (*table.Table, error) {
	t, err := read(ctx, path)
	if err == nil {
		return t, nil
	}
	var pathError *os.PathError
	if errors.As(err, &pathError) {
		err = fmt.Errorf("%s cannot be read: %w", path, pathError.Err)
	}
	return nil, trouble.As(trouble.Unreadable, err)
}

func read(ctx context.Context, path string) (*table.Table, error) {
	switch ending := strings.ToLower(filepath.Ext(path)); ending {
	case ".csv":
		return readCSV(path, ',')
	case ".tsv":
		return readCSV(path, '\t')
	case ".json":
		body, err := files.Read(path, files.Data)
		if err != nil {
			return nil, err
		}
		if bytes.HasPrefix(bytes.TrimSpace(body), []byte("[")) {
			return readObjects(path, body)
		}
		t, err := table.FromJSON(body)
		if err != nil {
			return nil, defect(path, jsonLine(body, err), err.Error(), "")
		}
		return t, nil
	case ".jsonl", ".ndjson":
		return readLines(path)
	case ".parquet":
		if err := files.Check(path); err != nil {
			return nil, err
		}
		return duckdb.ReadParquet(ctx, path)
	default:
		return nil, fmt.Errorf("%s: files ending in %q are not read; the endings are %s", path, ending, strings.Join(tableEndings(), ", "))
	}
}

func defect(path string, line int, message, remedy string) error {
	return source.Problems{{Position: source.Position{File: path, Line: line}, Code: "unreadable-table", Severity: source.Error,
		Message: message, Remedy: remedy}}
}

// jsonLine is the line that a JSON error is about, 0 where it is not known.
func jsonLine(body []byte, err error) int {
	var syntax *json.SyntaxError
	if errors.As(err, &syntax) {
		return bytes.Count(body[:min(int(syntax.Offset), len(body))], []byte("\n")) + 1
	}
	return 0
}

// readLines reads JSON Lines: an object each; columns in the order in which they first occur, null where one is missing.
func readLines(path string) (*table.Table, error) {
	f, err := files.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close() //nolint:errcheck // opened for reading only
	l := lines{index: map[string]int{}}
	r := bufio.NewReader(f)
	for number := 1; ; number++ {
		text, err := r.ReadBytes('\n')
		if len(bytes.TrimSpace(text)) > 0 {
			if problem := l.add(text); problem != nil {
				return nil, defect(path, number, "not a JSON object: "+problem.Error(), `write {"column": value, …} on one line`)
			}
		}
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return nil, err
		}
	}
	return l.table(), nil
}

// readObjects reads a JSON array of objects, as readLines reads lines of them.
func readObjects(path string, body []byte) (*table.Table, error) {
	var objects []json.RawMessage
	if err := json.Unmarshal(body, &objects); err != nil {
		return nil, defect(path, jsonLine(body, err), err.Error(), "")
	}
	l := lines{index: map[string]int{}}
	for i, text := range objects {
		if err := l.add(text); err != nil {
			return nil, defect(path, 0, fmt.Sprintf("entry %d is not a JSON object: %v", i+1, err), `write [{"column": value, …}, …]`)
		}
	}
	return l.table(), nil
}

type lines struct {
	names  []string
	index  map[string]int
	cells  [][]table.Cell
	rows   int
	filled int // cells that were written
}

// mostEmpty is how many cells a table of objects may have, where hardly one in twenty is written.
const mostEmpty = 5_000_000

func (l *lines) table() *table.Table {
	t := &table.Table{}
	for i, name := range l.names {
		for len(l.cells[i]) < l.rows {
			l.cells[i] = append(l.cells[i], table.Cell{Null: true})
		}
		t.Columns = append(t.Columns, table.FromCells(name, l.cells[i]))
	}
	return t
}

// add reads one object, keeping the order of its keys.
func (l *lines) add(text []byte) error {
	decoder := json.NewDecoder(bytes.NewReader(text))
	if token, err := decoder.Token(); err != nil || token != json.Delim('{') {
		return fmt.Errorf("it begins with something else")
	}
	for decoder.More() {
		key, err := decoder.Token()
		if err != nil {
			return err
		}
		var raw json.RawMessage
		if err := decoder.Decode(&raw); err != nil {
			return err
		}
		name, _ := key.(string)
		i, known := l.index[name]
		if !known {
			i = len(l.names)
			l.index[name] = i
			l.names, l.cells = append(l.names, name), append(l.cells, nil)
		}
		for len(l.cells[i]) < l.rows {
			l.cells[i] = append(l.cells[i], table.Cell{Null: true})
		}
		l.cells[i] = append(l.cells[i][:l.rows], table.CellFromJSON(raw))
		l.filled++
	}
	if _, err := decoder.Token(); err != nil {
		return err
	}
	l.rows++
	if all := l.rows * len(l.names); all > mostEmpty && l.filled*20 < all {
		return fmt.Errorf("%d objects have %d different keys between them, nearly all of them missing in each: that is no table", l.rows,
			len(l.names))
	}
	return nil
}
