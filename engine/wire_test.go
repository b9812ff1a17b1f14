package engine

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"io"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/fault"
)

// TestMessages: messages arrive whole, one after another, and one that is cut off anywhere is an error.
func TestMessages(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		bodies := rapid.SliceOfN(rapid.SliceOf(rapid.Byte()), 1, 4).Draw(t, "bodies")
		kinds := rapid.SliceOfN(rapid.Byte(), len(bodies), len(bodies)).Draw(t, "kinds")
		var wire bytes.Buffer
		w := bufio.NewWriter(&wire)
		for i, body := range bodies {
			require.NoError(t, sendMessage(w, kinds[i], body))
		}
		whole := bytes.Clone(wire.Bytes())
		for i, body := range bodies {
			kind, got, err := readMessage(&wire)
			require.NoError(t, err)
			require.Equal(t, kinds[i], kind)
			require.True(t, bytes.Equal(body, got))
		}
		_, _, err := readMessage(&wire)
		require.ErrorIs(t, err, io.EOF, "nothing is left")

		cut := rapid.IntRange(0, len(whole)-1).Draw(t, "cut")
		r := bytes.NewReader(whole[:cut])
		var last error
		for range bodies {
			if _, _, last = readMessage(r); last != nil {
				break
			}
		}
		require.Error(t, last)
		require.True(t, errors.Is(last, io.EOF) || errors.Is(last, io.ErrUnexpectedEOF), "%v", last)
	})
}

// TestTooLarge: a message that says to be larger than any is refused before it is read.
func TestTooLarge(t *testing.T) {
	_, _, err := readMessage(bytes.NewReader([]byte{'B', 1, 0, 0, 0x40}))
	require.EqualError(t, err, "a message of 1073741825 bytes is too large")
	_, _, err = readMessage(bytes.NewReader([]byte{'B', 0, 0, 0, 0x40}))
	require.ErrorIs(t, err, io.ErrUnexpectedEOF, "the largest is only missing")
}

// TestUnknownColumns: a worker that announces columns of a kind that there is not, or of a scale below 0, is refused.
func TestUnknownColumns(t *testing.T) {
	for _, heads := range [][]columnHead{{{Name: "a", Kind: 200}}, {{Name: "a", Kind: 13}}, {{Name: "a", Kind: 3, Scale: -1}}} {
		_, err := emptyTable(heads)
		require.Error(t, err)
	}
	got, err := emptyTable([]columnHead{{Name: "a", Kind: 12}, {Name: "a", Kind: 3, Scale: 4}})
	require.NoError(t, err)
	require.Equal(t, []string{"a", "a"}, got.Names())
}

// TestGivenUp: what is asked after its caller gave up starts no worker, however often.
func TestGivenUp(t *testing.T) {
	pool := NewPool("/nowhere/tovrel", Setup{Engine: DuckDB, Limits: DefaultLimits()}, 2)
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	for range 64 {
		_, err := pool.Query(ctx, Request{SQL: "SELECT 1"})
		require.ErrorIs(t, err, context.Canceled)
	}
	pool.Close()
}

// TestDoubtful: what the engine broke on is tried once more in a fresh worker; what has no form in its dialect is not.
func TestDoubtful(t *testing.T) {
	limits := DefaultLimits()
	require.True(t, doubtful(&Failure{Code: fault.EngineError}, limits))
	require.True(t, doubtful(tooBig(limits), limits))
	require.False(t, doubtful(&Failure{Code: fault.EngineError, Foreign: true}, limits))
	require.False(t, doubtful(&Failure{Code: fault.UnknownColumn}, limits))
}
