package profile

import (
	"fmt"
	"strings"

	"tovrel/core/near"
	"tovrel/core/pattern"
	"tovrel/core/value"
)

// fewRows is the number of rows from which a constant column says something.
const fewRows = 20

func nearConstant(_ *Table, c *Column) *Finding {
	if c.Rows < fewRows {
		return nil
	}
	switch {
	case c.Filled() == 0:
		return &Finding{Severity: Hint, Code: "near-constant", Message: "is null in every row",
			Remedy: "leave the column out, or hide it in the briefing"}
	case c.Distinct == 1:
		return &Finding{Severity: Hint, Code: "near-constant", Message: "has the same value in every row that has one",
			Example: shown(c), Remedy: "hide it in the briefing if it says nothing"}
	case len(c.Values) > 0 && float64(c.Values[0].Rows) >= 0.99*float64(c.Rows):
		return &Finding{Severity: Hint, Code: "near-constant",
			Message: fmt.Sprintf("has one value in %d of %d rows: a condition on it hardly shows", c.Values[0].Rows, c.Rows),
			Example: shown(c), Remedy: "add rows with other values where questions ask for them"}
	}
	return nil
}

func shown(c *Column) string {
	if len(c.Values) == 0 {
		return ""
	}
	return c.Values[0].Text
}

// units are the endings of names that are units.
var units = map[string]string{"kg": "kg", "g": "g", "t": "t", "km": "km", "m": "m", "cm": "cm", "mm": "mm", "l": "L",
	"ml": "mL", "litres": "L", "eur": "EUR", "usd": "USD", "gbp": "GBP",
	"chf": "CHF", "pct": "%", "percent": "%", "perc": "%", "hrs": "h", "hours": "h", "min": "min", "mins": "min",
	"minutes": "min", "secs": "s", "sec": "s", "ms": "ms", "days": "days", "c": "°C", "celsius": "°C", "cents": "ct"}

var bracketUnit = pattern.Of(`[(\[]([^)\]]+)[)\]]\s*$`)

// UnitIn is the unit that a column's name ends in; "" for none.
func UnitIn(name string) string {
	if m := bracketUnit.FindStringSubmatch(name); m != nil {
		return strings.TrimSpace(m[1])
	}
	parts := strings.FieldsFunc(strings.ToLower(name), func(r rune) bool { return r == '_' || r == ' ' })
	if len(parts) < 2 {
		return ""
	}
	return units[parts[len(parts)-1]]
}

func unitInName(_ *Table, c *Column) *Finding {
	unit := UnitIn(c.Name)
	if unit == "" || !c.Kind.Number() {
		return nil
	}
	return &Finding{Severity: Hint, Code: "unit-in-name", Message: fmt.Sprintf("has its unit in its name (%s)", unit), Example: c.Name,
		Remedy: fmt.Sprintf("write unit: %q for the column in the briefing, so that answers in another scale are understood", unit)}
}

// nameChecks finds columns that are named alike.
func nameChecks(_ *Dataset, t *Table) []Finding {
	var out []Finding
	for i, a := range t.Columns {
		for _, b := range t.Columns[i+1:] {
			if alike(a.Name, b.Name) {
				out = append(out, Finding{Severity: Warning, Code: "named-alike", Table: t.Name, Column: b.Name,
					Message: fmt.Sprintf("is named almost like %s: a translator will take one for the other", a.Name),
					Example: a.Name + " / " + b.Name, Remedy: "say in the briefing what each means (about:), or hide one"})
			}
		}
	}
	return out
}

var trailingNumber = pattern.Of(`[_ ]?\d+$`)

// alike tells whether two names differ only by case, separators, a plural or a number behind; or by one letter in a long name.
func alike(a, b string) bool {
	x, y := plain(a), plain(b)
	if singular(x) == singular(y) {
		return true
	}
	if t := trailingNumber.ReplaceAllString(strings.ToLower(b), ""); t != strings.ToLower(b) && plain(t) == x {
		return true
	}
	return len(x) > 5 && len(y) > 5 && x[0] == y[0] && near.Distance(x, y) <= 1
}

var totalWord = pattern.Of(`(?i)^\s*(grand |sub-?)?(total|totals|sum|summe|gesamt|overall)\b[\s:]*`)

// totalsRow finds a last row that sums up the others: by its words, or by numbers that are the sums of the rows above.
func totalsRow(_ *Dataset, t *Table) []Finding {
	if t.Last == nil || t.Rows < 3 {
		return nil
	}
	worded, sums, numbers := "", 0, 0
	for i, c := range t.Columns {
		cell := t.Last[i]
		if cell.IsNull() {
			continue
		}
		if c.Kind == value.Text && totalWord.MatchString(cell.String()) {
			worded = cell.String()
		}
		if c.Sum == nil {
			continue
		}
		last, ok := cell.Float64()
		if !ok || last == 0 {
			continue
		}
		numbers++
		if above := *c.Sum - last; above != 0 && closeTo(above, last) {
			sums++
		}
	}
	if worded == "" && (sums < 2 || sums < numbers) {
		return nil
	}
	example := worded
	if example == "" {
		example = fmt.Sprintf("%d columns of the last row are the sums of the rows above", sums)
	}
	return []Finding{{Severity: Error, Code: "totals-row", Table: t.Name, Line: 0,
		Message: fmt.Sprintf("the last row (%d) sums up the others: every sum over the table is doubled", t.Rows),
		Example: example, Remedy: "remove it from the file"}}
}

func closeTo(a, b float64) bool {
	d := a - b
	if d < 0 {
		d = -d
	}
	m := max(a, -a, b, -b)
	return d <= 1e-6*m
}
