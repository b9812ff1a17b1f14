package clickhouse

import (
	"strings"

	"tovrel/core/sql"
	"tovrel/engine/server"
)

// clock are the functions that read the clock, and what stands for them: %d a day, %m a moment, %y the day before.
var clock = map[string]string{"now": "toDateTime('%m')", "today": "toDate('%d')", "yesterday": "toDate('%y')", "curdate": "toDate('%d')",
	"current_date": "toDate('%d')", "current_timestamp": "toDateTime('%m')"}

// words are those of them that stand without brackets.
var words = map[string]bool{"current_date": true, "current_timestamp": true}

// Today implements server.Backend.
func (b *Backend) Today(query string, tokens []sql.Token, today sql.Today) (string, bool) {
	return server.SeeToday(query, tokens, today, func(tokens []sql.Token, i int) (string, int) {
		t := tokens[i]
		by := clock[strings.ToLower(t.Text)]
		if t.Kind != sql.WordToken || by == "" || i > 0 && (tokens[i-1].Is(".") || tokens[i-1].Word("as")) {
			return "", 0
		}
		if i+1 < len(tokens) && tokens[i+1].Is("(") { // now(), now('UTC')
			if shut := server.ShutAt(tokens, i+1); shut > 0 {
				return by, tokens[shut].Start + 1
			}
		}
		if words[strings.ToLower(t.Text)] {
			return by, t.Start + len(t.Text)
		}
		return "", 0
	})
}
