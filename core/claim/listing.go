package claim

import (
	"math"
	"strconv"
	"strings"

	"tovrel/core/table"
)

// tableIn reads the first Markdown table of a text, its numbers in plain writing; nil where there is none, or no row in it.
func tableIn(lines []line, s style) *table.Table {
	var rows [][]string
	for i, l := range lines {
		if l.kind != tableRow {
			if len(rows) > 0 {
				break
			}
			continue
		}
		if len(rows) > 0 && i > 0 && lines[i-1].kind != tableRow {
			break
		}
		rows = append(rows, cellsOf(l.text))
	}
	if len(rows) < 2 {
		return nil
	}
	names := rows[0]
	cells := make([][]table.Cell, 0, len(rows)-1)
	for _, row := range rows[1:] {
		out := make([]table.Cell, len(names))
		for c := range names {
			if c < len(row) {
				out[c] = plainCell(row[c], s)
			} else {
				out[c] = table.Cell{Null: true}
			}
		}
		cells = append(cells, out)
	}
	t, err := table.FromRows(names, cells)
	if err != nil {
		return nil
	}
	return t
}

func cellsOf(row string) []string {
	row = strings.TrimSuffix(strings.TrimPrefix(strings.TrimSpace(row), "|"), "|")
	cells := strings.Split(row, "|")
	for i := range cells {
		cells[i] = strings.TrimSpace(cells[i])
	}
	return cells
}

// plainCell writes a cell's number plainly, without its unit: "18.234,5 L" is 18234.5.
func plainCell(text string, s style) table.Cell {
	if text == "" || text == "-" || text == "–" || strings.EqualFold(text, "null") || strings.EqualFold(text, "n/a") {
		return table.Cell{Null: true}
	}
	n, length := numberAt(text, s)
	rest := strings.TrimSpace(text[max(0, length):])
	if length <= 0 || strings.ContainsAny(rest, "0123456789-/:") || len(strings.Fields(rest)) > 2 || length < len(text) &&
		startsWithLetter(text[length:]) && !n.currency {
		return table.Cell{Text: text}
	}
	if n.percent {
		return table.Cell{Text: strconv.FormatFloat(n.value, 'f', n.decimals, 64) + "%"}
	}
	return table.Cell{Text: strconv.FormatFloat(n.value, 'f', max(0, n.decimals-n.magnitude), 64)}
}

// shares writes the percentages of a table as shares, where the expected columns hold shares, else as numbers.
func shares(t *table.Table, w *wanted) *table.Table {
	asShare := false
	for _, c := range w.numbered {
		fraction, _ := w.ratio(c)
		asShare = asShare || fraction
	}
	out := &table.Table{}
	for _, c := range t.Columns {
		cells := make([]table.Cell, c.Len())
		for row := range cells {
			if c.IsNull(row) {
				cells[row] = table.Cell{Null: true}
				continue
			}
			cells[row] = table.Cell{Text: c.Value(row).String()}
			number, ok := strings.CutSuffix(cells[row].Text, "%")
			x, err := strconv.ParseFloat(number, 64)
			switch {
			case !ok || err != nil:
			case asShare:
				decimals := len(number) - strings.IndexByte(number+".", '.') - 1
				cells[row].Text = strconv.FormatFloat(math.Round(x*1e9)/1e11, 'f', max(0, decimals)+2, 64)
			default:
				cells[row].Text = number
			}
		}
		out.Columns = append(out.Columns, table.FromCells(c.Name, cells))
	}
	return out
}
