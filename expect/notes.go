package expect

import (
	"fmt"
	"strings"

	"tovrel/core/table"
)

// Notes say in words how answers will be matched with what a reference query asks: the order of its rows, and ties at its cut.
func (e Expectation) Notes() []string {
	var out []string
	var keys []string
	for _, k := range e.Known.Ranking {
		direction := "rising"
		if k.Descending {
			direction = "falling"
		}
		keys = append(keys, k.Name+" "+direction)
	}
	if len(keys) > 0 {
		out = append(out, "Its rows are ranked: an answer must have them by "+strings.Join(keys, ", then ")+
			"; tied rows may stand in any order.")
	}
	if cut := e.Known.Cut; cut != nil && len(keys) > 0 && cut.Full.Rows() > cut.From+cut.Keep && cut.Keep > 0 {
		if last, next := e.rankOf(cut.Full, cut.From+cut.Keep-1), e.rankOf(cut.Full, cut.From+cut.Keep); last == next {
			out = append(out, "Rows behind its cut tie with the last one: any choice among them is right (ties: fair); set "+
				"rules: {ties: strict} to have these rows alone.")
		}
	}
	return out
}

// rankOf is what a row is ranked by, as text.
func (e Expectation) rankOf(t *table.Table, row int) string {
	var parts []string
	for _, k := range e.Known.Ranking {
		values := k.Values
		if k.Column >= 0 {
			values = t.Columns[k.Column]
		}
		if values == nil || row >= values.Len() {
			return fmt.Sprint(row) // what it is ranked by is not known
		}
		parts = append(parts, values.Value(row).String())
	}
	return strings.Join(parts, "\x00")
}
