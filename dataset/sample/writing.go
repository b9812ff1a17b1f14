package sample

import (
	"bufio"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"os"
	"regexp"
	"strings"
	"time"
)

// Writing is how a text file writes numbers and dates where that is not as the engine reads them, and how many rows at its end are none.
// Its zero value is a decimal point, no separators, ISO dates, and no rows to leave out.
type Writing struct {
	Decimal    string // ","
	Thousands  string // ".", ",", "'" or " "
	DateFormat string // such as %d.%m.%Y
	SkipLast   int
}

// Entries are the keys of tovrel.yaml that say it; none for the zero value.
func (w Writing) Entries() []string {
	var out []string
	for _, e := range []struct{ key, value string }{{"decimal", w.Decimal}, {"thousands", w.Thousands}, {"date-format", w.DateFormat}} {
		if e.value != "" {
			out = append(out, fmt.Sprintf("%s: %q", e.key, e.value))
		}
	}
	if w.SkipLast > 0 {
		out = append(out, fmt.Sprintf("skip-last: %d", w.SkipLast))
	}
	return out
}

// dateParts are what a date format may hold, with the layout that Go has for it.
var dateParts = strings.NewReplacer("%d", "2", "%m", "1", "%Y", "2006", "%y", "06", "%H", "15", "%M", "04", "%S", "05", "%b",
	"Jan", "%B", "January")

// CheckDateFormat tells whether a date format can be used; the error says what it may hold.
func CheckDateFormat(format string) error {
	if rest := dateParts.Replace(format); strings.Contains(rest, "%") || !strings.Contains(format, "%d") ||
		!strings.Contains(format, "%m") && !strings.Contains(format, "%b") && !strings.Contains(format, "%B") {
		return fmt.Errorf("a date format is made of %%d, %%m, %%Y (or %%y) and %%H, %%M, %%S, such as %%d.%%m.%%Y; %%b and " +
			"%%B are names of months")
	}
	return nil
}

// numbers is the pattern of a number as it is written.
func (w Writing) numbers() *regexp.Regexp {
	decimal, thousands := regexp.QuoteMeta(orElse(w.Decimal, ".")), w.Thousands
	whole := `\d+`
	if thousands != "" {
		separator := regexp.QuoteMeta(thousands)
		if thousands == " " {
			separator = "[ \u00a0\u2009\u202f]"
		}
		whole = `(?:\d+|\d{1,3}(?:` + separator + `\d{3})+)`
	}
	return regexp.MustCompile(`^[-+]?` + whole + `(?:` + decimal + `\d+)?$`)
}

func orElse(s, other string) string {
	if s == "" {
		return other
	}
	return s
}

// plainNumber is a number that fits the pattern with a point and without separators.
func (w Writing) plainNumber(text string) string {
	if w.Thousands == " " {
		text = strings.NewReplacer(" ", "", "\u00a0", "", "\u2009", "", "\u202f", "").Replace(text)
	} else if w.Thousands != "" {
		text = strings.ReplaceAll(text, w.Thousands, "")
	}
	return strings.TrimPrefix(strings.Replace(text, orElse(w.Decimal, "."), ".", 1), "+")
}

// isoDate is a date in the format as ISO 8601, with the time where the format or the text has one.
func (w Writing) isoDate(text string) (string, bool) {
	layout := dateParts.Replace(w.DateFormat)
	for _, clock := range []string{"", " 15:04", " 15:04:05"} {
		at, err := time.Parse(layout+clock, text)
		switch {
		case err != nil:
		case clock == "" && !strings.Contains(w.DateFormat, "%H"):
			return at.Format("2006-01-02"), true
		default:
			return at.Format("2006-01-02 15:04:05"), true
		}
	}
	return "", false
}

// seen is what a column's cells have been seen to be.
type seen struct {
	filled, numbers, separated, dates int
}

// eachRecord calls a function with the records but for so many last ones.
type eachRecord func(skipLast int, each func(line int, cells []string) error) error

// records calls each with every record below the header and the line that it begins in, but for the last ones that are to be left out. A
// record has the cells as they are; blank ones are "".
func (s *Sample) records(skipLast int, each func(line int, cells []string) error) error {
	f, err := os.Open(s.Path)
	if err != nil {
		return s.problem(0, "unreadable-file", "cannot be opened: "+reason(err), "make the file readable")
	}
	defer f.Close() //nolint:errcheck // opened for reading only
	buffered := bufio.NewReaderSize(f, 1<<20)
	if mark, err := buffered.Peek(3); err == nil && string(mark) == "\xef\xbb\xbf" {
		_, _ = buffered.Discard(3) // peeked at
	}
	for range s.Skip {
		if _, err := buffered.ReadString('\n'); err != nil {
			break
		}
	}
	r := csv.NewReader(buffered)
	r.Comma, r.FieldsPerRecord, r.LazyQuotes = rune(s.Delimiter), -1, true
	type held struct {
		line  int
		cells []string
	}
	var waiting []held // the last ones, which may be left out
	for first := true; ; first = false {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return s.problem(0, "unreadable-csv", "cannot be read as CSV: "+err.Error(), "check the file's delimiter, quotes and encoding")
		}
		if first {
			continue // the header
		}
		line, _ := r.FieldPos(0)
		waiting = append(waiting, held{line + s.Skip, cells})
		if len(waiting) > skipLast {
			if err := each(waiting[0].line, waiting[0].cells); err != nil {
				return err
			}
			waiting = waiting[1:]
		}
	}
}

// look counts what each column's cells are under a way of writing.
func (s *Sample) look(w Writing, records eachRecord) ([]seen, error) {
	columns := make([]seen, len(s.Names))
	numbers := w.numbers()
	err := records(w.SkipLast, func(_ int, cells []string) error {
		for i, text := range cells[:min(len(cells), len(columns))] {
			if text = strings.TrimSpace(text); text == "" {
				continue
			}
			c := &columns[i]
			c.filled++
			if numbers.MatchString(text) {
				c.numbers++
				if plain := w.plainNumber(text); plain != text {
					c.separated++
				}
			}
			if w.DateFormat != "" {
				if _, ok := w.isoDate(text); ok {
					c.dates++
				}
			}
		}
		return nil
	})
	return columns, err
}

// rewrite writes the file's rows into a scratch file as the engine reads them: in a column of numbers or dates alone they become plain
// ones; every other column stays as it is.
func (s *Sample) rewrite(scratch string, w Writing) error {
	columns, err := s.look(w, s.records)
	if err != nil {
		return err
	}
	out, err := newScratch(scratch)
	if err != nil {
		return err
	}
	out.names(s.Names)
	var rows []int
	err = s.records(w.SkipLast, func(line int, cells []string) error {
		if len(cells) != len(s.Names) {
			return s.problem(line, "unreadable-row",
				fmt.Sprintf("this row has %d cells and the header has %d", len(cells), len(s.Names)),
				"correct the row, or leave the last ones out with skip-last: in tovrel.yaml")
		}
		written := make([]*string, len(cells))
		for i, text := range cells {
			if strings.TrimSpace(text) == "" {
				continue
			}
			c := columns[i]
			switch {
			case c.numbers == c.filled && c.separated > 0:
				text = w.plainNumber(strings.TrimSpace(text))
			case w.DateFormat != "" && c.dates == c.filled:
				text, _ = w.isoDate(strings.TrimSpace(text))
			}
			written[i] = &text
		}
		out.row(written)
		rows = append(rows, line)
		return nil
	})
	path, closed := out.close()
	if err = errors.Join(err, closed); err != nil {
		return err
	}
	s.Path, s.Delimiter, s.Skip, s.Rows = path, ',', 0, rows
	return nil
}
