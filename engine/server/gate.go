package server

import (
	"fmt"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/engine"
)

// Gate lets a query pass that does nothing but read a dataset's tables, as far as its words tell: one statement that reads, functions of an
// allow list, no clause that writes, locks, or lifts limits, no table of the server's own and none of another schema. Behind it stand the
// server's read-only transaction and the role's rights; neither relies on the other.
type Gate struct {
	Lexis     Lexis
	Allowed   map[string]bool // functions, in lower case
	Strict    bool            // refuse calls of functions of which nothing is known
	Has       map[string]bool // functions that the server has, in lower case; what it has not it explains better itself
	Own       map[string]bool // functions, types and operators that users defined: they may do anything
	Operators map[string]bool // operators that users defined
	Schemas   map[string]bool // schemas of the server in lower case, without the dataset's own
	Hidden    []string        // beginnings of names of the server's own tables and schemas
	Refused   []string        // words and runs of words that no reading statement has, in lower case
	Firsts    []string        // words that a reading statement begins with
	Depth     int             // how deep brackets and prefixes may nest where the server does not bound that itself; 0 for any depth
}

// Check refuses what is not known to be harmless, and gives the query's tokens. The error is *sql.Refusal,
// *sql.ParseError, or *engine.Failure for what nests too deep.
func (g *Gate) Check(query string) ([]sql.Token, error) {
	if err := sql.CheckText(query); err != nil {
		return nil, err
	}
	tokens, err := g.Lexis.tokens(query)
	if err != nil {
		return nil, err
	}
	for len(tokens) > 0 && tokens[len(tokens)-1].Is(";") {
		tokens = tokens[:len(tokens)-1]
	}
	if len(tokens) == 0 {
		return nil, &sql.ParseError{Message: "the query is empty", Position: -1, Syntax: true}
	}
	if err := g.first(tokens); err != nil {
		return nil, err
	}
	if g.Depth > 0 && depthOf(tokens) > g.Depth {
		return nil, &engine.Failure{Code: fault.TooBig, Message: fmt.Sprintf("the query nests deeper than %d", g.Depth), Position: -1}
	}
	for i := range tokens {
		if err := g.token(tokens, i); err != nil {
			return nil, err
		}
	}
	return tokens, nil
}

// depthOf is how deep a query nests at most: brackets, and what may stand before an operand many times over. A CASE may end anywhere, since
// END may be a name: all are counted, and every fifth is one level.
func depthOf(tokens []sql.Token) int {
	const perCase, perPrefix = 5, 4
	deepest, open, prefixes, cases := 0, 0, 0, 0
	for _, t := range tokens {
		switch {
		case t.Is("("), t.Is("["), t.Is("{"):
			open++
		case t.Is(")"), t.Is("]"), t.Is("}"):
			open--
		case t.Word("case"):
			cases++
		}
		switch short := t.Kind == sql.WordToken && len(t.Text) <= 2; {
		case t.Word("not"), t.Kind == sql.OtherToken && strings.Contains("-+~!>.?:=<|", t.Text), prefixes > 0 && short:
			prefixes++ // - - -, NOT NOT, x -> x ->
		case t.Kind != sql.NumberToken && t.Kind != sql.StringToken:
			prefixes = 0
		}
		deepest = max(deepest, open+prefixes/perPrefix, cases/perCase)
	}
	return deepest
}

// otherStatements are words that statements begin with that do something else than read.
var otherStatements = words(`insert update delete replace create drop alter truncate merge copy call do explain analyze analyse vacuum set
	reset show describe desc use grant revoke begin start commit rollback savepoint release lock unlock listen notify unlisten load handler
	prepare execute deallocate declare fetch move close import checkpoint cluster comment discard reassign refresh reindex
	security
	kill flush install uninstall optimize repair rename purge change stop shutdown help signal resignal xa binlog cache check checksum
	get lateral attach detach system exchange watch backup restore`)

// words are the words of a text, as a set.
func words(text string) map[string]bool {
	out := map[string]bool{}
	for w := range strings.FieldsSeq(text) {
		out[w] = true
	}
	return out
}

// first looks at the word that the statement begins with.
func (g *Gate) first(tokens []sql.Token) error {
	at := 0
	for at < len(tokens) && tokens[at].Is("(") {
		at++
	}
	if at == len(tokens) {
		return &sql.ParseError{Message: "the query has nothing but brackets", Position: -1, Syntax: true}
	}
	first := strings.ToLower(tokens[at].Text)
	for _, w := range g.Firsts {
		if tokens[at].Kind == sql.WordToken && first == w {
			return nil
		}
	}
	if tokens[at].Kind == sql.WordToken && otherStatements[first] {
		return &sql.Refusal{Why: "only one reading statement is allowed, and this is another kind of statement: " + strings.ToUpper(first)}
	}
	return &sql.ParseError{Message: fmt.Sprintf("syntax error at or near %q", tokens[at].Text), Position: tokens[at].Start, Syntax: true}
}

// token looks at one token with its neighbours.
func (g *Gate) token(tokens []sql.Token, i int) error {
	t := tokens[i]
	switch {
	case t.Is(";"):
		return &sql.Refusal{Why: "only one statement is allowed, and these are several"}
	case t.Kind == sql.OtherToken:
		return g.operator(tokens, i)
	case t.Kind != sql.WordToken && t.Kind != sql.NameToken:
		return nil
	}
	name := strings.ToLower(plainName(t, true))
	if t.Kind == sql.WordToken {
		if what := g.refused(tokens, i); what != "" {
			return &sql.Refusal{Why: what + " is not allowed"}
		}
	}
	if behind := i + 1; behind < len(tokens) && tokens[behind].Is("(") {
		return g.call(tokens, i, name)
	} else if behind < len(tokens) && tokens[behind].Is(".") && g.Schemas[name] {
		return &sql.Refusal{Why: fmt.Sprintf("the schema %s is not the dataset's", name)}
	}
	return g.name(tokens, i, name)
}

// call looks at a name with a bracket behind it.
func (g *Gate) call(tokens []sql.Token, i int, name string) error {
	switch {
	case g.Allowed[name] && !g.Own[name]:
		return nil
	case tokens[i].Kind == sql.WordToken && callWords[name]:
	case g.Has[name] || g.Own[name] || g.Strict && !namesColumns(tokens, i):
		return &sql.Refusal{Why: fmt.Sprintf("the function %s is not known to be harmless", name), Catalogue: g.hidden(name)}
	}
	return g.name(tokens, i, name)
}

// name looks at a name that is no call.
func (g *Gate) name(tokens []sql.Token, i int, name string) error {
	switch inside := i > 0 && tokens[i-1].Is("."); {
	case g.hidden(name):
		return &sql.Refusal{Why: fmt.Sprintf("the system table %s is not allowed", name), Catalogue: true}
	case g.Own[name] && (inside || castsTo(tokens, i)):
		return &sql.Refusal{Why: fmt.Sprintf("%s, which a user of the server defined, is not known to be harmless", name)}
	}
	return nil
}

// namesColumns tells a name behind whose bracket columns are named: of a CTE, or of an alias.
func namesColumns(tokens []sql.Token, i int) bool {
	return i > 0 && (tokens[i-1].Word("with") || tokens[i-1].Word("recursive") || tokens[i-1].Word("as") || tokens[i-1].Is(",") &&
		cte(tokens, i))
}

// cte tells a name whose bracket is followed by AS (.
func cte(tokens []sql.Token, i int) bool {
	depth := 0
	for k := i + 1; k < len(tokens); k++ {
		switch {
		case tokens[k].Is("("):
			depth++
		case tokens[k].Is(")"):
			if depth--; depth == 0 {
				return k+2 < len(tokens) && tokens[k+1].Word("as") && tokens[k+2].Is("(")
			}
		}
	}
	return false
}

// castsTo tells whether a name stands where a type is named.
func castsTo(tokens []sql.Token, i int) bool {
	if i == 0 {
		return false
	}
	before := tokens[i-1]
	return before.Is(":") || before.Word("as") || before.Kind == sql.WordToken && i+1 < len(tokens) && tokens[i+1].Kind == sql.StringToken
}

// callWords are words of the language behind which a bracket stands that is no call's.
var callWords = words(`in as over filter within using on where and or not select having by when then else end values exists any some all
	from join union except intersect array row with case between like ilike is left right full inner outer cross natural lateral limit
	offset fetch order group partition range rows groups distinct interval date time timestamp numeric decimal char varchar character
	bit int integer float double signed unsigned datetime binary materialized recursive similar escape set`)

func (g *Gate) hidden(name string) bool {
	for _, h := range g.Hidden {
		if strings.HasPrefix(name, h) {
			return true
		}
	}
	return false
}

// refused is a word or a run of words that begins at a place and that no reading statement has; "" for none.
func (g *Gate) refused(tokens []sql.Token, i int) string {
	if i > 0 && (tokens[i-1].Is(".") || tokens[i-1].Word("as")) {
		return "" // a name
	}
	for _, run := range g.Refused {
		parts := strings.Fields(run)
		fits := len(tokens)-i >= len(parts)
		for k := 0; fits && k < len(parts); k++ {
			fits = tokens[i+k].Word(parts[k])
		}
		if fits {
			return strings.ToUpper(run)
		}
	}
	return ""
}

// operator looks at a run of marks, which a user may have defined as an operator.
func (g *Gate) operator(tokens []sql.Token, i int) error {
	if len(g.Operators) == 0 {
		return nil
	}
	run := ""
	for k := i; k < len(tokens) && tokens[k].Kind == sql.OtherToken && strings.Contains("+-*/<>=~!@#%^&|`?", tokens[k].Text) &&
		(k == i || tokens[k].Start == tokens[k-1].Start+1); k++ {
		run += tokens[k].Text
		if g.Operators[run] {
			return &sql.Refusal{Why: fmt.Sprintf("the operator %s, which a user of the server defined, is not known to be harmless", run)}
		}
	}
	return nil
}
