package sample

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// looked is how many records a guess of the delimiter and the header line rests on.
const looked = 60

// lookedBytes bounds what is read for it.
const lookedBytes = 1 << 20

// openText finds a text file's encoding, delimiter and header line.
func (s *Sample) openText(scratch string, o Options) error {
	name, err := encodingOf(s.Path, o.Encoding)
	if err != nil {
		return s.problem(0, "unreadable-file", "cannot be read: "+reason(err), "make the file readable")
	}
	decoder, known := encodings[name]
	if !known {
		return s.problem(0, "unknown-encoding", fmt.Sprintf("the encoding %q is not read", name),
			"write utf-8, utf-16 or latin-1 under encoding: in tovrel.yaml")
	}
	if decoder != nil {
		if err := s.decode(scratch, decoder); err != nil {
			return err
		}
		s.note("encoding", 0, false, "read as %s", strings.ToUpper(name))
	}
	head, err := s.head()
	if err != nil {
		return err
	}
	if len(bytes.TrimSpace(head)) == 0 {
		return s.problem(1, "no-header", "the file is empty", "it needs a header line with the columns' names")
	}
	if err := s.delimit(head, o.Delimiter); err != nil {
		return err
	}
	if err := s.header(head, o.HeaderRow); err != nil {
		return err
	}
	if len(s.Names) > 1 { // in a table of one column a blank line is a blank cell
		if err := s.noteBlankLines(); err != nil {
			return err
		}
	}
	return s.write(scratch, o.Writing)
}

// write has the file's numbers and dates written as the engine reads them, where it is said how they are; else it notes what they seem to
// be. A file with ends of lines of two kinds is written anew in any case: rows were appended to it elsewhere.
func (s *Sample) write(scratch string, w Writing) error {
	if w != (Writing{}) {
		return s.rewrite(scratch, w)
	}
	if guessed, err := s.guess(); err == nil && guessed != w { // a file that cannot be read so is for the engine to refuse
		s.Guessed = guessed
		s.note("written-otherwise", 0, true, "numbers or dates are not written as they are read here, and come in as text; "+
			"say so for the table in tovrel.yaml: {file: %q, %s}", s.File, strings.Join(guessed.Entries(), ", "))
	}
	mixed, err := mixedEnds(s.Path)
	if err != nil || !mixed {
		return err
	}
	s.note("line-ends", 0, false, "its lines end in two ways; both are read")
	return s.rewrite(scratch, w)
}

// mixedEnds tells whether some lines of a file end with a carriage return and others without.
func mixedEnds(path string) (bool, error) {
	f, err := os.Open(path)
	if err != nil {
		return false, err
	}
	defer f.Close() //nolint:errcheck // opened for reading only
	r := bufio.NewReaderSize(f, 1<<20)
	with, without := false, false
	last := byte(0)
	for {
		chunk, err := r.ReadSlice('\n')
		if n := len(chunk); n > 0 {
			if chunk[n-1] == '\n' {
				if n > 1 {
					last = chunk[n-2]
				}
				with, without = with || last == '\r', without || last != '\r'
			}
			last = chunk[n-1]
		}
		switch {
		case with && without:
			return true, nil
		case errors.Is(err, io.EOF):
			return false, nil
		case err != nil && !errors.Is(err, bufio.ErrBufferFull):
			return false, err
		}
	}
}

// noteBlankLines counts the blank lines among the rows, which the engine passes over.
func (s *Sample) noteBlankLines() error {
	f, err := os.Open(s.Path)
	if err != nil {
		return err
	}
	defer f.Close() //nolint:errcheck // opened for reading only
	r := bufio.NewReaderSize(f, 1<<20)
	line, blank, first := 0, 0, 0
	quoted, rest := false, false // inside quotes; in the rest of a long line
	for {
		text, err := r.ReadSlice('\n')
		if errors.Is(err, io.EOF) && len(text) == 0 {
			break
		}
		if !rest {
			line++
		}
		if !quoted && !rest && line > s.Skip+1 && len(bytes.TrimRight(text, "\r\n")) == 0 {
			blank++
			if first == 0 {
				first = line
			}
		}
		quoted = quoted != (bytes.Count(text, []byte{'"'})%2 == 1)
		rest = errors.Is(err, bufio.ErrBufferFull)
		if err != nil && !rest {
			break
		}
	}
	if blank > 0 {
		s.note("blank-rows", first, true, "%d blank lines are left out, the first in line %d", blank, first)
	}
	return nil
}

// encodings are how bytes become UTF-8; nil where they are already.
var encodings = map[string]encoding.Encoding{
	"utf-8": nil, "utf-16": unicode.UTF16(unicode.LittleEndian, unicode.UseBOM),
	"utf-16le": unicode.UTF16(unicode.LittleEndian, unicode.UseBOM),
	"utf-16be": unicode.UTF16(unicode.BigEndian, unicode.UseBOM), "latin-1": charmap.Windows1252,
}

// encodingOf tells an encoding by its byte order mark, by zero bytes, or by bytes that are no UTF-8.
func encodingOf(path, given string) (string, error) {
	if given != "" {
		return strings.ToLower(given), nil
	}
	f, err := os.Open(path)
	if err != nil {
		return "", err
	}
	defer f.Close() //nolint:errcheck // opened for reading only
	buffer := make([]byte, 1<<20)
	kept := 0
	for first := true; ; first = false {
		n, err := io.ReadFull(f, buffer[kept:])
		chunk := buffer[:kept+n]
		if first {
			if name := wide(chunk); name != "" {
				return name, nil
			}
		}
		ended := err != nil
		valid := validPrefix(chunk)
		kept = len(chunk) - valid
		if kept >= utf8.UTFMax || ended && kept > 0 {
			return "latin-1", nil
		}
		copy(buffer, chunk[valid:])
		if ended {
			if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
				err = nil
			}
			return "utf-8", err
		}
	}
}

// validPrefix is how many bytes are UTF-8 from the start; up to three at the end may be a character cut in two.
func validPrefix(b []byte) int {
	if utf8.Valid(b) {
		return len(b)
	}
	for cut := 1; cut < utf8.UTFMax && cut <= len(b); cut++ {
		if utf8.Valid(b[:len(b)-cut]) && !utf8.FullRune(b[len(b)-cut:]) {
			return len(b) - cut
		}
	}
	return 0
}

// wide recognises UTF-16 by its mark, or by every other byte of the beginning being zero.
func wide(b []byte) string {
	switch {
	case bytes.HasPrefix(b, []byte{0xff, 0xfe}):
		return "utf-16le"
	case bytes.HasPrefix(b, []byte{0xfe, 0xff}):
		return "utf-16be"
	}
	zeros := [2]int{}
	for i, c := range b[:min(len(b), 200)] {
		if c == 0 {
			zeros[i%2]++
		}
	}
	half := min(len(b), 200) / 4
	switch {
	case half > 0 && zeros[1] > half && zeros[0] == 0:
		return "utf-16le"
	case half > 0 && zeros[0] > half && zeros[1] == 0:
		return "utf-16be"
	}
	return ""
}

// decode writes the file as UTF-8 into the scratch folder.
func (s *Sample) decode(scratch string, e encoding.Encoding) error {
	in, err := os.Open(s.Path)
	if err != nil {
		return s.problem(0, "unreadable-file", "cannot be opened: "+reason(err), "make the file readable")
	}
	defer in.Close() //nolint:errcheck // opened for reading only
	out, err := os.CreateTemp(scratch, "utf8-*"+filepath.Ext(s.Path))
	if err != nil {
		return err
	}
	_, err = io.Copy(out, transform.NewReader(in, e.NewDecoder()))
	s.Path = out.Name()
	return errors.Join(err, out.Close())
}

func (s *Sample) head() ([]byte, error) {
	f, err := os.Open(s.Path)
	if err != nil {
		return nil, err
	}
	defer f.Close() //nolint:errcheck // opened for reading only
	head, err := io.ReadAll(io.LimitReader(f, lookedBytes))
	return bytes.TrimPrefix(head, []byte("\xef\xbb\xbf")), err
}

var delimiterNames = map[byte]string{',': "comma", ';': "semicolon", '\t': "tab", '|': "bar"}

// delimit takes the delimiter under which most records have the same number of cells, more than one.
func (s *Sample) delimit(head []byte, given string) error {
	if given != "" {
		if given == `\t` || given == "tab" {
			given = "\t"
		}
		if len(given) != 1 {
			return s.problem(0, "bad-delimiter", fmt.Sprintf("the delimiter %q is not one character", given),
				"write one character under delimiter: in tovrel.yaml")
		}
		s.Delimiter = given[0]
		return nil
	}
	best := 0
	for _, d := range []byte{',', ';', '\t', '|'} {
		records := split(head, d)
		width, same := commonest(records)
		score := same * 1000 / max(1, len(records))
		if len(records) > 0 && len(records[0].cells) == width {
			score += headed
		}
		if width > 1 && score > best {
			best, s.Delimiter = score, d
		}
	}
	usual := byte(',')
	if strings.EqualFold(filepath.Ext(s.Path), ".tsv") {
		usual = '\t'
		if best == 0 {
			s.Delimiter = '\t'
		}
	}
	if s.Delimiter != usual {
		s.note("delimiter", 0, false, "the cells are separated by a %s", delimiterNames[s.Delimiter])
	}
	return nil
}

// headed is how much it counts, in thousandths of the records, that a delimiter divides the header line as it does the rows: a decimal
// comma stands in rows alone, and a damaged row must not let it be the delimiter.
const headed = 500

// record is one record of the beginning of a file.
type fields struct {
	line  int // where it begins, from 1
	cells []string
}

func (r fields) filled() int {
	n := 0
	for _, c := range r.cells {
		if strings.TrimSpace(c) != "" {
			n++
		}
	}
	return n
}

// split reads the first records under a delimiter; a broken one ends them.
func split(head []byte, delimiter byte) []fields {
	r := csv.NewReader(bytes.NewReader(head))
	r.Comma, r.FieldsPerRecord, r.LazyQuotes = rune(delimiter), -1, true
	var records []fields
	for len(records) < looked {
		cells, err := r.Read()
		if err != nil {
			break
		}
		line, _ := r.FieldPos(0)
		records = append(records, fields{line, cells})
	}
	return records
}

// commonest is the number of cells that most records have, and how many have it.
func commonest(records []fields) (width, same int) {
	counts := map[int]int{}
	for _, r := range records {
		counts[len(r.cells)]++
	}
	for w, n := range counts {
		if n > same || n == same && w > width {
			width, same = w, n
		}
	}
	return width, same
}

// header finds the header line: the first record that is as wide and as full as the table. Lines above it are titles.
func (s *Sample) header(head []byte, given int) error {
	records := split(head, s.Delimiter)
	width, _ := commonest(records)
	at := 0
	for i, r := range records {
		if given > 0 && r.line >= given || given == 0 && (len(r.cells) >= width && r.filled()*2 > width || width == 1) {
			at = i
			break
		}
	}
	if given > 0 && (at >= len(records) || records[at].line != given) {
		return s.problem(given, "no-header", "the header row that header-row: names is blank or behind the end",
			"correct header-row: in tovrel.yaml")
	}
	if len(records) == 0 {
		return s.problem(1, "unreadable-header", "the header line cannot be read", "check its quotes")
	}
	s.Skip = records[at].line - 1
	s.name(records[at].cells, records[at].line)
	if s.Skip > 0 && given == 0 {
		s.note("title-rows", 1, true, "%s above the header, which is taken from line %d", stands(s.Skip, "line"), records[at].line)
	}
	return nil
}
