// Package render turns a view.Screen into bytes: for a terminal, as Markdown, CSV or JSON. It decides nothing.
package render

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"strings"

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
}

// Screen writes a screen in a format.
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
		return writeMarkdown(w, s)
	}
	return terminal(w, s, o)
}

// writeCSV writes the main grid at full precision.
func writeCSV(w io.Writer, s view.Screen, forSpreadsheet bool) error {
	written := exactCell
	if forSpreadsheet {
		written = func(s string) string { return Harmless(exactCell(s)) }
	}
	out := bufio.NewWriter(w)
	for _, p := range s.Parts {
		if p.Grid == nil || !p.Grid.Main {
			continue
		}
		header := make([]view.Cell, len(p.Grid.Columns))
		for i, column := range p.Grid.Columns {
			header[i] = view.Cell{Text: column.Name}
		}
		for _, row := range append([][]view.Cell{header}, p.Grid.Rows...) {
			for i, cell := range row {
				if i > 0 {
					out.WriteByte(',')
				}
				out.WriteString(field(written(cell.Text), cell.Empty))
			}
			out.WriteByte('\n')
		}
	}
	if err := out.Flush(); err != nil { // it keeps the first error of what was written
		return fmt.Errorf("the output cannot be written: %w", err)
	}
	return nil
}

// field is a field of CSV; a text without characters stands in quotes, to be told from nothing. The library's writer cannot do that.
func field(text string, empty bool) string {
	plain := !empty && text != `\.` && !strings.HasPrefix(text, " ") && !strings.HasPrefix(text, "\t") && !strings.ContainsAny(text, ",\"\r\n")
	if plain {
		return text
	}
	return `"` + strings.ReplaceAll(text, `"`, `""`) + `"`
}
