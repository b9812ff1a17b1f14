package expect

import (
	"errors"
	"fmt"
	"strings"

	"tovrel/engine"
)

// Placed adds to a query's failure where in the query it is. Any other error is given as it is.
func Placed(sql string, err error) error {
	f, ok := Failure(err)
	if !ok {
		return err
	}
	if at := Where(sql, f.Position); at != "" {
		return fmt.Errorf("the query does not run (%s, %s): %w", f.Code, at, f)
	}
	return fmt.Errorf("the query does not run (%s): %w", f.Code, f)
}

// Failure finds a query's own failure in an error; an error of a worker or the context is none.
func Failure(err error) (*engine.Failure, bool) {
	var f *engine.Failure
	return f, errors.As(err, &f)
}

// Where names the place of a byte offset in a query.
func Where(query string, position int) string {
	if position < 0 || position > len(query) {
		return ""
	}
	before := query[:position]
	line := strings.Count(before, "\n") + 1
	column := len([]rune(before[strings.LastIndexByte(before, '\n')+1:])) + 1
	return fmt.Sprintf("line %d, column %d", line, column)
}
