package render

import (
	"io"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"tovrel/core/sheet"
	"tovrel/view"
)

// Workbook writes a screen as a spreadsheet: its lines on the first sheet, each grid on one of its own. It errs where the writer fails, and
// for more rows than a sheet holds.
func Workbook(w io.Writer, s view.Screen) (err error) {
	book := excelize.NewFile()
	defer book.Close() //nolint:errcheck // nothing is left on disk
	bold, err := book.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true},
		Border: []excelize.Border{{Type: "bottom", Style: 1, Color: "999999"}}})
	if err != nil {
		return err
	}
	const first = "Summary"
	if err := book.SetSheetName("Sheet1", first); err != nil {
		return err
	}
	if err := summarySheet(book, first, s); err != nil {
		return err
	}
	used := map[string]bool{strings.ToLower(first): true}
	for _, p := range s.Parts {
		if p.Grid == nil || len(p.Grid.Rows) == 0 {
			continue
		}
		title := p.Title
		if title == "" && p.Grid.Machine {
			title = "Data"
		}
		if err := gridSheet(book, sheet.Name(title, used), *p.Grid.ForMachines(), bold); err != nil {
			return err
		}
	}
	for _, c := range s.Charts {
		if err := gridSheet(book, sheet.Name(c.Title, used), *c.Figures, bold); err != nil {
			return err
		}
	}
	return book.Write(w)
}

func summarySheet(book *excelize.File, sheet string, s view.Screen) error {
	row := 1
	line := func(text string) error {
		at, err := excelize.CoordinatesToCellName(1, row)
		row++
		if err != nil {
			return err
		}
		return book.SetCellStr(sheet, at, text)
	}
	for _, t := range s.Headline {
		if err := line(t.Text); err != nil {
			return err
		}
	}
	for _, p := range s.Parts {
		for _, t := range p.Lines {
			if err := line(t.Text); err != nil {
				return err
			}
		}
	}
	return book.SetColWidth(sheet, "A", "A", 120)
}

func gridSheet(book *excelize.File, sheet string, g view.Grid, header int) error {
	if _, err := book.NewSheet(sheet); err != nil {
		return err
	}
	for column, c := range g.Columns {
		at, err := excelize.CoordinatesToCellName(column+1, 1)
		if err != nil {
			return err
		}
		if err := book.SetCellStr(sheet, at, c.Name); err != nil {
			return err
		}
		if err := book.SetCellStyle(sheet, at, at, header); err != nil {
			return err
		}
		for row, cells := range g.Rows {
			at, err := excelize.CoordinatesToCellName(column+1, row+2)
			if err != nil {
				return err
			}
			if err := setCell(book, sheet, at, cells[column], c.Right); err != nil {
				return err
			}
		}
		name, _ := excelize.ColumnNumberToName(column + 1) // a sheet's columns have names
		if err := book.SetColWidth(sheet, name, name, width(g, column)); err != nil {
			return err
		}
	}
	return book.SetPanes(sheet, &excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"})
}

// setCell writes numbers as numbers and all else as text: a cell of the type text is never a formula.
func setCell(book *excelize.File, sheet, at string, c view.Cell, right bool) error {
	if f, err := strconv.ParseFloat(c.Text, 64); right && err == nil {
		return book.SetCellFloat(sheet, at, f, -1, 64)
	}
	return book.SetCellStr(sheet, at, c.Text)
}

// width of a column: that of its longest cell, within reason.
func width(g view.Grid, column int) float64 {
	most := len(g.Columns[column].Name)
	for _, row := range g.Rows {
		most = max(most, len([]rune(row[column].Text)))
	}
	return float64(min(80, most+2))
}
