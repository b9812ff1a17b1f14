package claim

import (
	"tovrel/core/match"
	"tovrel/core/table"
)

// mostChoices bounds how many choices among tied rows are tried.
const mostChoices = 20

// choices are what is expected as well where rows at the reference's cut are tied: each other choice among them, under `ties: fair`.
func (e Expected) choices() []Expected {
	cut := e.Known.Cut
	if cut == nil || cut.Full == nil || cut.Places != nil || cut.Keep < 1 || e.Rules.Choice("ties").Value != "fair" {
		return nil
	}
	keys := cut.Keys
	if keys == nil {
		keys = e.Known.Ranking
	}
	last := cut.From + cut.Keep - 1
	if len(keys) == 0 || last+1 >= cut.Full.Rows() || !tiedAt(cut.Full, keys, last, last+1) {
		return nil
	}
	first, end := last, last+1
	for first > cut.From && tiedAt(cut.Full, keys, first-1, last) {
		first--
	}
	for end < cut.Full.Rows() && tiedAt(cut.Full, keys, end, last) {
		end++
	}
	var out []Expected
	for _, chosen := range combinations(first, end, last-first+1) {
		var rows []int
		for row := cut.From; row < first; row++ {
			rows = append(rows, row)
		}
		other := e
		shown := &table.Table{Columns: cut.Full.Columns[:min(len(e.Table.Columns), len(cut.Full.Columns))]}
		other.Table = shown.Pick(append(rows, chosen...))
		out = append(out, other)
	}
	return out
}

// tiedAt tells whether two rows have the same keys.
func tiedAt(t *table.Table, keys []match.Key, a, b int) bool {
	for _, k := range keys {
		c := k.Values
		if k.Column >= 0 && k.Column < len(t.Columns) {
			c = t.Columns[k.Column]
		}
		if c == nil || a >= c.Len() || b >= c.Len() || c.Value(a).String() != c.Value(b).String() {
			return false
		}
	}
	return true
}

// combinations are choices of so many of some numbers, from one up to another.
func combinations(from, to, n int) [][]int {
	if n == 0 {
		return [][]int{nil}
	}
	var out [][]int
	for i := from; i+n <= to && len(out) < mostChoices; i++ {
		for _, rest := range combinations(i+1, to, n-1) {
			out = append(out, append([]int{i}, rest...))
		}
	}
	return out[:min(len(out), mostChoices)]
}
