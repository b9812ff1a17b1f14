package match

import "tovrel/core/table"

// Same tells whether two answers are the same table under some rules. Neither is the expected one, so each has to match the other.
func Same(a, b *table.Table, rules Rules) bool {
	return Match(a, b, rules, Known{}).Matched && Match(b, a, rules, Known{}).Matched
}
