package match

import (
	"strconv"

	"tovrel/core/value"
)

// columnRules are the rules of one expected column, resolved.
type columnRules struct {
	numbers string
	amount  value.Value // the argument of rel, abs and digits
	narrow  bool        // numbers were given for this column, and so loosen whole numbers too
	scale   string
	fold    bool
	read    bool // formats are read
	null    string
	labels  map[string]string // label of each code; nil where labels are strict or unknown
}

// rulesOf resolves the rules of an expected column with what is known of it.
func (m *matcher) rulesOf(i int) columnRules {
	name := m.expected.Columns[i].Name
	numbers := m.rules.column(name, "numbers")
	r := columnRules{numbers: numbers.Value, narrow: m.rules.narrowed(name, "numbers"), scale: m.rules.column(name, "scale").Value,
		fold: m.rules.column(name, "text").Value == "fold", read: m.rules.column(name, "format").Value == "read",
		null: m.rules.column(name, "null").Value}
	if numbers.Argument != "" {
		r.amount, _ = parseAmount(numbers.Value, numbers.Argument) // checked when it was set
	}
	if i < len(m.known.Units) && r.scale == "strict" && !m.rules.set(name, "scale") {
		switch m.known.Units[i] {
		case "fraction":
			r.scale = "fraction"
		case "%":
			r.scale = "percent"
		}
	}
	if i < len(m.known.Labels) && m.rules.column(name, "labels").Value == "briefing" {
		r.labels = m.known.Labels[i]
	}
	return r
}

// parseAmount reads the argument of rel, abs or digits.
func parseAmount(kind, text string) (value.Value, error) {
	if kind == "digits" {
		n, err := strconv.Atoi(text)
		if err != nil || n < 0 || n > 15 {
			return value.Value{}, ruleError(BadValue, "rule numbers: digits takes a whole number from 0 to 15, not %q", text)
		}
		return value.OfInt(int64(n)), nil
	}
	f, err := strconv.ParseFloat(text, 64)
	if err != nil || !(f >= 0) || f > 1e300 {
		return value.Value{}, ruleError(BadValue, "rule numbers: %s takes a number of at least 0, such as 0.01, not %q", kind, text)
	}
	exact, _ := value.OfFloat(f).Exact() // a finite float
	return exact, nil
}

// set tells whether a rule was set, for a column or for the table.
func (r Rules) set(name, key string) bool {
	_, table := r.choices[key]
	return table || r.narrowed(name, key)
}

// narrowed tells whether a rule was set for a column.
func (r Rules) narrowed(name, key string) bool {
	for column, choices := range r.byColumn {
		if _, ok := choices[key]; ok && fold(column) == fold(name) {
			return true
		}
	}
	return false
}
