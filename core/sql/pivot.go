package sql

import (
	"slices"
	"strings"
)

// PivotList is the place in a query where a PIVOT takes its columns from the data, and the query that gives them. The engine makes two
// statements of such a PIVOT, which no gate can look into; with the values written out it is one reading statement.
type PivotList struct {
	Query string // gives the values in order, one column of texts
	At    int    // byte offset behind the expression
}

// PivotLists finds the expressions of PIVOT … ON that have no IN, in the order of their places.
func PivotLists(sql string) []PivotList {
	tokens := Tokens(sql)
	if CheckTokens(tokens) != nil {
		return nil // several statements, or none: the gate refuses them
	}
	depths := depthsOf(tokens)
	var lists []PivotList
	for i, t := range tokens {
		if (t.Word("PIVOT") || t.Word("PIVOT_WIDER")) && !follows(tokens, depths, i) {
			lists = append(lists, pivotLists(sql, tokens, depths, i)...)
		}
	}
	slices.SortFunc(lists, func(a, b PivotList) int { return a.At - b.At }) // one inside another's source stands before it
	return slices.CompactFunc(lists, func(a, b PivotList) bool { return a.At == b.At })
}

// WithLists is a query with values written behind the places of PIVOTs; there is a list of values for each place.
func WithLists(sql string, lists []PivotList, values [][]string) string {
	var b strings.Builder
	done := 0
	for i, l := range lists {
		quoted := make([]string, len(values[i]))
		for j, v := range values[i] {
			quoted[j] = "'" + strings.ReplaceAll(v, "'", "''") + "'"
		}
		b.WriteString(sql[done:l.At] + " IN (" + strings.Join(quoted, ", ") + ")")
		done = l.At
	}
	return b.String() + sql[done:]
}

// follows tells that a PIVOT stands behind a table, as in FROM t PIVOT (sum(x) FOR y IN (…)): that one always names its columns.
func follows(tokens []Token, depths []int, at int) bool {
	if at+1 >= len(tokens) || !tokens[at+1].Is("(") {
		return false
	}
	for i := at + 2; i < len(tokens) && depths[i] > depths[at]; i++ {
		if depths[i] == depths[at]+1 && tokens[i].Word("FOR") {
			return true
		}
	}
	return false
}

// pivotLists reads one PIVOT source ON expression, … USING ….
func pivotLists(sql string, tokens []Token, depths []int, at int) []PivotList {
	on := clauseAt(tokens, depths, at+1, depths[at], "ON")
	if on < 0 || on == at+1 {
		return nil
	}
	source := sql[tokens[at+1].Start:tokens[on].Start]
	end := clauseAt(tokens, depths, on+1, depths[at], "USING", "GROUP", "ORDER", "LIMIT")
	if end < 0 {
		end = endAt(tokens, depths, on+1, depths[at])
	}
	var lists []PivotList
	for from := on + 1; from < end; {
		to := from
		for to < end && (depths[to] != depths[at] || !tokens[to].Is(",")) {
			to++
		}
		if to > from && !named(tokens[from:to], depths[from:to], depths[at]) {
			last := tokens[to-1]
			expression := sql[tokens[from].Start : last.Start+len(last.Text)]
			lists = append(lists, PivotList{At: last.Start + len(last.Text),
				Query: ctesBefore(sql, tokens, depths, at) + "SELECT DISTINCT CAST(" + expression + " AS VARCHAR) AS v FROM " +
					source + " WHERE (" + expression + ") IS NOT NULL ORDER BY v"})
		}
		from = to + 1
	}
	return lists
}

// named tells whether an expression has its values: x IN (…).
func named(tokens []Token, depths []int, depth int) bool {
	for i, t := range tokens {
		if depths[i] == depth && t.Word("IN") {
			return true
		}
	}
	return false
}

// clauseAt is the first of some words at a depth, -1 where a bracket or the statement ends before.
func clauseAt(tokens []Token, depths []int, from, depth int, words ...string) int {
	for i, end := from, endAt(tokens, depths, from, depth); i < end; i++ {
		if depths[i] == depth && slices.ContainsFunc(words, tokens[i].Word) {
			return i
		}
	}
	return -1
}

// endAt is where a bracket's inside or the statement ends.
func endAt(tokens []Token, depths []int, from, depth int) int {
	for i := from; i < len(tokens); i++ {
		if depths[i] < depth || depths[i] == depth && tokens[i].Is(";") {
			return i
		}
	}
	return len(tokens)
}

// ctesBefore is the WITH of the statement, as far as a place can see its tables.
func ctesBefore(sql string, tokens []Token, depths []int, at int) string {
	if !tokens[0].Word("WITH") {
		return ""
	}
	body := clauseAt(tokens, depths, 1, 0, "SELECT", "FROM", "PIVOT", "PIVOT_WIDER", "INSERT", "UPDATE", "DELETE")
	if body >= 0 && body <= at {
		return sql[:tokens[body].Start]
	}
	for i := at; i > 0; i-- { // inside a CTE: those before it are seen
		if depths[i] == 0 && tokens[i].Is(",") {
			return sql[:tokens[i].Start] + " "
		}
	}
	return ""
}

// depthsOf says for each token in how many round brackets it stands; a bracket itself stands outside.
func depthsOf(tokens []Token) []int {
	depths := make([]int, len(tokens))
	depth := 0
	for i, t := range tokens {
		if t.Is(")") {
			depth--
		}
		depths[i] = depth
		if t.Is("(") {
			depth++
		}
	}
	return depths
}
