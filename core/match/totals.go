package match

import (
	"math"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/table"
)

// totalWords are what a row of totals is called.
var totalWords = map[string]bool{"": true, "total": true, "totals": true, "grand total": true, "all": true, "sum": true, "overall": true,
	"gesamt": true,
	"summe":  true, "total général": true, "together": true}

// withoutTotal compares an answer that has one row too many without it, where that row is a total of the others. Under `rows: totals` it
// is a remark, else the fault total-row.
func withoutTotal(direct Result, rules Rules, known Known) Result {
	if direct.Matched || len(direct.ExtraRows) != 1 || len(direct.Missing) > 0 || len(direct.Cells) > 0 {
		return direct
	}
	answer := direct.Tables.Answer
	at := direct.ExtraRows[0]
	if !isTotal(answer, at) {
		return direct
	}
	var others []int
	for row := range answer.Rows() {
		if row != at {
			others = append(others, row)
		}
	}
	r := matchLong(direct.Tables.Expected, answer.Pick(others), rules, known)
	if !r.Matched {
		return direct
	}
	if rules.get("rows").Value == "totals" {
		r.addRemark(TotalRow)
		return r
	}
	direct.Faults = append(direct.Faults, fault.Fault{Code: fault.TotalRow, Certainty: fault.Proved,
		Evidence: "without its row of totals the answer is right; write rows: {totals: note} where such a row does no harm"})
	return direct
}

// isTotal tells whether a row is the total of the others: a column of numbers is their sum, and its texts are empty or say so.
func isTotal(t *table.Table, row int) bool {
	sums := false
	for _, c := range t.Columns {
		if !c.Type.Kind.Number() {
			if !c.IsNull(row) && !totalWords[strings.ToLower(strings.TrimSpace(c.Value(row).String()))] {
				return false
			}
			continue
		}
		total, sum := 0.0, 0.0
		for i := range c.Len() {
			x, ok := c.Value(i).Float64()
			switch {
			case c.IsNull(i) || !ok:
			case i == row:
				total = x
			default:
				sum += x
			}
		}
		sums = sums || !c.IsNull(row) && t.Rows() > 2 && math.Abs(total-sum) <= 1e-9*math.Max(math.Abs(total), math.Abs(sum))
	}
	return sums
}
