// Package trouble sorts errors by what they mean to the caller of the program. Every kind has one exit code.
package trouble

import (
	"errors"
	"fmt"
	"io/fs"
	"slices"
)

// Kind is what an error means.
type Kind uint8

// The kinds of errors.
const (
	Found       Kind = iota + 1 // something was found: defects, tables that do not match
	Usage                       // wrong usage, an unknown name, a query that is refused or does not run
	Unreadable                  // workspace, golden set or data cannot be read
	Unreachable                 // translator, database or history cannot be reached
	Interrupted                 // by the user
	Internal                    // a defect of this program
)

// exitCodes is the one table from kinds to exit codes.
var exitCodes = map[Kind]int{Found: 1, Usage: 2, Unreadable: 3, Unreachable: 4, Interrupted: 130, Internal: 70}

// Error is an error of a kind.
type Error struct {
	Kind Kind
	Err  error
}

func (e *Error) Error() string { return e.Err.Error() }
func (e *Error) Unwrap() error { return e.Err }

// New makes an error of a kind. Where an argument is the system's error about a file, only what happened is said: the message names the
// file.
func New(kind Kind, format string, args ...any) error {
	args = slices.Clone(args)
	for i, a := range args {
		if err, ok := a.(*fs.PathError); ok {
			args[i] = err.Err
		}
	}
	return &Error{kind, fmt.Errorf(format, args...)}
}

// As gives an error a kind, unless it has one; nil stays nil.
func As(kind Kind, err error) error {
	var e *Error
	if err == nil || errors.As(err, &e) {
		return err
	}
	return &Error{kind, err}
}

// ErrFound says that something was found and is already shown: there is nothing more to print.
var ErrFound = &Error{Found, errors.New("something was found")}

// ExitCode is the exit code of an error; 0 for nil, 2 for errors without a kind, which are those of the command line.
func ExitCode(err error) int {
	var e *Error
	switch {
	case err == nil:
		return 0
	case errors.As(err, &e):
		return exitCodes[e.Kind]
	}
	return exitCodes[Usage]
}
