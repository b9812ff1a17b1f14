package diagnose

import (
	"fmt"
	"math"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/table"
)

// nullForZero: every differing cell is a null in place of a zero, or the reverse.
func nullForZero(_ Case, r match.Result) *fault.Fault {
	if len(r.Cells) == 0 || len(r.Missing)+len(r.ExtraRows) > 0 {
		return nil
	}
	words := ""
	for _, cell := range r.Cells {
		e, isNumber := cell.Expected.Float64()
		a, answered := cell.Answer.Float64()
		said := ""
		switch {
		case isNumber && e == 0 && cell.Answer.IsNull():
			said = "null where zero was expected"
		case answered && a == 0 && cell.Expected.IsNull():
			said = "zero where null was expected"
		}
		if said == "" || words != "" && words != said {
			return nil
		}
		words = said
	}
	return &fault.Fault{Code: fault.NullHandling, Evidence: "every differing cell is " + words}
}

var anyLayout = func() match.Rules {
	var r match.Rules
	_ = r.Set("layout", match.Choice{Value: "any"}) // a known rule
	return r
}()

// otherLayout: under a rule that accepts any layout, the answer is right.
func otherLayout(c Case, _ match.Result) *fault.Fault {
	if !match.Match(c.Expected, c.Got, anyLayout.Over(c.Rules), c.Known).Matched {
		return nil
	}
	return &fault.Fault{Code: fault.WrongLayout,
		Evidence: "the answer has the right values in another layout: a crosstab where a long table was asked, or the reverse"}
}

// codeForLabel: the rows are the same but for one column of texts, in which each expected text has one other text in its place.
func codeForLabel(c Case, _ match.Result) *fault.Fault {
	if c.Expected.Rows() != c.Got.Rows() || c.Expected.Rows() < 2 || len(c.Expected.Columns) != len(c.Got.Columns) {
		return nil
	}
	texts := textColumns(c.Expected)
	if len(texts) != 1 || len(textColumns(c.Got)) != 1 || len(c.Expected.Columns) < 2 {
		return nil
	}
	expected, okE := textsByRest(c.Expected, texts[0])
	answer, okA := textsByRest(c.Got, textColumns(c.Got)[0])
	if !okE || !okA {
		return nil
	}
	to, from := map[string]string{}, map[string]string{}
	for rest, label := range expected {
		code, has := answer[rest]
		if known, seen := to[label]; !has || label == code || seen && known != code {
			return nil
		}
		if known, seen := from[code]; seen && known != label {
			return nil
		}
		to[label], from[code] = code, label
	}
	name := c.Expected.Columns[texts[0]].Name
	for label, code := range first(to) {
		return &fault.Fault{Code: fault.Label, Evidence: fmt.Sprintf("each %s has another text in its place, such as %q for "+
			"%q: codes and labels are mixed up", name, code, label)}
	}
	return nil
}

// first is the smallest entry of a map, so that what is shown is always the same.
func first(m map[string]string) map[string]string {
	least, found := "", false
	for k := range m {
		if !found || k < least {
			least, found = k, true
		}
	}
	if !found {
		return nil
	}
	return map[string]string{least: m[least]}
}

func textColumns(t *table.Table) []int {
	var out []int
	for i, c := range t.Columns {
		if !c.Type.Kind.Number() {
			out = append(out, i)
		}
	}
	return out
}

// textsByRest gives a column's texts by what else stands in their rows; false where rows do not differ in the rest.
func textsByRest(t *table.Table, column int) (map[string]string, bool) {
	out := map[string]string{}
	for row := range t.Rows() {
		var rest strings.Builder
		for i, c := range t.Columns {
			if f, ok := c.Value(row).Float64(); i != column && ok {
				fmt.Fprintf(&rest, "%.9g ", f)
			}
		}
		if _, twice := out[rest.String()]; twice {
			return nil, false
		}
		out[rest.String()] = t.Columns[column].Value(row).String()
	}
	return out, true
}

// periodShift: the numbers are those of the row before or after, in the order of the rows.
func periodShift(c Case, r match.Result) *fault.Fault {
	const fewest = 4
	rows := c.Expected.Rows()
	if rows != c.Got.Rows() || rows < fewest || len(r.Cells) == 0 {
		return nil
	}
	for _, pair := range r.Columns {
		if pair.Answer < 0 || !c.Expected.Columns[pair.Expected].Type.Kind.Number() {
			continue
		}
		e, a := numbers(c.Expected.Columns[pair.Expected]), numbers(c.Got.Columns[pair.Answer])
		for _, by := range []int{-1, 1} {
			if shifted(e, a, by) {
				direction := map[int]string{-1: "before", 1: "after"}[by]
				return &fault.Fault{Code: fault.TimeWindow,
					Evidence: fmt.Sprintf("the values of %s are those of the row %s: they are shifted by one period",
						c.Expected.Columns[pair.Expected].Name, direction)}
			}
		}
	}
	return nil
}

func numbers(c *table.Column) []float64 {
	out := make([]float64, c.Len())
	for row := range out {
		out[row] = math.NaN()
		if f, ok := c.Value(row).Float64(); ok {
			out[row] = f
		}
	}
	return out
}

// shifted tells whether answer[i] is expected[i+by] throughout, and the values are not all the same.
func shifted(expected, answer []float64, by int) bool {
	differ := false
	for i := range answer {
		if i+by < 0 || i+by >= len(expected) {
			continue
		}
		if math.Abs(answer[i]-expected[i+by]) > 1e-9*math.Abs(answer[i]) || math.IsNaN(answer[i]-expected[i+by]) {
			return false
		}
		differ = differ || answer[i] != expected[i]
	}
	return differ
}

// sharesOfTotal: what was expected adds up to one or to a hundred, and what came does not.
func sharesOfTotal(c Case, r match.Result) *fault.Fault {
	if c.Expected.Rows() < 2 || len(r.Cells) == 0 {
		return nil
	}
	for _, pair := range r.Columns {
		if pair.Answer < 0 || !c.Expected.Columns[pair.Expected].Type.Kind.Number() || !c.Got.Columns[pair.Answer].Type.Kind.Number() {
			continue
		}
		want, got := sumOf(c.Expected.Columns[pair.Expected], -1), sumOf(c.Got.Columns[pair.Answer], -1)
		for _, whole := range []float64{1, 100} {
			if math.Abs(want-whole) <= 1e-4*whole && math.Abs(got-whole) > 1e-3*whole {
				return &fault.Fault{Code: fault.Formula,
					Evidence: fmt.Sprintf("the expected shares in %s add up to %g, those of the answer to %.6g: they are "+
						"taken of another total", c.Expected.Columns[pair.Expected].Name, whole, got)}
			}
		}
	}
	return nil
}
