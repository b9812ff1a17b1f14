package sample

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"

	"tovrel/core/near"
	"tovrel/files"
)

// The bounds of a spreadsheet: what it unpacks to, and how many cells a sheet spans where hardly any is filled.
const (
	mostUnpacked = 512 << 20
	mostSpanned  = 20_000_000
)

// openWorkbook opens a spreadsheet whose contents are bounded before they are unpacked.
func openWorkbook(path string) (*excelize.File, error) {
	if err := files.Check(path); err != nil {
		return nil, err
	}
	return excelize.OpenFile(path, excelize.Options{UnzipSizeLimit: mostUnpacked, UnzipXMLSizeLimit: 64 << 20})
}

func sheets(path string) (names []string, err error) {
	f, err := openWorkbook(path)
	if err != nil {
		return nil, err
	}
	return f.GetSheetList(), f.Close()
}

// openSheet brings a sheet of a spreadsheet to CSV: values as they are stored, not as they are shown, dates as dates.
func (s *Sample) openSheet(scratch string, o Options) (err error) {
	f, err := openWorkbook(s.Path)
	if err != nil {
		return s.problem(0, "unreadable-sheet", "cannot be read as a spreadsheet: "+err.Error(), "save it as .xlsx again")
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	book := &workbook{File: f, sample: s}
	if book.sheet, err = s.sheetName(f, o.Sheet); err != nil {
		return err
	}
	rows, err := book.rows()
	if err != nil {
		return s.problem(0, "unreadable-sheet", fmt.Sprintf("the sheet %s cannot be read: %v", book.sheet, err), "save the file again")
	}
	header := headerOf(rows) // before a merged title fills its row
	if err := book.merged(rows); err != nil {
		return err
	}
	if o.Range != "" {
		if rows, err = s.within(rows, o.Range); err != nil {
			return err
		}
		return s.writeSheet(rows, 0, scratch, 1)
	}
	return s.writeSheet(rows, header, scratch, o.HeaderRow)
}

// within are the cells of a range; its first row names the columns.
func (s *Sample) within(rows [][]*string, cells string) ([][]*string, error) {
	from, to, _ := strings.Cut(strings.ReplaceAll(cells, "$", ""), ":")
	if to == "" {
		to = from
	}
	left, top, err := excelize.CellNameToCoordinates(from)
	right, bottom, err2 := excelize.CellNameToCoordinates(to)
	if err := errors.Join(err, err2); err != nil {
		return nil, s.problem(0, "bad-range", fmt.Sprintf("%q is no range of cells", cells), "write it as A3:D20")
	}
	left, right, top, bottom = min(left, right), max(left, right), min(top, bottom), max(top, bottom)
	var out [][]*string
	for _, row := range rows[min(top-1, len(rows)):min(bottom, len(rows))] {
		out = append(out, row[min(left-1, len(row)):min(right, len(row))])
	}
	return out, nil
}

func (s *Sample) sheetName(f *excelize.File, named string) (string, error) {
	all := f.GetSheetList()
	if named == "" {
		if len(all) > 1 {
			s.note("sheet", 0, false, "the first of %d sheets is read: %s", len(all), all[0])
		}
		return all[0], nil
	}
	for _, name := range all {
		if strings.EqualFold(name, named) {
			return name, nil
		}
	}
	return "", s.problem(0, "unknown-sheet", fmt.Sprintf("the file has no sheet %q", named), near.Hint(named, all))
}

// writeSheet writes what is below the header row.
func (s *Sample) writeSheet(rows [][]*string, at int, scratch string, headerRow int) error {
	width := 0
	if headerRow > 0 {
		at = headerRow - 1
	}
	if at >= len(rows) || filled(rows[at]) == 0 {
		return s.problem(headerRow, "no-header", "the sheet has no header row there", "correct header-row: in tovrel.yaml")
	}
	for _, r := range rows[at:] {
		width = max(width, lastFilled(r))
	}
	header := make([]string, width)
	for i, c := range rows[at][:min(width, len(rows[at]))] {
		if c != nil {
			header[i] = *c
		}
	}
	s.name(header, at+1)
	if at > 0 && headerRow == 0 {
		s.note("title-rows", 1, true, "%s above the header, which is taken from row %d", stands(at, "row"), at+1)
	}
	w, err := newScratch(scratch)
	if err != nil {
		return err
	}
	w.names(s.Names)
	blank := 0
	for i, r := range rows[at+1:] {
		if filled(r) == 0 {
			blank++
			continue
		}
		cells := make([]*string, width)
		copy(cells, r)
		w.row(cells)
		s.Rows = append(s.Rows, at+2+i)
	}
	if blank > 0 {
		s.note("blank-rows", 0, true, "%d blank rows are left out", blank)
	}
	s.Path, err = w.close()
	return err
}

// stands says how many lines or rows stand somewhere.
func stands(n int, what string) string {
	if n == 1 {
		return "one " + what + " stands"
	}
	return fmt.Sprintf("%d %ss stand", n, what)
}

// headerOf is the first row that is at least half as full as the fullest of the first rows.
func headerOf(rows [][]*string) int {
	most := 0
	for _, r := range rows[:min(len(rows), looked)] {
		most = max(most, filled(r))
	}
	for i, r := range rows {
		if filled(r)*2 > most {
			return i
		}
	}
	return 0
}

func filled(row []*string) int {
	n := 0
	for _, c := range row {
		if c != nil && strings.TrimSpace(*c) != "" {
			n++
		}
	}
	return n
}

func lastFilled(row []*string) int {
	for i := len(row); i > 0; i-- {
		if c := row[i-1]; c != nil && strings.TrimSpace(*c) != "" {
			return i
		}
	}
	return 0
}

// workbook reads cells of one sheet by what they hold.
type workbook struct {
	*excelize.File
	sample *Sample
	sheet  string
	dates  map[int]bool // by style: whether its number format is one of dates
}

// rows reads all cells.
func (b *workbook) rows() ([][]*string, error) {
	raw, err := boundedRows(b.File, b.sheet)
	if err != nil {
		return nil, err
	}
	rows := make([][]*string, len(raw))
	for r, cells := range raw {
		rows[r] = make([]*string, len(cells))
		for c, text := range cells {
			if text == "" {
				continue
			}
			if text, err = b.cell(r, c, text); err != nil {
				return nil, err
			}
			rows[r][c] = &text
		}
	}
	return rows, nil
}

// boundedRows reads a sheet's cells row by row. A cell far from all others spans millions of empty ones: that is no table.
func boundedRows(f *excelize.File, sheet string) (all [][]string, err error) {
	rows, err := f.Rows(sheet)
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, rows.Close()) }()
	width, filled := 0, 0
	for rows.Next() {
		cells, err := rows.Columns(excelize.Options{RawCellValue: true})
		if err != nil {
			return nil, err
		}
		for _, c := range cells {
			if c != "" {
				filled++
			}
		}
		width = max(width, len(cells))
		all = append(all, cells)
		if spanned := width * len(all); spanned > mostSpanned && filled*100 < spanned {
			return nil, fmt.Errorf("its cells span %d rows and %d columns, nearly all of them empty: delete what stands far "+
				"from the table", len(all), width)
		}
	}
	for len(all) > 0 && len(all[len(all)-1]) == 0 {
		all = all[:len(all)-1]
	}
	return all, rows.Error()
}

// cell is a cell's text; a number in a date's format is that date.
func (b *workbook) cell(row, column int, text string) (string, error) {
	name, err := excelize.CoordinatesToCellName(column+1, row+1)
	if err != nil {
		return "", err
	}
	kind, err := b.GetCellType(b.sheet, name)
	if err != nil {
		return "", err
	}
	switch kind {
	case excelize.CellTypeBool:
		return map[string]string{"1": "true", "0": "false"}[text], nil
	case excelize.CellTypeUnset, excelize.CellTypeNumber, excelize.CellTypeFormula, excelize.CellTypeDate:
	default:
		return text, nil
	}
	number, err := strconv.ParseFloat(text, 64)
	if err != nil {
		return text, nil
	}
	style, err := b.GetCellStyle(b.sheet, name)
	if err != nil {
		return "", err
	}
	if !b.isDate(style) {
		return strconv.FormatFloat(number, 'f', -1, 64), nil
	}
	return dateText(number), nil
}

// dateText is a spreadsheet's day number (days since 1899-12-30) as a date, with the time where it has one.
func dateText(number float64) string {
	seconds := math.Round(number * 86400)
	moment := time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC).Add(time.Duration(seconds) * time.Second)
	if number < 1 && number > 0 {
		return moment.Format("15:04:05")
	}
	return strings.TrimSuffix(moment.Format("2006-01-02 15:04:05"), " 00:00:00")
}

// isDate tells whether a style shows numbers as dates: by the built-in formats, or a format of its own with days, months or
// hours outside quotes.
func (b *workbook) isDate(style int) bool {
	if known, ok := b.dates[style]; ok {
		return known
	}
	found := false
	if st, err := b.GetStyle(style); err == nil && st != nil {
		found = st.NumFmt >= 14 && st.NumFmt <= 22 || st.NumFmt >= 27 && st.NumFmt <= 36 || st.NumFmt >= 45 &&
			st.NumFmt <= 47 || st.NumFmt >= 50 && st.NumFmt <= 58
		if st.CustomNumFmt != nil {
			plain := unquoted(strings.ToLower(*st.CustomNumFmt))
			found = strings.ContainsAny(plain, "ydh") || strings.Contains(plain, "mm")
		}
	}
	if b.dates == nil {
		b.dates = map[int]bool{}
	}
	b.dates[style] = found
	return found
}

// unquoted is a number format without what stands in quotes or brackets.
func unquoted(format string) string {
	var out strings.Builder
	closing := rune(0)
	for _, r := range format {
		switch {
		case closing != 0:
			if r == closing {
				closing = 0
			}
		case r == '"':
			closing = '"'
		case r == '[':
			closing = ']'
		default:
			out.WriteRune(r)
		}
	}
	return out.String()
}

// merged gives all cells of a merged range its value, and notes it.
func (b *workbook) merged(rows [][]*string) error {
	ranges, err := b.GetMergeCells(b.sheet)
	if err != nil {
		return err
	}
	for _, m := range ranges {
		left, top, err := excelize.CellNameToCoordinates(m.GetStartAxis())
		if err != nil {
			return err
		}
		right, bottom, err := excelize.CellNameToCoordinates(m.GetEndAxis())
		if err != nil {
			return err
		}
		b.sample.note("merged-cells", top, true, "the cells %s to %s are merged; each gets the value", m.GetStartAxis(), m.GetEndAxis())
		fill(rows, top-1, left-1, bottom-1, right-1)
	}
	return nil
}

func fill(rows [][]*string, top, left, bottom, right int) {
	if top >= len(rows) || left >= len(rows[top]) {
		return
	}
	value := rows[top][left]
	for r := top; r <= bottom && r < len(rows); r++ {
		for len(rows[r]) <= right {
			rows[r] = append(rows[r], nil)
		}
		for c := left; c <= right; c++ {
			rows[r][c] = value
		}
	}
}
