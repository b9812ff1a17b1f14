package postgres

import (
	"strings"

	"tovrel/core/sql"
	"tovrel/engine/server"
)

// clockWords are the keywords and functions that read the clock, and what stands for them: %d a day, %m a moment, %t a time of day.
var clockWords = map[string]string{"current_date": "DATE '%d'", "current_timestamp": "TIMESTAMPTZ '%m+00'",
	"localtimestamp": "TIMESTAMP '%m'",
	"current_time":   "TIMETZ '%t+00'", "localtime": "TIME '%t'", "now": "TIMESTAMPTZ '%m+00'",
	"transaction_timestamp": "TIMESTAMPTZ '%m+00'",
	"statement_timestamp":   "TIMESTAMPTZ '%m+00'", "clock_timestamp": "TIMESTAMPTZ '%m+00'"}

// calls are those of them that are functions; the others are keywords, which may have a precision behind them.
var calls = map[string]bool{"now": true, "transaction_timestamp": true, "statement_timestamp": true, "clock_timestamp": true}

// moments are the texts that are moments of the clock where a moment is read from them.
var moments = map[string]string{"now": "%m", "today": "%d", "yesterday": "%y", "tomorrow": "%n"}

// Today implements server.Backend.
func (b *Backend) Today(query string, tokens []sql.Token, today sql.Today) (string, bool) {
	return server.SeeToday(query, tokens, today, standsFor)
}

// standsFor is what stands for a token that reads the clock, and where in the query that ends; "" for any other.
func standsFor(tokens []sql.Token, i int) (by string, end int) {
	t := tokens[i]
	name := strings.ToLower(t.Text)
	end = t.Start + len(t.Text)
	if t.Kind == sql.StringToken {
		if moment := moments[strings.ToLower(strings.Trim(t.Text, "' "))]; moment != "" && readAsMoment(tokens, i) {
			return "'" + moment + "'", end
		}
		return "", 0
	}
	if t.Kind != sql.WordToken || i > 0 && (tokens[i-1].Is(".") || tokens[i-1].Word("as")) {
		return "", 0
	}
	opens := i+1 < len(tokens) && tokens[i+1].Is("(")
	switch {
	case name == "age" && opens && alone(tokens, i+1):
		return "age(TIMESTAMP '%d', ", tokens[i+1].Start + 1
	case clockWords[name] == "" || calls[name] && !(opens && closes(tokens, i+2)):
		return "", 0
	case opens:
		if shut := server.ShutAt(tokens, i+1); shut > 0 {
			end = tokens[shut].Start + 1
		}
	}
	return clockWords[name], end
}

func closes(tokens []sql.Token, at int) bool { return at < len(tokens) && tokens[at].Is(")") }

// alone tells a bracket that holds one argument.
func alone(tokens []sql.Token, open int) bool {
	depth := 0
	for i := open; i < len(tokens); i++ {
		switch {
		case tokens[i].Is("("):
			depth++
		case tokens[i].Is(")"):
			if depth--; depth == 0 {
				return i > open+1
			}
		case tokens[i].Is(",") && depth == 1:
			return false
		}
	}
	return false
}

// readAsMoment tells a text from which a day or a moment is read: 'today'::date, DATE 'today', CAST('today' AS date).
func readAsMoment(tokens []sql.Token, i int) bool {
	is := func(at int) bool {
		return at >= 0 && at < len(tokens) && (tokens[at].Word("date") || tokens[at].Word("timestamp") || tokens[at].Word("timestamptz"))
	}
	return is(i-1) || i+2 < len(tokens) && tokens[i+1].Is(":") && is(i+3) || i+1 < len(tokens) && tokens[i+1].Word("as") && is(i+2)
}
