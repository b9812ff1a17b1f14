package sample

import (
	"bufio"
	"errors"
	"os"
	"strings"
)

// scratchCSV writes cells as CSV that the loader reads back exactly: a null is blank, everything else stands in quotes.
type scratchCSV struct {
	f *os.File
	w *bufio.Writer
}

func newScratch(folder string) (*scratchCSV, error) {
	f, err := os.CreateTemp(folder, "table-*.csv")
	if err != nil {
		return nil, err
	}
	return &scratchCSV{f, bufio.NewWriterSize(f, 1<<16)}, nil
}

// row writes one row; a nil cell is null.
func (s *scratchCSV) row(cells []*string) {
	for i, c := range cells {
		if i > 0 {
			_ = s.w.WriteByte(',') // errors stay with the writer until it is flushed
		}
		if c != nil {
			_, _ = s.w.WriteString(`"` + strings.ReplaceAll(*c, `"`, `""`) + `"`)
		}
	}
	_ = s.w.WriteByte('\n')
}

func (s *scratchCSV) names(names []string) {
	cells := make([]*string, len(names))
	for i := range names {
		cells[i] = &names[i]
	}
	s.row(cells)
}

func (s *scratchCSV) close() (path string, err error) {
	return s.f.Name(), errors.Join(s.w.Flush(), s.f.Close())
}
