package sample

import (
	"bytes"
	"encoding/csv"
	"errors"
	"os"
	"strings"

	"tovrel/core/pattern"
	"tovrel/engine/duckdb"
	"tovrel/files"
)

// lookedRows is how many rows a guess of the writing rests on.
const lookedRows = 1000

// totals are what people write before the sums in a last row.
var totals = pattern.Of(`(?i)^\s*(grand |sub)?(total|totals|sum|summe|gesamt|gesamtsumme|insgesamt|total général|` +
	`totale|somme|totaal|suma)\s*:?\s*$`)

// words are two or more words beside each other.
var words = pattern.Of(`\pL[\pL\d.:]*\s+\S*[\pL\d]`)

// dayForm is a date in digits; its second group is the separator.
var dayForm = pattern.Of(`^(\d{1,2})([./-])(\d{1,2})[./-](\d{4}|\d{2})(?:[ T]\d{1,2}:\d{2}(?::\d{2})?)?$`)

// guess finds how a file writes numbers and dates: only what at least one whole column shows beyond doubt.
func (s *Sample) guess() (Writing, error) {
	var w Writing
	last, err := s.lastRows()
	if err != nil {
		return w, err
	}
	w.SkipLast = last
	head, err := s.headRecords(last)
	if err != nil {
		return w, err
	}
	shows := func(try Writing) bool {
		columns, err := s.look(try, head)
		if err != nil {
			return false
		}
		for _, c := range columns {
			if c.filled > 0 && c.numbers == c.filled && c.separated > 0 {
				return true
			}
		}
		return false
	}
	comma, point := Writing{Decimal: ",", SkipLast: last}, Writing{Thousands: ",", SkipLast: last}
	switch {
	case shows(comma) && !(s.Delimiter == ',' && shows(point)):
		w.Decimal = ","
	case shows(point):
		w.Thousands = ","
	}
	for _, try := range []Writing{{Thousands: ".", Decimal: ","}, {Thousands: "'", Decimal: w.Decimal},
		{Thousands: " ", Decimal: w.Decimal}, {Thousands: "'", Decimal: ","}, {Thousands: " ", Decimal: ","}} {
		try.SkipLast = last
		if w.Thousands == "" && s.grouped(try, head) {
			w = try
			break
		}
	}
	w.DateFormat, err = s.dates(head)
	return w, err
}

// headRecords reads the first records once, to be looked at under many ways of writing.
func (s *Sample) headRecords(skipLast int) (eachRecord, error) {
	var rows [][]string
	enough := errors.New("enough")
	err := s.records(skipLast, func(_ int, cells []string) error {
		if rows = append(rows, cells); len(rows) >= lookedRows {
			return enough
		}
		return nil
	})
	if err != nil && !errors.Is(err, enough) {
		return nil, err
	}
	return func(_ int, each func(int, []string) error) error {
		for i, cells := range rows {
			if err := each(i, cells); err != nil {
				return err
			}
		}
		return nil
	}, nil
}

// grouped tells whether a column of numbers has separators of thousands that cannot be anything else.
func (s *Sample) grouped(w Writing, head eachRecord) bool {
	columns, err := s.look(w, head)
	if err != nil {
		return false
	}
	without := w
	without.Thousands = ""
	plain, err := s.look(without, head)
	if err != nil {
		return false
	}
	dotted, err := s.look(Writing{}, head)
	if err != nil {
		return false
	}
	for i, c := range columns {
		asDecimal := dotted[i].numbers == dotted[i].filled // 1.234 may be a decimal with a point as well
		if c.filled > 0 && c.numbers == c.filled && plain[i].numbers < c.filled && !asDecimal {
			return true
		}
	}
	return false
}

// dates finds the format of the dates in digits; "" where there are none, or where day and month cannot be told apart.
func (s *Sample) dates(head eachRecord) (string, error) {
	columns := make([]digitDates, len(s.Names))
	err := head(0, func(_ int, cells []string) error {
		for i, text := range cells[:min(len(cells), len(columns))] {
			columns[i].look(strings.TrimSpace(text))
		}
		return nil
	})
	if err != nil {
		return "", err
	}
	for _, c := range columns {
		if format := c.format(s.Delimiter == ';'); format != "" {
			return format, nil
		}
	}
	return "", nil
}

// digitDates counts what the texts of a column show of its dates.
type digitDates struct {
	filled, fitting, dayFirst, monthFirst, short int
	separator                                    string
}

func (c *digitDates) look(text string) {
	if text == "" {
		return
	}
	c.filled++
	m := dayForm.FindStringSubmatch(text)
	if m == nil {
		return
	}
	c.fitting++
	c.separator = m[2]
	if len(m[4]) == 2 {
		c.short++
	}
	if len(m[1]) == 2 && m[1] > "12" {
		c.dayFirst++
	}
	if len(m[3]) == 2 && m[3] > "12" {
		c.monthFirst++
	}
}

// format is what all of the column's texts are written in; "" where it cannot be told. European tells a file that is written as in
// countries where the day comes first.
func (c digitDates) format(european bool) string {
	if c.filled == 0 || c.fitting < c.filled || c.dayFirst > 0 && c.monthFirst > 0 || c.short > 0 && c.short < c.filled {
		return ""
	}
	year := "%Y"
	if c.short > 0 {
		year = "%y"
	}
	switch {
	case c.dayFirst > 0 || c.monthFirst == 0 && (c.separator == "." || european):
		return "%d" + c.separator + "%m" + c.separator + year
	case c.monthFirst > 0:
		return "%m" + c.separator + "%d" + c.separator + year
	}
	return ""
}

// lastRows counts the rows at the end that are none: sums and notes. Only where the last
// characters of a big file look like such rows is the whole of it read.
func (s *Sample) lastRows() (int, error) {
	end, whole, err := s.end()
	if err != nil {
		return 0, err
	}
	if !whole {
		r := csv.NewReader(bytes.NewReader(end))
		r.Comma, r.FieldsPerRecord, r.LazyQuotes = rune(s.Delimiter), -1, true
		if rows, err := r.ReadAll(); err == nil && len(rows) > 1 && s.notRows(rows[1:]) == 0 { // the first begins in the middle
			return 0, nil
		}
	}
	var tail [][]string
	rows := 0
	err = s.records(0, func(_ int, cells []string) error {
		rows++
		if tail = append(tail, cells); len(tail) > lastLooked {
			tail = tail[1:]
		}
		return nil
	})
	if err != nil {
		return 0, err
	}
	return min(s.notRows(tail), max(rows-1, 0)), nil
}

// lastLooked is how many rows at the end may be none.
const lastLooked = 5

// notRows counts the last of the rows that are none: sums, and notes of more than one word that stand alone in a line that is too short
// or too long. Any other line of the wrong length may be a damaged row, which is refused.
func (s *Sample) notRows(rows [][]string) int {
	n := 0
	for i := len(rows) - 1; i >= 0 && n < lastLooked; i-- {
		var filled []string
		for _, c := range rows[i] {
			if c = strings.TrimSpace(c); c != "" {
				filled = append(filled, c)
			}
		}
		isNote := len(rows[i]) != len(s.Names) && len(filled) == 1 && words.MatchString(filled[0])
		if !isNote && (len(filled) == 0 || !totals.MatchString(filled[0])) {
			break
		}
		n++
	}
	return n
}

// end reads the last characters of the file, and tells whether they are the whole of it.
func (s *Sample) end() (text []byte, whole bool, err error) {
	const most = 64 << 10
	f, err := os.Open(s.Path)
	if err != nil {
		return nil, false, s.problem(0, "unreadable-file", "cannot be opened: "+reason(err), "make the file readable")
	}
	defer f.Close() //nolint:errcheck // opened for reading only
	info, err := f.Stat()
	if err != nil || info.Size() <= most {
		return nil, true, err
	}
	text = make([]byte, most)
	_, err = f.ReadAt(text, info.Size()-most)
	return text, false, err
}

// GuessWriting finds how a text file writes numbers and dates; the zero Writing for other files, for a pattern of several, and for one that
// cannot be read. It errs only where there is no room for a decoded copy.
func GuessWriting(path string) (Writing, error) {
	if !hasEnding(path, ".csv", ".tsv", ".txt") || files.Check(path) != nil {
		return Writing{}, nil
	}
	scratch, err := os.MkdirTemp("", "tovrel-guess-")
	if err != nil {
		return Writing{}, err
	}
	defer os.RemoveAll(scratch) //nolint:errcheck // a decoded copy at most
	s := &Sample{Sample: duckdb.Sample{File: path, Path: path, Format: duckdb.CSV, Delimiter: ','}}
	if err := s.openText(scratch, Options{}); err != nil {
		return Writing{}, nil // it is refused when it is imported
	}
	return s.Guessed, nil
}
