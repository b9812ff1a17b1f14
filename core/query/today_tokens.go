package query

import "strings"

// clockFunctions are SQLite's functions of date and time, which read the clock for 'now' or for want of an argument; the number
// is how many arguments stand before the moment.
var clockFunctions = map[string]int{"date": 0, "time": 0, "datetime": 0, "julianday": 0, "unixepoch": 0, "strftime": 1}

// SeeTodayTokens gives a query's text with what reads the clock in SQLite's dialect replaced by a dataset's today, token by
// token: strings that are no argument of a date function, quoted names and names of aliases stay as they are.
func SeeTodayTokens(tokens []Token, today Today, sql string) string {
	if today.Date == "" {
		return sql
	}
	r := &rewriter{sql: sql, today: today}
	for i, t := range tokens {
		switch {
		case t.Kind != WordToken:
		case keywordHere(tokens, i):
			r.replace(t.Start, len(t.Text), "'"+r.keyword(t.Text)+"'")
		case i+1 < len(tokens) && tokens[i+1].Is("("):
			if before, known := clockFunctions[strings.ToLower(t.Text)]; known {
				r.call(tokens[i+1:], before)
			}
		}
	}
	r.out.WriteString(sql[r.done:])
	return r.out.String()
}

// keywordHere tells whether a word is a keyword of the clock, rather than part of a name.
func keywordHere(tokens []Token, i int) bool {
	word := strings.ToLower(tokens[i].Text)
	if word != "current_date" && word != "current_timestamp" && word != "current_time" {
		return false
	}
	behind := i > 0 && (tokens[i-1].Is(".") || tokens[i-1].Word("as"))
	before := i+1 < len(tokens) && (tokens[i+1].Is(".") || tokens[i+1].Is("("))
	return !behind && !before
}

type rewriter struct {
	sql   string
	today Today
	out   strings.Builder
	done  int // bytes of the text that are written
}

func (r *rewriter) replace(at, length int, by string) {
	if at < r.done {
		return
	}
	r.out.WriteString(r.sql[r.done:at] + by)
	r.done = at + length
}

func (r *rewriter) keyword(word string) string {
	switch strings.ToLower(word) {
	case "current_date":
		return r.today.Date
	case "current_time":
		return r.today.clock()
	}
	return r.today.Moment
}

// call replaces 'now' among a call's own arguments, or adds the moment where it is left out. The tokens begin at the opening
// parenthesis.
func (r *rewriter) call(tokens []Token, before int) {
	depth, commas, empty := 0, 0, true
	moment := "'" + r.today.Moment + "'"
	for i, t := range tokens {
		switch {
		case t.Is("("):
			depth++
			empty = empty && i == 0
		case t.Is(")"):
			if depth--; depth > 0 {
				continue
			}
			arguments := commas + 1
			if empty {
				arguments = 0
			}
			if arguments == before { // the moment is left out
				if arguments > 0 {
					moment = ", " + moment
				}
				r.replace(t.Start, 0, moment)
			}
			return
		case t.Is(",") && depth == 1:
			commas++
		default:
			if depth == 1 && commas == before && t.Kind == StringToken && strings.EqualFold(strings.TrimSpace(strings.Trim(t.Text, "'")), "now") {
				r.replace(t.Start, len(t.Text), moment)
			}
			empty = false
		}
	}
}
