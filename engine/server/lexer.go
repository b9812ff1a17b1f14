package server

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"tovrel/core/sql"
)

// Lexis is how a server reads the pieces of a query, where servers differ: what is a text for us must be one for it, or the gate looks
// past what runs.
type Lexis struct {
	NestedComments bool // comments hold comments
	SpacedDashes   bool // -- is a comment only before a space
	HashComments   bool
	Backslashes    bool // in texts; else only in those that begin with E
	Backquotes     bool // around names
	EscapedNames   bool // names in quotes may hold backslashes; such a name is refused
}

// tokens takes a query apart without its comments. The error is *sql.Refusal for what a server may read in more than one way, and
// *sql.ParseError for what does not end.
func (l Lexis) tokens(query string) ([]sql.Token, error) {
	var out []sql.Token
	for at := 0; at < len(query); {
		if query[at] == 0 {
			return nil, &sql.Refusal{Why: "the query holds a zero byte"}
		}
		if end, is, err := l.comment(query, at); err != nil {
			return nil, err
		} else if is {
			at = end
			continue
		}
		kind, end := l.token(query, at)
		if end < 0 {
			return nil, &sql.ParseError{Message: "a text, a name or a comment does not end", Position: at, Syntax: true}
		}
		if l.EscapedNames && kind == int(sql.NameToken) && strings.Contains(query[at:end], `\`) {
			return nil, &sql.Refusal{Why: "a backslash in a name is not allowed"}
		}
		if kind >= 0 {
			out = append(out, sql.Token{Kind: sql.TokenKind(kind), Text: query[at:end], Start: at})
		}
		at = end
	}
	return out, refusedPieces(out)
}

// comment is the end of a comment that begins at a place.
func (l Lexis) comment(query string, at int) (end int, is bool, err error) {
	rest := query[at:]
	switch {
	case strings.HasPrefix(rest, "--") && (!l.SpacedDashes || len(rest) == 2 || rest[2] <= ' '), l.HashComments && rest[0] == '#':
		if line := strings.IndexByte(rest, '\n'); line >= 0 {
			return at + line, true, nil
		}
		return len(query), true, nil
	case strings.HasPrefix(rest, "/*!") || strings.HasPrefix(rest, "/*M!"):
		return 0, false, &sql.Refusal{Why: "a comment that is run is not allowed"}
	case !strings.HasPrefix(rest, "/*"):
		return 0, false, nil
	}
	depth := 0
	for i := 0; i+1 < len(rest); i++ {
		switch {
		case rest[i:i+2] == "/*" && (l.NestedComments || depth == 0):
			depth++
			i++
		case rest[i:i+2] == "*/":
			i++
			if depth--; depth == 0 {
				return at + i + 1, true, nil
			}
		}
	}
	return 0, false, &sql.ParseError{Message: "a comment does not end", Position: at, Syntax: true}
}

// token is the kind of the token at a place (-1 for space) and where it ends; -1 where it does not.
func (l Lexis) token(query string, at int) (kind, end int) {
	c := query[at]
	switch {
	case unicode.IsSpace(rune(c)) && c < utf8.RuneSelf:
		return -1, at + 1
	case c == '\'':
		begins := at > 0 && (query[at-1] == 'E' || query[at-1] == 'e')
		return int(sql.StringToken), quotedEnd(query, at, l.Backslashes || begins)
	case c == '"', c == '`' && l.Backquotes:
		return int(sql.NameToken), quotedEnd(query, at, false)
	case c >= '0' && c <= '9':
		return int(sql.NumberToken), wordEnd(query, at)
	case c == '_' || c >= utf8.RuneSelf || unicode.IsLetter(rune(c)):
		return int(sql.WordToken), wordEnd(query, at)
	}
	return int(sql.OtherToken), at + 1
}

// quotedEnd is the place behind a closing quote; -1 where there is none.
func quotedEnd(query string, at int, backslashes bool) int {
	quote := query[at]
	for i := at + 1; i < len(query); i++ {
		switch {
		case backslashes && query[i] == '\\':
			i++
		case query[i] == quote && i+1 < len(query) && query[i+1] == quote:
			i++
		case query[i] == quote:
			return i + 1
		}
	}
	return -1
}

func wordEnd(query string, at int) int {
	for at < len(query) {
		r, size := utf8.DecodeRuneInString(query[at:])
		if r != '_' && r != '$' && !unicode.IsLetter(r) && !unicode.IsDigit(r) && r < utf8.RuneSelf {
			break
		}
		at += size
	}
	return at
}

// refusedPieces refuses what hides its meaning: texts in dollars, names and texts with escaped characters, variables.
func refusedPieces(tokens []sql.Token) error {
	for i, t := range tokens {
		next := sql.Token{}
		if i+1 < len(tokens) {
			next = tokens[i+1]
		}
		touches := next.Start == t.Start+len(t.Text)
		switch {
		case t.Is("$"):
			return &sql.Refusal{Why: "a $ outside a text is not allowed"}
		case t.Is("@") && touches && (next.Is("@") || next.Kind != sql.OtherToken && next.Kind != sql.NumberToken):
			return &sql.Refusal{Why: "variables are not allowed"}
		case t.Word("u") && touches && next.Is("&"):
			return &sql.Refusal{Why: "names and texts with escaped characters are not allowed"}
		case t.Is(`\`):
			return &sql.Refusal{Why: "a backslash outside a text is not allowed"}
		}
	}
	return nil
}

// plainName is a word or a quoted name as the server's catalogue has it.
func plainName(t sql.Token, fold bool) string {
	if t.Kind == sql.NameToken {
		quote := t.Text[:1]
		return strings.ReplaceAll(t.Text[1:len(t.Text)-1], quote+quote, quote)
	}
	if fold {
		return strings.ToLower(t.Text)
	}
	return t.Text
}
