package sql

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// Token is one piece of a query's text, in a dialect that no parser here knows: enough to tell strings, names and comments
// apart. It is not a parser.
type Token struct {
	Kind  TokenKind
	Text  string // as written
	Start int    // byte offset
}

// TokenKind tells what a token is.
type TokenKind uint8

// The kinds of tokens.
const (
	WordToken   TokenKind = iota // a keyword or an unquoted name
	NameToken                    // a quoted name: "x", [x] or `x`
	StringToken                  // 'x'
	NumberToken
	OtherToken // one character of punctuation
)

// Tokens takes a query apart, leaving out spaces and comments. What is not closed runs to the end.
func Tokens(sql string) []Token {
	var tokens []Token
	for at := 0; at < len(sql); {
		kind, end := nextToken(sql, at)
		if end <= at {
			end = at + 1
		}
		if kind >= 0 {
			tokens = append(tokens, Token{TokenKind(kind), sql[at:end], at})
		}
		at = end
	}
	return tokens
}

// nextToken gives the kind of the token at a place (-1 for space and comments) and where it ends.
func nextToken(sql string, at int) (kind, end int) {
	c := sql[at]
	switch {
	case c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '\f' || c == '\v':
		return -1, at + 1
	case strings.HasPrefix(sql[at:], "--"):
		return -1, after(sql, at, "\n")
	case strings.HasPrefix(sql[at:], "/*"):
		return -1, after(sql, at+2, "*/")
	case c == '\'':
		return int(StringToken), quotedEnd(sql, at, '\'')
	case c == '"' || c == '`':
		return int(NameToken), quotedEnd(sql, at, c)
	case c == '[':
		return int(NameToken), after(sql, at, "]")
	case c >= '0' && c <= '9':
		return int(NumberToken), runEnd(sql, at)
	}
	if r, _ := utf8.DecodeRuneInString(sql[at:]); r == '_' || unicode.IsLetter(r) {
		return int(WordToken), runEnd(sql, at)
	}
	return int(OtherToken), at + 1
}

// after is the place behind the next occurrence of a mark, or the end.
func after(sql string, at int, mark string) int {
	if i := strings.Index(sql[at:], mark); i >= 0 {
		return at + i + len(mark)
	}
	return len(sql)
}

// quotedEnd is the place behind a closing quote; doubled quotes are part of the text.
func quotedEnd(sql string, at int, quote byte) int {
	for i := at + 1; i < len(sql); i++ {
		if sql[i] != quote {
			continue
		}
		if i+1 < len(sql) && sql[i+1] == quote {
			i++
			continue
		}
		return i + 1
	}
	return len(sql)
}

func runEnd(sql string, at int) int {
	for at < len(sql) {
		r, size := utf8.DecodeRuneInString(sql[at:])
		if r != '_' && r != '$' && r != '.' && !unicode.IsLetter(r) && !unicode.IsDigit(r) || r == '.' && !digitBefore(sql, at) {
			break
		}
		at += size
	}
	return at
}

// digitBefore tells a decimal point from the one between a table and its column.
func digitBefore(sql string, at int) bool {
	start := at
	for start > 0 && (sql[start-1] >= '0' && sql[start-1] <= '9') {
		start--
	}
	if start == at {
		return false
	}
	r, _ := utf8.DecodeLastRuneInString(sql[:start])
	return start == 0 || r != '_' && !unicode.IsLetter(r)
}

// Word tells whether a token is a keyword, in any case.
func (t Token) Word(word string) bool { return t.Kind == WordToken && strings.EqualFold(t.Text, word) }

// Is tells whether a token is a character of punctuation.
func (t Token) Is(c string) bool { return t.Kind == OtherToken && t.Text == c }

// CheckTokens lets only one statement pass that begins like a reading one. It is the gate of engines without a syntax tree;
// what the statement may do is for the engine's own authoriser. The error is *Refusal or *ParseError.
func CheckTokens(tokens []Token) error {
	if len(tokens) == 0 {
		return &ParseError{Message: "the query is empty", Position: -1, Syntax: true}
	}
	if first := tokens[0]; first.Kind == WordToken && statements[strings.ToLower(first.Text)] {
		return &Refusal{Why: "only one reading statement is allowed, and this is another kind of statement: " + strings.ToUpper(first.Text)}
	}
	for i, t := range tokens {
		if t.Is(";") && anyBehind(tokens[i+1:]) {
			return &Refusal{Why: "only one statement is allowed, and these are several"}
		}
	}
	return nil
}

func anyBehind(tokens []Token) bool {
	for _, t := range tokens {
		if !t.Is(";") {
			return true
		}
	}
	return false
}

// statements are the first words of statements that do something else than read.
var statements = map[string]bool{"insert": true, "update": true, "delete": true, "replace": true, "create": true, "drop": true,
	"alter":  true,
	"attach": true, "detach": true, "pragma": true, "vacuum": true, "begin": true, "commit": true, "end": true,
	"rollback": true, "savepoint": true,
	"release": true, "reindex": true, "analyze": true, "explain": true}
