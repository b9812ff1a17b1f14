package trino

import (
	"strings"

	"tovrel/core/sql"
	"tovrel/engine/server"
)

// clock are the words that read the clock, and what stands for them.
var clock = map[string]string{"current_date": "DATE '%d'", "current_timestamp": "TIMESTAMP '%m UTC'", "localtimestamp": "TIMESTAMP '%m'",
	"current_time": "TIME '%t'", "localtime": "TIME '%t'", "now": "TIMESTAMP '%m UTC'"}

// Today implements server.Backend.
func (b *Backend) Today(query string, tokens []sql.Token, today sql.Today) (string, bool) {
	return server.SeeToday(query, tokens, today, func(tokens []sql.Token, i int) (string, int) {
		t := tokens[i]
		name := strings.ToLower(t.Text)
		if t.Kind != sql.WordToken || clock[name] == "" || i > 0 && (tokens[i-1].Is(".") || tokens[i-1].Word("as")) {
			return "", 0
		}
		if i+1 < len(tokens) && tokens[i+1].Is("(") { // now(), or a precision
			if shut := server.ShutAt(tokens, i+1); shut > 0 {
				return clock[name], tokens[shut].Start + 1
			}
		}
		if name == "now" {
			return "", 0
		}
		return clock[name], t.Start + len(t.Text)
	})
}
