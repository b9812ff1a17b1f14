package server

import (
	"context"
	"strconv"
	"strings"

	"tovrel/engine"
)

// RowsOf gives the rows of a table one after another, as texts; nil for null.
type RowsOf func(ctx context.Context, t engine.Table, each func(cells []*string) error) error

// OwnPrefix begins the names of schemas of Tovrel's own.
const OwnPrefix = "tovrel_"

// LoadedTable is the table that a schema of Tovrel's own has when all the others are loaded.
const LoadedTable = "tovrel_loaded"

// Text is a text as a literal, on a server where backslashes mean themselves.
func Text(text string) string { return "'" + strings.ReplaceAll(text, "'", "''") + "'" }

// Bytes are those of a blob as the embedded engine writes it: plain characters, and others as \xNN.
func Bytes(written string) []byte {
	var out []byte
	for i := 0; i < len(written); i++ {
		if strings.HasPrefix(written[i:], `\x`) && i+4 <= len(written) {
			if b, err := strconv.ParseUint(written[i+2:i+4], 16, 8); err == nil {
				out = append(out, byte(b))
				i += 3
				continue
			}
		}
		out = append(out, written[i])
	}
	return out
}
