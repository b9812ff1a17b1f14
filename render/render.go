// Package render turns a view.Screen into bytes: for a terminal, as Markdown, CSV or JSON. It decides nothing.
// Errors are the writer's; a workbook or a chart that cannot be made errs with what its library says.
package render

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"strings"

	"tovrel/core/sheet"
	"tovrel/view"
)

// Format is an output format.
type Format string

// The formats.
const (
	Table    Format = "table"
	JSON     Format = "json"
	CSV      Format = "csv"
	Markdown Format = "markdown"
)

// Formats lists the formats' names.
func Formats() []string { return []string{string(Table), string(JSON), string(CSV), string(Markdown)} }

// Options say how a terminal looks. The zero Options are those of a pipe: no colour, no cutting.
type Options struct {
	Width   int  // columns; 0 for no limit
	Color   bool // colours on top of marks and words
	Unicode bool // the terminal shows more than ASCII
	// ForSpreadsheet has texts of CSV that a spreadsheet would take for formulas begin with an apostrophe; without it CSV is exact.
	ForSpreadsheet bool
	ChartsBeside   string // what the names of a Markdown file's charts begin with; "" where there are none beside it
}

// Screen writes a screen in a format. It errs where the writer fails, and for data that JSON cannot hold.
func Screen(w io.Writer, s view.Screen, format Format, o Options) error {
	switch format {
	case JSON:
		var b bytes.Buffer
		encoder := json.NewEncoder(&b)
		encoder.SetEscapeHTML(false)
		encoder.SetIndent("", "  ")
		if err := encoder.Encode(s.Data); err != nil {
			return err
		}
		_, err := w.Write(safeJSON(b.Bytes()))
		return err
	case CSV:
		return writeCSV(w, s, o.ForSpreadsheet)
	case Markdown:
		return writeMarkdown(w, s, o.ChartsBeside)
	}
	return terminal(w, s, o)
}

// writeCSV writes the main grid at full precision.
func writeCSV(w io.Writer, s view.Screen, forSpreadsheet bool) error {
	written := exactCell
	if forSpreadsheet {
		written = func(s string) string { return sheet.Harmless(exactCell(s)) }
	}
	out := bufio.NewWriter(w)
	found := false
	for _, p := range s.Parts {
		if p.Grid != nil && p.Grid.Main {
			found = true
			csvGrid(out, p.Grid.ForMachines(), written)
		}
	}
	if !found {
		g, err := summaryGrid(s)
		if err != nil {
			return err
		}
		csvGrid(out, g, written)
	}
	if err := out.Flush(); err != nil { // it keeps the first error of what was written
		return fmt.Errorf("the output cannot be written: %w", err)
	}
	return nil
}

func csvGrid(out *bufio.Writer, g *view.Grid, written func(string) string) {
	header := make([]view.Cell, len(g.Columns))
	for i, column := range g.Columns {
		header[i] = view.Cell{Text: column.Name}
	}
	for _, row := range append([][]view.Cell{header}, g.Rows...) {
		for i, cell := range row {
			if i > 0 {
				out.WriteByte(',')
			}
			out.WriteString(field(written(cell.Text), cell.Empty))
		}
		out.WriteByte('\n')
	}
}

// summaryGrid is what a screen without a table has for CSV: one row of the plain values of its data, in their order.
func summaryGrid(s view.Screen) (*view.Grid, error) {
	body, err := json.Marshal(s.Data)
	if err != nil {
		return nil, err
	}
	var values map[string]any
	names := topNames(body)
	decoder := json.NewDecoder(bytes.NewReader(body))
	decoder.UseNumber()
	if err := decoder.Decode(&values); err != nil {
		names = nil // no object: nothing to list
	}
	g := &view.Grid{Rows: [][]view.Cell{{}}}
	for _, name := range names {
		switch v := values[name].(type) {
		case map[string]any, []any:
		case nil:
			g.Columns, g.Rows[0] = append(g.Columns, view.Column{Name: name}), append(g.Rows[0], view.Cell{})
		default:
			g.Columns, g.Rows[0] = append(g.Columns, view.Column{Name: name}), append(g.Rows[0], view.Cell{Text: fmt.Sprint(v)})
		}
	}
	if len(g.Columns) == 0 {
		g = &view.Grid{Columns: []view.Column{{Name: "message"}}}
		for _, line := range s.Headline {
			g.Rows = append(g.Rows, []view.Cell{{Text: line.Text}})
		}
	}
	return g, nil
}

// topNames lists the names of an object's values in their order.
func topNames(object []byte) []string {
	var names []string
	decoder := json.NewDecoder(bytes.NewReader(object))
	if t, err := decoder.Token(); err != nil || t != json.Delim('{') {
		return nil
	}
	for decoder.More() {
		name, err := decoder.Token()
		var skipped json.RawMessage
		if err != nil || decoder.Decode(&skipped) != nil {
			return nil
		}
		names = append(names, fmt.Sprint(name))
	}
	return names
}

// field is a field of CSV; a text without characters stands in quotes, to be told from nothing. The library's writer cannot do that.
func field(text string, empty bool) string {
	plain := !empty && text != `\.` && !strings.HasPrefix(text, " ") && !strings.HasPrefix(text, "\t") &&
		!strings.ContainsAny(text, ",\"\r\n")
	if plain {
		return text
	}
	return `"` + strings.ReplaceAll(text, `"`, `""`) + `"`
}
