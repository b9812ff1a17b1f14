package trouble

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestExitCodes: every kind has its code, also where its error is wrapped; an error without a kind is one of the command line.
func TestExitCodes(t *testing.T) {
	for kind, code := range map[Kind]int{Found: 1, Usage: 2, Unreadable: 3, Unreachable: 4, Interrupted: 130, Internal: 70} {
		err := New(kind, "it is %s", "so")
		require.Equal(t, code, ExitCode(err))
		require.Equal(t, code, ExitCode(fmt.Errorf("deeper: %w", err)))
		require.EqualError(t, err, "it is so")
	}
	require.Len(t, exitCodes, int(Internal), "no kind is without a code")
	require.Zero(t, ExitCode(nil))
	require.Equal(t, 2, ExitCode(errors.New("x")))
	require.Equal(t, 1, ExitCode(ErrFound))
}

// TestAs: an error gets a kind once, and stays what it is.
func TestAs(t *testing.T) {
	require.NoError(t, As(Usage, nil))
	cause := errors.New("x")
	err := As(Unreadable, cause)
	require.Equal(t, 3, ExitCode(err))
	require.ErrorIs(t, err, cause)
	require.Equal(t, 3, ExitCode(As(Internal, err)), "the first kind counts")
	require.Equal(t, 3, ExitCode(As(Internal, fmt.Errorf("deeper: %w", err))))
}

// TestFileErrors: of the system's error about a file only what happened is said, and it is still that error.
func TestFileErrors(t *testing.T) {
	_, missing := os.Open("there-is-none")
	err := New(Unreadable, "the file x cannot be read: %w", missing)
	require.EqualError(t, err, "the file x cannot be read: no such file or directory")
	require.ErrorIs(t, err, fs.ErrNotExist)
	other := errors.New("y")
	require.EqualError(t, New(Usage, "%s and %v", "x", other), "x and y")
}

// TestPanics: a panic is an internal error with the place where it was; an error stays one.
func TestPanics(t *testing.T) {
	err := Safe(func() error { panicHere(); return nil })()
	require.Equal(t, 70, ExitCode(err))
	require.Regexp(t, `^internal error: too bad, at tovrel/trouble\.panicHere \(trouble_test\.go:\d+\)$`, err.Error())
	var p *Panic
	require.ErrorAs(t, err, &p)
	require.Equal(t, "too bad", p.Value)
	err = Safe(func() error { var list []int; return fmt.Errorf("%d", list[len(os.Args)+5]) })()
	require.ErrorContains(t, err, "index out of range")
	require.ErrorContains(t, err, "trouble_test.go:", "the runtime's own frames are left out")
	cause := errors.New("x")
	require.Equal(t, cause, Safe(func() error { return cause })())
	require.NoError(t, Safe(func() error { return nil })())
	require.EqualError(t, &Panic{Value: 7}, "internal error: 7")
}

func panicHere() { panic("too bad") }
