package engine

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"math/big"
	"runtime"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/table"
	"tovrel/core/value"
)

// everyKind is a table with a column of each kind, and nulls.
func everyKind() *table.Table {
	huge, _ := new(big.Int).SetString("170141183460469231731687303715884105727", 10)
	t := &table.Table{}
	for _, v := range []value.Value{value.OfBool(true), value.OfInt(-7), value.OfBig(huge), value.OfDecimal(1234, 2),
		value.OfBigDecimal(huge, 3), value.OfFloat(0.1), value.OfText("ä\x00b"),
		value.OfDate(22000), value.OfTime(3600e6), value.OfTimestamp(1e15), value.OfTimestampTZ(1e15),
		value.OfInterval(1, 2, 3), value.OfBlob("\xff"), value.OfJSON("[1]")} {
		c := table.NewColumn(v.Kind().String(), v.Type(), 2)
		c.Append(v)
		c.AppendNull()
		t.Columns = append(t.Columns, c)
	}
	return t
}

// TestBatches: what a worker sends is what arrives.
func TestBatches(t *testing.T) {
	sent := everyKind()
	got, err := emptyTable(headsOf(sent))
	require.NoError(t, err)
	require.NoError(t, decodeBatch(got, encodeBatch(sent)))
	require.Equal(t, sent.Rows(), got.Rows())
	for i, c := range sent.Columns {
		for row := range sent.Rows() {
			require.Equal(t, c.Value(row).String(), got.Columns[i].Value(row).String(), c.Name)
		}
	}
}

// FuzzBatch: a batch of a worker that has gone mad is an error and no more.
func FuzzBatch(f *testing.F) {
	f.Add(encodeBatch(everyKind()))
	f.Add([]byte{255, 255, 255, 255, 0, 1})
	f.Fuzz(func(t *testing.T, body []byte) {
		got, err := emptyTable(headsOf(everyKind()))
		require.NoError(t, err)
		_ = decodeBatch(got, body)
	})
}

// TestNoMemoryOnAWord: a worker that announces a gigabyte and sends nothing costs next to nothing.
func TestNoMemoryOnAWord(t *testing.T) {
	head := []byte{messageBatch, 0, 0, 0, 0}
	binary.LittleEndian.PutUint32(head[1:], maxMessage)
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	_, _, err := readMessage(bufio.NewReader(bytes.NewReader(append(head, "ten bytes…"...))))
	runtime.ReadMemStats(&after)
	require.ErrorContains(t, err, "unexpected EOF")
	require.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(10<<20))
}

// TestMemoryWords: failures for want of memory are known however they are worded, and no others.
func TestMemoryWords(t *testing.T) {
	for message, wants := range map[string]bool{
		"Out of Memory Error: failed to allocate data of size 16.0 MiB": true, "std::bad_alloc": true, "bad allocation": true,
		"Could not allocate block of size 256KB": true,
		"runtime: cannot allocate memory":        true, "Failed to reserve memory": true, "could not create thread": true,
		"Division by zero": false, "Could not convert string 'x' to INT32": false,
		"a column named memory does not exist": false, "Could not choose a best candidate": false,
	} {
		require.Equal(t, wants, wantsMemory(&Failure{Code: "engine-error", Message: message}, DefaultLimits()), message)
	}
	require.True(t, wantsMemory(tooBig(DefaultLimits()), DefaultLimits()))
}
