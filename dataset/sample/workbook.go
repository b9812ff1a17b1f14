package sample

import (
	"encoding/csv"
	"errors"
	"fmt"
	"path/filepath"
	"strings"

	"github.com/xuri/excelize/v2"

	"tovrel/files"
)

// WorkbookSheet is a sheet of a spreadsheet as texts, as they are stored.
type WorkbookSheet struct {
	Name string
	Rows [][]string // the first is the header; short rows lack empty cells at their end
}

// WorkbookSheets reads all sheets of a spreadsheet (.xlsx), or the one of a CSV file, which has no name. It errs where the file cannot
// be read, or is larger inside than it may be.
func WorkbookSheets(path string) (sheets []WorkbookSheet, err error) {
	if strings.EqualFold(filepath.Ext(path), ".csv") {
		f, err := files.Open(path)
		if err != nil {
			return nil, err
		}
		defer f.Close() //nolint:errcheck // only read
		r := csv.NewReader(f)
		r.FieldsPerRecord = -1
		rows, err := r.ReadAll()
		if len(rows) > 0 && len(rows[0]) > 0 {
			rows[0][0] = strings.TrimPrefix(rows[0][0], "\ufeff")
		}
		return []WorkbookSheet{{Rows: rows}}, err
	}
	if !strings.EqualFold(filepath.Ext(path), ".xlsx") {
		return nil, fmt.Errorf("it is neither .xlsx nor .csv")
	}
	if err := files.Check(path); err != nil {
		return nil, err
	}
	book, err := excelize.OpenFile(path, excelize.Options{UnzipSizeLimit: 512 << 20, UnzipXMLSizeLimit: 64 << 20})
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, book.Close()) }()
	for _, name := range book.GetSheetList() {
		rows, err := book.GetRows(name, excelize.Options{RawCellValue: true})
		if err != nil {
			return nil, fmt.Errorf("the sheet %s: %w", name, err)
		}
		sheets = append(sheets, WorkbookSheet{name, rows})
	}
	return sheets, nil
}
