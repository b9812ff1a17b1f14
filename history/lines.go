package history

import (
	"tovrel/core/table"
	"tovrel/core/value"
)

// lineColumn is the column of a table that keeps lines of text.
const lineColumn = "line"

// KeepLines makes the stored form of lines of text, such as what a translator was told.
func KeepLines(lines []string) Stored {
	c := table.NewColumn(lineColumn, value.Type{Kind: value.Text}, len(lines))
	for _, line := range lines {
		c.Append(value.OfText(line))
	}
	return Keep(&table.Table{Columns: []*table.Column{c}})
}

// LinesOf reads stored lines of text back.
func LinesOf(t Stored) []string {
	out := make([]string, 0, t.Table.Rows())
	for i := range t.Table.Rows() {
		out = append(out, t.Table.Columns[0].Value(i).String())
	}
	return out
}
