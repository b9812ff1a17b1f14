package sample

import (
	"bytes"
	"fmt"
	"math"
	"strings"
	"unsafe"

	"golang.org/x/sync/errgroup"

	"tovrel/core/table"
	"tovrel/core/value"
	"tovrel/files"
	"tovrel/trouble"
)

// sheet is a CSV file taken apart: the places of its cells in its bytes. A million rows need no string for each cell.
type csvText struct {
	path      string
	text      []byte
	delimiter byte
	skip      int // lines before the header line
	columns   int
	start     []uint32 // of each cell, row by row
	end       []uint32 // behind it
	quoted    map[int]string
}

// maxFile is the largest file that is read: places are 32-bit numbers.
const maxFile = math.MaxUint32

// readCSV reads a file with a header line (RFC 4180: quotes are doubled inside quotes). Every row must have as many cells as
// the header. It errs with the line where a quote is open or a row has other cells than the header line.
func readCSV(path string, delimiter byte) (*table.Table, error) { return ReadCSV(path, delimiter, 0) }

// ReadCSV reads a file with a delimiter and with lines before its header line. It errs with the line where a quote is open or a row has
// other cells than the header line.
func ReadCSV(path string, delimiter byte, skip int) (*table.Table, error) {
	text, err := files.Read(path, files.Data)
	if err != nil {
		return nil, err
	}
	if len(text) > maxFile {
		return nil, fmt.Errorf("%s is larger than 4 GB", path)
	}
	s := &csvText{path: path, text: text, delimiter: delimiter, skip: skip, quoted: map[int]string{}}
	if err := s.split(); err != nil {
		return nil, err
	}
	t := &table.Table{Columns: make([]*table.Column, s.columns)}
	var g errgroup.Group
	g.SetLimit(2)
	for c := range s.columns {
		g.Go(trouble.Safe(func() error {
			t.Columns[c] = s.column(c)
			return nil
		}))
	}
	return t, g.Wait()
}

// split finds the cells.
func (s *csvText) split() error {
	at, line := 0, 1
	if bytes.HasPrefix(s.text, []byte("\xef\xbb\xbf")) {
		at = 3
	}
	if len(bytes.TrimSpace(s.text[at:])) == 0 {
		return defect(s.path, 1, "the file is empty", "it needs a header line with the columns' names")
	}
	for ; line <= s.skip && at < len(s.text); line++ {
		end := bytes.IndexByte(s.text[at:], '\n')
		if end < 0 {
			end = len(s.text) - at - 1
		}
		at += end + 1
	}
	room := 64 + len(s.text)/6
	s.start, s.end = make([]uint32, 0, room), make([]uint32, 0, room)
	for at < len(s.text) {
		if blankEnd := s.blankLine(at); blankEnd > at {
			at, line = blankEnd, line+1
			continue
		}
		first := len(s.start)
		next, lines, err := s.record(at, line)
		if err != nil {
			return err
		}
		switch cells := len(s.start) - first; {
		case s.columns == 0:
			s.columns = cells
		case cells != s.columns:
			return defect(s.path, line, fmt.Sprintf("this row has %d cells and the header has %d", cells, s.columns),
				"give every row as many cells as the header")
		}
		at, line = next, line+lines
	}
	return nil
}

// blankLine gives the end of an empty line; such a line is no row.
func (s *csvText) blankLine(at int) int {
	switch {
	case s.text[at] == '\n':
		return at + 1
	case s.text[at] == '\r' && at+1 < len(s.text) && s.text[at+1] == '\n':
		return at + 2
	}
	return at
}

// record reads the cells of one row and gives where the next begins and how many lines this one took.
func (s *csvText) record(at, line int) (next, lines int, err error) {
	lines = 1
	for {
		if at < len(s.text) && s.text[at] == '"' {
			closing, more, err := s.quotedCell(at, line)
			if err != nil {
				return 0, 0, err
			}
			lines += more
			at = closing
		} else {
			from := at
			for at < len(s.text) && s.text[at] != s.delimiter && s.text[at] != '\n' {
				if s.text[at] == '"' {
					return 0, 0, defect(s.path, line, "a quote stands in the middle of a cell",
						"put the whole cell in quotes and double those inside")
				}
				at++
			}
			to := at
			if to > from && s.text[to-1] == '\r' && (at == len(s.text) || s.text[at] == '\n') {
				to--
			}
			s.start, s.end = append(s.start, uint32(from)), append(s.end, uint32(to))
		}
		switch {
		case at >= len(s.text):
			return at, lines, nil
		case s.text[at] == '\n':
			return at + 1, lines, nil
		}
		at++ // the delimiter
	}
}

// quotedCell reads a cell in quotes and gives where its end or the delimiter behind it is, and how many line breaks it holds.
func (s *csvText) quotedCell(at, line int) (next, breaks int, err error) {
	from := at + 1
	doubled := false
	for at = from; at < len(s.text); at++ {
		if s.text[at] == '\n' {
			breaks++
		}
		if s.text[at] != '"' {
			continue
		}
		if at+1 < len(s.text) && s.text[at+1] == '"' {
			doubled = true
			at++
			continue
		}
		if doubled {
			s.quoted[len(s.start)] = strings.ReplaceAll(string(s.text[from:at]), `""`, `"`)
		}
		s.start, s.end = append(s.start, uint32(from)), append(s.end, uint32(at))
		at++
		if at < len(s.text) && s.text[at] == '\r' && at+1 < len(s.text) && s.text[at+1] == '\n' {
			at++
		}
		if at < len(s.text) && s.text[at] != s.delimiter && s.text[at] != '\n' {
			return 0, 0, defect(s.path, line+breaks, "something follows the closing quote of a cell", "double the quotes inside a cell")
		}
		return at, breaks, nil
	}
	return 0, 0, defect(s.path, line, "a quote is not closed", "close it at the end of the cell")
}

// cell is a cell's text, as a view of the file's bytes, which are never changed.
func (s *csvText) cell(index int) string {
	if unquoted, ok := s.quoted[index]; ok {
		return unquoted
	}
	from, to := s.start[index], s.end[index]
	if from == to {
		return ""
	}
	return unsafe.String(&s.text[from], int(to-from))
}

// column makes a typed column. A blank is null in a column of numbers, times or booleans, and the empty text in one of texts.
func (s *csvText) column(c int) *table.Column {
	w := &sheetColumn{s: s, column: c, blankNull: true}
	if table.InferWritten(w).Kind == value.Text {
		w.blankNull = false
	}
	return table.FromWritten(s.cell(c), w)
}

// sheetColumn is a column of a sheet as written cells.
type sheetColumn struct {
	s         *csvText
	column    int
	blankNull bool
}

// Len is the number of rows below the header.
func (w *sheetColumn) Len() int { return len(w.s.start)/w.s.columns - 1 }

// Cell gives a cell, counted from 0.
func (w *sheetColumn) Cell(row int) table.Cell {
	text := w.s.cell((row+1)*w.s.columns + w.column)
	return table.Cell{Text: text, Null: text == "NULL" || w.blankNull && text == ""}
}
