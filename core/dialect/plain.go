package dialect

import (
	"slices"
	"strings"

	"tovrel/core/sql"
	"tovrel/core/sql/format"
)

// Plain is a query of a dialect with what only that dialect writes put into words that the embedded engine's parser reads: quotes,
// comments, TOP, LIMIT a, b, SEPARATOR and the like. What it means stays: Local gives it another meaning. The error is *Unsupported.
func Plain(query, from string, columns Columns) (string, error) {
	g, is := grammars[from]
	if !is {
		return "", &Unsupported{What: "a query", Dialect: from}
	}
	pieces, ok := scan(query, g)
	if !ok {
		return "", &Unsupported{What: "a text that does not end", Dialect: Embedded}
	}
	for _, pass := range passes {
		if pass.only == nil || slices.Contains(pass.only, from) {
			var refused string
			if pieces, refused = pass.rewrite(pieces); refused != "" {
				return "", &Unsupported{What: refused, Dialect: Embedded}
			}
		}
	}
	return joined(quotedColumns(swapped(pieces, from), columns)), nil
}

// quotedColumns puts the names of columns that are words of the embedded dialect into quotes.
func quotedColumns(pieces []piece, columns Columns) []piece {
	for i, p := range pieces {
		_, known := columns.spelled[strings.ToLower(p.text)]
		call := i+1 < len(pieces) && (pieces[i+1].isMark("(") || pieces[i+1].kind == sql.StringToken)
		if p.kind == sql.WordToken && known && !call && format.Name(p.text) != p.text {
			pieces[i].kind = sql.NameToken
		}
	}
	return pieces
}

// piece is a token of a query with its text: of names and texts what they stand for, without quotes.
type piece struct {
	kind sql.TokenKind
	text string
}

func word(text string) piece { return piece{sql.WordToken, text} }
func mark(text string) piece { return piece{sql.OtherToken, text} }

// is tells a keyword, in any case.
func (p piece) is(word string) bool {
	return p.kind == sql.WordToken && strings.EqualFold(p.text, word)
}

func (p piece) isMark(text string) bool { return p.kind == sql.OtherToken && p.text == text }

// joined writes pieces as a query.
func joined(pieces []piece) string {
	var b strings.Builder
	for i, p := range pieces {
		if i > 0 && !touching(pieces[i-1], p) {
			b.WriteByte(' ')
		}
		switch p.kind {
		case sql.NameToken:
			b.WriteString(`"` + strings.ReplaceAll(p.text, `"`, `""`) + `"`)
		case sql.StringToken:
			b.WriteString(quoted(p.text))
		default:
			b.WriteString(p.text)
		}
	}
	return b.String()
}

// touching tells pieces between which no space may stand: the marks of one operator, a call and its bracket, the parts of a name.
func touching(a, b piece) bool {
	if a.kind == sql.OtherToken && b.kind == sql.OtherToken {
		return strings.ContainsAny(a.text, "<>=!|:~*/&-@?^") && strings.ContainsAny(b.text, "<>=!|:~*/&>") && a.text+b.text != "*/" &&
			a.text+b.text != "--"
	}
	return a.isMark(".") || b.isMark(".") || b.isMark("(") && (a.kind == sql.WordToken || a.kind == sql.NameToken) &&
		!spaced[strings.ToLower(a.text)]
}

// spaced are words before whose bracket a space stands.
var spaced = map[string]bool{"in": true, "as": true, "over": true, "from": true, "join": true, "where": true, "and": true, "or": true,
	"not": true, "select": true, "by": true, "on": true, "values": true, "exists": true, "using": true, "union": true, "all": true,
	"when": true, "then": true, "else": true, "exclude": true}

// scan takes a query apart, without its comments; false where a text, a name or a comment does not end.
func scan(query string, g grammar) ([]piece, bool) {
	var out []piece
	for at := 0; at < len(query); {
		rest := query[at:]
		size, ok := g.skipped(rest)
		if !ok {
			return nil, false
		}
		if size > 0 {
			at += size
			continue
		}
		p, size := g.quotedPiece(rest)
		switch {
		case size < 0:
			return nil, false
		case size == 0:
			var kind sql.TokenKind
			size, kind = plainToken(rest)
			p = piece{kind, rest[:size]}
		case p.kind == sql.StringToken && len(out) > 0 && out[len(out)-1].is("N") && query[at-1] != ' ':
			out = out[:len(out)-1] // N'text'
		}
		out = append(out, p)
		at += size
	}
	return out, true
}

// skipped is the size of a space or a comment at the beginning of a text, 0 for none; false where a comment does not end.
func (g grammar) skipped(rest string) (int, bool) {
	switch {
	case strings.ContainsRune(" \t\n\r\f\v", rune(rest[0])):
		return 1, true
	case strings.HasPrefix(rest, "--") || rest[0] == '#' && g.hashComments:
		if end := strings.IndexByte(rest, '\n'); end >= 0 {
			return end, true
		}
		return len(rest), true
	case strings.HasPrefix(rest, "/*"):
		end := strings.Index(rest[2:], "*/")
		return end + len("/*") + len("*/"), end >= 0
	}
	return 0, true
}

// quotedPiece is a text or a name in quotes at the beginning of a text, and its size: 0 where there is none, below 0 where it does not end.
func (g grammar) quotedPiece(rest string) (piece, int) {
	c := rest[0]
	if g.rawTexts && (c == 'r' || c == 'R') && len(rest) > 1 && (rest[1] == '\'' || rest[1] == '"') {
		g.backslashes, g.rawTexts = false, false
		p, size := g.quotedPiece(rest[1:])
		return p, size + 1
	}
	if c != '\'' && c != '"' && (c != '`' || !g.backquotes) && (c != '[' || !g.brackets) {
		return piece{}, 0
	}
	text, size := unquoted(rest, g)
	if size == 0 {
		return piece{}, -2 // also behind an r
	}
	if c == '\'' || c == '"' && g.doubleTexts {
		return piece{sql.StringToken, text}, size
	}
	return piece{sql.NameToken, text}, size
}

// plainToken is the size and the kind of a word, a number or a mark.
func plainToken(rest string) (int, sql.TokenKind) {
	first := sql.Tokens(rest[:min(len(rest), 200)])
	if len(first) == 0 || first[0].Start != 0 || first[0].Kind == sql.NameToken {
		return 1, sql.OtherToken
	}
	return len(first[0].Text), first[0].Kind
}

// unquoted is a text or a name in quotes, what it stands for, and how many bytes of the query it takes; 0 where it does not end.
func unquoted(rest string, g grammar) (string, int) {
	quote, end := rest[0], rest[0]
	if quote == '[' {
		end = ']'
	}
	isText := quote == '\'' || quote == '"' && g.doubleTexts
	var b strings.Builder
	for i := 1; i < len(rest); i++ {
		switch c := rest[i]; {
		case c == '\\' && isText && g.backslashes && i+1 < len(rest):
			i++
			b.WriteString(escaped(rest[i]))
		case c == end && i+1 < len(rest) && rest[i+1] == end:
			b.WriteByte(end)
			i++
		case c == end:
			return b.String(), i + 1
		default:
			b.WriteByte(c)
		}
	}
	return "", 0
}

// escaped is what a character behind a backslash stands for. A wildcard keeps its backslash.
func escaped(c byte) string {
	switch c {
	case 'n':
		return "\n"
	case 't':
		return "\t"
	case 'r':
		return "\r"
	case '0':
		return "\x00"
	case '%', '_':
		return `\` + string(c)
	}
	return string(c)
}
