package server

import (
	"strings"

	"tovrel/core/sql"
)

// SeeToday is a query with a dataset's today in place of what reads the clock; false where nothing does. StandsFor is what stands for a
// token that does, with %d for the day, %m a moment of it, %t its time, %y and %n the days before and after; and where in the query that
// ends. It is "" for any other.
func SeeToday(query string, tokens []sql.Token, today sql.Today,
	standsFor func(tokens []sql.Token, i int) (by string, end int)) (string, bool) {
	if today.Date == "" {
		return query, false
	}
	clock := strings.TrimPrefix(today.Moment, today.Date+" ")
	filled := strings.NewReplacer("%d", today.Date, "%m", today.Moment, "%t", clock, "%y", today.Before(1), "%n", today.Before(-1))
	var out strings.Builder
	done := 0
	for i, t := range tokens {
		if t.Start < done {
			continue
		}
		if by, end := standsFor(tokens, i); by != "" {
			out.WriteString(query[done:t.Start] + filled.Replace(by))
			done = end
		}
	}
	if done == 0 {
		return query, false
	}
	return out.String() + query[done:], true
}

// ShutAt is the place of the bracket that closes one; 0 for none.
func ShutAt(tokens []sql.Token, open int) int {
	depth := 0
	for i := open; i < len(tokens); i++ {
		if tokens[i].Is("(") {
			depth++
		}
		if tokens[i].Is(")") {
			if depth--; depth == 0 {
				return i
			}
		}
	}
	return 0
}
