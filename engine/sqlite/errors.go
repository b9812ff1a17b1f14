package sqlite

import (
	"context"
	"errors"
	"strings"

	"modernc.org/sqlite"
	lib "modernc.org/sqlite/lib"

	"tovrel/core/fault"
	"tovrel/core/near"
	"tovrel/core/pattern"
	"tovrel/core/sql"
	"tovrel/engine"
)

// messageCodes tell SQLite's errors by its words: but for a few it has one code for all. The first group is the name that
// the error is about.
var messageCodes = []struct {
	pattern *pattern.Pattern
	code    fault.Code
}{
	{pattern.Of(`no such table: (?:main\.)?(\S+)`), fault.UnknownTable},
	{pattern.Of(`no such column: (?:\w+\.)?"?([^"\s(]+)"?`), fault.UnknownColumn},
	{pattern.Of(`no such function: (\S+)`), fault.UnknownFunction},
	{pattern.Of(`ambiguous column name: (\S+)`), fault.AmbiguousColumn},
	{pattern.Of(`near "((?s:.+))": syntax error`), fault.Syntax},
	{pattern.Of(`syntax error|incomplete input|unrecognized token|unknown table option`), fault.Syntax},
	{pattern.Of(`not authorized|access to .* is prohibited|unsafe use of`), fault.Forbidden},
	{pattern.Of(`too large|too big|too many|parser stack overflow|out of memory`), fault.TooBig},
	{pattern.Of(`takes a share from|date_trunc knows`), fault.TypeMismatch},
	{pattern.Of(`wrong number of arguments|misuse of|datatype mismatch`), fault.TypeMismatch},
}

// asFailure turns any error of a query into *engine.Failure.
func (d *Database) asFailure(ctx context.Context, query string, err error) error {
	var failure *engine.Failure
	var refusal *sql.Refusal
	var parse *sql.ParseError
	switch {
	case errors.As(err, &failure):
		return failure
	case errors.As(err, &refusal):
		return engine.Refused(refusal)
	case errors.As(err, &parse):
		return &engine.Failure{Code: fault.Syntax, Message: parse.Message, Position: parse.Position}
	case ctx.Err() != nil || errors.Is(err, context.DeadlineExceeded):
		return &engine.Failure{Code: fault.TooSlow, Message: "the query ran longer than its time limit (limits: time)", Position: -1}
	}
	message := plainMessage(err)
	var coded *sqlite.Error
	if errors.As(err, &coded) {
		switch coded.Code() & 0xff {
		case lib.SQLITE_NOMEM:
			return engine.ErrMemory
		case lib.SQLITE_AUTH:
			return &engine.Failure{Code: fault.Forbidden, Message: "only reading the dataset's tables is allowed", Position: -1}
		case lib.SQLITE_TOOBIG:
			return &engine.Failure{Code: fault.TooBig, Message: "a text or blob is too large", Position: -1}
		case lib.SQLITE_INTERRUPT:
			return &engine.Failure{Code: fault.TooSlow, Message: "the query ran longer than its time limit (limits: time)", Position: -1}
		}
	}
	for _, m := range messageCodes {
		found := m.pattern.FindStringSubmatch(message)
		if found == nil {
			continue
		}
		f := &engine.Failure{Code: m.code, Message: message, Position: -1}
		if len(found) > 1 {
			f.Position = strings.Index(query, found[1])
			if m.code == fault.UnknownTable || m.code == fault.UnknownColumn {
				if hint := near.Name(found[1], d.names); hint != "" {
					f.Candidates = []string{hint}
				}
			}
		}
		return f
	}
	return &engine.Failure{Code: fault.EngineError, Message: message, Position: -1}
}

var codeTail = pattern.Of(` \(\d+\)$`)

// plainMessage is the driver's message without the engine's numbers.
func plainMessage(err error) string {
	text := strings.TrimPrefix(err.Error(), "SQL logic error: ")
	return codeTail.ReplaceAllString(text, "")
}
