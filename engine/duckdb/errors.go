package duckdb

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/pattern"
	"tovrel/core/sql"
	"tovrel/engine"
)

// engineError is what the engine says of an error when it is asked for JSON.
type engineError struct {
	Type       string `json:"exception_type"`
	Message    string `json:"exception_message"`
	Subtype    string `json:"error_subtype"`
	Entry      string `json:"type"` // of a missing entry: "Table", "Scalar Function", …
	Location   string `json:"location"`
	Candidates string `json:"candidates"`
}

// asFailure turns any error of a query into *engine.Failure, or *engine.Broken where the database died; nil stays nil.
func asFailure(ctx context.Context, err error) error {
	if err == nil {
		return nil
	}
	var failure *engine.Failure
	if errors.As(err, &failure) {
		return failure
	}
	var refusal *sql.Refusal
	if errors.As(err, &refusal) {
		return engine.Refused(refusal)
	}
	var parse *sql.ParseError
	if errors.As(err, &parse) {
		code := fault.EngineError
		if parse.Syntax {
			code = fault.Syntax
		}
		return &engine.Failure{Code: code, Message: parse.Message, Position: parse.Position}
	}
	e := readError(err)
	if ctx.Err() != nil || e.Type == "INTERRUPT" || e.Type == "Interrupt" {
		return &engine.Failure{Code: fault.TooSlow, Message: "the query ran longer than its time limit (limits: time)", Position: -1}
	}
	if e.Type == "Out of Memory" {
		return engine.ErrMemory
	}
	found := &engine.Failure{Code: codeOf(e), Message: messageOf(e), Position: positionOf(e), Candidates: candidatesOf(e)}
	if e.Type == "INTERNAL" || e.Type == "FATAL" || e.Type == "Internal" || e.Type == "Fatal" {
		return &engine.Broken{Failure: found}
	}
	return found
}

// readError finds the JSON in the driver's message; an error without any keeps its text.
func readError(err error) engineError {
	text := err.Error()
	var e engineError
	if at := strings.Index(text, "{"); at >= 0 && json.NewDecoder(strings.NewReader(text[at:])).Decode(&e) == nil && e.Message != "" {
		return e
	}
	kind, message, ok := strings.Cut(text, " Error: ")
	if !ok || strings.Contains(kind, " ") && len(kind) > 20 {
		return engineError{Message: text}
	}
	return engineError{Type: kind, Message: message}
}

// messageCodes are the errors that have no subtype: they are told by the engine's words.
var messageCodes = []struct {
	pattern *pattern.Pattern
	code    fault.Code
}{
	{pattern.Of(`does not have a column named|^Referenced column .* not found`), fault.UnknownColumn},
	{pattern.Of(`^Referenced table .* not found|^Table with name .* does not exist`), fault.UnknownTable},
	{pattern.Of(`^(Scalar |Aggregate |Table |Macro )?Function with name .* does not exist|is not an aggregate function`),
		fault.UnknownFunction},
	{pattern.Of(`^Ambiguous reference to (column|table)`), fault.AmbiguousColumn},
	{pattern.Of(`must appear in the GROUP BY clause`), fault.UngroupedColumn},
	{pattern.Of(`^No function matches|^Cannot compare values of type|^Cannot combine types|^Cannot mix|^Could not ` +
		`choose a best candidate|explicit cast|explicit type cast`), fault.TypeMismatch},
	{pattern.Of(`read-only mode|configuration has been locked`), fault.Forbidden},
}

// typeCodes are by the engine's own class of error.
var typeCodes = map[string]fault.Code{
	"Parser": fault.Syntax, "Conversion": fault.TypeMismatch, "Mismatch Type": fault.TypeMismatch, "Invalid type": fault.TypeMismatch,
	"Permission": fault.Forbidden,
}

func codeOf(e engineError) fault.Code {
	switch {
	case e.Subtype == "COLUMN_NOT_FOUND":
		return fault.UnknownColumn
	case e.Subtype == "MISSING_ENTRY" && strings.Contains(e.Entry, "Function"):
		return fault.UnknownFunction
	case e.Subtype == "MISSING_ENTRY" && e.Entry == "Table":
		return fault.UnknownTable
	}
	for _, m := range messageCodes {
		if m.pattern.MatchString(e.Message) {
			return m.code
		}
	}
	if code, ok := typeCodes[e.Type]; ok {
		return code
	}
	return fault.EngineError
}

// messageOf is the first line that says something, without the engine's own advice.
func messageOf(e engineError) string {
	line, _, _ := strings.Cut(strings.TrimSpace(e.Message), "\n")
	if at := strings.Index(line, " Use TRY("); at > 0 {
		line = line[:at]
	}
	return line
}

func positionOf(e engineError) int {
	position := -1
	if _, err := fmt.Sscanf(e.Location, "[%d,", &position); err != nil {
		return -1
	}
	return position
}

var quoted = pattern.Of(`"([^"]+)"`)

// candidatesOf lists the names that the engine found near, at most five.
func candidatesOf(e engineError) []string {
	var names []string
	if _, after, ok := strings.Cut(e.Message, "Candidate"); ok {
		for _, m := range quoted.FindAllStringSubmatch(after, 5) {
			names = append(names, m[1])
		}
	}
	if len(names) == 0 && e.Candidates != "" {
		names = strings.Split(e.Candidates, ",")
	}
	for i := range names {
		names[i] = strings.TrimSpace(names[i])
	}
	return names[:min(len(names), 5)]
}
